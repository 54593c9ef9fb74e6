/**
 * The frame of an entity that is drawn on a plane of its own, told by the plane's normal.
 * Source: DXF Reference, "Object coordinate systems (OCS)", arbitrary axis algorithm.
 */
export interface Ocs {
  /** World x, y, z of a point given in the entity's frame. */
  toWorld(x: number, y: number, z: number): [number, number, number];
  /** And back. */
  fromWorld(x: number, y: number, z: number): [number, number, number];
  /** True when the plane is level, so that an arc stays an arc. */
  level: boolean;
  /** -1 when the plane is seen from below: bulges and angles turn the other way. */
  hand: 1 | -1;
}

const WORLD: Ocs = { toWorld: (x, y, z) => [x, y, z], fromWorld: (x, y, z) => [x, y, z], level: true, hand: 1 };
const BELOW: Ocs = { toWorld: (x, y, z) => [-x, y, -z], fromWorld: (x, y, z) => [-x, y, -z], level: true, hand: -1 };

/** The plane of an entity by its extrusion. Source: DXF Reference 2010, "Arbitrary Axis Algorithm". */
export function ocs(nx: number, ny: number, nz: number): Ocs {
  const length = Math.hypot(nx, ny, nz) || 1;
  const [zx, zy, zz] = [nx / length, ny / length, nz / length];
  if (Math.abs(zx) < 1e-12 && Math.abs(zy) < 1e-12) return zz > 0 ? WORLD : BELOW;
  const nearPole = Math.abs(zx) < 1 / 64 && Math.abs(zy) < 1 / 64;
  const [ax, ay, az] = nearPole ? cross(0, 1, 0, zx, zy, zz) : cross(0, 0, 1, zx, zy, zz);
  const al = Math.hypot(ax, ay, az);
  const [xx, xy, xz] = [ax / al, ay / al, az / al];
  const [yx, yy, yz] = cross(zx, zy, zz, xx, xy, xz);
  return {
    toWorld: (x, y, z) => [x * xx + y * yx + z * zx, x * xy + y * yy + z * zy, x * xz + y * yz + z * zz],
    // its axes are at right angles and of length one
    fromWorld: (x, y, z) => [x * xx + y * xy + z * xz, x * yx + y * yy + z * yz, x * zx + y * zy + z * zz],
    level: false,
    hand: zz < 0 ? -1 : 1,
  };
}

function cross(ax: number, ay: number, az: number, bx: number, by: number, bz: number): [number, number, number] {
  return [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
}

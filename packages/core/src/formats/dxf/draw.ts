import { type BatchBuilder } from '../../model/batch-builder';
import { LINE, POINT, POLYGON, TEXT } from '../../model/batch';
import { chordCount } from '../../geometry/arc';
import { followCurve, sizeOf, Spline } from '../../geometry/curve';
import { ringArea2 } from '../../geometry/measure';
import { ocs, type Ocs } from '../../geometry/ocs';
import type { Entity, EntityName } from './entities';
import { hatchLoops } from './hatch';
import { MLINE_CLOSED, mlineElements } from './mline';
import { plainMtext, plainText } from './text';

/** An arc of a plane that is not level becomes an ellipse in plan; it is cut into chords this fine, drawing units a unit of radius. */
const TILTED_TOLERANCE = 1e-5;

/** What stands in a sequence behind its head: the vertices of a POLYLINE, the attributes of an INSERT. */
export interface Follower {
  vertices: Entity<'VERTEX'>[];
  attributes: Entity<'ATTRIB'>[];
}

/** Puts an entity's geometry and own properties into the builder. Returns its kind, or the reason why it cannot. */
type Draw<N extends EntityName> = (e: Entity<N>, out: BatchBuilder, follower: Follower) => number | string;

const planeOf = (e: { nx: number; ny: number; nz: number }): Ocs => ocs(e.nx, e.ny, e.nz);

/** A drawn circular arc from angle `a0` over `sweep` (radians), as two or three bulged vertices; the last one is left to the caller. */
function arc(out: BatchBuilder, plane: Ocs, e: { x: number; y: number; z: number; radius: number }, a0: number, sweep: number): void {
  const pieces = plane.level ? (Math.abs(sweep) > Math.PI ? 2 : 1) : chordCount(1, sweep, TILTED_TOLERANCE);
  const bulge = plane.level ? plane.hand * Math.tan(sweep / pieces / 4) : 0;
  for (let k = 0; k < pieces; k++) {
    const a = a0 + (sweep * k) / pieces;
    out.vertex(...plane.toWorld(e.x + e.radius * Math.cos(a), e.y + e.radius * Math.sin(a), e.z), bulge);
  }
}

interface Vertices {
  count: number;
  closed: boolean;
  at(i: number): [number, number, number];
  bulge(i: number): number;
}

/** A run of vertices as a line, or as a polygon when it is closed and has an inside. */
function polyline(out: BatchBuilder, plane: Ocs, v: Vertices): number | string {
  if (v.count === 0) return 'no vertices';
  if (v.count === 1) {
    out.vertex(...v.at(0));
    out.endPart();
    return POINT;
  }
  let curved = false;
  for (let i = 0; i < v.count; i++) {
    const bulge = v.bulge(i);
    if (bulge !== 0) curved = true;
    if (i === v.count - 1 && !v.closed) out.vertex(...v.at(i));
    else if (bulge === 0 || plane.level) out.vertex(...v.at(i), bulge * plane.hand);
    else tilted(out, plane, v, i);
  }
  if (v.closed) out.vertex(...v.at(0));
  out.endPart();
  return v.closed && (v.count > 2 || curved) ? POLYGON : LINE;
}

/** A bulged segment on a plane that is not level, in chords. */
function tilted(out: BatchBuilder, plane: Ocs, v: Vertices, i: number): void {
  // the chord is cut evenly in the plane's own frame: endpoints there are found through the inverse of toWorld (its transpose)
  const [ax, ay, az] = v.at(i);
  const [bx, by, bz] = v.at((i + 1) % v.count);
  const ex = plane.toWorld(1, 0, 0), ey = plane.toWorld(0, 1, 0), ez = plane.toWorld(0, 0, 1);
  const local = (x: number, y: number, z: number): [number, number, number] =>
    [x * ex[0] + y * ex[1] + z * ex[2], x * ey[0] + y * ey[1] + z * ey[2], x * ez[0] + y * ez[1] + z * ez[2]];
  const [x1, y1, z1] = local(ax, ay, az);
  const [x2, y2] = local(bx, by, bz);
  const bulge = v.bulge(i);
  const sweep = 4 * Math.atan(bulge);
  const k = (1 - bulge * bulge) / (4 * bulge);
  const cx = (x1 + x2) / 2 - k * (y2 - y1), cy = (y1 + y2) / 2 + k * (x2 - x1);
  const radius = Math.hypot(x1 - cx, y1 - cy);
  arc(out, plane, { x: cx, y: cy, z: z1, radius }, Math.atan2(y1 - cy, x1 - cx), sweep);
}

/** Ellipses and splines are followed by arcs within this share of their size: a tenth of a millimetre in a kilometre. */
const FOLLOWED = 1e-7;

type Corners = Entity<'SOLID'>;

/** Three or four corners as a ring, in the order in which they are given. */
function ring(out: BatchBuilder, corners: readonly (readonly [number, number, number])[]): number | string {
  // the last two are the same for a triangle
  const distinct = corners.filter((c, i) => i === 0 || c.some((v, k) => v !== corners[i - 1]![k]));
  if (distinct.length < 3) return 'fewer than three corners';
  for (const c of distinct) out.vertex(...c);
  out.vertex(...distinct[0]!);
  out.endPart();
  return POLYGON;
}

/** The corners of a filled shape; a SOLID has its third and fourth crosswise, and lies on a plane of its own. */
const filled = (e: Corners, out: BatchBuilder): number | string => {
  const plane = planeOf(e);
  const fourth: [number, number, number] = Number.isNaN(e.x4) ? [e.x3, e.y3, e.z3] : [e.x4, e.y4, e.z4];
  return ring(out, [plane.toWorld(e.x, e.y, e.z), plane.toWorld(e.x2, e.y2, e.z2), plane.toWorld(...fourth), plane.toWorld(e.x3, e.y3, e.z3)]);
};

const CLOSED = 1, CURVE_FITTED = 2, SPLINE_FITTED = 4, THREE_D = 8, MESH = 16, POLYFACE = 64;
const SPLINE_FRAME = 16;

/** A HATCH, or an MPOLYGON, whose boundaries are told in the same way. */
function hatched(e: Entity<'HATCH'>, out: BatchBuilder): number | string {
  const loops = hatchLoops(e.groups, FOLLOWED);
  if (!loops) return 'a boundary that breaks off';
  const plane = planeOf(e);
  // the largest boundary first: the others lie in it, or beside it
  const area = (loop: readonly number[]): number => Math.abs(ringArea2(loop, 0, loop.length / 3));
  const drawn = loops.filter((loop) => loop.length > 6 || loop.some((v, i) => i % 3 === 2 && v !== 0)).sort((a, b) => area(b) - area(a));
  if (drawn.length === 0) return 'no boundary';
  for (const loop of drawn) {
    polyline(out, plane, { count: loop.length / 3, closed: true, at: (i) => plane.toWorld(loop[3 * i]!, loop[3 * i + 1]!, e.elevation), bulge: (i) => loop[3 * i + 2]! });
  }
  out.set('pattern', e.pattern);
  return POLYGON;
}

/** One drawing function an entity type. */
export const DRAW: { [N in EntityName]?: Draw<N> } = {
  POINT(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.endPart();
    return POINT;
  },
  LINE(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.vertex(e.x2, e.y2, e.z2);
    out.endPart();
    return LINE;
  },
  CIRCLE(e, out) {
    if (!(e.radius > 0)) return 'a radius of zero';
    const plane = planeOf(e);
    arc(out, plane, e, 0, 2 * Math.PI);
    out.vertex(...plane.toWorld(e.x + e.radius, e.y, e.z));
    out.endPart();
    return POLYGON;
  },
  ARC(e, out) {
    if (!(e.radius > 0)) return 'a radius of zero';
    const plane = planeOf(e);
    let sweep = (e.end - e.start) % 360;
    if (sweep <= 0) sweep += 360;
    const a0 = (e.start * Math.PI) / 180;
    const a1 = a0 + (sweep * Math.PI) / 180;
    arc(out, plane, e, a0, a1 - a0);
    out.vertex(...plane.toWorld(e.x + e.radius * Math.cos(a1), e.y + e.radius * Math.sin(a1), e.z));
    out.endPart();
    return LINE;
  },
  ELLIPSE(e, out) {
    const size = Math.hypot(e.mx, e.my, e.mz);
    if (!(size > 0 && e.ratio > 0)) return 'an axis of zero';
    // the minor axis stands on the major one in the plane of the normal
    const n = Math.hypot(e.nx, e.ny, e.nz) || 1;
    const [ux, uy, uz] = [e.nx / n, e.ny / n, e.nz / n];
    const [bx, by, bz] = [(uy * e.mz - uz * e.my) * e.ratio, (uz * e.mx - ux * e.mz) * e.ratio, (ux * e.my - uy * e.mx) * e.ratio];
    const point = (t: number, p: Float64Array): void => {
      const c = Math.cos(t), s = Math.sin(t);
      p[0] = e.x + e.mx * c + bx * s;
      p[1] = e.y + e.my * c + by * s;
      p[2] = e.z + e.mz * c + bz * s;
    };
    let sweep = (e.end - e.start) % (2 * Math.PI);
    if (sweep <= 1e-12) sweep += 2 * Math.PI;
    const pieces = Math.max(1, Math.ceil(sweep / (Math.PI / 2) - 1e-9));
    for (let k = 0; k < pieces; k++) followCurve(point, e.start + (sweep * k) / pieces, e.start + (sweep * (k + 1)) / pieces, FOLLOWED * size, (x, y, z, bulge) => out.vertex(x, y, z, bulge));
    const last = new Float64Array(3);
    point(e.start + sweep, last);
    out.vertex(last[0]!, last[1]!, last[2]!);
    out.endPart();
    return LINE;
  },
  SPLINE(e, out) {
    const spline = new Spline(e.degree, e.knots, e.points, e.weights);
    if (spline.count === 0 && e.fitted.length > 0) return 'fit points only';
    if (!spline.sound) return 'knots that do not go with its control points';
    spline.follow(FOLLOWED * sizeOf(e.points, 3), (x, y, z, bulge) => out.vertex(x, y, z, bulge));
    const last = new Float64Array(3);
    spline.point(spline.end, last);
    out.vertex(last[0]!, last[1]!, last[2]!);
    out.endPart();
    return LINE;
  },
  SOLID: filled,
  TRACE: filled,
  // a face has its corners in turn, and in the world's own frame
  '3DFACE': (e, out) => ring(out, [[e.x, e.y, e.z], [e.x2, e.y2, e.z2], [e.x3, e.y3, e.z3], ...(Number.isNaN(e.x4) ? [] : [[e.x4, e.y4, e.z4] as const])]),
  LEADER(e, out) {
    const v = e.vertices;
    if (v.length < 6) return 'fewer than two vertices';
    for (let i = 0; i < v.length; i += 3) out.vertex(v[i]!, v[i + 1]!, v[i + 2]!);
    out.endPart();
    return LINE;
  },
  MLINE(e, out) {
    const lines = mlineElements(e.groups, (e.flags & MLINE_CLOSED) !== 0);
    if (!lines) return 'vertices that break off';
    for (const line of lines) {
      for (const [x, y, z] of line) out.vertex(x, y, z);
      out.endPart();
    }
    return LINE;
  },
  MPOLYGON: hatched,
  HATCH: hatched,
  LWPOLYLINE(e, out) {
    const plane = planeOf(e);
    const v = e.vertices;
    return polyline(out, plane, {
      count: v.length / 3, closed: (e.flags & CLOSED) !== 0,
      at: (i) => plane.toWorld(v[3 * i]!, v[3 * i + 1]!, e.elevation), bulge: (i) => v[3 * i + 2]!,
    });
  },
  POLYLINE(e, out, { vertices }) {
    if (e.flags & (MESH | POLYFACE)) return e.flags & MESH ? 'a mesh' : 'a polyface mesh';
    const fitted = (e.flags & (CURVE_FITTED | SPLINE_FITTED)) !== 0;
    const kept = fitted ? vertices.filter((v) => !(v.flags & SPLINE_FRAME)) : vertices;
    const flat = !(e.flags & THREE_D);
    const plane = flat ? planeOf(e) : ocs(0, 0, 1);
    return polyline(out, plane, {
      count: kept.length, closed: (e.flags & CLOSED) !== 0,
      // a flat polyline lies at the height of its head
      at: (i) => plane.toWorld(kept[i]!.x, kept[i]!.y, flat ? e.z : kept[i]!.z), bulge: (i) => (flat ? kept[i]!.bulge : 0),
    });
  },
  TEXT(e, out) {
    out.vertex(...planeOf(e).toWorld(e.x, e.y, e.z));
    out.endPart();
    out.set('text', plainText(e.text));
    out.set('text_height', e.height);
    out.set('text_angle', e.rotation);
    return TEXT;
  },
  MTEXT(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.endPart();
    out.set('text', plainMtext(e.chunks.join('') + e.text));
    out.set('text_height', e.height);
    // a direction vector takes the place of the angle
    out.set('text_angle', e.dx !== 0 || e.dy !== 0 ? (Math.atan2(e.dy, e.dx) * 180) / Math.PI : e.rotation);
    return TEXT;
  },
  INSERT(e, out, { attributes }) {
    out.vertex(...planeOf(e).toWorld(e.x, e.y, e.z));
    out.endPart();
    out.set('block', e.name);
    out.set('block_angle', e.rotation);
    out.set('scale_x', e.sx);
    out.set('scale_y', e.sy);
    out.set('scale_z', e.sz);
    for (const attribute of attributes) out.set(attribute.tag, plainText(attribute.text));
    return POINT;
  },
};

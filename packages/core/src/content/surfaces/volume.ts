import { type Ground, heightIn, nextSide, type Tin } from './tin';

/** What lies between two surfaces. Volumes are cubic units of the coordinates, areas square ones. */
export interface Volumes {
  /** Where the first surface lies above the second. */
  cut: number;
  /** Where it lies below. */
  fill: number;
  cutArea: number;
  fillArea: number;
  /** Where both lie, seen from above. */
  area: number;
}

/** The second of two surfaces: another one, or one height everywhere. */
export type Against = Ground | number;

/**
 * The volumes between two surfaces over some triangles: exact, since both are planes wherever the triangles of all three overlap, and the
 * space between two planes over a triangle is its area by the mean of its three heights, cut where they meet. Source: Cavalieri; for the
 * prism, common practice, no source.
 * @param over triangles that bound what is looked at, which may have any heights; the first surface where null
 */
export function volumesBetween(first: Ground, second: Against, over: Tin | null): Volumes {
  const sums: Volumes = { cut: 0, fill: 0, cutArea: 0, fillArea: 0, area: 0 };
  const add = (t: number, ring: Ring): void => {
    if (ring.length < 6) return;
    if (typeof second === 'number') return addPiece(sums, ring, (x, y) => heightIn(first.tin, t, x, y) - second);
    for (const u of second.within(...boxOf(ring))) {
      const shared = clipped(ring, second.tin, u);
      if (shared.length >= 6) addPiece(sums, shared, (x, y) => heightIn(first.tin, t, x, y) - heightIn(second.tin, u, x, y));
    }
  };
  if (over === null) for (let t = 0; t < first.tin.triangles.length / 3; t++) add(t, ringOf(first.tin, t));
  else
    for (let o = 0; o < over.triangles.length / 3; o++) {
      const ring = ringOf(over, o);
      for (const t of first.within(...boxOf(ring))) add(t, clipped(ring, first.tin, t));
    }
  return sums;
}

/** Corners of a convex piece, x and y by twos, counter-clockwise, the first not repeated. */
type Ring = number[];

const ringOf = ({ xyz, triangles }: Tin, t: number): Ring =>
  [0, 1, 2].flatMap((k) => [xyz[3 * triangles[3 * t + k]!]!, xyz[3 * triangles[3 * t + k]! + 1]!]);

function boxOf(ring: Ring): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < ring.length; k += 2) {
    box[0] = Math.min(box[0], ring[k]!);
    box[1] = Math.min(box[1], ring[k + 1]!);
    box[2] = Math.max(box[2], ring[k]!);
    box[3] = Math.max(box[3], ring[k + 1]!);
  }
  return box;
}

/** What of a convex piece lies in a triangle. Source: Sutherland and Hodgman, "Reentrant polygon clipping", 1974. */
function clipped(ring: Ring, { xyz, triangles }: Tin, t: number): Ring {
  let out = ring;
  for (let s = 3 * t; s < 3 * t + 3 && out.length >= 6; s++) {
    const [a, b] = [3 * triangles[s]!, 3 * triangles[nextSide(s)]!];
    const [ax, ay, dx, dy] = [xyz[a]!, xyz[a + 1]!, xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!];
    out = halved(out, (x, y) => dx * (y - ay) - dy * (x - ax));
  }
  return out;
}

/** What of a convex piece lies where a linear function is not below nought. */
function halved(ring: Ring, side: (x: number, y: number) => number): Ring {
  const out: Ring = [];
  for (let k = 0; k < ring.length; k += 2) {
    const [x, y] = [ring[k]!, ring[k + 1]!];
    const [nx, ny] = [ring[(k + 2) % ring.length]!, ring[(k + 3) % ring.length]!];
    const [here, next] = [side(x, y), side(nx, ny)];
    if (here >= 0) out.push(x, y);
    if (here > 0 !== next > 0 && here !== next) {
      const s = here / (here - next);
      if (s > 0 && s < 1) out.push(x + s * (nx - x), y + s * (ny - y));
    }
  }
  return out;
}

/** Adds what lies under a linear height over a convex piece, above and below nought apart. */
function addPiece(sums: Volumes, ring: Ring, height: (x: number, y: number) => number): void {
  const above = under(halved(ring, height), height),
    below = under(
      halved(ring, (x, y) => -height(x, y)),
      height,
    );
  sums.cut += above.volume;
  sums.cutArea += above.volume > 0 ? above.area : 0;
  sums.fill -= below.volume;
  sums.fillArea += below.volume < 0 ? below.area : 0;
  sums.area += under(ring, height).area;
}

/** The volume under a linear height over a convex piece, triangle by triangle from its first corner. */
function under(ring: Ring, height: (x: number, y: number) => number): { volume: number; area: number } {
  let [volume, area] = [0, 0];
  const [x0, y0] = [ring[0]!, ring[1]!];
  for (let k = 2; k + 3 < ring.length; k += 2) {
    const [x1, y1, x2, y2] = [ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!];
    const own = ((x1 - x0) * (y2 - y0) - (y1 - y0) * (x2 - x0)) / 2;
    area += own;
    volume += (own * (height(x0, y0) + height(x1, y1) + height(x2, y2))) / 3;
  }
  return { volume, area };
}

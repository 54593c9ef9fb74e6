import { childOf, type XmlNode } from '../../io/xml';

type XY = [number, number];

/** Finds a named point of the file; undefined where there is none of that name yet. */
export type PointOf = (name: string) => readonly number[] | undefined;

/** A run of vertices: x, y, z and the bulge of the segment that begins there. */
export interface Run {
  vertices: [number, number, number, number][];
  /** Spirals in it, which are chords here. */
  spirals: number;
  /** Curves that their radius and centre do not bring from start to end. */
  odd: number;
}

/** The numbers of a text. */
export const numbersOf = (text: string): number[] =>
  text
    .trim()
    .split(/\s+/)
    .filter((t) => t !== '')
    .map(Number);

/** A point of an element: its own numbers, northing first, or those of the point that it refers to. @returns x, y and z; null where there is none */
export function pointOf(node: XmlNode | undefined, named: PointOf): [number, number, number] | null {
  if (!node) return null;
  const own = numbersOf(node.text);
  const ref = node.attributes.pntRef;
  const [n, e, z] = own.length >= 2 ? own : ref === undefined ? [] : (named(ref) ?? []);
  return n === undefined || e === undefined || !Number.isFinite(n) || !Number.isFinite(e) ? null : [e, n, z ?? NaN];
}

/**
 * The vertices of a CoordGeom: lines, curves as bulges, spirals as chords, irregular lines.
 * @returns null where a point is missing. Source: LandXML-1.2.xsd, CoordGeom, Line, Curve, Spiral, IrregularLine; from memory
 */
export function runOf(geom: XmlNode, named: PointOf): Run | null {
  const run: Run = { vertices: [], spirals: 0, odd: 0 };
  const add = (p: readonly [number, number, number]): void => void run.vertices.push([p[0], p[1], p[2], 0]);
  const begin = (p: readonly [number, number, number], bulge: number): void => {
    const last = run.vertices.at(-1);
    // each piece begins where the one before ends; one of no length still has two ends
    if (last && last[0] === p[0] && last[1] === p[1]) {
      if (Number.isNaN(last[2])) last[2] = p[2];
    } else add(p);
    run.vertices.at(-1)![3] = bulge;
  };
  for (const piece of geom.children) {
    if (!PIECES.has(piece.name)) continue;
    const [start, end] = [pointOf(childOf(piece, 'Start'), named), pointOf(childOf(piece, 'End'), named)];
    if (!start || !end) return null;
    if (piece.name === 'Curve') {
      const center = pointOf(childOf(piece, 'Center'), named);
      const bulge = center && bulgeOf(start, center, end, piece.attributes.rot !== 'cw');
      if (bulge === null) run.odd++;
      begin(start, bulge ?? 0);
    } else begin(start, 0);
    if (piece.name === 'Spiral') {
      run.spirals++;
      for (const [x, y] of spiral(piece, start, pointOf(childOf(piece, 'PI'), named), end)) add([x, y, NaN]);
    }
    if (piece.name === 'IrregularLine') {
      // whether a list begins and ends with the ends themselves is not said
      for (const p of listed(piece)) begin(p, 0);
      begin(end, 0);
    } else add(end);
  }
  return run.vertices.length === 0 ? null : run;
}

const PIECES = new Set(['Line', 'Curve', 'Spiral', 'IrregularLine']);

/** The points of a list, northing first; of two numbers each, or of three. */
export function listed(node: XmlNode): [number, number, number][] {
  const [flat, high] = [childOf(node, 'PntList2D'), childOf(node, 'PntList3D')];
  const size = high ? 3 : 2;
  const numbers = numbersOf((high ?? flat)?.text ?? '');
  const out: [number, number, number][] = [];
  for (let k = 0; k + size <= numbers.length; k += size) out.push([numbers[k + 1]!, numbers[k]!, high ? numbers[k + 2]! : NaN]);
  return out;
}

/** Share of a radius by which a curve may miss its end. */
const MISSES = 1e-3;

/** The bulge of an arc about a centre; null where start and end are not as far from it as each other. */
function bulgeOf(start: readonly number[], center: readonly number[], end: readonly number[], isCcw: boolean): number | null {
  const from = [start[0]! - center[0]!, start[1]! - center[1]!] as const,
    to = [end[0]! - center[0]!, end[1]! - center[1]!] as const;
  const radius = Math.hypot(...from);
  if (!(radius > 0) || Math.abs(Math.hypot(...to) - radius) > MISSES * radius) return null;
  const turn = Math.atan2(from[0] * to[1] - from[1] * to[0], from[0] * to[0] + from[1] * to[1]);
  const sweep = isCcw ? (turn <= 0 ? turn + 2 * Math.PI : turn) : turn >= 0 ? turn - 2 * Math.PI : turn;
  return Math.tan(sweep / 4);
}

/** Chords that a spiral is cut into. */
const CHORDS = 128;

/** The vertices within a clothoid: its curvature goes evenly from that at its start to that at its end. What it misses its end by is spread along it. */
function spiral({ attributes }: XmlNode, start: readonly number[], pi: readonly number[] | null, end: readonly number[]): XY[] {
  const length = Number(attributes.length);
  const curvature = (r: string | undefined): number => (r === undefined || /inf/i.test(r) || Number(r) === 0 ? 0 : 1 / Number(r));
  const sign = attributes.rot === 'cw' ? -1 : 1;
  const [k0, k1] = [sign * curvature(attributes.radiusStart), sign * curvature(attributes.radiusEnd)];
  if (!pi || !(length > 0) || !Number.isFinite(k0) || !Number.isFinite(k1)) return [];
  const heading = Math.atan2(pi[1]! - start[1]!, pi[0]! - start[0]!);
  const angle = (s: number): number => heading + k0 * s + ((k1 - k0) * s * s) / (2 * length);
  const points: XY[] = [];
  let [x, y] = [start[0]!, start[1]!];
  const step = length / CHORDS;
  for (let n = 0; n < CHORDS; n++) {
    // Simpson's rule over each chord
    const [a, b, c] = [angle(n * step), angle((n + 0.5) * step), angle((n + 1) * step)];
    x += (step * (Math.cos(a) + 4 * Math.cos(b) + Math.cos(c))) / 6;
    y += (step * (Math.sin(a) + 4 * Math.sin(b) + Math.sin(c))) / 6;
    points.push([x, y]);
  }
  const [offX, offY] = [end[0]! - x, end[1]! - y];
  return points.slice(0, -1).map(([px, py], n): XY => [px + (offX * (n + 1)) / CHORDS, py + (offY * (n + 1)) / CHORDS]);
}

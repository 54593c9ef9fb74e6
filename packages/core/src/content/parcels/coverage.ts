import Flatbush from 'flatbush';
import { emptyBounds, growAlong } from '../../geometry/bounds';
import { ringArea2 } from '../../geometry/ring-area';
import { ringsHold } from '../../geometry/ring-holds';
import { type Face, facesOf } from './faces';
import { type Linework, nodeLinework } from './node-linework';

/** An area that is looked at beside others: its rings, x and y of corners by twos, the first repeated at the end. */
export interface Area {
  rings: readonly (readonly number[])[];
}

/** A piece of the plane, and which areas cover it. */
export interface Piece {
  face: Face;
  /** Numbers of the areas that it lies in; none where it is a gap. */
  covers: number[];
  /** A place well within it. */
  inside: [number, number];
  /** In square units of the coordinates. */
  area: number;
  /** How wide it is in the mean: twice its area by its circumference. */
  width: number;
}

/** What areas make of the plane: every place within their outlines lies in just one piece. */
export interface Coverage {
  noded: Linework;
  pieces: Piece[];
  /** Pieces too narrow for a place to be found within them: they are in no list. */
  tooNarrow: number;
}

/** Cuts the plane into pieces by the outlines of areas. @param tolerance within which outlines meet, in units of the coordinates; 0: what lies apart stays apart */
export function coverageOf(areas: readonly Area[], tolerance: number): Coverage {
  const noded = nodeLinework(segmentsOf(areas), tolerance);
  const { faces } = facesOf(noded);
  const pieces: Piece[] = [];
  let tooNarrow = 0;
  if (faces.length === 0) return { noded, pieces, tooNarrow };
  const boxes = new Flatbush(areas.length);
  for (const { rings } of areas) {
    const box = emptyBounds();
    for (const ring of rings) growAlong(box, ring);
    boxes.add(...box);
  }
  boxes.finish();
  for (const face of faces) {
    const inside = placeWithin(face);
    if (!inside) {
      tooNarrow++;
      continue;
    }
    const covers = boxes.search(...inside, ...inside).filter((k) => ringsHold(areas[k]!.rings, ...inside));
    pieces.push({ face, covers: covers.sort((a, b) => a - b), inside, ...sizeOf([face.shell, ...face.holes]) });
  }
  return { noded, pieces, tooNarrow };
}

/** Area and mean width of rings, of which holes run the other way. */
function sizeOf(rings: readonly ArrayLike<number>[]): { area: number; width: number } {
  const area2 = rings.reduce((n, ring) => n + ringArea2(ring, 0, ring.length / 2, 2), 0);
  return { area: area2 / 2, width: area2 / lengthAround(rings) };
}

/** How much each area covers. */
export function coveredBy(pieces: readonly Piece[], count: number): Float64Array {
  const own = new Float64Array(count);
  for (const { covers, area } of pieces) for (const k of covers) own[k]! += area;
  return own;
}

/** How long rings are together. */
export function lengthAround(rings: readonly ArrayLike<number>[]): number {
  let length = 0;
  for (const ring of rings)
    for (let k = 0; k + 3 < ring.length; k += 2) length += Math.hypot(ring[k + 2]! - ring[k]!, ring[k + 3]! - ring[k + 1]!);
  return length;
}

function segmentsOf(areas: readonly Area[]): Float64Array {
  let corners = 0;
  for (const { rings } of areas) for (const ring of rings) corners += Math.max(0, ring.length / 2 - 1);
  const out = new Float64Array(4 * corners);
  let to = 0;
  for (const { rings } of areas)
    for (const ring of rings) for (let k = 0; k + 3 < ring.length; k += 2, to += 4) for (let j = 0; j < 4; j++) out[to + j] = ring[k + j]!;
  return out;
}

/** Heights at which a piece is cut to find a place within it. */
const CUTS = 5;

/** A place as far from the outline as some cuts from west to east have one; null where the piece is too narrow to have any. */
function placeWithin({ shell, holes }: Face): [number, number] | null {
  const rings = [shell, ...holes];
  const ys = [...new Set(Array.from(shell).filter((_, k) => k % 2 === 1))].sort((a, b) => a - b);
  const steps = ys.slice(1).map((y, k) => ({ y: (y + ys[k]!) / 2, gap: y - ys[k]! }));
  let best: [number, number] | null = null,
    most = 0;
  for (const { y, gap } of steps.sort((a, b) => b.gap - a.gap).slice(0, CUTS)) {
    const xs: number[] = [];
    for (const ring of rings)
      for (let k = 0; k + 3 < ring.length; k += 2) {
        const [x1, y1, x2, y2] = [ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!];
        if (y1 > y !== y2 > y) xs.push(x1 + ((y - y1) / (y2 - y1)) * (x2 - x1));
      }
    xs.sort((a, b) => a - b);
    for (let k = 0; k + 1 < xs.length; k += 2) {
      const x = (xs[k]! + xs[k + 1]!) / 2;
      const room = Math.min(xs[k + 1]! - xs[k]!, gap);
      // numbers have an end: a place between two of them is none
      if (room > most && x > xs[k]! && x < xs[k + 1]!) {
        most = room;
        best = [x, y];
      }
    }
  }
  return best;
}

import Flatbush from 'flatbush';
import { segmentDistance } from '../../geometry/distance';
import { crossingOf } from '../../geometry/segment-crossing';
import type { Fault } from '../derived/fault';
import { fallOf, loopsOf, type Network, planLength, slopeOf, waysOf } from './network';
import { sameLine } from './read-network';

/** Where a network does not hold together, beside what tying its ends told. @param tolerance in units of the coordinates */
export function networkFaults(network: Network, tolerance: number, unit_m: number): Fault[] {
  return [
    ...structuresAlone(network),
    ...structuresTwice(network, tolerance, unit_m),
    ...overEachOther(network, tolerance),
    ...slopes(network, unit_m),
    ...covers(network, unit_m),
    ...loopsOf(network).map((pipes): Fault => {
      const first = network.pipes[pipes[0]!]!;
      return { kind: 'flow-loop', at: middle(first.line), size: null, about: pipes.map((k) => network.pipes[k]!.id).join(', ') };
    }),
  ];
}

const middle = (line: Float64Array): [number, number] => {
  const k = 2 * Math.floor((line.length / 2 - 1) / 2);
  return [(line[k]! + line[k + 2]!) / 2, (line[k + 1]! + line[k + 3]!) / 2];
};

function structuresAlone(network: Network): Fault[] {
  const { out, into } = waysOf(network);
  return network.structures.flatMap(({ x, y, id }, n): Fault[] =>
    out[n]!.length + into[n]!.length === 0 ? [{ kind: 'structure-alone', at: [x, y], size: null, about: id }] : [],
  );
}

function structuresTwice({ structures }: Network, tolerance: number, unit_m: number): Fault[] {
  if (structures.length === 0) return [];
  const boxes = new Flatbush(structures.length);
  for (const { x, y } of structures) boxes.add(x, y, x, y);
  boxes.finish();
  return structures.flatMap(({ x, y, id }, n): Fault[] =>
    boxes
      .search(x - tolerance, y - tolerance, x + tolerance, y + tolerance, (m) => m > n)
      .map((m) => ({ m, apart: Math.hypot(structures[m]!.x - x, structures[m]!.y - y) }))
      .filter(({ apart }) => apart <= tolerance)
      .map(({ m, apart }) => ({ kind: 'structure-twice', at: [x, y], size: apart * unit_m, about: `${id} and ${structures[m]!.id}` })),
  );
}

/** Pipes drawn twice, pipes that cross without a structure, and structures that a pipe goes past without ending there. */
function overEachOther({ structures, pipes }: Network, tolerance: number): Fault[] {
  const out: Fault[] = [];
  const segments: { pipe: number; k: number }[] = [];
  pipes.forEach(({ line }, pipe) => {
    for (let k = 0; k + 3 < line.length; k += 2) segments.push({ pipe, k });
  });
  if (segments.length === 0) return out;
  const endsOf = ({ pipe, k }: { pipe: number; k: number }): [number, number, number, number] => {
    const { line } = pipes[pipe]!;
    return [line[k]!, line[k + 1]!, line[k + 2]!, line[k + 3]!];
  };
  const boxes = new Flatbush(segments.length);
  for (const s of segments) {
    const [x1, y1, x2, y2] = endsOf(s);
    boxes.add(Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2));
  }
  boxes.finish();
  const twice = new Set<string>();
  segments.forEach((s, n) => {
    const [x1, y1, x2, y2] = endsOf(s);
    for (const m of boxes.search(Math.min(x1, x2), Math.min(y1, y2), Math.max(x1, x2), Math.max(y1, y2), (i) => i > n)) {
      const other = segments[m]!;
      if (other.pipe === s.pipe) continue;
      const [p, q] = [pipes[s.pipe]!, pipes[other.pipe]!];
      const key = `${s.pipe} ${other.pipe}`;
      if (s.k === 0 && !twice.has(key) && sameLine(p, q, tolerance)) {
        twice.add(key);
        out.push({ kind: 'pipe-twice', at: middle(p.line), size: null, about: `${p.id} and ${q.id}` });
      }
      const at = crossingOf(x1, y1, x2, y2, ...endsOf(other));
      if (at) out.push({ kind: 'pipes-cross', at, size: null, about: `${p.id} and ${q.id}` });
    }
  });
  structures.forEach(({ x, y, id }) => {
    const past = new Set<number>();
    for (const m of boxes.search(x - tolerance, y - tolerance, x + tolerance, y + tolerance)) {
      const { pipe } = segments[m]!;
      const { from, to } = pipes[pipe]!;
      // one that is there twice is told as that
      const isEnd = [from, to].some((e) => e >= 0 && Math.hypot(structures[e]!.x - x, structures[e]!.y - y) <= tolerance);
      if (isEnd || past.has(pipe) || segmentDistance(...endsOf(segments[m]!), x, y) > tolerance) continue;
      past.add(pipe);
      out.push({ kind: 'structure-passed', at: [x, y], size: null, about: `${id} by ${pipes[pipe]!.id}` });
    }
  });
  return out;
}

/** Pipes that rise the way that they are drawn, that lie level, and of which the slope is not known. */
function slopes({ pipes }: Network, unit_m: number): Fault[] {
  return pipes.flatMap((pipe): Fault[] => {
    const fall = fallOf(pipe);
    const at = middle(pipe.line);
    if (fall === null) return [];
    if (fall < 0) return [{ kind: 'against-slope', at, size: -fall * unit_m, about: pipe.id }];
    return fall === 0 && planLength(pipe) > 0 ? [{ kind: 'no-slope', at, size: slopeOf(pipe), about: pipe.id }] : [];
  });
}

/** Levels are written to the millimetre; common practice, no source. */
const ROUNDED_M = 0.001;

/** Pipes whose invert lies above the rim of their structure, or below its sump. */
function covers({ structures, pipes }: Network, unit_m: number): Fault[] {
  const rounded = ROUNDED_M / unit_m;
  return pipes.flatMap((pipe): Fault[] =>
    (['from', 'to'] as const).flatMap((end): Fault[] => {
      const structure = structures[pipe[end]];
      const invert = end === 'from' ? pipe.start : pipe.end;
      if (!structure || invert === null) return [];
      const at: [number, number] = [structure.x, structure.y];
      const about = `${pipe.id} at ${structure.id}`;
      if (structure.rim !== null && invert - structure.rim > rounded)
        return [{ kind: 'above-rim', at, size: (invert - structure.rim) * unit_m, about }];
      if (structure.sump !== null && structure.sump - invert > rounded)
        return [{ kind: 'below-sump', at, size: (structure.sump - invert) * unit_m, about }];
      return [];
    }),
  );
}

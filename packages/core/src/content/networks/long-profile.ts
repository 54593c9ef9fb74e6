import { followed, type Network, planLength, runBetween, slopeOf, waysOf } from './network';

/** A structure of a run, with how far it is from where the run begins. Lengths and heights are in the unit of the coordinates. */
export interface RunStructure {
  id: string;
  station: number;
  x: number;
  y: number;
  rim: number | null;
  sump: number | null;
}

/** A pipe of a run, from one of its structures to the next. */
export interface RunPipe {
  id: string;
  length: number;
  start: number | null;
  end: number | null;
  slope: number | null;
  diameter: number | null;
}

/** A run of pipes as it is drawn in a long profile: structure, pipe, structure and so on. */
export interface LongProfile {
  structures: RunStructure[];
  pipes: RunPipe[];
  /** x and y of all vertices of the run, by twos. */
  course: number[];
  /** All pipes that lie up- or downstream, those of the run among them. */
  reached: number;
  /** Structures at which the run could have gone another way. */
  parts: number;
}

/**
 * The run from a structure on: to another one, or the longest to where no pipe leads on.
 * @param way with the flow, or against it; a run is drawn the way that water flows either way
 * @returns null where no pipe leads on, or none there
 */
export function longProfile(network: Network, from: number, way: 'downstream' | 'upstream', to?: number): LongProfile | null {
  const reached = followed(network, from, way);
  const ends = to === undefined ? farthest(network, from, way, reached) : to;
  const run = ends === null ? null : way === 'downstream' ? runBetween(network, from, ends) : runBetween(network, ends, from);
  if (!run || run.length === 0) return null;
  const ways = waysOf(network);
  const first = network.pipes[run[0]!]!.from;
  let station = 0;
  const structureAt = (n: number): RunStructure => {
    const { id, x, y, rim, sump } = network.structures[n]!;
    return { id, station, x, y, rim, sump };
  };
  const structures = [structureAt(first)];
  const course: number[] = [];
  const pipes = run.map((k): RunPipe => {
    const pipe = network.pipes[k]!;
    // each pipe begins where the one before ends
    course.push(...pipe.line.subarray(course.length === 0 ? 0 : 2));
    station += planLength(pipe);
    structures.push(structureAt(pipe.to));
    return { id: pipe.id, length: planLength(pipe), start: pipe.start, end: pipe.end, slope: slopeOf(pipe), diameter: pipe.diameter };
  });
  const choices = way === 'downstream' ? ways.out : ways.into;
  const on = run.map((k) => network.pipes[k]![way === 'downstream' ? 'from' : 'to']);
  return { structures, pipes, course, reached: reached.length, parts: on.filter((n) => choices[n]!.length > 1).length };
}

/** The structure at which no pipe leads on that is farthest away; null where there is none, as in a loop. */
function farthest(network: Network, from: number, way: 'downstream' | 'upstream', reached: readonly number[]): number | null {
  const { out, into } = waysOf(network);
  const on = way === 'downstream' ? out : into;
  const end = way === 'downstream' ? 'to' : 'from';
  let [best, most] = [null as number | null, 0];
  for (const n of new Set(reached.map((k) => network.pipes[k]![end]))) {
    if (n < 0 || on[n]!.length > 0) continue;
    const run = way === 'downstream' ? runBetween(network, from, n) : runBetween(network, n, from);
    const length = run?.reduce((sum, k) => sum + planLength(network.pipes[k]!), 0) ?? 0;
    if (length > most) [best, most] = [n, length];
  }
  return best;
}

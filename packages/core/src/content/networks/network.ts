/** A structure of a network: a manhole, a valve, an outfall. Heights are in the unit of the coordinates. */
export interface Structure {
  id: string;
  x: number;
  y: number;
  kind: string | null;
  rim: number | null;
  sump: number | null;
}

/** A pipe between two structures, drawn the way that its water flows. */
export interface Pipe {
  id: string;
  /** x and y of its vertices by twos. */
  line: Float64Array;
  /** Numbers of the structures that it begins and ends at; -1 where there is none. */
  from: number;
  to: number;
  /** Inverts at its ends; null where nothing says so. */
  start: number | null;
  end: number | null;
  diameter: number | null;
  material: string | null;
}

/** Structures and the pipes between them. */
export interface Network {
  structures: Structure[];
  pipes: Pipe[];
}

/** How long a pipe is in plan. */
export function planLength({ line }: Pick<Pipe, 'line'>): number {
  let length = 0;
  for (let k = 0; k + 3 < line.length; k += 2) length += Math.hypot(line[k + 2]! - line[k]!, line[k + 3]! - line[k + 1]!);
  return length;
}

/** How far a pipe falls from its start to its end; null where an invert is missing. */
export const fallOf = ({ start, end }: Pick<Pipe, 'start' | 'end'>): number | null => (start === null || end === null ? null : start - end);

/** The fall of a pipe by its length in plan, in percent; null where it is not known. */
export function slopeOf(pipe: Pipe): number | null {
  const fall = fallOf(pipe),
    length = planLength(pipe);
  return fall === null || length === 0 ? null : (100 * fall) / length;
}

/** Pipes that leave and that reach each structure. */
export interface Ways {
  out: number[][];
  into: number[][];
}

/** @returns by the number of the structure */
export function waysOf({ structures, pipes }: Network): Ways {
  const ways: Ways = { out: structures.map(() => []), into: structures.map(() => []) };
  pipes.forEach(({ from, to }, k) => {
    if (from >= 0) ways.out[from]!.push(k);
    if (to >= 0) ways.into[to]!.push(k);
  });
  return ways;
}

/** Which connected part each structure belongs to, numbered from 0, whatever way the water flows. */
export function partsOfNetwork({ structures, pipes }: Network): { of: Int32Array; count: number } {
  const up = Int32Array.from(structures.keys());
  const root = (n: number): number => {
    while (up[n] !== n) n = up[n] = up[up[n]!]!;
    return n;
  };
  for (const { from, to } of pipes) if (from >= 0 && to >= 0) up[root(from)] = root(to);
  const numbers = new Map<number, number>();
  const of = up.map((_, n) => {
    const r = root(n);
    if (!numbers.has(r)) numbers.set(r, numbers.size);
    return numbers.get(r)!;
  });
  return { of, count: numbers.size };
}

/** The pipes of each loop in the flow: from every one of them the water comes back to it. */
export function loopsOf(network: Network): number[][] {
  const { out } = waysOf(network);
  const count = network.structures.length;
  const order = new Int32Array(count).fill(-1),
    low = new Int32Array(count),
    onStack = new Uint8Array(count);
  const stack: number[] = [];
  const part = new Int32Array(count).fill(-1);
  let [next, parts] = [0, 0];
  // strongly connected parts without recursion; Tarjan, "Depth-first search and linear graph algorithms", 1972
  for (let start = 0; start < count; start++) {
    if (order[start] !== -1) continue;
    const work: { n: number; k: number }[] = [{ n: start, k: 0 }];
    while (work.length > 0) {
      const top = work.at(-1)!;
      const { n } = top;
      if (top.k === 0 && order[n] === -1) {
        order[n] = low[n] = next++;
        stack.push(n);
        onStack[n] = 1;
      }
      const pipe = out[n]![top.k++];
      if (pipe !== undefined) {
        const to = network.pipes[pipe]!.to;
        if (to < 0) continue;
        if (order[to] === -1) work.push({ n: to, k: 0 });
        else if (onStack[to]) low[n] = Math.min(low[n]!, order[to]!);
        continue;
      }
      work.pop();
      const before = work.at(-1);
      if (before) low[before.n] = Math.min(low[before.n]!, low[n]!);
      if (low[n] !== order[n]) continue;
      for (let m = -1; m !== n;) {
        m = stack.pop()!;
        onStack[m] = 0;
        part[m] = parts;
      }
      parts++;
    }
  }
  const loops = new Map<number, number[]>();
  network.pipes.forEach(({ from, to }, k) => {
    if (from < 0 || to < 0 || part[from] !== part[to]) return;
    const own = loops.get(part[from]!);
    if (own) own.push(k);
    else loops.set(part[from]!, [k]);
  });
  return [...loops.values()];
}

/**
 * The pipes that water goes through from a structure on, or that lead to it, each once, the nearest first.
 * @param way with the flow, or against it
 */
export function followed(network: Network, from: number, way: 'downstream' | 'upstream'): number[] {
  const ways = waysOf(network);
  const next = way === 'downstream' ? ways.out : ways.into;
  const end = way === 'downstream' ? 'to' : 'from';
  const seen = new Set<number>();
  const been = new Set([from]);
  let here = [from];
  while (here.length > 0) {
    const on: number[] = [];
    for (const n of here)
      for (const pipe of next[n]!) {
        if (seen.has(pipe)) continue;
        seen.add(pipe);
        const to = network.pipes[pipe]![end];
        if (to >= 0 && !been.has(to)) {
          been.add(to);
          on.push(to);
        }
      }
    here = on;
  }
  return [...seen];
}

/** The pipes of the shortest run from one structure down to another, in order; null where none leads there. */
export function runBetween(network: Network, from: number, to: number): number[] | null {
  const { out } = waysOf(network);
  const least = new Float64Array(network.structures.length).fill(Infinity);
  const by = new Int32Array(network.structures.length).fill(-1);
  const done = new Uint8Array(network.structures.length);
  least[from] = 0;
  const open = new Set([from]);
  // Dijkstra; runs are some hundred structures long
  while (open.size > 0) {
    const n = [...open].reduce((a, b) => (least[b]! < least[a]! ? b : a));
    open.delete(n);
    done[n] = 1;
    if (n === to) break;
    for (const pipe of out[n]!) {
      const other = network.pipes[pipe]!.to;
      const length = least[n]! + planLength(network.pipes[pipe]!);
      if (other < 0 || done[other] || length >= least[other]!) continue;
      least[other] = length;
      by[other] = pipe;
      open.add(other);
    }
  }
  if (least[to] === Infinity) return null;
  const run: number[] = [];
  for (let n = to; n !== from; n = network.pipes[by[n]!]!.from) run.unshift(by[n]!);
  return run;
}

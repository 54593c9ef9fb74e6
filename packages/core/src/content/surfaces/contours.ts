import { nextSide, type Tin, twinsOf } from './tin';

/** A line of one height: x and y of its vertices by twos; the first is repeated at the end where it is closed. */
export interface Contour {
  height: number;
  line: Float64Array;
}

/**
 * The contours of a surface at heights one interval apart. A corner that has the height of a contour counts as above it, so that each contour
 * goes through a triangle from one side to one other. Method: common practice, no source.
 * @param interval above nought, in the unit of the heights
 * @param base a height that has a contour
 */
export function* contoursOf(tin: Tin, interval: number, base = 0): Generator<Contour> {
  const { xyz, triangles } = tin;
  const twins = twinsOf(tin);
  let [low, high] = [Infinity, -Infinity];
  for (const n of triangles) {
    low = Math.min(low, xyz[3 * n + 2]!);
    high = Math.max(high, xyz[3 * n + 2]!);
  }
  const byLevel = trianglesByLevel(tin, interval, base);
  const done = new Int32Array(triangles.length / 3).fill(-1);
  let round = 0;
  for (const level of [...byLevel.keys()].sort((a, b) => a - b)) {
    const height = base + level * interval;
    const own = byLevel.get(level)!;
    round++;
    const crosses = (s: number): boolean => xyz[3 * triangles[s]! + 2]! >= height !== xyz[3 * triangles[nextSide(s)]! + 2]! >= height;
    const sidesOf = (t: number): number[] => [3 * t, 3 * t + 1, 3 * t + 2].filter(crosses);
    const pointOn = (s: number, line: number[]): void => {
      const [p, q] = [triangles[s]!, triangles[nextSide(s)]!];
      // from the same end whichever triangle asks
      const [a, b] = p < q ? [3 * p, 3 * q] : [3 * q, 3 * p];
      const t = (height - xyz[a + 2]!) / (xyz[b + 2]! - xyz[a + 2]!);
      const [x, y] = [xyz[a]! + t * (xyz[b]! - xyz[a]!), xyz[a + 1]! + t * (xyz[b + 1]! - xyz[a + 1]!)];
      if (line.length === 0 || line.at(-2) !== x || line.at(-1) !== y) line.push(x, y);
    };
    const follow = (start: number, side: number): Float64Array => {
      const line: number[] = [];
      pointOn(side, line);
      for (let t = start, from = side; ;) {
        done[t] = round;
        const to = sidesOf(t).find((s) => s !== from)!;
        pointOn(to, line);
        from = twins[to]!;
        if (from < 0) break;
        t = Math.floor(from / 3);
        if (t === start) break;
      }
      return Float64Array.from(line);
    };
    // those that end at the border first: what is left goes round
    for (const t of own)
      if (done[t] !== round) {
        const border = sidesOf(t).find((s) => twins[s] === -1);
        if (border !== undefined) yield* drawn(height, follow(t, border));
      }
    for (const t of own) if (done[t] !== round) yield* drawn(height, follow(t, sidesOf(t)[0]!));
  }
}

/** A contour that goes through a single corner has no length, and is none. */
function* drawn(height: number, line: Float64Array): Generator<Contour> {
  if (line.length >= 4) yield { height, line };
}

/** The triangles that each contour goes through, by its number from the base. */
function trianglesByLevel({ xyz, triangles }: Tin, interval: number, base: number): Map<number, number[]> {
  const out = new Map<number, number[]>();
  for (let t = 0; t < triangles.length / 3; t++) {
    const [a, b, c] = [xyz[3 * triangles[3 * t]! + 2]!, xyz[3 * triangles[3 * t + 1]! + 2]!, xyz[3 * triangles[3 * t + 2]! + 2]!];
    const [low, high] = [Math.min(a, b, c), Math.max(a, b, c)];
    // one more on either side: the product of a number and an interval is rounded
    for (let k = Math.floor((low - base) / interval) - 1; k <= Math.ceil((high - base) / interval) + 1; k++) {
      const height = base + k * interval;
      if (!(low < height && height <= high)) continue;
      const own = out.get(k);
      if (own) own.push(t);
      else out.set(k, [t]);
    }
  }
  return out;
}

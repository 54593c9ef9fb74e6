import Delaunator from 'delaunator';

/** Steps of the way back; each shrinks the error by the bend between triangles. */
const ROUNDS = 60;

/**
 * A sheet that is stretched so that every mark comes to its place: an affine map, and what it leaves at the marks spread
 * linearly over the triangles between them (Delaunay's). Outside of all triangles the nearest point of the rim counts.
 * @param base a, b, c, d of x' = a x + b y, y' = c x + d y
 */
export function rubberSheet(
  from: readonly (readonly [number, number])[],
  to: readonly (readonly [number, number])[],
  base: readonly [number, number, number, number],
) {
  const [a, b, c, d] = base;
  const det = a * d - b * c;
  const { triangles, hull } = Delaunator.from(from as [number, number][]);
  const rest = from.map(([x, y], i): [number, number] => [to[i]![0] - (a * x + b * y), to[i]![1] - (c * x + d * y)]);

  /** What the affine map leaves at a point. */
  const restAt = (x: number, y: number, out: Float64Array): void => {
    for (let t = 0; t < triangles.length; t += 3) {
      const [i, j, k] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
      const [x1, y1] = from[i]!,
        [x2, y2] = from[j]!,
        [x3, y3] = from[k]!;
      const area = (x2 - x1) * (y3 - y1) - (x3 - x1) * (y2 - y1);
      const w2 = ((x - x1) * (y3 - y1) - (x3 - x1) * (y - y1)) / area,
        w3 = ((x2 - x1) * (y - y1) - (x - x1) * (y2 - y1)) / area,
        w1 = 1 - w2 - w3;
      if (w1 < -1e-12 || w2 < -1e-12 || w3 < -1e-12) continue;
      for (const e of [0, 1] as const) out[e] = w1 * rest[i]![e] + w2 * rest[j]![e] + w3 * rest[k]![e];
      return;
    }
    let least = Infinity;
    for (let h = 0; h < hull.length; h++) {
      const [i, j] = [hull[h]!, hull[(h + 1) % hull.length]!];
      const [x1, y1] = from[i]!,
        [x2, y2] = from[j]!;
      const length = (x2 - x1) ** 2 + (y2 - y1) ** 2;
      const s = length === 0 ? 0 : Math.max(0, Math.min(1, ((x - x1) * (x2 - x1) + (y - y1) * (y2 - y1)) / length));
      const away = (x - x1 - s * (x2 - x1)) ** 2 + (y - y1 - s * (y2 - y1)) ** 2;
      if (away >= least) continue;
      least = away;
      for (const e of [0, 1] as const) out[e] = (1 - s) * rest[i]![e] + s * rest[j]![e];
    }
  };
  return {
    forward(x: number, y: number, out: Float64Array): void {
      restAt(x, y, out);
      out[0] = out[0]! + a * x + b * y;
      out[1] = out[1]! + c * x + d * y;
    },
    inverse(u: number, v: number, out: Float64Array): void {
      let x = (d * u - b * v) / det,
        y = (a * v - c * u) / det;
      for (let round = 0; round < ROUNDS; round++) {
        restAt(x, y, out);
        const s = u - out[0]!,
          t = v - out[1]!;
        const nx = (d * s - b * t) / det,
          ny = (a * t - c * s) / det;
        const moved = Math.abs(nx - x) + Math.abs(ny - y);
        x = nx;
        y = ny;
        if (moved < 1e-15) break;
      }
      out[0] = x;
      out[1] = y;
    },
  };
}

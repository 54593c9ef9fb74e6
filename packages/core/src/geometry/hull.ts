/**
 * The convex hull of points, counter-clockwise, its first point not repeated. Andrew's monotone chain (A. M. Andrew, "Another
 * efficient algorithm for convex hulls in two dimensions", 1979).
 */
export function convexHull(points: readonly (readonly [number, number])[]): [number, number][] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (order: readonly (readonly [number, number])[]): [number, number][] => {
    const chain: [number, number][] = [];
    for (const [x, y] of order) {
      while (chain.length >= 2) {
        const [a, b] = [chain[chain.length - 2]!, chain[chain.length - 1]!];
        if ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0]) > 0) break;
        chain.pop();
      }
      chain.push([x, y]);
    }
    chain.pop();
    return chain;
  };
  return [...half(sorted), ...half(sorted.reverse())];
}

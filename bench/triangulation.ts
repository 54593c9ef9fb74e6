import { readFileSync } from 'node:fs';
import { triangulate } from '@pontrel/core/content/surfaces/triangulate';

/** Triangles of the points of a table of x, y and z, in memory: how many, and how long it took without reading. */
export function triangulationOf(file: string): { triangles: number; seconds: number } {
  const rows = readFileSync(file, 'utf8').trimEnd().split('\n').slice(1);
  const points = new Float64Array(2 * rows.length);
  rows.forEach((row, k) => points.set(row.split(',').slice(0, 2).map(Number), 2 * k));
  const start = performance.now();
  const { triangles } = triangulate(points, new Uint32Array(0));
  return { triangles: triangles.length / 3, seconds: (performance.now() - start) / 1000 };
}

import type { Entity } from './entities';

type Point = readonly [number, number, number];

const CLOSED_M = 1,
  CLOSED_N = 32,
  SPLINED = 4;
/** Flags of a VERTEX. */
const CONTROL = 16,
  POSITION = 64,
  FACE = 128;

/** Cells of a mesh of rows and columns, as rings; null when there are not as many vertices as it says. Source: DXF Reference, POLYLINE. */
export function meshFaces(e: Entity<'POLYLINE'>, vertices: readonly Entity<'VERTEX'>[]): Point[][] | null {
  const smooth = (e.flags & SPLINED) !== 0;
  const kept = smooth ? vertices.filter((v) => !(v.flags & CONTROL)) : vertices;
  const [rows, columns] = smooth ? [e.smoothM, e.smoothN] : [e.m, e.n];
  if (rows < 2 || columns < 2 || kept.length !== rows * columns) return null;
  const at = (r: number, c: number): Point => {
    const v = kept[(r % rows) * columns + (c % columns)]!;
    return [v.x, v.y, v.z];
  };
  const faces: Point[][] = [];
  for (let r = 0; r < rows - (e.flags & CLOSED_M ? 0 : 1); r++) {
    for (let c = 0; c < columns - (e.flags & CLOSED_N ? 0 : 1); c++)
      faces.push([at(r, c), at(r, c + 1), at(r + 1, c + 1), at(r + 1, c), at(r, c)]);
  }
  return faces;
}

/** Faces of a polyface mesh: positions first, then records with up to four of their numbers, negative where the edge is hidden. */
export function polyfaceFaces(vertices: readonly Entity<'VERTEX'>[]): Point[][] | null {
  const positions = vertices.filter((v) => v.flags & POSITION).map((v): Point => [v.x, v.y, v.z]);
  const faces: Point[][] = [];
  for (const v of vertices) {
    if (!(v.flags & FACE) || v.flags & POSITION) continue;
    const ring = [v.a, v.b, v.c, v.d].filter((n) => n !== 0).map((n) => positions[Math.abs(n) - 1]);
    if (ring.length < 2 || ring.some((p) => p === undefined)) return null;
    faces.push([...(ring as Point[]), ring[0]!]);
  }
  return faces.length > 0 ? faces : null;
}

/** Faces of a MESH before it is smoothed. @param raw group codes and numbers by turns. Source: DXF Reference, MESH. */
export function subdivisionFaces(raw: readonly number[]): Point[][] | null {
  const points: [number, number, number][] = [];
  const faces: Point[][] = [];
  for (let i = 0; i + 1 < raw.length; i += 2) {
    const code = raw[i]!,
      v = raw[i + 1]!;
    if (code === 10) points.push([v, 0, 0]);
    else if ((code === 20 || code === 30) && points.length > 0) points.at(-1)![code / 10 - 1] = v;
    else if (code === 93) {
      // as many numbers follow, each face its count first
      const list: number[] = [];
      for (let k = i + 2; k + 1 < raw.length && raw[k] === 90 && list.length < v; k += 2) list.push(raw[k + 1]!);
      if (list.length !== v) return null;
      for (let k = 0; k < list.length; k += 1 + Math.max(0, list[k]!)) {
        const ring = list.slice(k + 1, k + 1 + list[k]!).map((n) => points[n]);
        if (ring.length < 2 || ring.length !== list[k] || ring.some((p) => p === undefined)) return null;
        faces.push([...(ring as Point[]), ring[0]!]);
      }
    }
  }
  return faces.length > 0 ? faces : null;
}

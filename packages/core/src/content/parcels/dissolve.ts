import type { Face } from './faces';
import { facesOf } from './faces';

/** A directed side as a key of a map. */
export const sideKey = (x1: number, y1: number, x2: number, y2: number): string => `${x1} ${y1} ${x2} ${y2}`;

/** Calls `visit` with each side of a face; the face lies on the left of each. */
export function eachSide({ shell, holes }: Face, visit: (x1: number, y1: number, x2: number, y2: number) => void): void {
  for (const ring of [shell, ...holes])
    for (let k = 0; k + 3 < ring.length; k += 2) visit(ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!);
}

/** Faces of one plane graph as one: those that share sides are joined, those that do not stay apart. */
export function dissolve(faces: readonly Face[]): Face[] {
  if (faces.length < 2) return [...faces];
  const sides = new Map<string, [number, number, number, number]>();
  for (const face of faces)
    eachSide(face, (x1, y1, x2, y2) => {
      if (!sides.delete(sideKey(x2, y2, x1, y1))) sides.set(sideKey(x1, y1, x2, y2), [x1, y1, x2, y2]);
    });
  const numbers = new Map<string, number>();
  const nodes: number[] = [];
  const numberOf = (x: number, y: number): number => {
    const key = `${x} ${y}`;
    let n = numbers.get(key);
    if (n === undefined) {
      numbers.set(key, (n = numbers.size));
      nodes.push(x, y);
    }
    return n;
  };
  const edges = Uint32Array.from(
    [...sides.values()].flatMap(([x1, y1, x2, y2]) => {
      const [a, b] = [numberOf(x1, y1), numberOf(x2, y2)];
      return a < b ? [a, b] : [b, a];
    }),
  );
  // what they enclose is theirs where it lies on the left of their sides; else it is a hole
  return facesOf({ nodes: Float64Array.from(nodes), edges, largestMove: 0 }).faces.filter(({ shell }) =>
    sides.has(sideKey(shell[0]!, shell[1]!, shell[2]!, shell[3]!)),
  );
}

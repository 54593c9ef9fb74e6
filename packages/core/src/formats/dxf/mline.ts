/** Bit of the flags (71) of a closed one. */
export const MLINE_CLOSED = 2;

type Point = [number, number, number];

/**
 * The lines of an MLINE, one an element: each vertex is moved along its mitre by the element's first parameter. Source: DXF Reference, MLINE.
 * @param raw group codes and numbers by turns, from the whole entity
 * @returns null when they do not make whole vertices
 */
export function mlineElements(raw: readonly number[], closed: boolean): Point[][] | null {
  const lines: Point[][] = [];
  let vertex: Point | null = null;
  const mitre: Point = [0, 0, 0];
  let element = 0,
    left = 0,
    vertices = 0;
  for (let i = 0; i + 1 < raw.length; i += 2) {
    const code = raw[i]!,
      v = raw[i + 1]!;
    if (code === 11) {
      vertex = [v, 0, 0];
      element = 0;
      vertices++;
    } else if (!vertex) continue;
    else if (code === 21) vertex[1] = v;
    else if (code === 31) vertex[2] = v;
    else if (code === 13) mitre[0] = v;
    else if (code === 23) mitre[1] = v;
    else if (code === 33) mitre[2] = v;
    // parameters of one element: their number, then the first is how far along the mitre it lies
    else if (code === 74) left = v;
    else if (code === 41 && left > 0) {
      (lines[element] ??= []).push([vertex[0] + mitre[0] * v, vertex[1] + mitre[1] * v, vertex[2] + mitre[2] * v]);
      element++;
      left = 0;
    }
  }
  if (vertices < 2 || lines.length === 0 || lines.some((line) => line.length !== vertices)) return null;
  if (closed) for (const line of lines) line.push(line[0]!);
  return lines;
}

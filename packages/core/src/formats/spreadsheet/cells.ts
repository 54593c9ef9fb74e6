/** The number of the column that a reference such as "AB12" names, from 0. */
export function letterColumn(reference: string): number {
  let n = 0;
  for (const c of reference) {
    const k = c.charCodeAt(0) - 64;
    if (k < 1 || k > 26) break;
    n = 26 * n + k;
  }
  return n - 1;
}

/** Letters of a column, from 0. */
export function columnLetters(column: number): string {
  let text = '';
  for (let n = column + 1; n > 0; n = Math.floor((n - 1) / 26)) text = String.fromCharCode(65 + ((n - 1) % 26)) + text;
  return text;
}

/** Characters that XML cannot hold stand as _x000D_. Source: ECMA-376 part 1, section 22.9.2.19 (ST_Xstring). */
export const unescapedText = (text: string): string =>
  text.replace(/_x([0-9A-Fa-f]{4})_/g, (_, code: string) => String.fromCharCode(parseInt(code, 16)));

/** The opposite, for texts that hold such characters, or look as if they were written so. */
export const escapedText = (text: string): string =>
  text
    .replace(/_(?=x[0-9A-Fa-f]{4}_)/g, '_x005F_')
    .replace(
      /[\u0000-\u0008\u000b\u000c\r\u000e-\u001f\ufffe\uffff]/g,
      (c) => `_x${c.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}_`,
    );

/** A table as it was typed or pasted. */
export interface PastedTable {
  /** With tabs between values where only blanks were. */
  text: string;
  rows: number;
  columns: number;
  /** The first row that has another number of values than most. */
  odd: { line: number; values: number } | null;
}

/** Share of lines from which a table has so many columns: a cell that was typed wrong does not undo them. */
const MOSTLY = 0.5;

/** What was typed as a table: where only blanks lie between the values of most lines, they become tabs. */
export function asTable(text: string): PastedTable {
  const lines = text.split(/\r?\n/).flatMap((line, k) => (line.trim() === '' ? [] : [{ line: line.trimEnd(), number: k + 1 }]));
  const byBlanks = lines.map(({ line }) => line.trim().split(/\s+/));
  const usual = mostCommon(byBlanks.map((v) => v.length));
  // a comma at the end of a value lies between two; within one it is a decimal mark
  const blanks =
    !/[\t;|"]/.test(text) &&
    usual.value > 1 &&
    usual.count > MOSTLY * lines.length &&
    byBlanks.every((v) => v.every((t) => !/^,|,$/.test(t)));
  const separated = blanks ? byBlanks.map((v) => v.join('\t')) : lines.map(({ line }) => line);
  const separator = ['\t', ';', '|', ','].find((s) => separated.filter((l) => l.includes(s)).length > MOSTLY * separated.length) ?? ',';
  const widths = separated.map((l) => l.split(separator).length);
  const columns = mostCommon(widths).value;
  const odd = /"/.test(text) ? -1 : widths.findIndex((w) => w !== columns);
  return {
    text: separated.join('\n'),
    rows: separated.length,
    columns,
    odd: odd < 0 ? null : { line: lines[odd]!.number, values: widths[odd]! },
  };
}

function mostCommon(numbers: readonly number[]): { value: number; count: number } {
  const counts = new Map<number, number>();
  for (const n of numbers) counts.set(n, (counts.get(n) ?? 0) + 1);
  const [value, count] = [...counts].sort((a, b) => b[1] - a[1])[0] ?? [0, 0];
  return { value, count };
}

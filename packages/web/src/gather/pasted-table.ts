/** What was typed as a table: where only blanks lie between the values of each line, they become tabs. */
export function asTable(text: string): { text: string; rows: number; columns: number } {
  const lines = text.split(/\r?\n/).filter((l) => l.trim() !== '');
  const byBlanks = lines.map((l) => l.trim().split(/\s+/));
  // a comma at the end of a value lies between two; within one it is a decimal mark
  const blanks =
    !/[\t;|"]/.test(text) && byBlanks.every((v) => v.length > 1 && v.length === byBlanks[0]!.length && v.every((t) => !/^,|,$/.test(t)));
  const separated = blanks ? byBlanks.map((v) => v.join('\t')) : lines;
  const separator = ['\t', ';', '|', ','].find((s) => (separated[0] ?? '').includes(s)) ?? ',';
  return { text: separated.join('\n'), rows: separated.length, columns: (separated[0] ?? '').split(separator).length };
}

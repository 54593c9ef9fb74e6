/** A name with its numbers taken out: those of the tiles of one mosaic are alike. */
export const patternOf = (name: string): string => name.toLowerCase().replace(/\d+/g, '#');

/** The order of names in which 10 comes after 9. */
export const inNumbers = (a: string, b: string): number => a.localeCompare(b, 'en', { numeric: true });

/** What names have in common, with what differs between the first and the last: ortho_{1..4}.tif. */
export function mosaicName(names: readonly string[]): string {
  const [first, last] = [names[0]!, names.at(-1)!];
  if (names.length === 1) return first;
  const shared = (at: (name: string, k: number) => string | undefined): number => {
    let k = 0;
    while (at(first, k) !== undefined && names.every((n) => at(n, k) === at(first, k))) k++;
    return k;
  };
  let begin = shared((n, k) => n[k]);
  // a number is not cut in two
  while (begin > 0 && /\d/.test(first[begin - 1]!)) begin--;
  let end = Math.min(
    shared((n, k) => n[n.length - 1 - k]),
    Math.min(first.length, last.length) - begin,
  );
  while (end > 0 && /\d/.test(first[first.length - end]!)) end--;
  return `${first.slice(0, begin)}{${first.slice(begin, first.length - end)}..${last.slice(begin, last.length - end)}}${first.slice(first.length - end)}`;
}

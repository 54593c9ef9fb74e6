/** Whether something is chosen alone, beside the others, or with all up to it. */
export type ChooseHow = 'only' | 'add' | 'up-to';

/** What a click means by the keys that are held with it. */
export const howOf = (e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }): ChooseHow =>
  e.shiftKey ? 'up-to' : e.ctrlKey || e.metaKey ? 'add' : 'only';

/**
 * What is chosen after a choice; never nothing.
 * @param order all that can be chosen, as it stands on the page
 * @param from where a choice of all up to one begins
 */
export function chosenAfter(
  order: readonly string[],
  chosen: readonly string[],
  from: string | undefined,
  key: string,
  how: ChooseHow,
): string[] {
  if (how === 'up-to') {
    const to = order.indexOf(key),
      begin = from === undefined ? -1 : order.indexOf(from);
    return begin < 0 ? [key] : order.slice(Math.min(begin, to), Math.max(begin, to) + 1);
  }
  if (how === 'only') return [key];
  if (!chosen.includes(key)) return [...chosen, key];
  return chosen.length > 1 ? chosen.filter((k) => k !== key) : [...chosen];
}

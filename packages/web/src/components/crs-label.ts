/** What a system is called in a few letters: its code, or that it is a definition of its own. */
export function crsLabel(text: string): string {
  return /^EPSG:\d+$/i.test(text) ? text : 'own definition';
}

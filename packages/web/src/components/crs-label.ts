/** What a system is called in a few letters: its code, or that it is a plane or a definition of its own. */
export function crsLabel(text: string): string {
  if (/^EPSG:\d+(\+\d+)?$/i.test(text)) return text;
  return isLocalPlane(text) ? 'local plane' : 'own definition';
}

/** Whether the text that a recipe calls a system by is that of a local plane. */
export const isLocalPlane = (text: string): boolean => /^(local$|LOCAL_CS\b|ENG(INEERING)?CRS\b)/i.test(text);

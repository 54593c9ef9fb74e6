/** The extension of a name, with its dot and in small letters; empty where there is none. */
export function extensionOf(name: string): string {
  return /\.[^.\\/]+$/.exec(name)?.[0].toLowerCase() ?? '';
}

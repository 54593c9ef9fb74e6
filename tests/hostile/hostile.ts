/** A file made to harm: to take time, memory or the program itself with it. */
export interface HostileFile {
  /** What it does, beside the extension of its kind. */
  what: string;
  /** The files, by name; the first one is handed in. */
  make(): Record<string, Uint8Array | string>;
  /** Options of the command line beside `--from`. */
  args?: string[];
  /** What it is converted into; a container when absent. */
  output?: string;
}

/** Hostile files of one extension: what each does, and what is in it. */
export const filesOf = (extension: string, made: Record<string, () => Uint8Array | string>): HostileFile[] =>
  Object.entries(made).map(([what, content]) => ({ what: `${extension}: ${what}`, make: () => ({ [`hostile${extension}`]: content() }) }));

/** `n` texts, each made of its number. */
export const many = (n: number, of: (k: number) => string, between = ''): string =>
  Array.from({ length: n }, (_, k) => of(k)).join(between);

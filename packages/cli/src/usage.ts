export const USAGE = `pontrel inspect FILE... [--json]
pontrel convert INPUT... OUTPUT [--from CRS] [--to CRS] [--layer NAME]... [--chord METRES] [--format ID] [--json]

CRS is an EPSG code such as EPSG:2193. OUTPUT is a file (roads.shp: one set a geometry kind) or, with --format,
a folder (one set a layer and kind). Exit status: 0 done, 1 the input is bad, 2 wrong usage.`;

/** The call's words are off. */
export class Usage extends Error {}

export interface Options {
  json?: boolean;
  from?: string;
  to?: string;
  layer?: string[];
  chord?: string;
  format?: string;
}

export interface Result {
  json: unknown;
  text: string;
  exit: number;
}

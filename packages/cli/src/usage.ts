export const USAGE = `pontrel inspect FILE... [--json]
pontrel convert INPUT... OUTPUT [--from CRS] [--to CRS] [--layer NAME]... [--chord METRES] [--format ID]
                [--bounds minx,miny,maxx,maxy] [--append] [--json]
pontrel convert INPUT... FOLDER --recipe FILE [--json]   (the rules of a crossing, on these files)
pontrel crs transform --from CRS --to CRS [--operation ID | --no-grids] [--json]   (lines "x y [z]", east-west axis first)
pontrel crs show CRS --as wkt1|wkt2|prj|proj|json
pontrel crs identify FILE.prj [--json]
pontrel crs find --extent minx,miny,maxx,maxy [--near lon,lat] [--json]

CRS is an EPSG code such as EPSG:2193, two of them for positions and heights (EPSG:2193+7839), WKT, or a PROJ string. Grid files
are looked for among those shipped and in the folders that PONTREL_GRIDS names. OUTPUT is a file (roads.shp: one set a geometry kind) or, with --format,
a folder (one set a layer and kind); plan.dxf: one drawing. Of what lies outside --bounds, in the output's system, nothing crosses.
With --append tables are added to an OUTPUT that is there, and a copy of it as it was is kept beside it. Exit status: 0 done, 1 the input is bad, 2 wrong usage.`;

/** The call's words are off. */
export class Usage extends Error {}

export interface Options {
  json?: boolean;
  from?: string;
  to?: string;
  layer?: string[];
  chord?: string;
  bounds?: string;
  append?: boolean;
  format?: string;
  recipe?: string;
  operation?: string;
  'no-grids'?: boolean;
  as?: string;
  extent?: string;
  near?: string;
}

export interface Result {
  json: unknown;
  text: string;
  /** For people, beside the result: written to the standard error. */
  notes?: string[];
  exit: number;
}

/** The options of `pontrel convert`, as they were typed. */
export interface ConvertOptions {
  from?: string;
  unit?: string;
  to?: string;
  layer?: string[];
  where?: string;
  chord?: string;
  format?: string;
  option?: string[];
  bounds?: string;
  pixelSize?: string;
  resample?: string;
  quality?: string;
  append?: boolean;
  recipe?: string;
  source?: string[];
}

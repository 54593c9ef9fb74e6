import type { AreaOfUse } from '../crs';
import packed from './registry.json' with { type: 'json' };

/** Version of the EPSG dataset, "v10.076". */
export const REGISTRY_VERSION: string = packed.version;

type TableName = Exclude<keyof typeof packed, 'version'>;

const split = new Map<TableName, string[][]>();

/** The rows of a packed table, columns apart; taken apart once. */
export function rows(table: TableName): string[][] {
  let made = split.get(table);
  if (!made) split.set(table, (made = packed[table].split('\n').map((line) => line.split('|'))));
  return made;
}

const keyed = new Map<TableName, Map<string, string[]>>();

/** The row of a table with this first column. */
export function row(table: TableName, code: string): string[] | undefined {
  let index = keyed.get(table);
  if (!index) keyed.set(table, (index = new Map(rows(table).map((r) => [r[0]!, r]))));
  return index.get(code);
}

const areas = new Map<string, AreaOfUse>();

/** The area of use that a row refers to; null when it has none. */
export function areaOf(reference: string | undefined): AreaOfUse | null {
  if (!reference) return null;
  let area = areas.get(reference);
  if (!area) {
    const [name, west, south, east, north, sea] = rows('extents')[parseInt(reference, 36)]!;
    areas.set(
      reference,
      (area = { name: name!, west: +west!, south: +south!, east: +east!, north: +north!, ...(sea ? { offshore: true } : {}) }),
    );
  }
  return area;
}

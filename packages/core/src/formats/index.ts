import type { ByteSource } from '../io/bytes';
import { Problem } from '../model/problem';
import { withBudgets } from './budgets';
import { csv } from './csv/index';
import { dbf } from './dbf/index';
import { dxf } from './dxf/index';
import { flatgeobuf } from './flatgeobuf/index';
import { extensionOf } from './extension';
import type { FeatureFormat } from './format';
import { geojson } from './geojson/index';
import { geopackage } from './geopackage/index';
import { gml } from './gml/index';
import { gpx } from './gpx/index';
import { kml } from './kml/index';
import { landxml } from './landxml/index';
import { shapefile } from './shapefile/index';
import { spreadsheet } from './spreadsheet/index';
import { topojson } from './topojson/index';
import { unreadKind } from './unread-kinds';

/** Every format. Adding one is its folder and a place here. */
export const FORMATS: readonly FeatureFormat[] = [
  dxf,
  shapefile,
  geopackage,
  // a topology holds geometries of the same names
  topojson,
  geojson,
  kml,
  landxml,
  gml,
  flatgeobuf,
  gpx,
  csv,
  spreadsheet,
  dbf,
].map(withBudgets);

/** A format of records by its id. */
export function formatById(id: string): FeatureFormat | undefined {
  return FORMATS.find((f) => f.id === id);
}

/**
 * The format of a file, by its content first and its name second.
 * @throws Problem `file-empty`; `format-unread` for a kind that is known and not read; `format-unknown` with what can be read
 */
export async function recogniseFormat(source: ByteSource): Promise<FeatureFormat> {
  const head = await source.read(0, 4096);
  const extension = extensionOf(source.name);
  if (head.length === 0) throw new Problem('file-empty', `${source.name} is empty. Ask for it again.`, { file: source.name });
  const found = FORMATS.find((f) => f.sniff(head, source.name));
  if (found) return found;
  const unread = unreadKind(head, source.name);
  if (unread !== null) throw new Problem('format-unread', `${source.name} ${unread}`, { file: source.name });
  const named = FORMATS.find((f) => f.extensions.includes(extension));
  if (named) return named;
  const known = FORMATS.map((f) => `${f.name} (${f.extensions[0]})`).join(', ');
  throw new Problem('format-unknown', `${source.name} is of no kind that is read here. What is read: ${known}.`, { file: source.name });
}

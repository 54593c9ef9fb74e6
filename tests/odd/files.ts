import Database from 'better-sqlite3';
import { strToU8, zipSync } from 'fflate';

/** Bytes of odd files, as old programs, devices and careless hands make them; what is wrong with each is said where it is made. */

const latin1 = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0));

export interface DbfField {
  name: string;
  type: string;
  width: number;
  decimals?: number;
}

/** A table, row by row as it stands in the file. Source: dBASE III. @param how what its header says otherwise than is true */
export function dbfOf(
  fields: readonly DbfField[],
  rows: readonly (readonly string[])[],
  how: { deleted?: readonly number[]; headerBytes?: number; rowBytes?: number; count?: number; language?: number } = {},
): Uint8Array {
  const headerBytes = 33 + 32 * fields.length,
    rowBytes = 1 + fields.reduce((n, f) => n + f.width, 0);
  const out = new Uint8Array(headerBytes + rows.length * rowBytes + 1).fill(32);
  const view = new DataView(out.buffer);
  out.fill(0, 0, headerBytes);
  out.set([3, 126, 1, 1]);
  view.setUint32(4, how.count ?? rows.length, true);
  view.setUint16(8, how.headerBytes ?? headerBytes, true);
  view.setUint16(10, how.rowBytes ?? rowBytes, true);
  out[29] = how.language ?? 0x57;
  fields.forEach(({ name, type, width, decimals = 0 }, k) => {
    const at = 32 + 32 * k;
    out.set(latin1(name).subarray(0, 11), at);
    out[at + 11] = type.charCodeAt(0);
    out[at + 16] = width;
    out[at + 17] = decimals;
  });
  out[headerBytes - 1] = 0x0d;
  rows.forEach((row, r) => {
    let at = headerBytes + r * rowBytes;
    out[at++] = how.deleted?.includes(r) ? 0x2a : 32;
    row.forEach((value, k) => {
      out.set(latin1(value).subarray(0, fields[k]!.width), at);
      at += fields[k]!.width;
    });
  });
  out[out.length - 1] = 0x1a;
  return out;
}

/** A shapefile's .shp of whatever contents. Source: "Shapefile Technical Description", 1998, pages 2 to 5. */
export function shpOf(type: number, contents: readonly Uint8Array[]): Uint8Array {
  const size = 100 + contents.reduce((n, c) => n + 8 + c.length, 0);
  const out = new Uint8Array(size);
  const view = new DataView(out.buffer);
  view.setInt32(0, 9994);
  view.setInt32(24, size / 2);
  view.setInt32(28, 1000, true);
  view.setInt32(32, type, true);
  let at = 100;
  contents.forEach((content, k) => {
    view.setInt32(at, k + 1);
    view.setInt32(at + 4, content.length / 2);
    out.set(content, at + 8);
    at += 8 + content.length;
  });
  return out;
}

/** The content of a record: whole numbers and reals as they follow one another. */
export const content = (...parts: NumberOf[]): Uint8Array => contentOf(parts);

type NumberOf = { int: number } | { real: number };

function contentOf(parts: readonly NumberOf[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((n, p) => n + ('int' in p ? 4 : 8), 0));
  const view = new DataView(out.buffer);
  let at = 0;
  for (const part of parts) {
    if ('int' in part) view.setInt32(at, part.int, true);
    else view.setFloat64(at, part.real, true);
    at += 'int' in part ? 4 : 8;
  }
  return out;
}

const int = (v: number): { int: number } => ({ int: v });
const real = (v: number): { real: number } => ({ real: v });

export const pointContent = (x: number, y: number): Uint8Array => content(int(1), real(x), real(y));

/** A line or an area of rings, with the box that it has. */
export function ringsContent(type: 3 | 5, rings: readonly (readonly (readonly [number, number])[])[]): Uint8Array {
  const all = rings.flat();
  const starts: number[] = [];
  rings.forEach((_, k) => starts.push(k === 0 ? 0 : starts[k - 1]! + rings[k - 1]!.length));
  const [xs, ys] = [all.map((p) => p[0]), all.map((p) => p[1])];
  const [least, most] = [(v: number[]) => v.reduce((a, b) => Math.min(a, b)), (v: number[]) => v.reduce((a, b) => Math.max(a, b))];
  const box = [least(xs), least(ys), most(xs), most(ys)];
  return contentOf([
    int(type),
    ...box.map(real),
    int(rings.length),
    int(all.length),
    ...starts.map(int),
    ...all.flatMap(([x, y]) => [real(x), real(y)]),
  ]);
}

/** Groups of a drawing, code and value by turns. */
export const groupsOf = (...pairs: (string | number)[]): string => pairs.map(String).join('\n') + '\n';

/** A drawing with these entities, and blocks where there are some. */
export function dxfOf(
  entities: readonly (string | number)[],
  { blocks = [] as (string | number)[], header = [] as (string | number)[] } = {},
): string {
  return groupsOf(
    ...(header.length > 0 ? [0, 'SECTION', 2, 'HEADER', ...header, 0, 'ENDSEC'] : []),
    ...(blocks.length > 0 ? [0, 'SECTION', 2, 'BLOCKS', ...blocks, 0, 'ENDSEC'] : []),
    0,
    'SECTION',
    2,
    'ENTITIES',
    ...entities,
    0,
    'ENDSEC',
    0,
    'EOF',
  );
}

/** A file of features with these members, as JSON text. */
export const featuresOf = (...features: string[]): string => `{"type":"FeatureCollection","features":[${features.join(',')}]}`;
export const feature = (geometry: string, properties = '{}'): string =>
  `{"type":"Feature","geometry":${geometry},"properties":${properties}}`;
export const POINT = '{"type":"Point","coordinates":[171.25,-44.4]}';

export const kmlOf = (body: string, head = '<?xml version="1.0"?>'): string =>
  `${head}<kml xmlns="http://www.opengis.net/kml/2.2"><Document>${body}</Document></kml>`;
export const placemark = (name: string, coordinates: string): string =>
  `<Placemark><name>${name}</name><Point><coordinates>${coordinates}</coordinates></Point></Placemark>`;

/**
 * A workbook of one sheet with these rows of cells, as XML, and shared texts. Source: ECMA-376 part 1, section 18.
 * @param gone a sheet that it lists and does not have
 */
export function xlsxOf(rows: readonly (readonly string[])[], shared: readonly string[] = [], gone?: string): Uint8Array {
  const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main',
    relations = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
  return zipSync(
    Object.fromEntries(
      Object.entries({
        'xl/workbook.xml': `<workbook xmlns="${main}" xmlns:r="${relations}"><sheets><sheet name="Sheet" sheetId="1" r:id="r1"/>${gone === undefined ? '' : `<sheet name="${gone}" sheetId="2" r:id="r9"/>`}</sheets></workbook>`,
        'xl/_rels/workbook.xml.rels': `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="${relations}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="r2" Type="${relations}/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
        'xl/sharedStrings.xml': `<sst xmlns="${main}">${shared.map((t) => `<si><t>${t}</t></si>`).join('')}</sst>`,
        'xl/worksheets/sheet1.xml': `<worksheet xmlns="${main}"><sheetData>${rows
          .map(
            (cells, r) =>
              `<row r="${r + 1}">${cells.map((cell, c) => cell.replace('@', `r="${String.fromCharCode(65 + c)}${r + 1}"`)).join('')}</row>`,
          )
          .join('')}</sheetData></worksheet>`,
      }).map(([name, text]) => [name, strToU8(text)]),
    ),
  );
}

/** Cells, with "@" where their place stands. */
export const cell = {
  text: (t: string): string => `<c @ t="inlineStr"><is><t>${t}</t></is></c>`,
  number: (v: string): string => `<c @><v>${v}</v></c>`,
  shared: (k: number): string => `<c @ t="s"><v>${k}</v></c>`,
  error: (e: string): string => `<c @ t="e"><v>${e}</v></c>`,
  formula: (f: string): string => `<c @><f>${f}</f></c>`,
};

/** A container with one table, row by row. Source: OGC 12-128r18, annex C. @param geometries as they stand in the column */
export function gpkgOf(
  geometries: readonly (Uint8Array | null)[],
  { type = 'GEOMETRY', listed = ['t'], srs = 2193 }: { type?: string; listed?: readonly string[]; srs?: number } = {},
): Uint8Array {
  const db = new Database(':memory:');
  db.pragma('application_id = 1196444487');
  db.pragma('user_version = 10300');
  db.exec(`CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT, description TEXT, last_change DATETIME, min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER);
CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL);
INSERT INTO gpkg_spatial_ref_sys VALUES ('NZTM', 2193, 'EPSG', 2193, 'undefined', NULL);
CREATE TABLE t (fid INTEGER PRIMARY KEY, geom ${type}, n INTEGER);`);
  for (const name of listed) {
    db.prepare("INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES (?, 'features', ?)").run(name, srs);
    db.prepare("INSERT INTO gpkg_geometry_columns VALUES (?, 'geom', ?, ?, 0, 0)").run(name, type, srs);
  }
  const insert = db.prepare('INSERT INTO t (geom, n) VALUES (?, ?)');
  geometries.forEach((g, k) => insert.run(g === null ? null : Buffer.from(g), k + 1));
  const bytes = new Uint8Array(db.serialize());
  db.close();
  return bytes;
}

/** A geometry of a container: the header, and well-known binary behind it. */
export function blobOf(...wkb: ({ byte: number } | { int: number } | { real: number })[]): Uint8Array {
  const head = Uint8Array.from([0x47, 0x50, 0, 1, 0x91, 0x08, 0, 0]);
  const out: number[] = [...head];
  for (const part of wkb) {
    if ('byte' in part) out.push(part.byte);
    else out.push(...new Uint8Array('int' in part ? Uint32Array.of(part.int).buffer : Float64Array.of(part.real).buffer));
  }
  return Uint8Array.from(out);
}

import type { AnyCrs } from '../../crs/crs';
import { writeWkt1 } from '../../crs/definitions/wkt1';
import { type Database, quotedName, quotedText } from '../../io/database';
import { Problem } from '../../model/problem';

/** "GPKG", and the version of the standard. Source: OGC 12-128r18, section 1.1.1. */
export const APPLICATION_ID = 0x47504b47,
  VERSION = 10300;

/** Source: OGC 12-128r18, annex C. */
const TABLES = `
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER, CONSTRAINT fk_gc_r_srs_id FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys(srs_id));
CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, CONSTRAINT pk_geom_cols PRIMARY KEY (table_name, column_name), CONSTRAINT uk_gc_table_name UNIQUE (table_name), CONSTRAINT fk_gc_tn FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name), CONSTRAINT fk_gc_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id));
CREATE TABLE gpkg_extensions (table_name TEXT, column_name TEXT, extension_name TEXT NOT NULL, definition TEXT NOT NULL, scope TEXT NOT NULL, CONSTRAINT ge_tce UNIQUE (table_name, column_name, extension_name));
`;

/** The first number for systems that no register knows. */
const OWN_SYSTEMS = 100_000;

/** The number of a system in the container. */
export function srsIdOf(crs: AnyCrs): number {
  const code = /^EPSG:(\d+)$/.exec(crs.id ?? '')?.[1];
  return code === undefined ? OWN_SYSTEMS : Number(code);
}

/** Makes an empty container that knows the systems every one has to, and the one of its records. */
export function createContainer(db: Database, crs: AnyCrs, wgs84: AnyCrs): void {
  db.execute(`PRAGMA application_id = ${APPLICATION_ID}; PRAGMA user_version = ${VERSION};${TABLES}`);
  const insert = db.statement('INSERT INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, ?)');
  // the definition of WGS 84 stands in the register's own words: a longitude before a latitude is the container's rule
  insert.run(wgs84.name, 4326, 'EPSG', 4326, writeWkt1(wgs84), 'longitude and latitude in degrees');
  insert.run('Undefined Cartesian SRS', -1, 'NONE', -1, 'undefined', 'undefined Cartesian coordinate reference system');
  insert.run('Undefined geographic SRS', 0, 'NONE', 0, 'undefined', 'undefined geographic coordinate reference system');
  putSystem(db, crs);
}

/** Makes a system known to a container, where it is not. */
function putSystem(db: Database, crs: AnyCrs): void {
  const id = srsIdOf(crs);
  const known = [...db.rows('SELECT organization, definition FROM gpkg_spatial_ref_sys WHERE srs_id = ?', id)][0];
  if (known && id !== OWN_SYSTEMS) return;
  if (known && known.definition !== writeWkt1(crs))
    throw new Problem(
      'gpkg-system-taken',
      `The container has another system under the number ${id}. Choose a registered target system, or write a container of its own.`,
    );
  if (!known)
    db.statement('INSERT INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, ?)').run(
      crs.name,
      id,
      id === OWN_SYSTEMS ? 'NONE' : 'EPSG',
      id,
      writeWkt1(crs),
      null,
    );
}

/** Tables that a container has only where it needs them. */
const NEEDED = ['gpkg_geometry_columns', 'gpkg_extensions'];

/**
 * Makes a container ready for more tables.
 * @throws Problem for what is no container, or one that has a table of a name that is wanted
 */
export function openContainer(db: Database, crs: AnyCrs, file: string, tables: readonly string[]): void {
  const there = new Set(
    [...db.rows("SELECT name FROM sqlite_master WHERE type IN ('table', 'view')")].map((r) => String(r.name).toLowerCase()),
  );
  for (const name of ['gpkg_contents', 'gpkg_spatial_ref_sys'])
    if (!there.has(name)) throw new Problem('gpkg-not', `${file} is no GeoPackage: it has no table ${name}.`, { file });
  const clash = tables.find((t) => there.has(t.toLowerCase()));
  if (clash !== undefined)
    throw new Problem(
      'gpkg-table-there',
      `${file} has a table ${clash} already. Give the layer another name in Shape, or write a container of its own.`,
      { file },
    );
  for (const statement of TABLES.trim().split('\n'))
    if (NEEDED.some((n) => statement.includes(`TABLE ${n} `) && !there.has(n))) db.execute(statement);
  putSystem(db, crs);
}

/**
 * Tables of styles. Source: OGC 18-074 (GeoPackage 1.2 Vector Tiles Extensions, "Styles Extension"): gpkgext_styles and
 * gpkgext_stylesheets (names and columns from memory; the name in the list of extensions is our own).
 */
const STYLES = `
CREATE TABLE gpkgext_styles (id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, style TEXT NOT NULL UNIQUE, description TEXT, uri TEXT UNIQUE NOT NULL);
CREATE TABLE gpkgext_stylesheets (id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, style_id INTEGER NOT NULL REFERENCES gpkgext_styles (id), format TEXT NOT NULL, stylesheet BLOB NOT NULL, title TEXT, description TEXT);
INSERT INTO gpkg_extensions VALUES ('gpkgext_styles', NULL, 'pontrel_styles', 'Styles of tables as SLD 1.1, in the tables of OGC 18-074', 'read-write');
INSERT INTO gpkg_extensions VALUES ('gpkgext_stylesheets', NULL, 'pontrel_styles', 'Styles of tables as SLD 1.1, in the tables of OGC 18-074', 'read-write');
`;

/** The media type of the styles that are written. */
export const STYLE_FORMAT = 'application/vnd.ogc.sld+xml;version=1.1';

/** Puts styles into a container, each named as the table that it is for. */
export function putStyles(db: Database, styles: readonly { table: string; sld: string }[]): void {
  if (styles.length === 0) return;
  const there = [...db.rows("SELECT name FROM sqlite_master WHERE name = 'gpkgext_styles'")].length > 0;
  if (!there) db.execute(STYLES);
  const first = there
    ? Number(
        [
          ...db.rows(
            'SELECT max((SELECT coalesce(max(id), 0) FROM gpkgext_styles), (SELECT coalesce(max(id), 0) FROM gpkgext_stylesheets)) AS n',
          ),
        ][0]!.n,
      )
    : 0;
  const style = db.statement('INSERT INTO gpkgext_styles (id, style, uri) VALUES (?, ?, ?)');
  const sheet = db.statement('INSERT INTO gpkgext_stylesheets (style_id, format, stylesheet, title) VALUES (?, ?, ?, ?)');
  styles.forEach(({ table, sld }, k) => {
    style.run(first + k + 1, table, `urn:pontrel:style:${encodeURIComponent(table)}`);
    sheet.run(first + k + 1, STYLE_FORMAT, new TextEncoder().encode(sld), table);
  });
}

/** Key and geometry columns of the tables that are made here. */
export const KEY = 'fid',
  GEOMETRY = 'geom';

/**
 * The index of a table's bounds and the triggers that keep it true when records change; to be made once the records are in.
 * Source: OGC 12-128r18, annex F.3 (the text of the triggers from memory).
 */
export function indexTriggers(table: string): string {
  const t = quotedName(table),
    r = quotedName(indexName(table)),
    c = quotedName(GEOMETRY),
    i = quotedName(KEY);
  const name = (what: string): string => quotedName(`${indexName(table)}_${what}`);
  const filled = `(NEW.${c} NOTNULL AND NOT ST_IsEmpty(NEW.${c}))`,
    empty = `(NEW.${c} ISNULL OR ST_IsEmpty(NEW.${c}))`;
  const put = `INSERT OR REPLACE INTO ${r} VALUES (NEW.${i}, ST_MinX(NEW.${c}), ST_MaxX(NEW.${c}), ST_MinY(NEW.${c}), ST_MaxY(NEW.${c}));`;
  return `
CREATE TRIGGER ${name('insert')} AFTER INSERT ON ${t} WHEN ${filled} BEGIN ${put} END;
CREATE TRIGGER ${name('update1')} AFTER UPDATE OF ${c} ON ${t} WHEN OLD.${i} = NEW.${i} AND ${filled} BEGIN ${put} END;
CREATE TRIGGER ${name('update2')} AFTER UPDATE OF ${c} ON ${t} WHEN OLD.${i} = NEW.${i} AND ${empty} BEGIN DELETE FROM ${r} WHERE id = OLD.${i}; END;
CREATE TRIGGER ${name('update3')} AFTER UPDATE ON ${t} WHEN OLD.${i} != NEW.${i} AND ${filled} BEGIN DELETE FROM ${r} WHERE id = OLD.${i}; ${put} END;
CREATE TRIGGER ${name('update4')} AFTER UPDATE ON ${t} WHEN OLD.${i} != NEW.${i} AND ${empty} BEGIN DELETE FROM ${r} WHERE id IN (OLD.${i}, NEW.${i}); END;
CREATE TRIGGER ${name('delete')} AFTER DELETE ON ${t} WHEN OLD.${c} NOT NULL BEGIN DELETE FROM ${r} WHERE id = OLD.${i}; END;
INSERT INTO gpkg_extensions VALUES (${quotedText(table)}, ${quotedText(GEOMETRY)}, 'gpkg_rtree_index', 'http://www.geopackage.org/spec120/#extension_rtree', 'write-only');`;
}

/** The table of the R-tree of a feature table. Source: OGC 12-128r18 (GeoPackage), annex F.3. */
export const indexName = (table: string): string => `rtree_${table}_${GEOMETRY}`;

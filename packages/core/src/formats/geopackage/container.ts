import type { Crs } from '../../crs/crs';
import { readPositions } from '../../crs/definitions/read-definition';
import { identifyCrs } from '../../crs/registry/identify';
import { lookupCrs } from '../../crs/registry/registry';
import type { Database } from '../../io/database';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';

/** Names of the tables of a database that are just rows: a view, a virtual table and one with generated columns may be made to run without end. */
export function plainTables(db: Database): ReadonlySet<string> {
  const names = [...db.rows("SELECT name FROM sqlite_master WHERE type = 'table' AND sql LIKE 'CREATE TABLE%'")].map((r) => String(r.name));
  // hidden: columns of virtual tables, and those that are generated. Source: sqlite.org/pragma.html, table_xinfo
  const hidden = new Set(
    [
      ...db.rows(
        "SELECT DISTINCT m.name FROM sqlite_master m, pragma_table_xinfo(m.name) c WHERE m.type = 'table' AND m.sql LIKE 'CREATE TABLE%' AND c.hidden <> 0",
      ),
    ].map((r) => String(r.name)),
  );
  return new Set(names.filter((name) => !hidden.has(name)));
}

/** The system that a container defines under a number. @param plain tables that can be asked */
export function systemOf(
  db: Database,
  plain: ReadonlySet<string>,
  srs: number,
  findings: Findings,
): { crs: Crs | null; text: string | null } {
  // the two that stand for none
  if (srs === -1 || srs === 0) return { crs: null, text: null };
  const [row] = plain.has('gpkg_spatial_ref_sys')
    ? [...db.rows('SELECT organization, organization_coordsys_id, definition FROM gpkg_spatial_ref_sys WHERE srs_id = ?', srs)]
    : [];
  if (!row) {
    findings.add({
      code: 'gpkg-system-missing',
      severity: 'caution',
      message: `The container does not define its system ${srs}. Choose it in Place.`,
      count: 1,
    });
    return { crs: null, text: null };
  }
  const registered = String(row.organization).toUpperCase() === 'EPSG' ? lookupCrs(`EPSG:${row.organization_coordsys_id}`) : undefined;
  if (registered) return { crs: registered, text: registered.id };
  try {
    const read = readPositions(String(row.definition), 'The definition in the container');
    return { crs: identifyCrs(read) ?? read, text: String(row.definition) };
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    findings.add({ code: 'gpkg-system-unread', severity: 'caution', message: error.message, count: 1 });
    return { crs: null, text: String(row.definition) };
  }
}

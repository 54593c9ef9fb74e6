import type { FeatureFormat, TargetSet } from '../format';
import { lettersOf } from '../../io/letters';
import { sheetFindings, SLD_LOOKS } from '../styles';
import { openEachTable, openGeoPackage } from './read';
import { GEOMETRY, KEY } from './schema';
import { createGeoPackage } from './write';

/** GeoPackage, features. Source: OGC 12-128r18. */
export const geopackage: FeatureFormat = {
  id: 'geopackage',
  name: 'GeoPackage',
  extensions: ['.gpkg'],
  companions: [],
  sniff(head, name) {
    const text = lettersOf(head.subarray(0, 100));
    return text.startsWith('SQLite format 3\0') && (/^GP(KG|1\d)/.test(text.slice(68, 72)) || /\.gpkg$/i.test(name));
  },
  features: {
    counts: 'record',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: true,
      oneFile: true,
      curves: false,
      heights: true,
      measures: true,
      verticalSystem: true,
      symbology: false,
      setNames: {
        maxBytes: 120,
        caseMatters: false,
        valid: /[^\p{C}"]/u,
        replacement: '_',
        reserved: (name) => /^(gpkg_|rtree_|sqlite_)/.test(name),
      },
      fieldNames: {
        maxBytes: 200,
        caseMatters: false,
        valid: /[^\p{C}"]/u,
        replacement: '_',
        reserved: (name) => name === KEY || name === GEOMETRY,
      },
      // a table has 2,000 columns at most. Source: SQLite, "Limits", SQLITE_MAX_COLUMN
      fieldCount: 1998,
      mayBeBare: true,
      // with each table the engine looks through all that were made before
      setCount: 1000,
      text: { maxBytes: Infinity },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date', 'datetime', 'bytes'],
      moments: 'utc',
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openGeoPackage(source)),
    write: {
      adds: true,
      options: [],
      symbology: () => SLD_LOOKS,
      limits: (sets) => sets.flatMap(sheetFindings),
      files: (sets, { stem }) => [
        { name: `${stem}.gpkg`, bytes: CONTAINER_BYTES + sets.reduce((n, set) => n + tableBytes(set), 0), sets: sets.map((_, k) => k) },
      ],
      create: createGeoPackage,
      // each table is read by itself, in the order of its rows
      async readBack(folder, sets, { stem }) {
        const { tables, close } = openEachTable(
          await folder.open(`${stem}.gpkg`),
          sets.map((set) => set.name),
        );
        return tables.map((open, k) => ({ open, sets: [k], close }));
      },
      crsFindings: () => [],
    },
  },
};

/** Bytes of an empty container, of a table and its index, and of a record around its data: measured, roughly. */
const CONTAINER_BYTES = 49_000,
  TABLE_BYTES = 28_000,
  RECORD_BYTES = 100,
  FIELD_BYTES = 2;

function tableBytes(set: TargetSet): number {
  return (
    TABLE_BYTES +
    set.count * (RECORD_BYTES + set.fields.reduce((n, f) => n + FIELD_BYTES + (f.type === 'text' ? f.width / 2 : 6), 0)) +
    set.vertices * (16 + (set.heights ? 8 : 0) + (set.measures ? 8 : 0))
  );
}

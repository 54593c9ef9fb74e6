import type { Finding } from '../../model/finding';
import type { FeatureFormat, TargetSet } from '../format';
import type { OptionValues } from '../format-option';
import { lettersOf } from '../../io/letters';
import { GEOMETRY, PLACES, PLACES_OPTION, placesOf } from '../table/places';
import { openSpreadsheet } from './read';
import { MOST_COLUMNS } from './read-xlsx';
import { createSpreadsheet, fileNameOf, layoutOf } from './write';

/** Rows of a sheet, characters of a cell. Source: ECMA-376 part 1, sections 18.3.1.73 and 18.18.11 (32,767: common practice, no source). */
const MOST_ROWS = 1_048_576,
  MOST_CHARACTERS = 32_767;
/** Characters that a vertex takes in well-known text, at most for systems in metres. */
const VERTEX_CHARACTERS = 40;

/** Workbooks, each sheet a table. Source: ECMA-376 (Office Open XML); "Open Document FeatureFormat for Office Applications" 1.3. */
export const spreadsheet: FeatureFormat = {
  id: 'spreadsheet',
  name: 'Spreadsheet',
  extensions: ['.xlsx', '.ods'],
  companions: ['.prj'],
  sniff: (head, name) =>
    lettersOf(head.subarray(0, 4)).startsWith('PK') &&
    (/\.(xlsx|ods)$/i.test(name) || /^mimetypeapplication\/vnd\.oasis\.opendocument\.spreadsheet/.test(lettersOf(head.subarray(30, 100)))),
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
      setNames: { maxBytes: 31, caseMatters: false, valid: /[^\p{C}[\]:*?/\\']/u, replacement: '_' },
      fieldNames: {
        maxBytes: 200,
        caseMatters: true,
        valid: /[^\p{C}]/u,
        replacement: '_',
        reserved: (name) => PLACES.includes(name) || name === GEOMETRY,
      },
      fieldCount: MOST_COLUMNS - PLACES.length,
      text: { maxBytes: MOST_CHARACTERS },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date'],
      typesByValue: true,
      exactIntegers: false,
      maxBytes: Infinity,
    },
    readings: ['columns'],
    open: (source, reading) => openSpreadsheet(source, reading),
    write: {
      options: [
        {
          id: 'container',
          label: 'File',
          kind: 'choice',
          choices: [
            { value: 'xlsx', label: 'Office Open XML (.xlsx)' },
            { value: 'ods', label: 'OpenDocument (.ods)' },
          ],
        },
        PLACES_OPTION,
      ],
      optionsOf: (extension): OptionValues => (extension === '.ods' ? { container: 'ods' } : {}),
      files: (sets, { stem, options }) => [
        { name: fileNameOf(stem, options), bytes: 2000 + sets.reduce((n, set) => n + sheetBytes(set), 0), sets: sets.map((_, k) => k) },
        ...(sets.some((s) => s.kind !== 'none') ? [{ name: `${stem}.prj`, bytes: 420, sets: [] }] : []),
      ],
      create: createSpreadsheet,
      async readBack(folder, sets, { stem, options }) {
        const source = await folder.open(fileNameOf(stem, options));
        return Promise.all(
          sets.map(async (set, k) => ({
            open: await openSpreadsheet(source, undefined, { sheet: set.name, table: layoutOf(set, options) }),
            sets: [k],
          })),
        );
      },
      limits: (sets, options) => sets.flatMap((set) => tooLarge(set, options)),
      crsFindings: (crs) => [
        {
          code: 'sheet-crs-beside',
          severity: 'info',
          message: `A workbook cannot state a coordinate system: ${crs.name} goes beside it in a .prj file.`,
          count: 1,
        },
      ],
    },
  },
};

function tooLarge(set: TargetSet, options: OptionValues): Finding[] {
  const out: Finding[] = [];
  if (set.count + 1 > MOST_ROWS)
    out.push({
      code: 'sheet-rows',
      severity: 'wrong',
      message: `${set.name} would have ${set.count} records; a sheet has room for ${MOST_ROWS - 1}. Take fewer in Shape, or deliver a GeoPackage.`,
      count: set.count,
      location: set.name,
    });
  if (placesOf(set, options).places.kind === 'wkt' && set.most * VERTEX_CHARACTERS > MOST_CHARACTERS)
    out.push({
      code: 'sheet-geometry',
      severity: 'wrong',
      message: `A record of ${set.name} has ${set.most} vertices, whose text may be longer than the ${MOST_CHARACTERS} characters that a cell holds. Thin it in Shape, or deliver a CSV table.`,
      count: 1,
      location: set.name,
    });
  return out;
}

/** Bytes of a cell once it is packed, and of a vertex: measured, roughly. */
const CELL_BYTES = 9,
  VERTEX_BYTES = 18;

function sheetBytes(set: TargetSet): number {
  return 600 + set.count * (12 + set.fields.reduce((n, f) => n + CELL_BYTES + f.width / 6, 0)) + set.vertices * VERTEX_BYTES;
}

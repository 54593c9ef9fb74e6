import type { FeatureFormat, TargetSet } from '../format';
import { lettersOf } from '../../io/letters';
import { openCsv, refuseProse } from './read';
import { GEOMETRY, PLACES, PLACES_OPTION } from '../table/places';
import { createCsv, layoutOf } from './write';

/** Tables of text, with places in columns or as well-known text. Source: RFC 4180; OGC 06-103r4 for geometries. */
export const csv: FeatureFormat = {
  id: 'csv',
  name: 'CSV table',
  extensions: ['.csv', '.tsv', '.txt'],
  companions: ['.prj'],
  // any text may be a table: its name says so
  sniff: (head, name) => /\.(csv|tsv)$/i.test(name) && !lettersOf(head).startsWith('PK'),
  refuse: refuseProse,
  features: {
    counts: 'line',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: true,
      oneFile: false,
      curves: false,
      heights: true,
      measures: true,
      verticalSystem: true,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small' },
      fieldNames: {
        maxBytes: 200,
        caseMatters: true,
        valid: /[^\p{C}]/u,
        replacement: '_',
        reserved: (name) => PLACES.includes(name) || name === GEOMETRY,
      },
      fieldCount: Infinity,
      text: { maxBytes: Infinity },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date'],
      maxBytes: Infinity,
    },
    readings: ['columns', 'code-page'],
    open: (source, reading) => openCsv(source, reading),
    write: {
      options: [
        PLACES_OPTION,
        {
          id: 'separator',
          label: 'Separator',
          kind: 'choice',
          choices: [
            { value: 'comma', label: 'Comma' },
            { value: 'semicolon', label: 'Semicolon' },
            { value: 'tab', label: 'Tab' },
          ],
        },
        {
          id: 'decimal',
          label: 'Decimal mark',
          kind: 'choice',
          when: (v) => v.separator !== 'comma',
          choices: [
            { value: 'point', label: 'Point' },
            { value: 'comma', label: 'Comma' },
          ],
        },
        {
          id: 'formulas',
          label: 'Texts that begin as formulas do',
          kind: 'choice',
          choices: [
            { value: 'guarded', label: 'Guarded by an apostrophe' },
            { value: 'plain', label: 'As they are' },
          ],
        },
      ],
      files: (sets) =>
        sets.flatMap((set, k) => [
          { name: `${set.name}.csv`, bytes: tableBytes(set), sets: [k] },
          ...(set.kind === 'none' ? [] : [{ name: `${set.name}.prj`, bytes: 420, sets: [] }]),
        ]),
      create: createCsv,
      readBack: (folder, sets, { options }) =>
        Promise.all(
          sets.map(async (set, k) => ({
            open: await openCsv(await folder.open(`${set.name}.csv`), undefined, layoutOf(set, options)),
            sets: [k],
          })),
        ),
      crsFindings: (crs) => [
        {
          code: 'csv-crs-beside',
          severity: 'info',
          message: `A table cannot state its coordinate system: ${crs.name} goes beside it in a .prj file. Types of columns are not stated either: a text of digits is a number to most readers.`,
          count: 1,
        },
      ],
    },
  },
};

/** Bytes of a vertex with its separators: measured, roughly. */
const VERTEX_BYTES = 36;

function tableBytes(set: TargetSet): number {
  return (
    40 +
    set.fields.reduce((n, f) => n + f.to.length + 1, 0) +
    set.count * (4 + set.fields.reduce((n, f) => n + 1 + f.width / 2, 0)) +
    VERTEX_BYTES * set.vertices
  );
}

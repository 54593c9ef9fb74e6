import type { Value } from '../src/model/value';
import { readDxf } from '../src/formats/dxf/read';
import { UNWATCHED } from '../src/io/bytes';
import { eachPart, type FeatureBatch, KINDS, measuresText } from '../src/model/batch';
import { Findings, type Finding } from '../src/model/finding';
import type { SymbolLibrary } from '../src/symbology/library';
import { textSource } from './memory-files';

export interface PlainRecord {
  layer: string;
  entity: string;
  kind: string;
  parts: [number, number, number, number][][];
  attributes: Record<string, Value>;
  /** Measures of its vertices, null where there are none; absent where none has one. */
  measures?: (number | null)[];
}

/** The records of a batch as plain objects, for comparing. */
export function plain(batch: FeatureBatch): PlainRecord[] {
  return Array.from({ length: batch.count }, (_, i) => {
    const parts: PlainRecord['parts'] = [];
    eachPart(batch, i, (start, end) => {
      parts.push(
        Array.from({ length: end - start }, (_v, k) => {
          const v = start + k;
          return [batch.coords[3 * v]!, batch.coords[3 * v + 1]!, batch.coords[3 * v + 2]!, batch.bulges?.[v] ?? 0];
        }),
      );
    });
    const attributes: Record<string, Value> = {};
    for (const [name, column] of batch.columns) if (column[i] !== null) attributes[name] = column[i]!;
    const measures = measuresText(batch, i);
    return {
      layer: batch.layer,
      entity: batch.entities[i]!,
      kind: KINDS[batch.kinds[i]!]!,
      parts,
      attributes,
      ...(measures === null ? {} : { measures: JSON.parse(measures) as (number | null)[] }),
    };
  });
}

/** Groups as the lines of a file. */
export const groups = (...pairs: (string | number)[]): string =>
  pairs.map((p, i) => (i % 2 === 0 ? String(p).padStart(3) : String(p))).join('\n') + '\n';

export function drawing(entities: string, { version = 'AC1027', units = 6, tables = '', codePage = 'ANSI_1252' } = {}): string {
  return (
    groups(0, 'SECTION', 2, 'HEADER', 9, '$ACADVER', 1, version, 9, '$INSUNITS', 70, units, 9, '$DWGCODEPAGE', 3, codePage, 0, 'ENDSEC') +
    (tables ? groups(0, 'SECTION', 2, 'TABLES') + tables + groups(0, 'ENDSEC') : '') +
    groups(0, 'SECTION', 2, 'ENTITIES') +
    entities +
    groups(0, 'ENDSEC', 0, 'EOF')
  );
}

export async function readText(text: string, chunk?: number): Promise<{ records: PlainRecord[]; findings: Finding[] }> {
  const findings = new Findings();
  const records: PlainRecord[] = [];
  for await (const batch of readDxf(textSource('plan.dxf', text, chunk), findings, UNWATCHED)) records.push(...plain(batch));
  return { records, findings: findings.list() };
}

/** A block of an arc, a nested cross by layer, and a constant attribute; placed turned, mirrored and stretched. */
const BLOCKS = groups(
  0,
  'SECTION',
  2,
  'BLOCKS',
  0,
  'BLOCK',
  8,
  '0',
  2,
  'CROSS',
  10,
  0,
  20,
  0,
  30,
  0,
  0,
  'LINE',
  8,
  '0',
  10,
  -1,
  20,
  0,
  11,
  1,
  21,
  0,
  0,
  'LINE',
  8,
  'FIXED',
  6,
  'DASHED',
  62,
  3,
  10,
  0,
  20,
  -1,
  11,
  0,
  21,
  1,
  0,
  'ENDBLK',
  8,
  '0',
  0,
  'BLOCK',
  8,
  '0',
  2,
  'GATE',
  10,
  1,
  20,
  2,
  30,
  0,
  0,
  'ARC',
  8,
  '0',
  62,
  0,
  10,
  1,
  20,
  2,
  40,
  2,
  50,
  0,
  51,
  90,
  0,
  'INSERT',
  8,
  '0',
  2,
  'CROSS',
  10,
  3,
  20,
  4,
  41,
  2,
  42,
  0.5,
  50,
  30,
  0,
  'ATTDEF',
  8,
  '0',
  2,
  'MAKER',
  3,
  'Who made it?',
  1,
  'Works 4',
  70,
  2,
  10,
  1,
  20,
  2,
  40,
  0.4,
  0,
  'ENDBLK',
  8,
  '0',
  0,
  'BLOCK',
  8,
  '0',
  2,
  'LOOP',
  10,
  0,
  20,
  0,
  0,
  'INSERT',
  8,
  '0',
  2,
  'LOOP',
  10,
  1,
  20,
  1,
  0,
  'ENDBLK',
  8,
  '0',
  0,
  'ENDSEC',
);
const LAYERS =
  groups(0, 'TABLE', 2, 'LTYPE', 0, 'LTYPE', 2, 'DASHED', 3, 'Dashes', 49, 12, 49, -6, 0, 'ENDTAB') +
  groups(
    0,
    'TABLE',
    2,
    'LAYER',
    0,
    'LAYER',
    2,
    'VALVES',
    62,
    5,
    6,
    'CONTINUOUS',
    0,
    'LAYER',
    2,
    'FIXED',
    62,
    -2,
    70,
    5,
    6,
    'CONTINUOUS',
    290,
    0,
    0,
    'ENDTAB',
  );

/** A drawing with these blocks, as its reader gives it. */
export async function gated(insert: string): Promise<{ rows: FeatureBatch[]; library: SymbolLibrary; findings: string[] }> {
  const text = drawing(insert, { tables: LAYERS }).replace(
    groups(0, 'SECTION', 2, 'ENTITIES'),
    BLOCKS + groups(0, 'SECTION', 2, 'ENTITIES'),
  );
  const rows: FeatureBatch[] = [];
  const findings = new Findings();
  let library: SymbolLibrary | null = null;
  for await (const batch of readDxf(textSource('plan.dxf', text), findings, UNWATCHED, { facts: (f) => (library = f.library) }))
    rows.push(batch);
  return { rows, library: library!, findings: findings.list().map((f) => f.message) };
}

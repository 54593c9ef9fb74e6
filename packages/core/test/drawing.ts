import { readDxf } from '../src/formats/dxf/read';
import { UNWATCHED } from '../src/io/bytes';
import { eachPart, type FeatureBatch, KINDS, type Value } from '../src/model/batch';
import { Findings, type Finding } from '../src/model/finding';
import { textSource } from './memory-files';

export interface PlainRecord {
  layer: string;
  entity: string;
  kind: string;
  parts: [number, number, number, number][][];
  attributes: Record<string, Value>;
}

/** The records of a batch as plain objects, for comparing. */
export function plain(batch: FeatureBatch): PlainRecord[] {
  return Array.from({ length: batch.count }, (_, i) => {
    const parts: PlainRecord['parts'] = [];
    eachPart(batch, i, (start, end) => {
      parts.push(Array.from({ length: end - start }, (_v, k) => {
        const v = start + k;
        return [batch.coords[3 * v]!, batch.coords[3 * v + 1]!, batch.coords[3 * v + 2]!, batch.bulges?.[v] ?? 0];
      }));
    });
    const attributes: Record<string, Value> = {};
    for (const [name, column] of batch.columns) if (column[i] !== null) attributes[name] = column[i]!;
    return { layer: batch.layer, entity: batch.entities[i]!, kind: KINDS[batch.kinds[i]!]!, parts, attributes };
  });
}

/** Groups as the lines of a file. */
export const groups = (...pairs: (string | number)[]): string => pairs.map((p, i) => (i % 2 === 0 ? String(p).padStart(3) : String(p))).join('\n') + '\n';

export function drawing(entities: string, { version = 'AC1027', units = 6, tables = '', codePage = 'ANSI_1252' } = {}): string {
  return groups(0, 'SECTION', 2, 'HEADER', 9, '$ACADVER', 1, version, 9, '$INSUNITS', 70, units, 9, '$DWGCODEPAGE', 3, codePage, 0, 'ENDSEC')
    + (tables ? groups(0, 'SECTION', 2, 'TABLES') + tables + groups(0, 'ENDSEC') : '')
    + groups(0, 'SECTION', 2, 'ENTITIES') + entities + groups(0, 'ENDSEC', 0, 'EOF');
}

export async function readText(text: string, chunk?: number): Promise<{ records: PlainRecord[]; findings: Finding[] }> {
  const findings = new Findings();
  const records: PlainRecord[] = [];
  for await (const batch of readDxf(textSource('plan.dxf', text, chunk), findings, UNWATCHED)) records.push(...plain(batch));
  return { records, findings: findings.list() };
}

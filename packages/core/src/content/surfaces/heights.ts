import Flatbush from 'flatbush';
import { eachPart, type FeatureBatch, isRaised, NO_GEOMETRY, TEXT, vertexRange } from '../../model/batch';
import { BatchBuilder, copyRecord, copyValues } from '../../model/batch-builder';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { namedBy, recordName } from '../derived/record-name';
import { numberOf } from './surface-from';

/** Heights that are written: in a field, or as a text beside the record. */
export const HEIGHTS: Derivation = {
  id: 'heights',
  title: 'Heights from data',
  says: 'Records with heights from one of their fields, or from the text beside them; what is not plausible is told, and stays as it was.',
  heights: true,
  roles: [
    { id: 'records', title: 'Records', kinds: ['point', 'line', 'polygon'] },
    { id: 'texts', title: 'Texts', kinds: ['text'], optional: true },
  ],
  settings: [
    { id: 'field', label: 'Height in', kind: 'text', asks: 'field', hint: 'the text beside it' },
    { id: 'reach', label: 'Text no farther than', kind: 'length', initial_m: 2 },
    {
      id: 'of',
      label: 'Of',
      kind: 'choice',
      choices: [
        { value: 'all', label: 'all' },
        { value: 'without', label: 'those without a height' },
      ],
    },
    { id: 'offset', label: 'Offset, m', kind: 'number', initial: 0, least: -1e5, most: 1e5 },
    { id: 'lowest', label: 'Plausible from, m', kind: 'number', initial: -500, least: -12_000, most: 9000 },
    { id: 'highest', label: 'Plausible to, m', kind: 'number', initial: 9000, least: -12_000, most: 9000 },
    namedBy('Records are called by'),
  ],
  run: heights,
};

/** A text that is a number of metres, and where it stands. */
interface Level {
  x: number;
  y: number;
  height: number;
}

async function heights(input: DerivationInput): Promise<Derived> {
  const { records, settings, name, unit_m } = input;
  const field = String(settings.field);
  const levels = field === '' && input.has('texts') ? await levelsOf(records('texts')) : [];
  const beside = nearestLevel(levels, lengthOf(settings, 'reach', unit_m));
  const [offset, lowest, highest] = ['offset', 'lowest', 'highest'].map((id) => Number(settings[id]) / unit_m) as [number, number, number];
  const faults: Fault[] = [];
  const figures = { records: 0, changed: 0, kept: 0, withoutHeight: 0, implausible: 0, texts: levels.length };
  const out: FeatureBatch[] = [];
  for await (const batch of records('records')) {
    const builder = new BatchBuilder(name);
    if (batch.declared) builder.declare(batch.declared);
    for (let i = 0; i < batch.count; i++) {
      figures.records++;
      const [start] = vertexRange(batch, i);
      const at: [number, number] = [batch.coords[3 * start]!, batch.coords[3 * start + 1]!];
      const about = recordName(batch, i, String(settings.names));
      const raised = isRaised(batch, i);
      // what nobody asked for keeps what it has
      const wanted = batch.kinds[i] !== NO_GEOMETRY && (settings.of === 'all' || !raised);
      const said = !wanted ? null : field === '' ? beside(...at) : numberOf(batch.columns.get(field)?.[i] ?? null);
      const height = said === null ? null : said / unit_m + offset;
      if (wanted && height === null) {
        figures.withoutHeight++;
        faults.push({ kind: 'height-none', at, size: null, about });
      } else if (wanted && (height! < lowest || height! > highest)) {
        figures.implausible++;
        faults.push({ kind: 'height-odd', at, size: height! * unit_m, about });
      } else if (wanted) {
        figures.changed++;
        eachPart(batch, i, (from, to) => {
          for (let v = from; v < to; v++) builder.vertex(batch.coords[3 * v]!, batch.coords[3 * v + 1]!, height!, batch.bulges?.[v] ?? 0);
          builder.endPart();
        });
        copyValues(batch, i, builder);
        builder.endFeature(batch.kinds[i]!, batch.entities[i]!, batch.locations[i]!);
        continue;
      } else figures.kept++;
      copyRecord(batch, i, builder);
    }
    if (builder.count > 0) out.push(builder.take());
  }
  return { records: () => out, figures, faults, findings: [] };
}

/** The texts that are numbers. */
async function levelsOf(batches: AsyncIterable<FeatureBatch>): Promise<Level[]> {
  const out: Level[] = [];
  for await (const batch of batches)
    for (let i = 0; i < batch.count; i++) {
      if (batch.kinds[i] !== TEXT) continue;
      const height = numberOf(batch.columns.get('text')?.[i] ?? null);
      const [v] = vertexRange(batch, i);
      if (height !== null) out.push({ x: batch.coords[3 * v]!, y: batch.coords[3 * v + 1]!, height });
    }
  return out;
}

/** Finds the text beside a place; null where none is within reach. */
function nearestLevel(levels: readonly Level[], reach: number): (x: number, y: number) => number | null {
  if (levels.length === 0) return () => null;
  const boxes = new Flatbush(levels.length);
  for (const { x, y } of levels) boxes.add(x, y, x, y);
  boxes.finish();
  return (x, y) => {
    const [n] = boxes.neighbors(x, y, 1, reach);
    return n === undefined ? null : levels[n]!.height;
  };
}

import type { Value } from '../../model/value';
import { writePrj } from '../../crs/definitions/wkt1';
import type { FolderSink } from '../../io/bytes';
import { vertexRange } from '../../model/batch';
import type { DeliverableWriter, TargetSet, WriteContext } from '../format';
import type { OptionValues } from '../format-option';
import { plainDecimal } from '../../io/plain-decimal';
import { putText } from '../prj';
import { placesOf } from '../table/places';
import { TextSink } from '../../io/text-sink';
import { writeWkt } from '../wkt';
import type { KnownCsv } from './read';
import { guarded, isFormula } from './formula-guard';
import { quotedValue } from './rows';

const SEPARATORS: Record<string, string> = { comma: ',', semicolon: ';', tab: '\t' };

/** How a set's table is laid out. */
export function layoutOf(set: TargetSet, options: OptionValues): KnownCsv & { head: string[] } {
  const separator = SEPARATORS[String(options.separator)]!;
  const { places, head } = placesOf(set, options);
  return {
    separator,
    comma: separator !== ',' && options.decimal === 'comma',
    head: [...head, ...set.fields.map((f) => f.to)],
    places,
    types: new Map(set.fields.map((f) => [f.to, f.type])),
    guards: options.formulas !== 'plain',
  };
}

/** A table a set: points by columns of coordinates, everything else, and points of several places, as well-known text. */
export async function createCsv(
  folder: FolderSink,
  sets: readonly TargetSet[],
  { crs, options }: WriteContext,
): Promise<DeliverableWriter> {
  let guards = 0;
  const tables: { set: TargetSet; sink: TextSink; layout: ReturnType<typeof layoutOf> }[] = [];
  for (const set of sets) {
    if (set.kind !== 'none') await putText(folder, `${set.name}.prj`, writePrj(crs));
    const table = { set, sink: new TextSink(await folder.create(`${set.name}.csv`)), layout: layoutOf(set, options) };
    // the mark tells programs that would guess otherwise that this is UTF-8
    table.sink.put(
      `\ufeff${table.layout.head.map((h) => quotedValue(table.layout.guards ? guarded(h) : h, table.layout.separator)).join(table.layout.separator)}\r\n`,
    );
    tables.push(table);
  }
  return {
    async append(s, batch, rows, n) {
      const { set, sink, layout } = tables[s]!;
      const columns = set.fields.map((f) => batch.columns.get(f.from));
      const number = (v: number): string => (layout.comma ? plainDecimal(v).replace('.', ',') : plainDecimal(v));
      const text = (value: Value): string => {
        if (value === null) return '';
        if (typeof value === 'number') return number(value);
        const isGuarded = layout.guards && typeof value === 'string' && isFormula(value);
        if (isGuarded) guards++;
        return quotedValue(isGuarded ? guarded(value) : String(value), layout.separator);
      };
      for (let k = 0; k < n; k++) {
        const i = rows[k]!;
        let places: string[];
        if (layout.places.kind === 'xy') {
          const [v] = vertexRange(batch, i);
          places = [batch.coords[3 * v]!, batch.coords[3 * v + 1]!, batch.coords[3 * v + 2]!]
            .slice(0, set.heights ? 3 : 2)
            .map((c) => (Number.isNaN(c) ? '' : number(c)));
        } else if (layout.places.kind === 'none') places = [];
        else places = [quotedValue(writeWkt(batch, i, set.heights, set.measures), layout.separator)];
        const row = [...places, ...columns.map((c) => text(c?.[i] ?? null))].join(layout.separator);
        // a line without anything would be no row
        sink.put(`${row === '' ? '""' : row}\r\n`);
        if (sink.full) await sink.flush();
      }
    },
    async close(findings) {
      for (const { sink } of tables) await sink.close();
      if (guards > 0)
        findings.add({
          code: 'csv-formula-guarded',
          severity: 'info',
          message:
            'A text begins as a formula does and is written with an apostrophe before it, so that no spreadsheet runs it. Other readers may show the apostrophe; the option is there to leave it out.',
          count: guards,
        });
    },
  };
}

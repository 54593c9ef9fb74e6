import type { Value } from '../model/value';
import { flatten } from '../geometry/flatten';
import { isInside, outlineDistance } from '../geometry/distance';
import { type Bounds, featureBounds, emptyBounds } from '../geometry/bounds';
import { type FeatureBatch, POLYGON, TEXT } from '../model/batch';
import { z } from 'zod';
import { REASONS } from '../model/reason';
import { filterRecords } from '../model/select-records';
import { counted, type Operation, type OperationContext, type ReadBatches, type Transfers } from './operation';

/** Texts of the layer given to the objects of another layer of the source as a field. */
export const TextTransfer = z.object({
  /** The layer of the objects. */
  layer: z.string(),
  field: z.string().min(1).max(64),
  /** To the area that a text stands in, or to the nearest object. */
  how: z.enum(['in', 'near']),
  /** Metres at most from the text to its object, for the nearest one. */
  within_m: z.number().positive(),
});
export type TextTransfer = z.infer<typeof TextTransfer>;

interface Transferring {
  taken?: boolean | undefined;
  textTransfer?: TextTransfer | undefined;
}

/** A text that looks for the object that it belongs to. */
interface Seeker {
  /** The layer that it is on, and its number among the records of that layer. */
  from: string;
  record: number;
  text: string;
  x: number;
  y: number;
  transfer: TextTransfer;
  /** The object found, by its number within its layer, and how good it is: the area it stands in, or the distance. */
  object: number;
  best: number;
}

/** Texts in a grid of squares, so that an object meets only those near it. */
class TextGrid {
  private readonly cells = new Map<string, Seeker[]>();
  constructor(private readonly size: number) {}

  add(seeker: Seeker): void {
    const key = `${Math.floor(seeker.x / this.size)} ${Math.floor(seeker.y / this.size)}`;
    const cell = this.cells.get(key);
    if (cell) cell.push(seeker);
    else this.cells.set(key, [seeker]);
  }

  *within([minx, miny, maxx, maxy]: Bounds): Generator<Seeker> {
    const [x0, x1, y0, y1] = [minx, maxx, miny, maxy].map((v) => Math.floor(v / this.size)) as [number, number, number, number];
    // an object larger than the whole grid: the cells that there are, not those that there might be
    if ((x1 - x0 + 1) * (y1 - y0 + 1) > this.cells.size) {
      for (const cell of this.cells.values()) yield* cell.filter((s) => s.x >= minx && s.x <= maxx && s.y >= miny && s.y <= maxy);
      return;
    }
    for (let x = x0; x <= x1; x++) for (let y = y0; y <= y1; y++) yield* this.cells.get(`${x} ${y}`) ?? [];
  }
}

/** Chord tolerance for asking where a text stands, as a share of the reach. */
const FINE = 0.01;

/**
 * Finds the object of each text: the smallest area that it stands in, or the nearest object within reach. First all batches are
 * shown to `collect`, then again to `meet`, the records of each layer numbered in the order in which they come; then `fieldsOf`,
 * `matched` and `texts` tell.
 */
class TextTransferrer implements Transfers {
  private readonly seekers: Seeker[] = [];
  private readonly grids = new Map<string, { transfer: TextTransfer; grid: TextGrid; reach: number }[]>();

  /** @param transfers by the layer that the texts are on @param unit_m metres in a unit of the coordinates */
  constructor(
    private readonly transfers: ReadonlyMap<string, TextTransfer>,
    private readonly unit_m: number,
  ) {}

  /** @param first number of the batch's first record within its layer */
  collect(batch: FeatureBatch, first: number): void {
    const transfer = this.transfers.get(batch.layer);
    const texts = batch.columns.get('text');
    if (!transfer || !texts) return;
    for (let i = 0; i < batch.count; i++) {
      const text = texts[i];
      if (batch.kinds[i] !== TEXT || typeof text !== 'string') continue;
      const v = 3 * (i === 0 ? 0 : batch.partEnds[batch.featureEnds[i - 1]! - 1]!);
      this.seekers.push({
        from: batch.layer,
        record: first + i,
        text,
        x: batch.coords[v]!,
        y: batch.coords[v + 1]!,
        transfer,
        object: -1,
        best: Infinity,
      });
    }
  }

  private settle(): void {
    for (const transfer of new Set(this.transfers.values())) {
      const own = this.seekers.filter((s) => s.transfer === transfer);
      const reach = transfer.how === 'near' ? transfer.within_m / this.unit_m : 0;
      const xs = own.map((s) => s.x),
        ys = own.map((s) => s.y);
      const spread =
        own.length === 0
          ? 1
          : Math.max(
              xs.reduce((a, b) => Math.max(a, b)) - xs.reduce((a, b) => Math.min(a, b)),
              ys.reduce((a, b) => Math.max(a, b)) - ys.reduce((a, b) => Math.min(a, b)),
            );
      const grid = new TextGrid(Math.max(reach, spread / Math.sqrt(own.length + 1), 1e-9));
      for (const seeker of own) grid.add(seeker);
      const list = this.grids.get(transfer.layer) ?? [];
      this.grids.set(transfer.layer, [...list, { transfer, grid, reach }]);
    }
  }

  meet(batch: FeatureBatch, first: number): void {
    if (this.grids.size === 0) this.settle();
    const transfers = this.grids.get(batch.layer);
    if (!transfers) return;
    const flat = flatten(batch, Math.max(...transfers.map((g) => g.reach)) * FINE || 0.01 / this.unit_m);
    const box = emptyBounds();
    for (let i = 0; i < flat.count; i++) {
      if (flat.kinds[i] === TEXT) continue;
      featureBounds(flat, i, box);
      for (const { transfer, grid, reach } of transfers) {
        for (const seeker of grid.within([box[0] - reach, box[1] - reach, box[2] + reach, box[3] + reach])) {
          const how = transfer.how === 'in' ? areaAround(flat, i, box, seeker) : outlineDistance(flat, i, seeker.x, seeker.y);
          if (how < seeker.best && (transfer.how === 'in' || how <= reach)) {
            seeker.best = how;
            seeker.object = first + i;
          }
        }
      }
    }
  }

  /** Fields given to the objects of a layer, by their number: several texts one below the other, in their order. */
  fieldsOf(layer: string): Map<number, Map<string, string>> {
    const out = new Map<number, Map<string, string>>();
    for (const { object, text, transfer } of this.seekers) {
      if (object < 0 || transfer.layer !== layer) continue;
      let fields = out.get(object);
      if (!fields) out.set(object, (fields = new Map()));
      const known = fields.get(transfer.field);
      fields.set(transfer.field, known === undefined ? text : `${known}\n${text}`);
    }
    return out;
  }

  /** Numbers of the texts of a layer that found an object. */
  matched(layer: string): Set<number> {
    return new Set(this.seekers.filter((s) => s.from === layer && s.object >= 0).map((s) => s.record));
  }

  /** The texts of a layer, and whether each found an object. */
  texts(layer: string): { text: string; x: number; y: number; matched: boolean }[] {
    return this.seekers.filter((s) => s.from === layer).map(({ text, x, y, object }) => ({ text, x, y, matched: object >= 0 }));
  }
}

/** Finds the objects of all texts that the rules of a source transfer; null where they transfer none. */
export async function settleTransfers(
  read: ReadBatches,
  rules: Readonly<Record<string, Transferring>>,
  { unit_m }: Pick<OperationContext, 'unit_m'>,
): Promise<Transfers | null> {
  const wanted = new Map(
    Object.entries(rules).flatMap(([layer, rule]) =>
      rule.textTransfer && rule.taken !== false ? [[layer, rule.textTransfer] as const] : [],
    ),
  );
  if (wanted.size === 0) return null;
  const transferrer = new TextTransferrer(wanted, unit_m);
  for (const step of ['collect', 'meet'] as const) {
    const seen = new Map<string, number>();
    for await (const batch of read()) {
      const first = seen.get(batch.layer) ?? 0;
      transferrer[step](batch, first);
      seen.set(batch.layer, first + batch.count);
    }
  }
  return transferrer;
}

/** A text with where it stands, in the source's own numbers. */
export interface ListedText {
  text: string;
  x: number;
  y: number;
}

/** What became of the texts that looked for objects. */
export interface TransferReport {
  transferred: number;
  unmatchedCount: number;
  /** The first texts that found no object, and the first that found one. */
  unmatched: ListedText[];
  matched: ListedText[];
}

const RECEIVERS = new WeakMap<object, ReadonlySet<string>>();

/** The layers that get texts by some rule. Every layer asks, and there may be thousands. */
function receivers(rules: Readonly<Record<string, Transferring>>): ReadonlySet<string> {
  let known = RECEIVERS.get(rules);
  if (!known) RECEIVERS.set(rules, (known = new Set(Object.values(rules).flatMap((r) => (r.textTransfer ? [r.textTransfer.layer] : [])))));
  return known;
}

const LISTED = 300;

/** Gives texts to the objects of another layer as a field. Layers that get some are concerned as well as those that give. */
export const textTransfer: Operation<TextTransfer | 'gets', TransferReport, Transferring> = {
  id: 'textTransfer',
  scope: 'layer',
  schema: z.union([TextTransfer, z.literal('gets')]),
  parameters: (layer, rules) => rules[layer]?.textTransfer ?? (receivers(rules).has(layer) ? 'gets' : undefined),
  sentence: (to) => (to === 'gets' ? 'gets texts as a field' : `texts given to ${to.layer} as ${to.field}`),
  tally: () => ({ transferred: 0, unmatchedCount: 0, unmatched: [], matched: [] }),
  stage(_parameters, { layer, transfers, left }, tally) {
    const given = transfers?.fieldsOf(layer) ?? new Map<number, Map<string, string>>();
    const matched = transfers?.matched(layer) ?? new Set<number>();
    let first = 0;
    return {
      *apply(batch) {
        const from = first;
        first += batch.count;
        const out = filterRecords(
          withFields(batch, from, given),
          (i) => !matched.has(from + i),
          (i) => {
            tally.transferred++;
            left?.(batch, i, REASONS.transferred);
          },
        );
        if (out.count > 0) yield out;
      },
      end() {
        for (const { matched: found, ...text } of transfers?.texts(layer) ?? []) {
          if (!found) tally.unmatchedCount++;
          const list = found ? tally.matched : tally.unmatched;
          if (list.length < LISTED) list.push(text);
        }
      },
    };
  },
  effects: ({ transferred, unmatchedCount }) => [
    ...(transferred > 0
      ? [
          {
            effect: 'changed' as const,
            code: REASONS.transferred.code,
            count: transferred,
            message: `${counted(transferred, 'text')} given to objects as a field`,
            gone: true as const,
          },
        ]
      : []),
    ...(unmatchedCount > 0
      ? [
          {
            effect: 'told' as const,
            code: 'text-unmatched',
            count: unmatchedCount,
            message: `${counted(unmatchedCount, 'text')} found no object, and ${unmatchedCount === 1 ? 'crosses as it is' : 'cross as they are'}`,
          },
        ]
      : []),
  ],
};

function withFields(batch: FeatureBatch, first: number, given: ReadonlyMap<number, ReadonlyMap<string, string>>): FeatureBatch {
  let columns: Map<string, Value[]> | null = null;
  for (let i = 0; i < batch.count; i++) {
    for (const [name, value] of given.get(first + i) ?? []) {
      columns ??= new Map([...batch.columns].map(([field, column]) => [field, [...column]]));
      let column = columns.get(name);
      if (!column) columns.set(name, (column = new Array<Value>(batch.count).fill(null)));
      column[i] = value;
    }
  }
  return columns ? { ...batch, columns } : batch;
}

/** Size of the box of an area that holds the place; infinite when it does not. */
function areaAround(batch: FeatureBatch, i: number, box: Bounds, { x, y }: { x: number; y: number }): number {
  if (batch.kinds[i] !== POLYGON || x < box[0] || x > box[2] || y < box[1] || y > box[3]) return Infinity;
  return isInside(batch, i, x, y) ? (box[2] - box[0]) * (box[3] - box[1]) : Infinity;
}

import type { Declarations } from './field';
import type { Value } from './value';
import { eachPart, type FeatureBatch, POLYGON, type StatedSymbology } from './batch';
import { Doubles } from './doubles';

/**
 * Collects records one after the other into a {@link FeatureBatch}. Call `vertex` and `endPart` for the geometry,
 * `set` for the attributes, then `endFeature`.
 */
export class BatchBuilder {
  private readonly coords = new Doubles();
  private readonly bulges = new Doubles();
  private curved = false;
  /** Kept from the first vertex with a measure on. */
  private measures: Doubles | null = null;
  private parts: number[] = [];
  private ends: number[] = [];
  private kinds: number[] = [];
  private entities: string[] = [];
  private locations: number[] = [];
  private items: number[] | null = null;
  private columns = new Map<string, Value[]>();
  private symbology: (StatedSymbology | null)[] | null = null;
  private declared: Declarations | undefined;

  /** @param to see {@link FeatureBatch.to} */
  constructor(
    readonly layer: string,
    private readonly to?: string,
  ) {}

  /** Says what the source declares of the layer's fields; it stands on every batch that is taken from here on. */
  declare(declared: Declarations): void {
    this.declared = declared;
  }

  /** Rings of areas that did not end where they began, and were closed; taken by the reader who tells of them. */
  ringsClosed = 0;

  /** Records ended so far. */
  get count(): number {
    return this.ends.length;
  }

  /** Vertices so far. */
  get vertices(): number {
    return this.bulges.length;
  }

  /** Whether it is time to hand on what was collected: many records, vertices or values. */
  get full(): boolean {
    return this.count >= BATCH_RECORDS || this.vertices >= BATCH_VERTICES || this.count * this.columns.size >= BATCH_CELLS;
  }

  /** @param m its measure, NaN where it has none */
  vertex(x: number, y: number, z: number, bulge = 0, m = NaN): void {
    if (m === m || this.measures) this.measure(m);
    this.coords.push(x);
    this.coords.push(y);
    this.coords.push(z);
    this.bulges.push(bulge);
    if (bulge !== 0) this.curved = true;
  }

  private measure(m: number): void {
    this.measures ??= new Doubles();
    while (this.measures.length < this.vertices) this.measures.push(NaN);
    this.measures.push(m);
  }

  /** Whether some vertex from `first` on is such a one. */
  someFrom(first: number, such: (x: number, y: number) => boolean): boolean {
    const { data } = this.coords;
    for (let v = first; v < this.vertices; v++) if (such(data[3 * v]!, data[3 * v + 1]!)) return true;
    return false;
  }

  /** x, y, z of the vertices from `first` on, to be changed where they are; good until the next one comes. */
  coordsFrom(first: number): Float64Array {
    return this.coords.data.subarray(3 * first, this.coords.length);
  }

  endPart(): void {
    this.parts.push(this.vertices);
  }

  set(field: string, value: Value): void {
    if (value === null || value === '') return;
    let column = this.columns.get(field);
    if (column === undefined) this.columns.set(field, (column = []));
    const row = this.ends.length;
    while (column.length < row) column.push(null);
    column[row] = value;
  }

  /** As {@link set}, but a null takes back what was set before. */
  put(field: string, value: Value): void {
    const column = value === null ? this.columns.get(field) : undefined;
    if (column && column.length > this.ends.length) column[this.ends.length] = null;
    this.set(field, value);
  }

  /** Tells what the file itself draws the record with that is being collected. */
  drawnWith(look: StatedSymbology): void {
    this.symbology ??= [];
    while (this.symbology.length < this.ends.length) this.symbology.push(null);
    this.symbology[this.ends.length] = look;
  }

  /** Drops what came since the last record ended: it is to be none. */
  abandon(): void {
    const parts = this.ends.at(-1) ?? 0;
    const vertices = parts === 0 ? 0 : this.parts[parts - 1]!;
    this.parts.length = parts;
    this.coords.length = 3 * vertices;
    this.bulges.length = vertices;
    if (this.measures) this.measures.length = Math.min(this.measures.length, vertices);
    for (const column of this.columns.values()) column.length = Math.min(column.length, this.ends.length);
    if (this.symbology) this.symbology.length = Math.min(this.symbology.length, this.ends.length);
  }

  /** @param item see {@link FeatureBatch.items} */
  endFeature(kind: number, entity: string, location: number, item?: number): void {
    if (kind === POLYGON) this.closeRings();
    this.kinds.push(kind);
    this.entities.push(entity);
    this.locations.push(location);
    if (item !== undefined) (this.items ??= [])[this.ends.length] = item;
    this.ends.push(this.parts.length);
  }

  /** A ring repeats its first vertex at its end. */
  private closeRings(): void {
    // from the last to the first, so that those before stay where they are
    for (let p = this.parts.length - 1, first = this.ends.at(-1) ?? 0; p >= first; p--) {
      const { data } = this.coords;
      const start = p === 0 ? 0 : this.parts[p - 1]!,
        end = this.parts[p]!;
      if (end - start < 3 || [0, 1].every((k) => Object.is(data[3 * start + k], data[3 * end - 3 + k]))) continue;
      this.coords.insert(3 * end, [data[3 * start]!, data[3 * start + 1]!, data[3 * start + 2]!]);
      this.bulges.insert(end, [0]);
      if (this.measures && this.measures.length > start) this.measures.insert(end, [this.measures.data[start]!]);
      for (let q = p; q < this.parts.length; q++) this.parts[q]!++;
      this.ringsClosed++;
    }
  }

  /** Hands over what was collected and starts again empty. */
  take(): FeatureBatch {
    const count = this.count;
    for (const column of this.columns.values()) while (column.length < count) column.push(null);
    const bulges = this.bulges.take();
    while (this.symbology && this.symbology.length < count) this.symbology.push(null);
    const batch: FeatureBatch = {
      layer: this.layer,
      ...(this.to === undefined ? {} : { to: this.to }),
      count,
      kinds: Uint8Array.from(this.kinds),
      entities: this.entities,
      coords: this.coords.take(),
      bulges: this.curved ? bulges : null,
      ...(this.measures ? { measures: this.measures.take() } : {}),
      partEnds: Uint32Array.from(this.parts),
      featureEnds: Uint32Array.from(this.ends),
      columns: this.columns,
      ...(this.declared ? { declared: this.declared } : {}),
      ...(this.symbology ? { symbology: this.symbology } : {}),
      locations: Float64Array.from(this.locations),
      ...(this.items ? { items: Uint32Array.from(this.items) } : {}),
    };
    this.curved = false;
    this.measures = null;
    this.parts = [];
    this.ends = [];
    this.kinds = [];
    this.entities = [];
    this.locations = [];
    this.items = null;
    this.columns = new Map();
    this.symbology = null;
    return batch;
  }
}

/** Puts the values of record `i` into the record that `out` is at. */
export function copyValues(batch: FeatureBatch, i: number, out: BatchBuilder, without?: ReadonlySet<string>): void {
  for (const [name, column] of batch.columns) if (!without?.has(name)) out.set(name, column[i]!);
}

/** Adds record `i` to `out`, as another kind where one is given. */
export function copyRecord(batch: FeatureBatch, i: number, out: BatchBuilder, kind: number = batch.kinds[i]!): void {
  const { coords, bulges, measures } = batch;
  eachPart(batch, i, (start, end) => {
    for (let v = start; v < end; v++)
      out.vertex(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!, bulges?.[v] ?? 0, measures?.[v] ?? NaN);
    out.endPart();
  });
  copyValues(batch, i, out);
  const stated = batch.symbology?.[i];
  if (stated) out.drawnWith(stated);
  out.endFeature(kind, batch.entities[i]!, batch.locations[i]!, batch.items?.[i]);
}

/** A batch is handed on when it holds this many records, vertices, or values with those that are empty. */
export const BATCH_RECORDS = 4096;
const BATCH_VERTICES = 65536;
const BATCH_CELLS = 1 << 18;

/** Things as records of one layer, a batch at a time. @param add puts one of them into the builder and ends it */
export function* inBatches<T>(
  layer: string,
  things: Iterable<T>,
  add: (builder: BatchBuilder, thing: T, k: number) => void,
): Generator<FeatureBatch> {
  const builder = new BatchBuilder(layer);
  let k = 0;
  for (const thing of things) {
    add(builder, thing, k++);
    if (builder.full) yield builder.take();
  }
  if (builder.count > 0) yield builder.take();
}

/** One builder a layer; hands out those that are full, and all of them at the end. */
export class LayerBuilders {
  private readonly builders = new Map<string, BatchBuilder>();
  private full: BatchBuilder[] = [];
  private open = 0;

  for(layer: string): BatchBuilder {
    let builder = this.builders.get(layer);
    if (builder === undefined) this.builders.set(layer, (builder = new BatchBuilder(layer)));
    return builder;
  }

  /** To be called after each record, so that memory stays bounded however many layers there are. */
  ended(builder: BatchBuilder): void {
    this.open++;
    if (builder.full) {
      if (!this.full.includes(builder)) this.full.push(builder);
    } else if (this.open >= 8 * BATCH_RECORDS) {
      this.full = [...this.builders.values()].filter((b) => b.count > 0);
    }
  }

  *takeFull(): Generator<FeatureBatch> {
    const full = this.full;
    this.full = [];
    for (const builder of full) {
      this.open -= builder.count;
      yield builder.take();
    }
  }

  /** All of them. */
  list(): BatchBuilder[] {
    return [...this.builders.values()];
  }

  *takeAll(): Generator<FeatureBatch> {
    this.full = [];
    this.open = 0;
    for (const builder of this.builders.values()) if (builder.count > 0) yield builder.take();
  }
}

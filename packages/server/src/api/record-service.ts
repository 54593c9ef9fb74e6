import path from 'node:path';
import type { FieldStatistics, FieldValue, RecordIds, RecordPage, RecordView } from '@pontrel/contract/crossing';
import { northUp } from '@pontrel/core/crs/crs';
import { EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { Problem } from '@pontrel/core/model/problem';
import { FeatureStore, type RecordOrder } from '@pontrel/host-node/store/feature-store';
import type { Catalog } from '../store/catalog';
import type { DataFolder } from '../store/data-folder';
import { Recent } from '../store/recent';
import type { SourceRecord } from '../store/records';
import { carrierOf } from '../tiles/cut-tile';
import type { LookUps } from '../work/look-ups';
import { STORE_FILE, storedFiles } from '../work/read-source';
import { frameOf, storedTileSources } from './frame';
import { summaryOf } from './views';

/** Orders of records that are kept: four bytes a record each. */
const MOST_ORDERS = 12;

/** Ids that the page gets to show on its map. */
const MOST_SHOWN = 50_000;

/** The records of sources: listed, counted, and what they have in their fields. */
export class RecordService {
  private readonly orders = new Recent<Promise<Uint32Array>>(MOST_ORDERS);

  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly lookUps: LookUps,
  ) {}

  /** A page of a layer's records, in the order of the file or in another one. An order that was asked for is kept for a while. */
  async records(id: string, sourceId: string, layer: string, offset: number, limit: number, order: RecordOrder): Promise<RecordPage> {
    const ids = order.sort === null && order.where === null ? null : await this.order(id, sourceId, layer, order);
    return this.withStore(id, sourceId, (store, source) => {
      const page = ids
        ? { total: ids.length, records: store.named(ids.subarray(offset, offset + limit)) }
        : store.page(layer, offset, limit);
      const toFrame = this.placer(id, source);
      return { total: page.total, records: page.records.map((r) => ({ ...r, source: source.name, ...toFrame(r.at) })) };
    });
  }

  /** Ids of the records that a filter takes, for the map. */
  async recordIds(id: string, sourceId: string, layer: string, where: string): Promise<RecordIds> {
    const ids = await this.order(id, sourceId, layer, { sort: null, descending: false, where });
    return { ids: ids.length > MOST_SHOWN ? null : [...ids] };
  }

  /** The record of a layer that lies at a place in the frame, or within reach of it. */
  async recordAt(id: string, sourceId: string, layer: string, x: number, y: number, reach: number): Promise<number | null> {
    const crossing = this.catalog.crossing(id);
    const [source] = storedTileSources(this.folder, crossing, [this.catalog.source(id, sourceId)]);
    if (!crossing.recipe.frame || !source) return null;
    return this.lookUps.ask('recordAt', { source, layer, frame: crossing.recipe.frame.crs, x, y, reach });
  }

  async values(id: string, sourceId: string, layer: string, field: string, begin: string): Promise<FieldValue[]> {
    const store = this.storeOf(id, this.catalog.source(id, sourceId));
    return this.lookUps.ask('values', { store, layer, field, begin });
  }

  /** What a layer's records, or those that a filter takes, have in a field. */
  async statistics(id: string, sourceId: string, layer: string, field: string, where: string | null): Promise<FieldStatistics> {
    const store = this.storeOf(id, this.catalog.source(id, sourceId));
    const ids = where === null ? null : await this.order(id, sourceId, layer, { sort: null, descending: false, where });
    return this.lookUps.ask('statistics', { store, layer, field, ids });
  }

  /** Carries places of a source into the frame. */
  private placer(id: string, source: SourceRecord): (at: readonly [number, number, number | null]) => { inFrame?: [number, number] } {
    const crossing = this.catalog.crossing(id);
    const frame = frameOf(crossing.recipe);
    const [tiles] = storedTileSources(this.folder, crossing, [source]);
    if (!frame || !tiles) return () => ({});
    const { placement: plane, transform } = carrierOf(tiles, northUp(frame));
    return ([x, y]) => {
      const p = Float64Array.of(x, y);
      plane.forward(p, 0, 1, 2);
      transform.apply(p, 0, 1, 2);
      return Number.isNaN(p[0]!) ? {} : { inFrame: [p[0]!, p[1]!] };
    };
  }

  private order(id: string, sourceId: string, layer: string, order: RecordOrder): Promise<Uint32Array> {
    const source = this.catalog.source(id, sourceId);
    const { frame, sources } = this.catalog.crossing(id).recipe;
    // what a filter may depend on, and no more: other rules change nothing of it
    const recipe: Recipe = {
      ...EMPTY_RECIPE,
      frame,
      sources: { [source.name]: { placement: sources[source.name]?.placement ?? null, layers: {} } },
    };
    const key = JSON.stringify([sourceId, layer, order, recipe]);
    return this.orders.get(key, () => {
      const request = {
        source: { name: source.name, extent: summaryOf(source).extent, store: this.storeOf(id, source) },
        recipe,
        layer,
        ...order,
      };
      const ids = this.lookUps.ask('list', request);
      ids.catch(() => this.orders.forget(key));
      return ids;
    });
  }

  record(id: string, sourceName: string, recordId: number): RecordView {
    const source = this.catalog.sources(id).find((s) => s.name === sourceName);
    if (!source) throw new Problem('source-unknown', `${sourceName} is not in this crossing any more.`);
    return this.withStore(id, source.id, (store) => {
      const record = store.record(recordId);
      if (!record) throw new Problem('record-unknown', `${sourceName} has no record ${recordId}.`);
      return { ...record, source: source.name };
    });
  }

  /** Texts of a source that a code page makes a difference to, as one would read them. */
  async texts(id: string, sourceId: string, codePage: string): Promise<string[]> {
    const source = this.catalog.source(id, sourceId);
    const request = storedFiles(this.folder.source(id, sourceId), source.name, source.format, { ...source.facts.reading, codePage });
    return this.lookUps.ask('texts', request);
  }

  private storeOf(id: string, source: SourceRecord): string {
    return path.join(this.folder.source(id, source.id), STORE_FILE);
  }

  private withStore<T>(id: string, sourceId: string, use: (store: FeatureStore, source: SourceRecord) => T): T {
    const source = this.catalog.source(id, sourceId);
    const store = new FeatureStore(this.storeOf(id, source));
    try {
      return use(store, source);
    } finally {
      store.close();
    }
  }
}

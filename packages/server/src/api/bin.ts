import type { BinItem } from '@pontrel/contract/crossing';
import { Problem } from '@pontrel/core/model/problem';
import { STORE_LAYOUT } from '@pontrel/host-node/store/feature-store';
import type { Events } from '../jobs/events';
import type { Jobs } from '../jobs/jobs';
import type { Catalog } from '../store/catalog';
import type { DataFolder } from '../store/data-folder';
import type { BinnedSource } from '../store/records';
import { freeSourceName, type SourceReader } from './source-reader';

/** Crossings and sources that were deleted: they keep their files and rules until somebody deletes them for good. */
export class Bin {
  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly jobs: Jobs,
    private readonly reader: SourceReader,
    private readonly events: Events,
  ) {}

  /** What lies in it, the last that was put there first. A source of a crossing that lies there itself comes back with that. */
  items(): BinItem[] {
    const crossings = this.catalog.crossingsOrDamaged();
    const names = new Map(crossings.filter((c) => c.binned === null).map((c) => [c.id, c.name]));
    const binned = crossings.flatMap(({ id, name, binned }): BinItem[] =>
      binned === null ? [] : [{ id, kind: 'crossing', name, binned, sources: this.catalog.sources(id).map((s) => s.name) }],
    );
    const sources = this.catalog.binnedSources().flatMap(({ source, binned, by }): BinItem[] => {
      const crossing = names.get(source.crossing);
      return crossing === undefined
        ? []
        : [{ id: source.id, kind: 'source', name: source.name, binned, crossing, by, bytes: source.bytes }];
    });
    return [...binned, ...sources].sort((a, b) => b.binned.localeCompare(a.binned));
  }

  /** Puts a crossing into the bin: its files stay as they are, and its jobs end. */
  async putCrossing(id: string): Promise<void> {
    this.catalog.checkKnown(id);
    await this.jobs.cancelAll(id);
    this.catalog.binCrossing(id, new Date().toISOString());
    this.events.emit({ type: 'crossing', id });
  }

  /** Puts a source into the bin, and its rules with it. @throws Problem `source-unknown` */
  putSource(id: string, sourceId: string): void {
    const { recipe, revision } = this.catalog.crossing(id);
    const source = this.catalog.source(id, sourceId);
    const { [source.name]: rules, ...kept } = recipe.sources;
    this.catalog.atOnce(() => {
      this.catalog.binSource(source.id, { binned: new Date().toISOString(), by: null, rules: rules ?? null });
      this.catalog.saveRecipe(id, { ...recipe, sources: kept }, revision);
    });
    this.events.emit({ type: 'crossing', id });
  }

  /** Takes a crossing or a source out of the bin. @throws Problem `crossing-unknown` when neither is there */
  restore(id: string): void {
    const source = this.catalog.binnedSource(id);
    if (source) return this.restoreSource(source);
    this.catalog.checkKnown(id);
    this.catalog.binCrossing(id, null);
    this.events.emit({ type: 'crossing', id });
  }

  /** A source comes back with its rules; under another name where a source of its crossing has its own by now. */
  private restoreSource({ source, rules, layout }: BinnedSource): void {
    const { crossing } = source;
    const { recipe, revision } = this.catalog.crossing(crossing);
    const name = freeSourceName(
      this.catalog.sources(crossing).map((s) => s.name),
      source.name,
    );
    const ruled = recipe.sources[name] ?? rules;
    const restored = { ...source, name };
    this.catalog.atOnce(() => {
      this.catalog.unbinSource(restored, layout);
      if (ruled) this.catalog.saveRecipe(crossing, { ...recipe, sources: { ...recipe.sources, [name]: ruled } }, revision);
    });
    if (layout < STORE_LAYOUT) this.reader.readAgain(crossing, restored, ruled?.reading);
    this.events.emit({ type: 'crossing', id: crossing });
  }

  /** Deletes for good what lies in the bin. @throws Problem `not-binned`, `crossing-unknown` */
  async delete(id: string): Promise<void> {
    const source = this.catalog.binnedSource(id);
    if (source) {
      this.catalog.deleteBinnedSource(id);
      await this.folder.remove(this.folder.source(source.source.crossing, id));
      return this.events.emit({ type: 'crossing', id: source.source.crossing });
    }
    if (!this.catalog.isBinned(id))
      throw new Problem('not-binned', 'This crossing does not lie in the bin; only what lies there is deleted for good.');
    await this.jobs.cancelAll(id);
    this.catalog.deleteCrossing(id);
    // one that began in between
    await this.jobs.cancelAll(id);
    await this.folder.remove(this.folder.crossing(id));
    this.events.emit({ type: 'crossing', id });
  }
}

import { existsSync } from 'node:fs';
import path from 'node:path';
import type { BinnedSource, CrossingRecord, RunRecord, SourceRecord } from './records';
import type { DataFolder } from './data-folder';
import { readJson, writeJson } from './json-file';

/** A crossing as its own folder tells of it. */
export type CrossingManifest = Omit<CrossingRecord, 'recipe'> & { recipe: unknown };

/** A source as its own folder tells of it. */
export interface SourceManifest {
  source: SourceRecord;
  /** Layout of the store beside it. */
  layout: number;
  /** How it lies in the bin; absent where it does not. */
  inBin?: Omit<BinnedSource, 'source' | 'layout'>;
}

/** A crossing with its sources and runs, as folders tell of them. */
export interface ToldCrossing {
  crossing: CrossingManifest;
  sources: SourceManifest[];
  /** Ids of those that tell of themselves; there are many, and each is read only where it is needed. */
  runs: string[];
}

const CROSSING = 'crossing.json';
const SOURCE = 'source.json';
const RUN = 'run.json';

/**
 * What every crossing, every source and every run says of itself in its own folder, so that a catalog that was lost can be made again from the folders.
 */
export class Manifests {
  constructor(private readonly folder: DataFolder) {}

  putCrossing(crossing: CrossingManifest): void {
    writeJson(path.join(this.folder.crossing(crossing.id), CROSSING), crossing);
  }

  /** @param folder where it lies; its own place when absent */
  putSource(manifest: SourceManifest, folder = this.folder.source(manifest.source.crossing, manifest.source.id)): void {
    writeJson(path.join(folder, SOURCE), manifest);
  }

  putRun(run: RunRecord, folder = this.folder.run(run.crossing, run.id)): void {
    writeJson(path.join(folder, RUN), run);
  }

  /** A run as its folder tells of it; null where it does not. */
  run(crossing: string, id: string): RunRecord | null {
    const manifest = readJson<RunRecord>(path.join(this.folder.run(crossing, id), RUN));
    return manifest?.id === id ? manifest : null;
  }

  /** All crossings that folders tell of, with their sources; what cannot be read is passed over. */
  all(): ToldCrossing[] {
    return this.folder.crossingIds().flatMap((id) => {
      const crossing = readJson<CrossingManifest>(path.join(this.folder.crossing(id), CROSSING));
      if (crossing?.id !== id) return [];
      const sources = this.folder.idsOf(id, 'sources').flatMap((source) => {
        const manifest = readJson<SourceManifest>(path.join(this.folder.source(id, source), SOURCE));
        return manifest?.source.id === source ? [manifest] : [];
      });
      const runs = this.folder.idsOf(id, 'runs').filter((run) => existsSync(path.join(this.folder.run(id, run), RUN)));
      return [{ crossing, sources, runs }];
    });
  }
}

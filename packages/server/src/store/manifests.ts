import path from 'node:path';
import type { CrossingRecord, SourceRecord } from './records';
import type { DataFolder } from './data-folder';
import { readJson, writeJson } from './json-file';

/** A crossing as its own folder tells of it. */
export type CrossingManifest = Omit<CrossingRecord, 'recipe'> & { recipe: unknown };

/** A source as its own folder tells of it. */
export interface SourceManifest {
  source: SourceRecord;
  /** Layout of the store beside it. */
  layout: number;
}

/** A crossing with its sources, as folders tell of them. */
export interface ToldCrossing {
  crossing: CrossingManifest;
  sources: SourceManifest[];
}

const CROSSING = 'crossing.json';
const SOURCE = 'source.json';

/**
 * What every crossing and every source says of itself in its own folder, so that a catalog that was lost can be made again from the folders.
 */
export class Manifests {
  constructor(private readonly folder: DataFolder) {}

  putCrossing(crossing: CrossingManifest): void {
    writeJson(path.join(this.folder.crossing(crossing.id), CROSSING), crossing);
  }

  putSource(manifest: SourceManifest): void {
    writeJson(path.join(this.folder.source(manifest.source.crossing, manifest.source.id), SOURCE), manifest);
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
      return [{ crossing, sources }];
    });
  }
}

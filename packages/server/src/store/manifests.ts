import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { CrossingRecord, SourceRecord } from './records';
import type { DataFolder } from './data-folder';

/** A crossing as its own folder tells of it. */
export type CrossingManifest = Omit<CrossingRecord, 'recipe'> & { recipe: unknown };

/** A source as its own folder tells of it. */
export interface SourceManifest {
  source: SourceRecord;
  /** Layout of the store beside it. */
  layout: number;
}

const CROSSING = 'crossing.json';
const SOURCE = 'source.json';

/**
 * What every crossing and every source says of itself in its own folder, so that a catalog that was lost can be made again from the folders.
 * Each is written beside its place and renamed, so that it is whole at any moment.
 */
export class Manifests {
  constructor(private readonly folder: DataFolder) {}

  putCrossing(crossing: CrossingManifest): void {
    put(path.join(this.folder.crossing(crossing.id), CROSSING), crossing);
  }

  putSource(manifest: SourceManifest): void {
    put(path.join(this.folder.source(manifest.source.crossing, manifest.source.id), SOURCE), manifest);
  }

  /** All crossings that folders tell of, with their sources; what cannot be read is passed over. */
  all(): { crossing: CrossingManifest; sources: SourceManifest[] }[] {
    return this.folder.crossingIds().flatMap((id) => {
      const crossing = read<CrossingManifest>(path.join(this.folder.crossing(id), CROSSING));
      if (crossing?.id !== id) return [];
      const sources = this.folder.idsOf(id, 'sources').flatMap((source) => {
        const manifest = read<SourceManifest>(path.join(this.folder.source(id, source), SOURCE));
        return manifest?.source.id === source ? [manifest] : [];
      });
      return [{ crossing, sources }];
    });
  }
}

function put(file: string, content: unknown): void {
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(`${file}.new`, JSON.stringify(content));
  renameSync(`${file}.new`, file);
}

function read<T>(file: string): T | null {
  if (!existsSync(file)) return null;
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as T;
  } catch {
    return null;
  }
}

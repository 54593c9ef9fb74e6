import { type CrossingImage } from '@pontrel/core/crossing/image-pipeline';
import type { CrossingSource, SourceSummary } from '@pontrel/core/crossing/crossing-source';
import type { ImageMember } from '@pontrel/core/content/raster/profile';
import { usualStretch } from '@pontrel/core/content/raster/shown';
import { formatById } from '@pontrel/core/formats/index';
import { type FileImage, fileImage } from '@pontrel/host-node/file-image';
import { fileSource } from '@pontrel/host-node/files';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';
import path from 'node:path';
import { fileOfMember, type ImageFiles } from './image-files';
import { mainFile, openStored, STORE_FILE, type StoredFiles } from './read-source';

/** A source of a crossing as a worker is told of it: what is known of it, and where its files and its store lie. */
export type StoredSource = SourceSummary & { format: string; files: StoredFiles };

/** A source of pictures as a worker is told of it. */
export interface StoredPictures {
  files: ImageFiles;
  members: ImageMember[];
}

/** A picture of a source that can be one with the others: what a crossing calls it, and its number among them. */
interface FitMember {
  named: Pick<CrossingImage, 'source' | 'name' | 'stretch'>;
  member: ImageMember;
  files: ImageFiles;
  k: number;
}

/** The pictures of some sources that can be one with the others of theirs. */
export const fitMembers = (stored: readonly StoredPictures[]): FitMember[] =>
  stored.flatMap(({ files, members }) => {
    // one stretch is good for all of a source
    const stretch = members.length > 0 ? { stretch: usualStretch(members) } : {};
    return members.flatMap((member, k): FitMember[] =>
      member.unfit === null
        ? [{ named: { source: files.name, name: members.length === 1 ? files.name : member.name, ...stretch }, member, files, k }]
        : [],
    );
  });

/** The pictures of some sources that can be one with the others of theirs, as their files lie. */
export const fileImages = (stored: readonly StoredPictures[]): FileImage[] =>
  fitMembers(stored).map(({ named, member, files, k }) => ({
    ...named,
    format: member.format,
    ...fileOfMember(files.folder, k, files.members[k]!),
  }));

/** The same, to be opened. */
export const crossingImages = (stored: readonly StoredPictures[]): CrossingImage[] => fileImages(stored).map(fileImage);

/** Opens the stores of some sources, and closes them when `use` is done with them. */
export async function withSources<T>(stored: readonly StoredSource[], use: (sources: CrossingSource[]) => Promise<T>): Promise<T> {
  const stores: FeatureStore[] = [];
  try {
    const sources = stored.map(({ format, files, ...summary }): CrossingSource => {
      const store = new FeatureStore(path.join(files.folder, STORE_FILE));
      stores.push(store);
      return {
        ...summary,
        library: store.library(),
        records: () => store.batches(),
        reopen: async () => formatById(format)!.features.open(await openStored(files), files.reading),
        file: () => fileSource(mainFile(files), files.name),
      };
    });
    return await use(sources);
  } finally {
    for (const store of stores) store.close();
  }
}

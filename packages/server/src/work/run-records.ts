import { mkdir, readdir, stat } from 'node:fs/promises';
import path from 'node:path';
import type { AccountRow } from '@pontrel/core/content/account';
import { type DrawingProof, runWithImages } from '@pontrel/core/crossing/drawing-images';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import type { Finding } from '@pontrel/core/model/finding';
import { fileImage } from '@pontrel/host-node/file-image';
import { folderAt } from '@pontrel/host-node/files';
import { imageThreads } from '@pontrel/host-node/image-threads';
import { FeatureStoreWriter } from '@pontrel/host-node/store/feature-store';
import { fileImages, type StoredPictures, type StoredSource, withSources } from './stored-source';
import { proofFailed } from './proof-failed';
import { type Progress, watchOver } from './watch';

export interface RunRequest {
  recipe: Recipe;
  deliverable: Deliverable;
  sources: StoredSource[];
  pictures: StoredPictures[];
  /** An empty folder of the run's own. */
  folder: string;
}

export interface RunResult {
  files: { name: string; bytes: number }[];
  proof: DrawingProof;
  account: AccountRow[];
  findings: Finding[];
}

export const FILES_FOLDER = 'files';
export const READ_BACK_FILE = 'readback.sqlite';

/** Writes a deliverable's files and proves them; nothing outside the given folder is touched. */
export async function runRecords(
  { recipe, deliverable, sources, pictures, folder }: RunRequest,
  report: (progress: Progress) => void,
): Promise<RunResult> {
  const files = path.join(folder, FILES_FOLDER);
  await mkdir(files, { recursive: true });
  const back = new FeatureStoreWriter(path.join(folder, READ_BACK_FILE));
  // what the store cannot take is no fault of the files that are read back
  let fault: unknown = null;
  const keep = (take: () => void): void => {
    try {
      take();
    } catch (error) {
      fault ??= error;
      throw error;
    }
  };
  try {
    const images = fileImages(pictures);
    const { proof, account, findings } = await withSources(sources, (opened) =>
      runWithImages(
        recipe,
        deliverable,
        opened,
        images.map(fileImage),
        folderAt(files),
        {
          writing: watchOver(report, 'Writing the image'),
          proving: watchOver(report, 'Proving the image'),
          threads: imageThreads(images, files),
        },
        {
          writing: watchOver(report, 'Writing'),
          proving: watchOver(report, 'Proving'),
          onReadBack: {
            batch: (set, batch) => keep(() => back.add(batch, set.name)),
            library: (library) => keep(() => back.setLibrary(library)),
          },
        },
      ),
    );
    if (fault !== null) throw fault;
    if (proof.status === 'failed') throw proofFailed(deliverable.name, [...proof.differences, ...(proof.below?.differences ?? [])]);
    back.close();
    return { files: await sizesOf(files), proof, account, findings };
  } catch (error) {
    back.abandon();
    throw error;
  }
}

export async function sizesOf(folder: string): Promise<{ name: string; bytes: number }[]> {
  const names = (await readdir(folder)).sort();
  return Promise.all(names.map(async (name) => ({ name, bytes: (await stat(path.join(folder, name))).size })));
}

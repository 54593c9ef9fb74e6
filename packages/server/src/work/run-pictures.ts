import { mkdir } from 'node:fs/promises';
import path from 'node:path';
import { type ImageMember, storedInfo } from '@pontrel/core/content/raster/profile';
import type { ImageRunProof } from '@pontrel/core/content/raster/proof';
import { writePyramid } from '@pontrel/core/content/raster/pyramid';
import { type ImageReport, runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import { fileImage } from '@pontrel/host-node/file-image';
import { folderAt } from '@pontrel/host-node/files';
import { imageThreads } from '@pontrel/host-node/image-threads';
import { pyramidFile } from './image-files';
import { FILES_FOLDER, type RunRequest, sizesOf } from './run-records';
import { fileImages, withSources } from './stored-source';
import { proofFailed } from './proof-failed';
import { type Progress, watchOver } from './watch';

/** Writes a deliverable that is a picture and proves it, and keeps smaller pictures of what was read back, for the map. */
export async function runPictures(
  { recipe, deliverable, sources, pictures, folder }: RunRequest,
  report: (progress: Progress) => void,
): Promise<{ files: { name: string; bytes: number }[]; proof: ImageRunProof; findings: Finding[] }> {
  const files = path.join(folder, FILES_FOLDER);
  await mkdir(files, { recursive: true });
  const images = fileImages(pictures);
  const ran = await withSources(sources, (records) =>
    runImageDeliverable(recipe, deliverable, images.map(fileImage), folderAt(files), {
      writing: watchOver(report, 'Writing'),
      proving: watchOver(report, 'Proving'),
      records,
      threads: imageThreads(images, files),
    }),
  );
  if (ran.proof.status === 'failed') throw proofFailed(deliverable.name, ran.proof.differences);
  const shown = await readBack(ran, folder, files, report);
  return { files: await sizesOf(files), proof: { ...ran.proof, shown }, findings: ran.findings };
}

async function readBack({ plan }: ImageReport, folder: string, files: string, report: (progress: Progress) => void): Promise<ImageMember> {
  const { target, format } = plan;
  const image = await format.images.write!.readBack(folderAt(files), target, new Findings());
  try {
    // a pyramid that begins at the picture itself can be shown without the files
    const sink = await folderAt(folder).create(path.basename(pyramidFile(folder, 0)));
    const summed = await writePyramid({ ...image, unpacked: true }, sink, watchOver(report, 'Looking at what was written'));
    return {
      name: target.stem,
      format: format.id,
      bytes: 0,
      version: image.version,
      info: storedInfo(image.info),
      map: image.where.grid?.map ?? null,
      pairs: null,
      bands: summed.bands,
      empty: summed.empty,
      unfit: null,
      unpacked: true,
    };
  } finally {
    await image.close();
  }
}

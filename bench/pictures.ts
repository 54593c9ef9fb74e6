// A picture written and proved in this process, with the time that each takes.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { EMPTY_RECIPE, type Deliverable, type Recipe } from '@pontrel/core/crossing/recipe';
import type { Watch } from '@pontrel/core/io/bytes';
import { fileImage, type FileImage } from '@pontrel/host-node/file-image';
import { folderAt } from '@pontrel/host-node/files';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { imageThreads } from '@pontrel/host-node/image-threads';

registerNodeImageEngine();

/** Seconds that a bilinear warp into a tiled TIFF with overviews takes to be written, and to be proved. */
export async function ourWarp(file: string, from: string, to: string): Promise<{ writing: number; proving: number }> {
  const folder = mkdtempSync(path.join(tmpdir(), 'pontrel-bench-warp-'));
  const image: FileImage = { source: 'picture', name: 'picture', file, format: 'geotiff' };
  const deliverable: Deliverable = {
    id: 'warp',
    name: 'warp',
    format: 'geotiff',
    crs: to,
    grouping: 'kind',
    options: {},
    image: { resampling: 'bilinear' },
  };
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: to },
    sources: { picture: { placement: { crs: from, unit_m: null }, layers: {} } },
    deliverables: [deliverable],
  };
  const begun = performance.now();
  let written = 0;
  const writing: Watch = { check() {}, progress: () => (written = performance.now()) };
  try {
    const { proof } = await runImageDeliverable(recipe, deliverable, [fileImage(image)], folderAt(folder), {
      writing,
      threads: imageThreads([image], folder),
    });
    if (proof.status !== 'match') throw new Error('The picture was not proved; its speed means nothing.');
    return { writing: (written - begun) / 1000, proving: (performance.now() - written) / 1000 };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

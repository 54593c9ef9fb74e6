import { existsSync, mkdirSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import sharp from 'sharp';
import { afterAll, describe, expect, it } from 'vitest';
import { runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { EMPTY_RECIPE, type Deliverable, type Recipe } from '@pontrel/core/crossing/recipe';
import { type FileImage, fileImage } from '@pontrel/host-node/file-image';
import { folderAt } from '@pontrel/host-node/files';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { imageThreads } from '@pontrel/host-node/image-threads';
import { python } from '../reference/python';
import { temporaryFolder } from '../server/client';

registerNodeImageEngine();
const THREAD = fileURLToPath(new URL('../../dist/image-thread.mjs', import.meta.url));
const { folder, remove } = temporaryFolder();
afterAll(remove);
python('make_ground.py', {
  pictures: [
    { kind: 'texture', stem: `${folder}/left`, size: [1500, 1400], origin: [1_463_000, 5_102_000], pixel: [0.5, 0.5], seed: 3 },
    { kind: 'texture', stem: `${folder}/right`, size: [1500, 1400], origin: [1_463_600, 5_102_010], pixel: [0.5, 0.5], seed: 4 },
  ],
});
const SIZE = { pixelSize: [0.25, 0.25] as [number, number], resampling: 'bilinear' as const };

/** Joins pictures into one of more than four megapixels. @param script the program of its threads; null for none */
async function run(
  files: readonly string[],
  wanted: Pick<Deliverable, 'format' | 'options' | 'image'>,
  name: string,
  script: string | null,
) {
  const own = path.join(folder, name);
  mkdirSync(own);
  const deliverable: Deliverable = { id: 'd', name: 'joined', crs: 'EPSG:2126', grouping: 'kind', ...wanted };
  const images = files.map((file): FileImage => ({
    source: file,
    name: file,
    file: path.join(folder, file),
    format: file.endsWith('.jpg') ? 'jpeg' : 'geotiff',
  }));
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: 'EPSG:2126' },
    sources: Object.fromEntries(files.map((file) => [file, { placement: { crs: 'EPSG:2193', unit_m: null }, layers: {} }])),
    deliverables: [deliverable],
  };
  let asked = 0;
  const begin = script === null ? undefined : imageThreads(images, own, script);
  const { proof } = await runImageDeliverable(recipe, deliverable, images.map(fileImage), folderAt(own), {
    ...(begin
      ? {
          threads: async (order, plan) => {
            const work = await begin(order, plan);
            if (work) asked++;
            return work;
          },
        }
      : {}),
  });
  return { proof, asked, files: Object.fromEntries(readdirSync(own).map((file) => [file, readFileSync(path.join(own, file))])) };
}

describe('a picture that is worked out in threads', () => {
  it.each([
    ['a tiled TIFF of two', ['left.tif', 'right.tif'], { format: 'geotiff', options: {}, image: SIZE }],
    [
      'tiles of their own files',
      ['left.tif', 'right.tif'],
      { format: 'geotiff', options: {}, image: { ...SIZE, split: { into: '2x3', overlap: 9 } } },
    ],
    ['a JPEG, whose pixels are packed with loss', ['right.tif', 'left.tif'], { format: 'jpeg', options: { quality: 80 }, image: SIZE }],
    ['a TIFF of a JPEG, which is unpacked once for all', ['left.jpg'], { format: 'geotiff', options: {}, image: SIZE }],
  ] as const)('is the same to the byte, and so is its proof: %s', async (name, files, wanted) => {
    if (!existsSync(path.join(folder, 'left.jpg'))) {
      await sharp(path.join(folder, 'left.tif')).jpeg().toFile(path.join(folder, 'left.jpg'));
      // upper left pixel centre, as a world file has it
      await folderAt(folder)
        .create('left.jgw')
        .then(async (sink) => {
          await sink.write(new TextEncoder().encode('0.5\n0\n0\n-0.5\n1463000.25\n5101999.75\n'));
          await sink.close();
        });
    }
    const own = name.replace(/\W+/g, '-');
    const here = await run(files, wanted as unknown as Deliverable, `${own}-here`, null);
    const there = await run(files, wanted as unknown as Deliverable, `${own}-there`, THREAD);
    expect(there.asked).toBe(2);
    expect(here.proof.status).toBe('match');
    expect(there.proof).toEqual(here.proof);
    expect(Object.keys(there.files)).toEqual(Object.keys(here.files));
    for (const [file, bytes] of Object.entries(here.files)) expect(there.files[file]!.equals(bytes), file).toBe(true);
  });

  it('ends with what went wrong in one of them', async () => {
    const ran = run(
      ['left.tif', 'right.tif'],
      { format: 'geotiff', options: {}, image: SIZE },
      'no-program',
      path.join(folder, 'none.mjs'),
    );
    // all that it wrote is too much to be shown where it should have failed
    await expect(ran.then(() => 'it ran')).rejects.toThrow(/none\.mjs/);
  });
});

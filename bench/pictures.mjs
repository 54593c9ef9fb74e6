// A picture of three bands of bytes: its warp beside sharp's affine of the same number of pixels, and the memory that a large one takes.
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';

/** Writes a textured picture of so many pixels along a side, with its world file. */
export async function writePicture(file, side) {
  const tile = await sharp({
    create: { width: 512, height: 512, channels: 3, background: 'grey', noise: { type: 'gaussian', mean: 128, sigma: 40 } },
  })
    .blur(1.2)
    .png()
    .toBuffer();
  await sharp({ create: { width: side, height: side, channels: 3, background: 'grey' }, limitInputPixels: false })
    .composite([{ input: tile, tile: true }])
    .removeAlpha()
    .tiff({ compression: 'none', tile: true, tileWidth: 512, tileHeight: 512 })
    .toFile(file);
  writeFileSync(`${file.slice(0, -path.extname(file).length)}.tfw`, '0.1\n0\n0\n-0.1\n1463000.05\n5101999.95\n');
}

/** Megapixels a second of sharp's bilinear affine, read from a file and written into one, packed alike. */
export async function affineSpeed(file, out, side) {
  const begun = performance.now();
  await sharp(file, { limitInputPixels: false })
    .affine([0.9998, 0.0175, -0.0175, 0.9998], { interpolator: 'bilinear' })
    .tiff({ compression: 'deflate', predictor: 'horizontal', tile: true, tileWidth: 512, tileHeight: 512 })
    .toFile(out);
  return side ** 2 / 1e6 / ((performance.now() - begun) / 1000);
}

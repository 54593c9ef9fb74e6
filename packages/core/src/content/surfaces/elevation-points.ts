import type { OpenImage } from '../../formats/image-face';
import { type FeatureBatch, POINT } from '../../model/batch';
import { BATCH_RECORDS, BatchBuilder } from '../../model/batch-builder';
import { Problem } from '../../model/problem';
import { toGround } from '../../raster/pixel-grid';

/** Rows that are read at once. */
const ROWS = 64;

/**
 * The pixels of an elevation model as points at their centres, with their values as heights; pixels without a value are none.
 * @throws Problem `elevation-none` where the image has several bands, or colours, or does not say where it lies
 */
export async function* elevationPoints(image: OpenImage, name: string): AsyncGenerator<FeatureBatch> {
  const { info, where } = image;
  const bands = info.bands - (info.alpha ? 1 : 0);
  if (bands !== 1 || info.colour === 'rgb' || info.colour === 'palette')
    throw new Problem(
      'elevation-none',
      `${name} is no elevation model: one band of heights is wanted, and it has ${bands === 1 ? 'colours' : `${bands} bands`}.`,
    );
  if (!where.grid) throw new Problem('elevation-none', `${name} does not say where it lies. Place it, or give it a world file.`);
  const { width, height } = info;
  let builder = new BatchBuilder(name);
  for (let y = 0; y < height; y += ROWS) {
    const rows = Math.min(ROWS, height - y);
    const { data, valid, bands: perPixel } = await image.read({ x: 0, y, width, height: rows });
    const centres = new Float64Array(2 * width * rows);
    for (let k = 0; k < width * rows; k++) centres.set([(k % width) + 0.5, y + Math.floor(k / width) + 0.5], 2 * k);
    toGround(where.grid, centres);
    for (let k = 0; k < width * rows; k++) {
      const z = data[k * perPixel]!;
      if ((valid && !valid[k]) || !Number.isFinite(z)) continue;
      builder.vertex(centres[2 * k]!, centres[2 * k + 1]!, z);
      builder.endPart();
      builder.endFeature(POINT, 'Pixel', y * width + k + 1);
      if (builder.count < BATCH_RECORDS) continue;
      yield builder.take();
      builder = new BatchBuilder(name);
    }
  }
  if (builder.count > 0) yield builder.take();
}

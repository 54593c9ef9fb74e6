import { createTiff } from '../../formats/geotiff/write';
import type { OpenImage } from '../../formats/image-face';
import type { ByteSink, Watch } from '../../io/bytes';
import { SAMPLE_KINDS, type ImageInfo } from '../../model/raster';
import { halve } from '../../raster/halve';
import { asLike, type Like } from './like';
import { BandTally } from './band-tally';
import type { BandProfile } from './profile';

/** Where the pyramid of a picture begins: at the picture itself where its file has to be unpacked for a pixel, at half its size otherwise. */
export const firstLevel = ({ unpacked }: Pick<OpenImage, 'unpacked'>): 0 | 1 => (unpacked ? 0 : 1);

/** A picture as its smaller ones are kept: a pixel that its mask takes away says so itself. */
function keptLike(info: ImageInfo): Like {
  const { bands, sampleType, colour, alpha, nodata, palette } = info;
  if (!info.masked || alpha || nodata !== null) return { bands, sampleType, colour, alpha, nodata, palette };
  if (SAMPLE_KINDS[sampleType].real) return { bands, sampleType, colour, alpha, nodata: NaN, palette };
  return palette
    ? { bands: 4, sampleType, colour: 'rgb', alpha: true, nodata, palette: null }
    : { bands: bands + 1, sampleType, colour, alpha: true, nodata, palette };
}

/**
 * Reads a picture from the top to the bottom once: sums up its values, and writes smaller ones of it, each half as large as the one before,
 * from {@link firstLevel} on. They are for showing it.
 * @param sink is closed at the end
 */
export async function writePyramid(image: OpenImage, sink: ByteSink, watch: Watch): Promise<{ bands: BandProfile[]; empty: number }> {
  const { width, height } = image.info;
  const like = keptLike(image.info);
  const own = asLike(image, like);
  const half = firstLevel(image) === 1;
  const scaled = (side: number): number => (half ? (side + 1) >> 1 : side);
  const writer = await createTiff(
    sink,
    { ...like, masked: false, width: scaled(width), height: scaled(height) },
    { packing: 'deflate', quality: 100, overviews: true, place: null },
  );
  const tally = new BandTally(like.bands - Number(like.alpha), width * height);
  const rows = half ? 2 * writer.rows : writer.rows;
  for (let y = 0; y < height; y += rows) {
    watch.check();
    const strip = await own.read({ x: 0, y, width, height: Math.min(rows, height - y) });
    tally.add(strip);
    await writer.append(half ? halve(strip, own.info) : strip);
    watch.progress((y + strip.height) * width, width * height);
  }
  await writer.close();
  return { bands: tally.profiles(), empty: tally.empty };
}

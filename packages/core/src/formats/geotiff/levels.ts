import type { ByteSource } from '../../io/bytes';
import type { ImageReader } from '../../raster/warp';
import { Blocks } from './blocks';
import { layoutOf } from './layout';
import { readDirectories } from './structure';

/** The pictures of a TIFF that was written here, the largest first: the same picture again and again, each half as large as the one before. */
export async function openLevels(source: ByteSource): Promise<ImageReader[]> {
  const { directories, littleEndian } = await readDirectories(source);
  return directories.map((directory) => {
    const layout = layoutOf(directory, source);
    const blocks = new Blocks(source, layout, littleEndian);
    return { info: layout.info, read: (window) => blocks.read(window) };
  });
}

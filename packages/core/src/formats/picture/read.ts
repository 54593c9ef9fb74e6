import type { ByteSource } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import type { Findings } from '../../model/finding';
import { Blocks } from '../geotiff/blocks';
import { layoutOf } from '../geotiff/layout';
import { readDirectories } from '../geotiff/structure';
import { extensionOf } from '../extension';
import type { Georeference, OpenImage } from '../image-face';
import { prjBeside } from '../prj';
import { tellDamage } from './damage';
import { dateInJpeg } from './date-made';
import { worldFileBeside } from './world-file';

/**
 * Opens a picture that the engine unpacks; where it lies stands beside it.
 * @throws Problem `world-file-damaged`, `image-damaged`, `image-too-large`
 */
export const openPicture = (source: ByteSource, findings: Findings): Promise<OpenImage> =>
  openUnpacked(source, findings, () => placeBeside(source, findings));

/** What a world file and a .prj beside a picture say; the size of the grid is still to be set. */
export async function placeBeside(source: ByteSource, findings: Findings): Promise<Georeference> {
  const beside = await worldFileBeside(source, extensionOf(source.name));
  const prj = await prjBeside(source);
  if (prj.error !== null) findings.add({ code: 'crs-not-understood', severity: 'caution', message: prj.error, count: 1 });
  return { grid: beside && { map: beside.map, width: 0, height: 0 }, pairs: null, crs: prj.crs, crsText: prj.text };
}

/**
 * Opens a picture that the engine unpacks.
 * @param placed finds where it lies; the size of the grid is that of the picture
 */
export async function openUnpacked(source: ByteSource, findings: Findings, placed: () => Promise<Georeference>): Promise<OpenImage> {
  const where = await placed();
  const date = await dateInJpeg(source);
  const unpacked = await imageEngine().unpacked(source);
  tellDamage(unpacked.damage, findings);
  try {
    const { littleEndian, directories } = await readDirectories(unpacked.source);
    const layout = layoutOf(directories[0]!, unpacked.source);
    const { info } = layout;
    const blocks = new Blocks(unpacked.source, layout, littleEndian);
    return {
      info,
      where: { ...where, grid: where.grid && { map: where.grid.map, width: info.width, height: info.height } },
      version: `${info.bands} ${info.bands === 1 ? 'band' : 'bands'} of ${info.sampleType}`,
      unpacked: true,
      ...(date === null ? {} : { date }),
      read: (window) => blocks.read(window),
      close: async () => {
        blocks.close();
        await unpacked.remove();
      },
    };
  } catch (error) {
    await unpacked.remove();
    throw error;
  }
}

import type { ByteSource } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import type { Findings } from '../../model/finding';
import { Blocks } from '../geotiff/blocks';
import { layoutOf } from '../geotiff/layout';
import { readDirectories } from '../geotiff/structure';
import { extensionOf } from '../extension';
import type { OpenImage } from '../image-face';
import { prjBeside } from '../prj';
import { tellDamage } from './damage';
import { worldFileBeside } from './world-file';

/**
 * Opens a picture that the engine unpacks; where it lies stands beside it.
 * @throws Problem `world-file-damaged`, `image-damaged`, `image-too-large`
 */
export async function openPicture(source: ByteSource, findings: Findings): Promise<OpenImage> {
  const beside = await worldFileBeside(source, extensionOf(source.name));
  const prj = await prjBeside(source);
  if (prj.error !== null) findings.add({ code: 'crs-not-understood', severity: 'caution', message: prj.error, count: 1 });
  const unpacked = await imageEngine().unpacked(source);
  tellDamage(unpacked.damage, findings);
  try {
    const { littleEndian, directories } = await readDirectories(unpacked.source);
    const layout = layoutOf(directories[0]!, unpacked.source);
    const { info } = layout;
    const blocks = new Blocks(unpacked.source, layout, littleEndian);
    return {
      info,
      where: {
        grid: beside && { map: beside.map, width: info.width, height: info.height },
        pairs: null,
        crs: prj.crs,
        crsText: prj.text,
      },
      version: `${info.bands} ${info.bands === 1 ? 'band' : 'bands'} of ${info.sampleType}`,
      read: (window) => blocks.read(window),
      close: unpacked.remove,
    };
  } catch (error) {
    await unpacked.remove();
    throw error;
  }
}

import { corners, type PixelGrid } from '../../../raster/pixel-grid';
import type { EntityWriter, ExtendedData } from './geometry';
import type { GroupWriter } from './groups';

/** A picture that a drawing shows, with the handles of the objects behind it. */
export interface ShownPicture {
  /** Its file, beside the drawing. */
  file: string;
  grid: PixelGrid;
  image: string;
  definition: string;
  reactor: string;
}

/** The classes of objects that come of pictures; a drawing names them before it has any. Source: DXF Reference, CLASSES. */
const CLASSES = [
  ['IMAGE', 'AcDbRasterImage', 127, 1],
  ['IMAGEDEF', 'AcDbRasterImageDef', 0, 0],
  ['IMAGEDEF_REACTOR', 'AcDbRasterImageDefReactor', 1, 0],
] as const;

/** Writes the classes that a drawing with pictures has to define. Source: DXF Reference 2010, CLASSES. */
export function putPictureClasses(out: GroupWriter): void {
  for (const [name, type, flags, isEntity] of CLASSES) {
    out.put(0, 'CLASS');
    out.put(1, name);
    out.put(2, type);
    out.put(3, 'ISM');
    out.put(90, flags);
    // the count of objects came with R2004
    if (out.version.located) out.put(91, 1);
    out.put(280, 0);
    out.put(281, isEntity);
  }
}

/** Puts a picture where its pixels lie: from its lower left corner, a step a pixel to the right and upwards. Source: DXF Reference, IMAGE. */
export function putPicture(
  hand: EntityWriter,
  layer: string,
  file: string,
  grid: PixelGrid,
  behind: ExtendedData = () => {},
): ShownPicture {
  const { out } = hand;
  const { map: a, width, height } = grid;
  const p = corners(grid);
  let image = '';
  hand.drawn = (handle) => (image = handle);
  hand.begin('IMAGE', layer, {}, 'AcDbRasterImage');
  hand.drawn = null;
  const [definition, reactor] = [out.handle(), out.handle()];
  out.put(90, 0);
  out.point(10, p[6]!, p[7]!, 0);
  out.point(11, a[1], a[4], 0);
  out.point(12, -a[2], -a[5], 0);
  out.put(13, width);
  out.put(23, height);
  out.put(340, definition);
  // shown, also where it is not along the screen
  out.put(70, 3);
  out.put(280, 0);
  out.put(281, 50);
  out.put(282, 50);
  out.put(283, 0);
  out.put(360, reactor);
  out.put(71, 1);
  out.put(91, 2);
  for (const [x, y] of [
    [-0.5, -0.5],
    [width - 0.5, height - 0.5],
  ] as const) {
    out.put(14, x);
    out.put(24, y);
  }
  behind(out);
  return { file, grid, image, definition, reactor };
}

/** The definitions of pictures, in the dictionary that lists them. Source: DXF Reference, IMAGEDEF and IMAGEDEF_REACTOR. */
export function putDefinitions(out: GroupWriter, dictionary: string, pictures: readonly ShownPicture[]): void {
  for (const { file, grid, image, definition, reactor } of pictures) {
    out.put(0, 'IMAGEDEF');
    out.put(5, definition);
    out.put(102, '{ACAD_REACTORS');
    out.put(330, dictionary);
    out.put(330, reactor);
    out.put(102, '}');
    out.put(330, dictionary);
    out.put(100, 'AcDbRasterImageDef');
    out.put(90, 0);
    out.words(1, file);
    out.put(10, grid.width);
    out.put(20, grid.height);
    out.put(11, Math.hypot(grid.map[1], grid.map[4]));
    out.put(21, Math.hypot(grid.map[2], grid.map[5]));
    out.put(280, 1);
    out.put(281, 0);
    out.put(0, 'IMAGEDEF_REACTOR');
    out.put(5, reactor);
    out.put(330, image);
    out.put(100, 'AcDbRasterImageDefReactor');
    out.put(90, 2);
    out.put(330, image);
  }
}

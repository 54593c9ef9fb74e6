import type { PlacedImage } from '../content/raster/plan';
import { asShown, isPictorial } from '../content/raster/shown';
import { type MapScale, pixelOfMap, pixelsPerMm } from '../content/map/map-scale';
import { type Crs, isPlane } from '../crs/crs';
import { type Bounds, emptyBounds, isEmpty, join } from '../geometry/bounds';
import { Problem } from '../model/problem';
import { gridOver } from '../raster/pixel-grid';
import { extentInTarget } from '../raster/target-grid';
import type { SourceSummary } from './crossing-source';
import { drawnExtent, mapBlocked } from './map-image';
import { imageRule, type Recipe } from './recipe';

/** The sheet that a map is drawn on: its pictures as they are shown, or white where there are none. */
export interface MapSheet {
  pictures: { placed: PlacedImage; same: boolean }[];
  /** In the target. */
  bounds: Bounds;
  /** Size of a pixel, in units of the target. */
  pixel: number;
}

/** Room around what is drawn, for the marks of points at its edge, millimetres. */
const MARGIN_MM = 5;

/**
 * The sheet of a map.
 * @param area what is wanted of the target; all that is drawn, with some room around it, where it is null
 * @param pictures those that lie below, with the stretch that is usual for them
 * @throws Problem `map-system`, `map-empty`, `stretch-missing`
 */
export function sheetOf(
  recipe: Recipe,
  scale: MapScale,
  area: Bounds | null,
  pictures: readonly { placed: PlacedImage; same: boolean; stretch: readonly [number, number] | undefined }[],
  records: readonly SourceSummary[],
  target: Crs,
): MapSheet {
  const blocked = mapBlocked(target);
  if (blocked !== null || !isPlane(target)) throw new Problem('map-system', blocked!);
  const pixel = pixelOfMap(scale, target);
  const bounds = area ?? grownBy(allOf(pictures, drawnExtent(recipe, records, target)), MARGIN_MM * pixelsPerMm(scale) * pixel);
  const shown = pictures.map(({ placed, same, stretch }) => ({ placed: shownBy(recipe, placed, stretch), same }));
  return { pictures: shown.length > 0 ? shown : [{ placed: white(bounds, pixel), same: true }], bounds, pixel };
}

function allOf(pictures: readonly { placed: PlacedImage }[], records: Bounds | null): Bounds {
  const box = records ? ([...records] as Bounds) : emptyBounds();
  for (const { placed } of pictures) {
    const own = extentInTarget(placed);
    if (own) join(box, own);
  }
  if (isEmpty(box))
    throw new Problem('map-empty', 'There is nothing to draw on this map. Take a layer or an image in Gather, and place it.');
  return box;
}

const grownBy = ([x0, y0, x1, y1]: Bounds, by: number): Bounds => [x0 - by, y0 - by, x1 + by, y1 + by];

function shownBy(recipe: Recipe, placed: PlacedImage, usual: readonly [number, number] | undefined): PlacedImage {
  const { shown } = imageRule(recipe, placed.source);
  const { info } = placed.image;
  if (isPictorial(info) && !shown?.stretch && !shown?.bands) return placed;
  const stretch = shown?.stretch ?? usual ?? (info.sampleType === 'uint8' ? ([0, 255] as const) : null);
  if (!stretch)
    throw new Problem(
      'stretch-missing',
      `${placed.name} has samples of ${info.sampleType}, and a map shows 8 bits: say which values are black and white (stretch).`,
      { file: placed.name },
    );
  return { ...placed, image: asShown(placed.image, { stretch, bands: shown?.bands }) };
}

/** A white sheet. */
function white(bounds: Bounds, pixel: number): PlacedImage {
  const grid = gridOver(bounds, [pixel, pixel]);
  const still = (): void => {};
  return {
    source: '',
    name: 'sheet',
    sheet: true,
    grid,
    toSource: still,
    toTarget: still,
    image: {
      info: {
        width: grid.width,
        height: grid.height,
        bands: 3,
        sampleType: 'uint8',
        colour: 'rgb',
        alpha: false,
        nodata: null,
        palette: null,
        masked: false,
      },
      read: ({ width, height }) =>
        Promise.resolve({ width, height, bands: 3, data: new Uint8Array(3 * width * height).fill(255), valid: null }),
    },
  };
}

import type { Finding } from '../../model/finding';
import { extentOfGrid, type GridMap, pixelSize } from '../../raster/pixel-grid';
import type { Resampling } from '../../raster/resample';
import type { Bounds } from '../../geometry/bounds';
import type { ImagePlan } from './plan';
import { type StoredInfo, storedInfo } from './profile';

/** What will become of a picture, before it is written. */
export interface ImageForecast {
  info: StoredInfo;
  map: GridMap;
  /** Along the axes, in units of the target. */
  pixelSize: [number, number];
  /** The outer edges, in the target. */
  extent: Bounds;
  /** What it is made of, from the top. */
  sources: { source: string; name: string }[];
  resampling: Resampling;
  /** Whether all pixels are those of the sources, as they are. */
  samePixels: boolean;
  /** Degrees, counter-clockwise, by which the rows of the first source are turned in the target. */
  turned: number;
  /** Values by which a piece may differ on the mean through its packing; null where values arrive as they are worked out. */
  packed: number | null;
  files: string[];
  /** Pictures that it is split into; one where it is not. */
  tiles: number;
  findings: Finding[];
  blocked: string[];
}

/** The forecast of a plan; it reads no pixel. */
export function imageForecast(plan: ImagePlan): ImageForecast {
  const { target, format, sources } = plan;
  const { info, grid } = target;
  return {
    info: storedInfo(info),
    map: grid.map,
    pixelSize: pixelSize(grid),
    extent: extentOfGrid(grid),
    sources: sources.filter((s) => !s.sheet).map(({ source, name }) => ({ source, name })),
    resampling: plan.resampling,
    samePixels: plan.samePixels,
    turned: turnOf(plan),
    packed: format.images.carries(target.options).packed,
    files: format.images.write!.files(target.stem, target.options),
    tiles: plan.parts.length,
    findings: plan.findings,
    blocked: plan.blocked,
  };
}

/** How the middle row of the first source runs in the target, against the row of the target. */
function turnOf({ sources, target: { grid } }: ImagePlan): number {
  const [{ grid: own, toTarget }] = sources as [ImagePlan['sources'][number]];
  const { map: a, width, height } = own;
  const at = (c: number): [number, number] => [a[0] + a[1] * c + (a[2] * height) / 2, a[3] + a[4] * c + (a[5] * height) / 2];
  const p = Float64Array.of(...at(0.25 * width), ...at(0.75 * width));
  toTarget(p);
  const angle = Math.atan2(p[3]! - p[1]!, p[2]! - p[0]!) - Math.atan2(grid.map[4], grid.map[1]);
  return Number.isNaN(angle) ? 0 : (((((angle * 180) / Math.PI) % 360) + 540) % 360) - 180;
}

import { type Crs, isOnEarth } from '../../crs/crs';
import { sameSystem } from '../../crs/registry/identify';
import type { FolderSource, Watch } from '../../io/bytes';
import type { OpenImage } from '../../formats/image-face';
import { Findings } from '../../model/finding';
import { Cancelled, messageOf } from '../../model/problem';
import type { PixelWindow, Raster } from '../../model/raster';
import { corners, pixelSize, through } from '../../raster/pixel-grid';
import { shiftBetween } from '../../raster/registration';
import { apart } from './compare-piece';
import { exactWindow, piecesOf } from './expected';
import type { Like } from './like';
import { ahead, type PieceWork } from './piece-work';
import { pixelAccount } from './pixel-account';
import type { ImagePlan } from './plan';
import type { ImageDifference, ImageProof, RegistrationPlace } from './proof';

/** Places along the longer side at which registration is measured, and pixels of such a place. */
const PLACES = 6,
  PLACE = 48;

/** Pixels by which the picture may lie off its sources: on the whole, and anywhere. */
const MOST_RMS_PX = 0.25,
  MOST_PX = 0.5;

/** Share of a pixel by which corners that a file states may be off. */
const MOST_CORNER_PX = 0.01;

/** How far a value may be off what it is exactly: the share of what lies around it that a position off by a tenth of a pixel explains. */
const OFF_SHARE = 0.25;

/**
 * Compares what was written with its sources, which are read once more: size, samples, place and system as the file states them; every
 * pixel with what it should be; pixels at chosen places with what they are without any approximation; the registration there; and what
 * became of every pixel of every source.
 * @param metresPerUnit of the target
 * @param begin makes what works on pieces of it
 */
export async function proveImage(
  plan: ImagePlan,
  folder: FolderSource,
  metresPerUnit: number,
  begin: (shown: OpenImage) => Promise<PieceWork>,
  watch: Watch,
): Promise<ImageProof> {
  const { target } = plan;
  const findings = new Findings();
  const differences: ImageDifference[] = [];
  const differs = (code: ImageDifference['code'], message: string, count = 1, expected = false): void =>
    void differences.push({ code, message, count, expected });
  const failed = (message: string): ImageProof => ({
    content: 'images',
    status: 'failed',
    size: { width: target.info.width, height: target.info.height, bands: target.info.bands },
    maxDeviation_m: 0,
    corners: [],
    values: { compared: 0, different: 0, meanDifference: 0, exact: { compared: 0, beyond: 0 } },
    registration: { places: [], rms_px: null, largest_px: null },
    differences: [{ code: 'unreadable', message, count: 1, expected: false }],
    findings: findings.list(),
    account: [],
  });
  let shown: OpenImage;
  let work: PieceWork | null = null;
  try {
    shown = await plan.format.images.write!.readBack(folder, target, findings);
  } catch (error) {
    if (error instanceof Cancelled) throw error;
    return failed(`What was written could not be read back: ${messageOf(error)}`);
  }
  try {
    const { info } = shown;
    if (info.width !== target.info.width || info.height !== target.info.height) {
      differs('size', `It is ${info.width} by ${info.height} pixels where it should be ${target.info.width} by ${target.info.height}.`);
      return { ...failed(''), differences };
    }
    const { packed } = plan.format.images.carries(target.options);
    const lossy = packed !== null;
    if (info.bands !== plan.like.bands || info.sampleType !== plan.like.sampleType || info.alpha !== plan.like.alpha)
      differs('samples', `It has ${said(info)} where it should have ${said(plan.like)}.`);
    const off = cornersOff(shown, plan);
    if (off === null || off > MOST_CORNER_PX)
      differs(
        'georeferencing',
        off === null ? 'The file does not say where it lies.' : `Its corners lie ${off.toPrecision(2)} pixels off.`,
      );
    if (!states(shown.where.crs, target.crs))
      differs('crs', `The file states ${shown.where.crs?.name ?? 'no system'} where it should state ${target.crs.name}.`);
    if (differences.some((d) => d.code === 'samples')) return { ...failed(''), status: 'differs', differences };
    work = await begin(shown);
    const { values, off: cells } = await compareAll(plan, work, watch);
    if (!lossy && values.different > 0)
      differs('values', `${values.different} pixels read back with other values than they should have.`, values.different);
    const worst = cells.reduce((most, off) => Math.max(most, off), 0);
    if (packed !== null && worst > allowedOf(packed, cells))
      differs('values', `A piece of the picture differs by ${worst.toPrecision(3)} on the mean, more than its packing explains.`);
    const { places, exact } = await comparePlaces(plan, shown, lossy, watch);
    if (exact.beyond > 0)
      differs(
        'values',
        `${exact.beyond} of ${exact.compared} pixels are further off their exact values than a tenth of a pixel explains.`,
        exact.beyond,
      );
    const registration = summed(places);
    if ((registration.rms_px ?? 0) > MOST_RMS_PX || (registration.largest_px ?? 0) > MOST_PX)
      differs('registration', `It lies up to ${registration.largest_px!.toPrecision(2)} pixels off its sources.`);
    const account = await pixelAccount(plan, work, watch);
    const missing = account.reduce((n, row) => n + row.missing, 0);
    if (missing > 0) differs('pixels', `${missing} pixels that should have a value have none.`, missing);
    return {
      content: 'images',
      status: differences.every((d) => d.expected) ? 'match' : 'differs',
      size: { width: info.width, height: info.height, bands: info.bands },
      maxDeviation_m: (off ?? 0) * Math.max(...pixelSize(target.grid)) * metresPerUnit,
      corners: cornersOf(plan),
      values: { ...values, exact },
      registration: { places, ...registration },
      differences,
      findings: findings.list(),
      account,
    };
  } catch (error) {
    if (error instanceof Cancelled) throw error;
    return failed(`What was written could not be read back: ${messageOf(error)}`);
  } finally {
    await work?.close();
    await shown.close();
  }
}

/** Whether a file states the system that it should; a plane of its own by its unit. */
const states = (stated: Crs | null, wanted: Crs): boolean =>
  stated !== null &&
  (isOnEarth(wanted) ? sameSystem(stated, wanted) : !isOnEarth(stated) && Math.abs(stated.unit.metres / wanted.unit.metres - 1) < 1e-9);

const said = ({ bands, sampleType, alpha }: Pick<Like, 'bands' | 'sampleType' | 'alpha'>): string =>
  `${bands} ${bands === 1 ? 'band' : 'bands'} of ${sampleType}${alpha ? ' with alpha' : ''}`;

/** Pixels by which the corners that a file states lie off where they should; null where it states none. */
function cornersOff({ where, info }: OpenImage, { target }: ImagePlan): number | null {
  if (!where.grid) return null;
  const stated = corners({ ...where.grid, width: info.width, height: info.height }),
    wanted = corners(target.grid);
  const [dx, dy] = pixelSize(target.grid);
  let off = 0;
  for (let k = 0; k < 8; k++) off = Math.max(off, Math.abs(stated[k]! - wanted[k]!) / (k % 2 === 0 ? dx : dy));
  return off;
}

function cornersOf({ target, sources }: ImagePlan): ImageProof['corners'] {
  const own = corners(target.grid),
    there = own.slice();
  sources[0]!.toSource(there);
  return [0, 2, 4, 6].map((k) => ({
    target: [own[k]!, own[k + 1]!],
    source: Number.isNaN(there[k]! + there[k + 1]!) ? null : [there[k]!, there[k + 1]!],
  }));
}

/** All pixels, worked out once more. @returns how far each cell is off as well, where values are packed with loss */
async function compareAll(
  { target: { info } }: ImagePlan,
  work: PieceWork,
  watch: Watch,
): Promise<{ values: Omit<ImageProof['values'], 'exact'>; off: number[] }> {
  let compared = 0,
    different = 0,
    sum = 0;
  const off: number[] = [];
  for await (const [piece, own] of ahead(piecesOf(info.width, info.height), work.atOnce, (window) => work.compared(window))) {
    watch.check();
    compared += own.compared;
    different += own.different;
    sum += own.sum;
    off.push(...own.off);
    watch.progress(piece.y * info.width + piece.x, info.width * info.height);
  }
  return { values: { compared, different, meanDifference: sum / compared }, off };
}

/**
 * How far a cell may be off by its packing: as the format says, or, where the picture is hard to pack, some times what its cells are off in the
 * middle; never three times what the format says.
 */
function allowedOf(packed: number, cells: readonly number[]): number {
  const middle = [...cells].sort((a, b) => a - b)[cells.length >> 1] ?? 0;
  return Math.max(packed, Math.min(3 * packed, 2.5 * middle));
}

/** Windows spread over the picture, in each of which pixels are worked out exactly and the registration is measured. */
async function comparePlaces(
  plan: ImagePlan,
  shown: OpenImage,
  lossy: boolean,
  watch: Watch,
): Promise<{ places: RegistrationPlace[]; exact: { compared: number; beyond: number } }> {
  const { grid, info } = plan.target;
  const places: RegistrationPlace[] = [];
  const exact = { compared: 0, beyond: 0 };
  const longest = Math.max(info.width, info.height);
  const count = (side: number): number => Math.max(1, Math.round((PLACES * side) / longest));
  const [nx, ny] = [count(info.width), count(info.height)];
  for (let j = 0; j < ny; j++)
    for (let k = 0; k < nx; k++) {
      watch.check();
      const window = placeAt((k + 0.5) / nx, (j + 0.5) / ny, info);
      const { raster: expected, apart: seam } = await exactWindow(plan, window);
      const got = await shown.read(window);
      if (!lossy) {
        const { compared, beyond } = beyondIn(expected, got, plan, seam);
        exact.compared += compared;
        exact.beyond += beyond;
      }
      const at = Float64Array.of(window.x + window.width / 2, window.y + window.height / 2);
      through(grid.map, at);
      const covered = expected.valid!.every((v) => v === 1);
      places.push({
        x: at[0]!,
        y: at[1]!,
        shift: covered && !plan.like.palette ? shiftBetween({ ...expected, valid: null }, { ...got, valid: null }) : null,
      });
    }
  return { places, exact };
}

function placeAt(s: number, t: number, { width, height }: { width: number; height: number }): PixelWindow {
  const [w, h] = [Math.min(PLACE, width), Math.min(PLACE, height)];
  const start = (share: number, side: number, own: number): number => Math.min(side - own, Math.max(0, Math.round(share * side - own / 2)));
  return { x: start(s, width, w), y: start(t, height, h), width: w, height: h };
}

/**
 * Pixels that are further off than what lies within a pixel of them explains. Where the nearest pixel is taken, it must be one of these.
 * @param seam how far a sample may be off where pictures pass into each other
 */
function beyondIn(
  expected: Raster,
  got: Raster,
  { like, resampling }: ImagePlan,
  seam: ((at: number) => number) | null,
): { compared: number; beyond: number } {
  const { width, height, bands, data, valid } = expected;
  const nearest = resampling === 'nearest' || resampling === 'mode';
  const rounding = like.sampleType.startsWith('float') ? 0 : 1;
  let compared = 0,
    beyond = 0;
  for (let r = 1; r + 1 < height; r++)
    for (let c = 1; c + 1 < width; c++) {
      const i = r * width + c;
      const ring = [i - width - 1, i - width, i - width + 1, i - 1, i, i + 1, i + width - 1, i + width, i + width + 1];
      if (ring.some((k) => !valid![k])) continue;
      compared++;
      for (let b = 0; b < bands; b++) {
        const value = got.data[i * bands + b]!;
        const values = ring.map((k) => data[k * bands + b]!).filter((v) => !Number.isNaN(v));
        const low = Math.min(...values),
          high = Math.max(...values);
        const own = data[i * bands + b]!;
        const allowed = nearest ? high - low : OFF_SHARE * (high - low) + rounding + 1e-6 * Math.abs(own || 0);
        if (!(apart(value, own) <= allowed + (seam?.(i * bands + b) ?? 0))) {
          beyond++;
          break;
        }
      }
    }
  return { compared, beyond };
}

function summed(places: readonly RegistrationPlace[]): { rms_px: number | null; largest_px: number | null } {
  const lengths = places.flatMap(({ shift }) => (shift ? [Math.hypot(shift.dx, shift.dy)] : []));
  if (lengths.length === 0) return { rms_px: null, largest_px: null };
  return { rms_px: Math.sqrt(lengths.reduce((n, d) => n + d * d, 0) / lengths.length), largest_px: Math.max(...lengths) };
}

import { isNoValue } from './none';
import type { Piece } from './piece';
import { betweenBytes, betweenWholes, LONGEST_FOR_BYTES } from './between-four';
import { type ImageInfo, type Raster, SAMPLE_KINDS } from '../model/raster';

/** How a value between pixels is worked out. */
export const RESAMPLINGS = ['nearest', 'bilinear', 'cubic', 'average', 'mode'] as const;
export type Resampling = (typeof RESAMPLINGS)[number];

/** A weight for each pixel along one axis, by its distance in pixels. */
interface Kernel {
  /** Pixels from the middle beyond which the weight is none, where nothing shrinks. */
  radius: number;
  weight(distance: number): number;
}

/**
 * Source: R. Keys, Cubic convolution interpolation for digital image processing, IEEE Transactions on Acoustics, Speech and Signal
 * Processing 29 (1981), equation 15, with a = -1/2.
 */
const cubic = (d: number): number => {
  const x = Math.abs(d);
  if (x >= 2) return 0;
  return x <= 1 ? (1.5 * x - 2.5) * x * x + 1 : ((-0.5 * x + 2.5) * x - 4) * x + 2;
};

const KERNELS: Partial<Record<Resampling, Kernel>> = {
  bilinear: { radius: 1, weight: (d) => Math.max(0, 1 - Math.abs(d)) },
  cubic: { radius: 2, weight: cubic },
};

/** Source pixels that one pixel of the target covers along each axis; one at least for what interpolates. */
export interface Footprint {
  sx: number;
  sy: number;
}

/** The footprint in the middle of a window of positions, of which a row has `width`. */
export function footprintOf(positions: Float64Array, width: number, height: number): Footprint {
  const at = (c: number, r: number, k: number): number => positions[2 * (r * width + c) + k]!;
  const c0 = Math.max(0, (width >> 1) - 1),
    r0 = Math.max(0, (height >> 1) - 1);
  const c1 = Math.min(width - 1, c0 + 1),
    r1 = Math.min(height - 1, r0 + 1);
  const along = (k: number): number => Math.hypot(c1 > c0 ? at(c1, r0, k) - at(c0, r0, k) : 0, r1 > r0 ? at(c0, r1, k) - at(c0, r0, k) : 0);
  const [sx, sy] = [along(0), along(1)];
  return { sx: sx > 0 ? sx : 1, sy: sy > 0 ? sy : 1 };
}

/** Pixels around a position that a resampling looks at. */
export function reach(kind: Resampling, { sx, sy }: Footprint): [number, number] {
  const radius = KERNELS[kind]?.radius;
  if (radius !== undefined) return [Math.ceil(radius * Math.max(1, sx)) + 1, Math.ceil(radius * Math.max(1, sy)) + 1];
  return kind === 'nearest' ? [1, 1] : [Math.ceil(sx / 2) + 1, Math.ceil(sy / 2) + 1];
}

/**
 * Fills those pixels of `out` that have no value yet from a piece of a source.
 *
 * A pixel gets a value where the source pixel at its centre has one, so that edges lie where they lie in the source; what is worked out
 * from several takes only those that have a value. Where the target has fewer pixels than the source, the kernels are stretched by as much,
 * so that nothing is passed over.
 *
 * @param positions of the pixel centres of `out` in the source, by twos; NaN where there is none
 */
export function resampleInto(
  out: Raster,
  positions: Float64Array,
  { window, raster }: Piece,
  kind: Resampling,
  footprint: Footprint,
  info: Pick<ImageInfo, 'alpha' | 'sampleType' | 'nodata'>,
): void {
  const { bands, data, valid } = raster;
  const { real, lowest, highest } = SAMPLE_KINDS[info.sampleType];
  const done = out.valid!;
  const plain = kind === 'bilinear' && footprint.sx <= 1 + SAME_SIZE && footprint.sy <= 1 + SAME_SIZE;
  if (plain && valid === null && info.nodata === null && !real) {
    const between = info.sampleType === 'uint8' && Math.max(raster.width, raster.height) < LONGEST_FOR_BYTES ? betweenBytes : betweenWholes;
    return between(out, positions, { window, raster }, info.alpha);
  }
  const sampler = kind === 'nearest' ? null : new Sampler(raster, kind, footprint, info);
  const n = out.width * out.height;
  for (let i = 0; i < n; i++) {
    if (done[i]) continue;
    const u = positions[2 * i]! - window.x,
      v = positions[2 * i + 1]! - window.y;
    const c = Math.floor(u),
      r = Math.floor(v);
    // NaN compares false
    if (!(c >= 0 && r >= 0 && c < raster.width && r < raster.height)) continue;
    const at = r * raster.width + c;
    if (valid && !valid[at]) {
      // what cannot be seen keeps its colour, unless another picture has something there
      if (info.alpha) for (let b = 0; b < bands; b++) out.data[i * bands + b] = data[at * bands + b]!;
      continue;
    }
    done[i] = 1;
    if (sampler === null) {
      for (let b = 0; b < bands; b++) out.data[i * bands + b] = data[at * bands + b]!;
      continue;
    }
    const values = sampler.at(u, v);
    for (let b = 0; b < bands; b++) {
      const value = values[b]!;
      out.data[i * bands + b] = real ? value : Math.min(highest, Math.max(lowest, Math.round(value)));
    }
  }
}

/** Share by which pixels of the target may be larger than those of the source and still be worked out from four. */
const SAME_SIZE = 0.01;

/** Works out values of a piece between its pixels. */
class Sampler {
  private readonly values: Float64Array;
  /** Weights that each band was given; a band may have no value where others have one. */
  private readonly sums: Float64Array;
  private readonly alpha: boolean;
  private readonly nodata: number | null;
  private readonly mayLack: boolean;
  private wx = new Float64Array(8);
  private wy = new Float64Array(8);
  private readonly kernel: Kernel | undefined;
  private readonly sx: number;
  private readonly sy: number;
  private readonly counts = new Map<number, number>();

  constructor(
    private readonly raster: Raster,
    private readonly kind: Resampling,
    { sx, sy }: Footprint,
    { alpha, nodata, sampleType }: Pick<ImageInfo, 'alpha' | 'nodata' | 'sampleType'>,
  ) {
    this.mayLack = nodata !== null || SAMPLE_KINDS[sampleType].real;
    this.alpha = alpha;
    this.nodata = nodata;
    this.values = new Float64Array(raster.bands);
    this.sums = new Float64Array(raster.bands);
    this.kernel = KERNELS[kind];
    [this.sx, this.sy] = this.kernel ? [Math.max(1, sx), Math.max(1, sy)] : [sx, sy];
  }

  at(u: number, v: number): Float64Array {
    const { width, height } = this.raster;
    const c0 = this.first(u, this.sx),
      r0 = this.first(v, this.sy);
    const nx = this.last(u, this.sx) - c0 + 1,
      ny = this.last(v, this.sy) - r0 + 1;
    if (nx > this.wx.length) this.wx = new Float64Array(2 * nx);
    if (ny > this.wy.length) this.wy = new Float64Array(2 * ny);
    this.weights(this.wx, c0, nx, u, this.sx, width);
    this.weights(this.wy, r0, ny, v, this.sy, height);
    return this.kind === 'mode' ? this.most(c0, r0, nx, ny) : this.mean(c0, r0, nx, ny, Math.floor(v) * width + Math.floor(u));
  }

  private radius(s: number): number {
    return this.kernel ? this.kernel.radius * s : s / 2;
  }

  private first(u: number, s: number): number {
    // pixel i has its centre at i + 0.5 and its edges at i and i + 1
    return this.kernel ? Math.ceil(u - 0.5 - this.radius(s)) : Math.floor(u - this.radius(s));
  }

  private last(u: number, s: number): number {
    return this.kernel ? Math.floor(u - 0.5 + this.radius(s)) : Math.ceil(u + this.radius(s)) - 1;
  }

  private weights(w: Float64Array, first: number, n: number, u: number, s: number, end: number): void {
    for (let k = 0; k < n; k++) {
      const i = first + k;
      if (i < 0 || i >= end) w[k] = 0;
      else if (this.kernel) w[k] = this.kernel.weight((i + 0.5 - u) / s);
      else w[k] = Math.max(0, Math.min(i + 1, u + s / 2) - Math.max(i, u - s / 2));
    }
  }

  private mean(c0: number, r0: number, nx: number, ny: number, centre: number): Float64Array {
    const { bands, data, valid, width } = this.raster;
    const { values, sums, alpha, nodata } = this;
    values.fill(0);
    sums.fill(0);
    const colours = alpha ? bands - 1 : bands;
    let sum = 0,
      opaque = 0;
    for (let j = 0; j < ny; j++) {
      if (this.wy[j] === 0) continue;
      for (let k = 0; k < nx; k++) {
        const w = this.wx[k]! * this.wy[j]!;
        if (w === 0) continue;
        const at = (r0 + j) * width + c0 + k;
        if (valid && !valid[at] && !alpha) continue;
        const from = at * bands;
        sum += w;
        // what cannot be seen has no colour
        const seen = alpha ? w * data[from + colours]! : w;
        if (seen === 0) continue;
        opaque += seen;
        for (let b = 0; b < colours; b++) {
          const value = data[from + b]!;
          if (this.mayLack && isNoValue(value, nodata)) continue;
          values[b] = values[b]! + seen * value;
          sums[b] = sums[b]! + seen;
        }
      }
    }
    for (let b = 0; b < colours; b++)
      values[b] = this.mayLack && isNoValue(data[centre * bands + b]!, nodata) ? (nodata ?? NaN) : values[b]! / sums[b]!;
    if (alpha) values[colours] = opaque / sum;
    return values;
  }

  /** The value that covers most of the footprint; the lowest of several. */
  private most(c0: number, r0: number, nx: number, ny: number): Float64Array {
    const { bands, data, valid, width } = this.raster;
    for (let b = 0; b < bands; b++) {
      this.counts.clear();
      let best = NaN,
        top = -1;
      for (let j = 0; j < ny; j++)
        for (let k = 0; k < nx; k++) {
          const w = this.wx[k]! * this.wy[j]!;
          const at = (r0 + j) * width + c0 + k;
          if (w === 0 || (valid && !valid[at])) continue;
          const value = data[at * bands + b]!;
          const covered = (this.counts.get(value) ?? 0) + w;
          this.counts.set(value, covered);
          if (covered > top + 1e-9 || (covered > top - 1e-9 && value < best)) [top, best] = [Math.max(covered, top), value];
        }
      this.values[b] = best;
    }
    return this.values;
  }
}

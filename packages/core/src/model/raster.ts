/** How one sample of a picture is stored. */
export const SAMPLE_TYPES = ['uint8', 'int8', 'uint16', 'int16', 'uint32', 'int32', 'float32', 'float64'] as const;
export type SampleType = (typeof SAMPLE_TYPES)[number];

/** The samples of a raster, row after row, the bands of a pixel together. */
export type Samples = Uint8Array | Int8Array | Uint16Array | Int16Array | Uint32Array | Int32Array | Float32Array | Float64Array;

interface SampleKind {
  bytes: number;
  /** True where values between whole numbers, and NaN, can be held. */
  real: boolean;
  lowest: number;
  highest: number;
  make(length: number): Samples;
  /** The same bytes as samples; `offset` must be a multiple of their size. */
  view(buffer: ArrayBufferLike, offset: number, length: number): Samples;
}

const whole = (make: SampleKind['make'], view: SampleKind['view'], bytes: number, lowest: number, highest: number): SampleKind => ({
  bytes,
  real: false,
  lowest,
  highest,
  make,
  view,
});

/** What each type of sample can hold. */
export const SAMPLE_KINDS: Readonly<Record<SampleType, SampleKind>> = {
  uint8: whole(
    (n) => new Uint8Array(n),
    (b, o, n) => new Uint8Array(b, o, n),
    1,
    0,
    255,
  ),
  int8: whole(
    (n) => new Int8Array(n),
    (b, o, n) => new Int8Array(b, o, n),
    1,
    -128,
    127,
  ),
  uint16: whole(
    (n) => new Uint16Array(n),
    (b, o, n) => new Uint16Array(b, o, n),
    2,
    0,
    65_535,
  ),
  int16: whole(
    (n) => new Int16Array(n),
    (b, o, n) => new Int16Array(b, o, n),
    2,
    -32_768,
    32_767,
  ),
  uint32: whole(
    (n) => new Uint32Array(n),
    (b, o, n) => new Uint32Array(b, o, n),
    4,
    0,
    4_294_967_295,
  ),
  int32: whole(
    (n) => new Int32Array(n),
    (b, o, n) => new Int32Array(b, o, n),
    4,
    -2_147_483_648,
    2_147_483_647,
  ),
  float32: {
    bytes: 4,
    real: true,
    lowest: -3.4028234663852886e38,
    highest: 3.4028234663852886e38,
    make: (n) => new Float32Array(n),
    view: (b, o, n) => new Float32Array(b, o, n),
  },
  float64: {
    bytes: 8,
    real: true,
    lowest: -Number.MAX_VALUE,
    highest: Number.MAX_VALUE,
    make: (n) => new Float64Array(n),
    view: (b, o, n) => new Float64Array(b, o, n),
  },
};

/** The value of alpha at which nothing shows through. */
export const opaqueValue = (type: SampleType): number => (SAMPLE_KINDS[type].real ? 1 : SAMPLE_KINDS[type].highest);

/** A rectangle of pixels: columns to the right, rows downwards, from the first pixel of a picture. */
export interface PixelWindow {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** A piece of a picture: row after row, the samples of a pixel beside each other. */
export interface Raster {
  width: number;
  height: number;
  bands: number;
  data: Samples;
  /** One where a pixel has a value, zero where it has none; null where all have. */
  valid: Uint8Array | null;
}

/** What the samples of a picture mean. */
export type Colour = 'grey' | 'rgb' | 'palette' | 'data';

/** What is known of a picture as a whole. */
export interface ImageInfo {
  width: number;
  height: number;
  /** The alpha band among them. */
  bands: number;
  sampleType: SampleType;
  colour: Colour;
  /** Whether the last band says how opaque a pixel is. */
  alpha: boolean;
  /** The value that stands for none; null where there is no such value. */
  nodata: number | null;
  /** Whether pixels may have no value though none of their samples says so: the file has a mask. */
  masked: boolean;
  /** Red, green and blue of each value, 0 to 255, three numbers a colour; null where values are no indexes. */
  palette: Uint8Array | null;
}

/** A raster of noughts, none of which counts as a value yet. */
export function emptyRaster(sampleType: SampleType, width: number, height: number, bands: number): Raster {
  return { width, height, bands, data: SAMPLE_KINDS[sampleType].make(width * height * bands), valid: new Uint8Array(width * height) };
}

/** What two windows share; null where that is nothing. */
export function sharedWindow(a: PixelWindow, b: PixelWindow): PixelWindow | null {
  const [x, y] = [Math.max(a.x, b.x), Math.max(a.y, b.y)];
  const [right, bottom] = [Math.min(a.x + a.width, b.x + b.width), Math.min(a.y + a.height, b.y + b.height)];
  return right > x && bottom > y ? { x, y, width: right - x, height: bottom - y } : null;
}

/** Whether two lists of samples are the same to the bit. */
export function sameSamples(a: Samples, b: Samples): boolean {
  if (a.byteLength !== b.byteLength || a.BYTES_PER_ELEMENT !== b.BYTES_PER_ELEMENT) return false;
  const [x, y] = [bytesOf(a), bytesOf(b)];
  for (let k = 0; k < x.length; k++) if (x[k] !== y[k]) return false;
  return true;
}

/** The bytes of samples, four at a time where they lie so. */
const bytesOf = ({ buffer, byteOffset, byteLength }: Samples): Uint8Array | Uint32Array =>
  byteOffset % 4 === 0 && byteLength % 4 === 0
    ? new Uint32Array(buffer, byteOffset, byteLength / 4)
    : new Uint8Array(buffer, byteOffset, byteLength);

import { getDecoder } from 'geotiff';
import type { ByteSource } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import { Problem } from '../../model/problem';
import { type PixelWindow, type Raster, SAMPLE_KINDS, type Samples } from '../../model/raster';
import { isNone } from '../../raster/none';
import { keptBlocks } from './kept-blocks';
import type { Layout } from './layout';

/** Each byte with its bits in the other order. */
const MIRRORED = Uint8Array.from({ length: 256 }, (_, b) => parseInt(b.toString(2).padStart(8, '0').split('').reverse().join(''), 2));

/** Reads the pixels of a TIFF's directory by windows; blocks that were unpacked are kept for a while. */
export class Blocks {
  constructor(
    private readonly source: ByteSource,
    private readonly layout: Layout,
    private readonly littleEndian: boolean,
  ) {}

  /** @throws Problem `tiff-damaged` for a block that cannot be unpacked */
  async read({ x, y, width, height }: PixelWindow): Promise<Raster> {
    const { layout } = this;
    const { info, blockWidth, blockHeight, planar } = layout;
    const { bands } = info;
    const data = SAMPLE_KINDS[info.sampleType].make(width * height * bands);
    const [c0, c1] = [Math.floor(x / blockWidth), Math.floor((x + width - 1) / blockWidth)];
    const [r0, r1] = [Math.floor(y / blockHeight), Math.floor((y + height - 1) / blockHeight)];
    for (let r = r0; r <= r1; r++)
      for (let c = c0; c <= c1; c++)
        for (let plane = 0; plane < (planar ? bands : 1); plane++) {
          const [left, top] = [c * blockWidth, r * blockHeight];
          const from = Math.max(x, left),
            to = Math.min(x + width, left + blockWidth);
          const first = Math.max(y, top),
            end = Math.min(y + height, top + blockHeight);
          const block =
            layout.compression === 1
              ? await this.rows(c, r, plane, first - top, end - first)
              : { samples: await this.block(c, r, plane), first: 0 };
          const per = planar ? 1 : bands;
          for (let row = first; row < end; row++) {
            const at = ((row - top - block.first) * blockWidth + from - left) * per;
            const out = ((row - y) * width + from - x) * bands;
            if (!planar) data.set(block.samples.subarray(at, at + (to - from) * bands), out);
            else for (let k = 0; k < to - from; k++) data[out + k * bands + plane] = block.samples[at + k]!;
          }
        }
    return { width, height, bands, data, valid: this.validity(data, width * height) };
  }

  private validity(data: Samples, n: number): Uint8Array | null {
    const { info } = this.layout;
    const { bands, nodata, alpha, sampleType } = info;
    if (nodata === null && !alpha && !SAMPLE_KINDS[sampleType].real) return null;
    const valid = new Uint8Array(n);
    let all = true;
    for (let i = 0; i < n; i++) {
      if (isNone(info, data, i * bands)) all = false;
      else valid[i] = 1;
    }
    return all ? null : valid;
  }

  private index(c: number, r: number, plane: number): number {
    const { across, down } = this.layout;
    return (plane * down + r) * across + c;
  }

  /** Rows of a block that is not packed: only they are read, since a file may be one block. */
  private async rows(c: number, r: number, plane: number, first: number, count: number): Promise<{ samples: Samples; first: number }> {
    const { layout } = this;
    const index = this.index(c, r, plane);
    const rowBytes = this.rowBytes();
    const wanted = rowBytes * count;
    const has = Math.max(0, layout.byteCounts[index]! - rowBytes * first);
    const bytes = new Uint8Array(wanted);
    if (has > 0) bytes.set(this.inOrder(await this.source.read(layout.offsets[index]! + rowBytes * first, Math.min(wanted, has))));
    else if (layout.byteCounts[index]! === 0) return { samples: this.nothing(layout.blockWidth * count), first };
    if (has > 0 && has < rowBytes * Math.min(count, this.rowsOf(r) - first)) throw this.damaged(index, 'it ends before its last row');
    return { samples: this.samples(bytes, count), first };
  }

  private block(c: number, r: number, plane: number): Promise<Samples> {
    const index = this.index(c, r, plane);
    return keptBlocks.get(this, index, this.size(), () => this.unpacked(index, r));
  }

  /** Lets go of what is kept at hand. */
  close(): void {
    keptBlocks.drop(this);
  }

  private size(): number {
    const { info, blockWidth, blockHeight, planar } = this.layout;
    return blockWidth * blockHeight * (planar ? 1 : info.bands) * SAMPLE_KINDS[info.sampleType].bytes;
  }

  private rowBytes(): number {
    const { info, blockWidth, planar, bits } = this.layout;
    return Math.ceil((blockWidth * (planar ? 1 : info.bands) * bits) / 8);
  }

  /** Rows that a block holds: a strip at the end has fewer. */
  private rowsOf(r: number): number {
    const { info, blockHeight, blockWidth } = this.layout;
    return blockWidth === info.width ? Math.min(blockHeight, info.height - r * blockHeight) : blockHeight;
  }

  /** A block that the file leaves out has the value for none, or zeros. */
  private nothing(pixels: number): Samples {
    const { info, planar } = this.layout;
    const samples = SAMPLE_KINDS[info.sampleType].make(pixels * (planar ? 1 : info.bands));
    return info.nodata === null ? samples : samples.fill(info.nodata);
  }

  private async unpacked(index: number, r: number): Promise<Samples> {
    const { layout } = this;
    const { byteCounts, offsets, blockWidth, blockHeight } = layout;
    if (byteCounts[index]! === 0) return this.nothing(blockWidth * blockHeight);
    const rows = this.rowsOf(r);
    const wanted = this.rowBytes() * rows;
    const packed = this.inOrder(await this.source.read(offsets[index]!, byteCounts[index]!));
    let bytes: Uint8Array;
    try {
      bytes = await unpack(layout.compression, packed, this.rowBytes() * blockHeight);
    } catch {
      throw this.damaged(index, 'it cannot be unpacked');
    }
    if (bytes.length < wanted) throw this.damaged(index, `it holds ${bytes.length} bytes where there should be ${wanted}`);
    const full = new Uint8Array(this.rowBytes() * blockHeight);
    full.set(bytes.subarray(0, full.length));
    return this.samples(full, blockHeight);
  }

  /** Bytes with their highest bits first. */
  private inOrder(bytes: Uint8Array): Uint8Array {
    return this.layout.lowestFirst ? bytes.map((b) => MIRRORED[b]!) : bytes;
  }

  private damaged(index: number, what: string): Problem {
    return new Problem('tiff-damaged', `${this.source.name} is damaged in block ${index + 1} of its pixels: ${what}. Ask for it again.`, {
      file: this.source.name,
    });
  }

  /** Bytes of whole rows as samples: swapped, with the predictor undone, and a byte a sample at least. */
  private samples(bytes: Uint8Array, rows: number): Samples {
    const { info, bits, predictor, blockWidth, planar, whiteIsZero } = this.layout;
    const per = planar ? 1 : info.bands;
    const perRow = blockWidth * per;
    const { view, bytes: size } = SAMPLE_KINDS[info.sampleType];
    let samples: Samples;
    if (bits < 8) samples = spread(bytes, bits, perRow, rows, info.palette ? 1 : 255 / ((1 << bits) - 1));
    else {
      if (predictor === 3) undoFloating(bytes, perRow, per, size, rows);
      else if (!this.littleEndian && size > 1) swap(bytes, size);
      samples = view(bytes.buffer, bytes.byteOffset, perRow * rows);
    }
    if (predictor === 2)
      for (let r = 0; r < rows; r++) for (let k = r * perRow + per; k < (r + 1) * perRow; k++) samples[k] = samples[k]! + samples[k - per]!;
    if (whiteIsZero) {
      const white = SAMPLE_KINDS[info.sampleType].highest;
      const first = info.alpha ? per - 1 : per;
      for (let k = 0; k < samples.length; k++) if (planar || k % per < first) samples[k] = white - samples[k]!;
    }
    return samples;
  }
}

async function unpack(compression: number, packed: Uint8Array, most: number): Promise<Uint8Array> {
  if (compression === 8 || compression === 32946) return imageEngine().inflate(packed, most);
  // the predictor is undone here, since that of the package takes the bytes of a number in one order only
  const decoder = await getDecoder(compression, { tileWidth: 0, tileHeight: 0, predictor: 1, bitsPerSample: 8, planarConfiguration: 1 });
  const own = packed.buffer.slice(packed.byteOffset, packed.byteOffset + packed.byteLength);
  return new Uint8Array(await decoder.decode(own));
}

/** Samples of less than a byte, the first in the highest bits, each times a factor; rows begin at whole bytes. Source: TIFF 6.0, section 3. */
function spread(bytes: Uint8Array, bits: number, perRow: number, rows: number, factor: number): Uint8Array {
  const out = new Uint8Array(perRow * rows);
  const rowBytes = Math.ceil((perRow * bits) / 8);
  const mask = (1 << bits) - 1;
  for (let r = 0; r < rows; r++)
    for (let k = 0; k < perRow; k++) {
      const bit = k * bits;
      out[r * perRow + k] = factor * ((bytes[r * rowBytes + (bit >> 3)]! >> (8 - bits - (bit & 7))) & mask);
    }
  return out;
}

function swap(bytes: Uint8Array, size: number): void {
  for (let k = 0; k < bytes.length; k += size) bytes.subarray(k, k + size).reverse();
}

/**
 * Undoes the predictor of numbers with a fraction: the bytes of a row stand significance by significance, each less the one before.
 * Source: Adobe Photoshop TIFF Technical Note 3.
 */
function undoFloating(bytes: Uint8Array, perRow: number, per: number, size: number, rows: number): void {
  const rowBytes = perRow * size;
  const row = new Uint8Array(rowBytes);
  for (let r = 0; r < rows; r++) {
    const own = bytes.subarray(r * rowBytes, (r + 1) * rowBytes);
    for (let k = per; k < rowBytes; k++) own[k] = own[k]! + own[k - per]!;
    row.set(own);
    // the most significant bytes come first, whatever the order of the file
    for (let k = 0; k < perRow; k++) for (let b = 0; b < size; b++) own[k * size + b] = row[(size - 1 - b) * perRow + k]!;
  }
}

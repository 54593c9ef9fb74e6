import { open } from 'node:fs/promises';
import { createRequire } from 'node:module';
import makeOpenJpeg, { type OpenJpeg } from '@cornerstonejs/codec-openjpeg/wasmjs';
import type { ByteSource } from '@pontrel/core/io/bytes';
import { createTiff } from '@pontrel/core/formats/geotiff/write';
import { beginsWith } from '@pontrel/core/formats/begins';
import { CODESTREAM } from '@pontrel/core/formats/jpeg2000/boxes';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { type Raster, SAMPLE_KINDS, type SampleType } from '@pontrel/core/model/raster';

/** Bytes of a packed picture, and samples of one that is unpacked, which is done in memory as a whole. */
const MOST_PACKED = 2 ** 29,
  MOST_SAMPLES = 2 ** 28;

/** Samples for each packed byte; a picture of one colour has some thousand. */
const MOST_FOR_A_BYTE = 20_000;

let made: Promise<OpenJpeg> | undefined;

/** OpenJPEG, which says much while it works. */
function openJpeg(): Promise<OpenJpeg> {
  const { resolve } = createRequire(import.meta.url);
  const locateFile = (): string => resolve('@cornerstonejs/codec-openjpeg/wasm');
  return (made ??= makeOpenJpeg({ locateFile, print() {}, printErr() {} }));
}

/** Size of a picture before it is unpacked. Source: ISO/IEC 15444-1, A.5.1 (SIZ). */
function statedSize(bytes: Uint8Array): { width: number; height: number; bands: number } | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = 0; at + 42 < bytes.length; at++)
    if (beginsWith(bytes.subarray(at, at + 4), CODESTREAM))
      return {
        width: view.getUint32(at + 8) - view.getUint32(at + 16),
        height: view.getUint32(at + 12) - view.getUint32(at + 20),
        bands: view.getUint16(at + 40),
      };
  return null;
}

/** A picture as an uncompressed TIFF. @throws Problem `image-damaged`, `image-too-large`, `image-unread` */
export async function unpackJpeg2000(source: ByteSource, out: string): Promise<void> {
  const damaged = (what: string): Problem =>
    new Problem('image-damaged', `${source.name} cannot be unpacked as a picture (${what}). Ask for it again.`, { file: source.name });
  const bytes = source.size <= MOST_PACKED ? await source.read(0, source.size) : null;
  const size = bytes && statedSize(bytes);
  if (bytes && !size) throw damaged('it has no picture');
  const samples = size ? size.width * size.height * size.bands : Infinity;
  if (!bytes || samples > Math.min(MOST_SAMPLES, MOST_FOR_A_BYTE * bytes.length))
    throw new Problem(
      'image-too-large',
      [
        `${source.name} is too large for a picture that has to be unpacked as a whole${size ? `: ${size.width} by ${size.height} pixels` : ''}.`,
        'Save it as a tiled GeoTIFF.',
      ].join(' '),
      { file: source.name },
    );
  const { J2KDecoder } = await openJpeg();
  const decoder = new J2KDecoder();
  try {
    decoder.getEncodedBuffer(bytes.length).set(bytes);
    try {
      decoder.decode();
    } catch (error) {
      throw damaged(typeof error === 'number' ? 'its codestream is broken' : messageOf(error));
    }
    const { width, height, bitsPerSample, componentCount: bands, isSigned } = decoder.getFrameInfo();
    if (!(bitsPerSample > 0) || width !== size!.width || height !== size!.height) throw damaged('its codestream is broken');
    if (bitsPerSample > 16)
      throw new Problem(
        'image-unread',
        `${source.name} has samples of ${bitsPerSample} bits, which is not read here. Save it as a GeoTIFF.`,
        {
          file: source.name,
        },
      );
    const sampleType: SampleType = bitsPerSample <= 8 ? (isSigned ? 'int8' : 'uint8') : isSigned ? 'int16' : 'uint16';
    const decoded = decoder.getDecodedBuffer();
    const wanted = width * height * bands * SAMPLE_KINDS[sampleType].bytes;
    if (decoded.length < wanted) throw damaged('it has fewer pixels than it says');
    const pixels = Uint8Array.from(decoded.subarray(0, wanted));
    await writeTiff(
      out,
      { width, height, bands, data: SAMPLE_KINDS[sampleType].view(pixels.buffer, 0, width * height * bands), valid: null },
      sampleType,
    );
  } finally {
    decoder.delete();
  }
}

async function writeTiff(out: string, raster: Raster, sampleType: SampleType): Promise<void> {
  const { width, height, bands } = raster;
  const handle = await open(out, 'w');
  let at = 0;
  const colours = bands === 2 || bands === 4 ? bands - 1 : bands;
  const writer = await createTiff(
    {
      async write(bytes) {
        await handle.write(bytes, 0, bytes.length, at);
        at += bytes.length;
      },
      async patch(offset, bytes) {
        await handle.write(bytes, 0, bytes.length, offset);
      },
      close: () => handle.close(),
    },
    {
      width,
      height,
      bands,
      sampleType,
      colour: colours === 3 ? 'rgb' : colours === 1 ? 'grey' : 'data',
      alpha: colours < bands,
      nodata: null,
      masked: false,
      palette: null,
    },
    { packing: 'none', quality: 100, overviews: false, place: null },
  );
  for (let y = 0; y < height; y += writer.rows) {
    const rows = Math.min(writer.rows, height - y);
    await writer.append({ ...raster, height: rows, data: raster.data.subarray(y * width * bands, (y + rows) * width * bands) });
  }
  await writer.close();
}

/** A picture as a codestream. */
export async function encodeJpeg2000({ width, height, bands, data }: Raster, ratio: number | null): Promise<Uint8Array> {
  const { J2KEncoder } = await openJpeg();
  const encoder = new J2KEncoder();
  try {
    const frame = { width, height, bitsPerSample: 8 * data.BYTES_PER_ELEMENT, componentCount: bands, isSigned: false };
    encoder.getDecodedBuffer(frame).set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
    encoder.setQuality(ratio === null, 1);
    if (ratio !== null) encoder.setCompressionRatio(0, ratio);
    encoder.encode();
    return Uint8Array.from(encoder.getEncodedBuffer());
  } finally {
    encoder.delete();
  }
}

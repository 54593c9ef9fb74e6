import type { ByteSource } from '../../io/bytes';
import { beginsWith } from '../begins';
import { jpegSegments } from './jpeg-segments';

/** Bytes at the beginning among which a picture says how large it is. */
const HEAD = 1 << 17;

/** Begin of a PNG. Source: W3C Portable Network Graphics (third edition), section 5.2. */
const PNG = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

/** Markers of frames: SOF0 to SOF15 but for DHT, JPG and DAC. Source: ITU-T T.81, table B.1. */
const isFrame = (marker: number): boolean => marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);

/** How many pixels a PNG or a JPEG has, without unpacking it; null where it does not say, or is of another kind. */
export async function packedSize(source: ByteSource): Promise<{ width: number; height: number } | null> {
  const head = await source.read(0, HEAD);
  if (beginsWith(head, PNG) && head.length >= 24) {
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
    return sized(view.getUint32(16), view.getUint32(20));
  }
  for (const { marker, content } of jpegSegments(head)) {
    if (!isFrame(marker) || content.length < 5) continue;
    const view = new DataView(content.buffer, content.byteOffset, content.byteLength);
    return sized(view.getUint16(3), view.getUint16(1));
  }
  return null;
}

const sized = (width: number, height: number): { width: number; height: number } | null =>
  width > 0 && height > 0 ? { width, height } : null;

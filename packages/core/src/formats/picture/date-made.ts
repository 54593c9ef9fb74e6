import type { ByteSource } from '../../io/bytes';
import { memorySource } from '../../io/memory-source';
import { type Directory, readDirectories, TAG } from '../geotiff/structure';

/** Bytes at the beginning of a JPEG among which its segments of application data lie; each has at most 64 KiB. */
const HEAD = 1 << 18;

/** When a picture was made, as its directory says: "2024:05:17 09:30:00". Source: TIFF 6.0, section 8 (DateTime). @returns ISO 8601, or null */
export function dateOf(directory: Directory): string | null {
  const [, year, month, day, time] = /^(\d{4})[:-](\d\d)[:-](\d\d)[ T](\d\d:\d\d:\d\d)/.exec(directory.text(TAG.dateTime) ?? '') ?? [];
  if (time === undefined || Number.isNaN(Date.parse(`${year}-${month}-${day}T${time}Z`))) return null;
  return `${year}-${month}-${day}T${time}`;
}

/**
 * When a JPEG was made, as its Exif segment says; null where it has none, and for files of other kinds. Source: JEITA CP-3451 (Exif 2.3),
 * section 4.5; ITU-T T.81, annex B.
 */
export async function dateInJpeg(source: ByteSource): Promise<string | null> {
  const head = await source.read(0, HEAD);
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  if (head.length < 4 || view.getUint16(0) !== 0xffd8) return null;
  for (let at = 2; at + 10 <= head.length && head[at] === 0xff; at += 2 + view.getUint16(at + 2)) {
    const isExif = head[at + 1] === 0xe1 && view.getUint32(at + 4) === 0x45786966 && view.getUint16(at + 8) === 0;
    if (!isExif) continue;
    const segment = head.slice(at + 10, at + 2 + view.getUint16(at + 2));
    // a damaged segment says nothing of the pixels
    const file = await readDirectories(memorySource(source.name, segment)).catch(() => null);
    return file?.directories[0] ? dateOf(file.directories[0]) : null;
  }
  return null;
}

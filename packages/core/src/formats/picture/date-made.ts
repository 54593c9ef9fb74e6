import type { ByteSource } from '../../io/bytes';
import { memorySource } from '../../io/memory-source';
import { beginsWith } from '../begins';
import { type Directory, readDirectories, TAG } from '../geotiff/structure';
import { jpegSegments } from './jpeg-segments';

/** Bytes at the beginning of a JPEG among which its segments of application data lie; each has at most 64 KiB. */
const HEAD = 1 << 18;

/** The application segment of Exif, and what it begins with: "Exif" and two zeros. */
const EXIF = 0xe1,
  EXIF_BEGIN = [0x45, 0x78, 0x69, 0x66, 0, 0];

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
  for (const { marker, content } of jpegSegments(await source.read(0, HEAD))) {
    if (marker !== EXIF || !beginsWith(content, EXIF_BEGIN)) continue;
    // a damaged segment says nothing of the pixels
    const file = await readDirectories(memorySource(source.name, content.slice(EXIF_BEGIN.length))).catch(() => null);
    return file?.directories[0] ? dateOf(file.directories[0]) : null;
  }
  return null;
}

import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource } from '../../io/bytes';
import { childrenOf, childOf, childText, readXml, type XmlNode } from '../../io/xml';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { GridMap } from '../../raster/pixel-grid';
import { WGS84 } from '../globe';
import type { OpenImage } from '../image-face';
import { openUnpacked } from '../picture/read';
import { entrySource, type ZipEntry, zipEntries } from '../zip/read';

/** Bytes of a document that is looked into for a picture; one of records is far larger. */
const MOST_BYTES = 1 << 22;

interface Found {
  overlays: XmlNode[];
  records: number;
  entries: ZipEntry[];
}

/** The pictures on the ground of an archive, and how many records stand beside them; null where it has no document that is looked into. */
async function found(source: ByteSource): Promise<Found | null> {
  const entries = await zipEntries(source);
  // the first one is the one that is shown (OGC 07-147r2, annex C)
  const document = entries.find((e) => /\.kml$/i.test(e.name));
  if (!document || document.bytes > MOST_BYTES) return null;
  const root = readXml(document.name, await entrySource(source, document).read(0, document.bytes));
  const all = (node: XmlNode, name: string): XmlNode[] => [...childrenOf(node, name), ...node.children.flatMap((c) => all(c, name))];
  return { overlays: all(root, 'GroundOverlay'), records: all(root, 'Placemark').length, entries };
}

/** Whether an archive is a picture on the ground and nothing else. */
export async function holdsOverlay(source: ByteSource): Promise<boolean> {
  try {
    const inside = await found(source);
    return inside !== null && inside.overlays.length > 0 && inside.records === 0;
  } catch (error) {
    // what is wrong with it is told by who reads it as records
    if (error instanceof Problem) return false;
    throw error;
  }
}

/** Opens the first picture on the ground of an archive. @throws Problem `overlay-unread` */
export async function openOverlay(source: ByteSource, findings: Findings): Promise<OpenImage> {
  const unread = (what: string): Problem =>
    new Problem('overlay-unread', `${source.name} ${what}. Open it in the program that made it, and save the picture as a GeoTIFF.`, {
      file: source.name,
    });
  const inside = await found(source);
  const [overlay, ...others] = inside?.overlays ?? [];
  if (!inside || !overlay) throw unread('holds no picture on the ground');
  if (others.length > 0)
    findings.add({
      code: 'image-pages',
      severity: 'caution',
      message: 'Only the first picture on the ground is read; save the others as files of their own.',
      count: others.length,
    });
  const href = childText(childOf(overlay, 'Icon'), 'href')?.trim() ?? '';
  const entry = inside.entries.find((e) => e.name.toLowerCase() === href.replace(/^\.\//, '').toLowerCase());
  if (!entry) throw unread(href === '' ? 'does not name its picture' : `shows a picture that is not in it (${href.slice(0, 100)})`);
  const turned = mapOf(overlay);
  if (!turned) throw unread('does not say where its picture lies');
  const image = await openUnpacked(entrySource(source, entry), findings, () =>
    Promise.resolve({ grid: null, pairs: null, crs: lookupCrs(WGS84)!, crsText: WGS84 }),
  );
  const { width, height } = image.info;
  return { ...image, where: { ...image.where, grid: { map: turned(width, height), width, height } } };
}

/**
 * Where the pixels of a picture lie, by its size; turned about its middle as it would be seen there, where a degree of longitude is shorter.
 * Null where it is not told. Source: OGC 07-147r2, section 11.3 (LatLonBox).
 */
function mapOf(overlay: XmlNode): ((width: number, height: number) => GridMap) | null {
  const box = childOf(overlay, 'LatLonBox');
  const [n, s, e, w, turn] = ['north', 'south', 'east', 'west', 'rotation'].map((side) =>
    Number(childText(box, side) ?? (side === 'rotation' ? 0 : NaN)),
  ) as [number, number, number, number, number];
  const east = e < w ? e + 360 : e;
  if (![n, s, east, w, turn].every(Number.isFinite) || !(n > s && east > w)) return null;
  const [cx, cy] = [(east + w) / 2, (n + s) / 2],
    stretch = Math.cos((cy * Math.PI) / 180) || 1;
  const [cos, sin] = turn === 0 ? [1, 0] : [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  return (width, height) => {
    const dx = (east - w) / width,
      dy = (n - s) / height;
    return [
      cx + (w - cx) * cos - ((n - cy) * sin) / stretch,
      dx * cos,
      (dy * sin) / stretch,
      cy + (w - cx) * stretch * sin + (n - cy) * cos,
      dx * stretch * sin,
      -dy * cos,
    ];
  };
}

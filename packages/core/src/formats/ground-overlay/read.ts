import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource } from '../../io/bytes';
import { childOf, childText, everyNode, readXml, type XmlNode } from '../../io/xml';
import { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { gridFromCorners } from '../../raster/pixel-grid';
import { WGS84 } from '../globe';
import type { OpenImage } from '../image-face';
import { cornersOfBox, latLonBox } from '../kml/lat-lon-box';
import { openUnpacked } from '../picture/read';
import { entrySource, type ZipEntry, zipEntries } from '../zip/read';
import { leadsOn, leadsToPictures, openPyramid, unreadOf } from './pyramid-read';

/** Bytes of a document that is looked into for a picture; one of records is far larger. */
const MOST_BYTES = 1 << 22;

interface Found {
  overlays: XmlNode[];
  records: number;
  /** Whether it leads on to other documents. */
  leadsOn: boolean;
  document: ZipEntry;
  entries: ZipEntry[];
}

/** The pictures on the ground of an archive, and how many records stand beside them; null where it has no document that is looked into. */
async function found(source: ByteSource): Promise<Found | null> {
  const entries = await zipEntries(source);
  // the first one is the one that is shown (OGC 07-147r2, annex C)
  const document = entries.find((e) => /\.kml$/i.test(e.name));
  if (!document || document.bytes > MOST_BYTES) return null;
  const root = readXml(document.name, await entrySource(source, document).read(0, document.bytes));
  const inside = entries.some((e) => e !== document && /\.kml$/i.test(e.name));
  return {
    overlays: everyNode(root, 'GroundOverlay'),
    records: everyNode(root, 'Placemark').length,
    leadsOn: inside && leadsOn(root),
    document,
    entries,
  };
}

/** Whether an archive is a picture on the ground and nothing else. */
export async function holdsOverlay(source: ByteSource): Promise<boolean> {
  try {
    const inside = await found(source);
    if (!inside || inside.records > 0) return false;
    return inside.leadsOn ? await leadsToPictures(source, inside.entries, inside.document) : inside.overlays.length > 0;
  } catch (error) {
    // what is wrong with it is told by who reads it as records
    if (error instanceof Problem) return false;
    throw error;
  }
}

/** Opens the first picture on the ground of an archive, or the pyramid that it leads on to. @throws Problem `overlay-unread` */
export async function openOverlay(source: ByteSource, findings: Findings): Promise<OpenImage> {
  const unread = unreadOf(source);
  const inside = await found(source);
  if (inside && (inside.leadsOn || inside.overlays.length > 1)) {
    const told = new Findings();
    const pyramid = await openPyramid(source, inside.entries, inside.document, told).catch((error: unknown) => {
      // several pictures in one document need not be one
      if (inside.leadsOn || !(error instanceof Problem)) throw error;
      return null;
    });
    if (pyramid) {
      for (const finding of told.list()) findings.add(finding);
      return pyramid;
    }
  }
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
  const corners = placed(overlay);
  if (!corners) throw unread('does not say where its picture lies');
  const image = await openUnpacked(entrySource(source, entry), findings, () =>
    Promise.resolve({ grid: null, pairs: null, crs: lookupCrs(WGS84)!, crsText: WGS84 }),
  );
  const { width, height } = image.info;
  const [bottomLeft, , topRight, topLeft] = corners as [[number, number], [number, number], [number, number], [number, number]];
  return { ...image, where: { ...image.where, grid: gridFromCorners(topLeft, topRight, bottomLeft, width, height) } };
}

/** Its corners, from the lower left one counter-clockwise; null where it does not say where it lies. */
function placed(overlay: XmlNode): [number, number][] | null {
  const box = latLonBox(overlay);
  // one that goes over the antimeridian ends beyond it
  const east = box.east < box.west ? box.east + 360 : box.east;
  const whole = [box.north, box.south, east, box.west, box.rotation].every(Number.isFinite);
  return whole && box.north > box.south && east > box.west ? cornersOfBox({ ...box, east }) : null;
}

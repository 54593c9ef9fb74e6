import { northComesFirst } from '../../crs/axis-order';
import type { Crs } from '../../crs/crs';
import { readPositions } from '../../crs/definitions/read-definition';
import type { XmlNode } from '../../io/xml';
import { Problem } from '../../model/problem';

/** What a srsName says: the system, and whether positions have the north-south number first. */
export interface SrsName {
  crs: Crs | null;
  northFirst: boolean;
  text: string;
}

/** The name of a registered system, whose positions follow the registry's order of axes. Source: OGC 11-135r2, clause 9. */
export function srsNameOf(crs: Crs): string | null {
  // Source of the name of two parts: OGC 09-048r5, clause 8.4 (from memory)
  const [, code, vertical] = /^EPSG:(\d+)(?:\+(\d+))?$/.exec(crs.id ?? '') ?? [];
  if (code === undefined) return null;
  return vertical === undefined
    ? `http://www.opengis.net/def/crs/EPSG/0/${code}`
    : `urn:ogc:def:crs,crs:EPSG::${code},crs:EPSG::${vertical}`;
}

/**
 * Reads a srsName. A URN or a URL of definitions means the registry's order of axes; the older "EPSG:4326" and the ".xml#4326"
 * of GML 2 mean that the east-west number comes first. Source for the first two: OGC 07-092r3 and 11-135r2; for the others:
 * common practice, no source.
 */
export function readSrsName(text: string): SrsName {
  const crs84 = /CRS84|CRS:84/i.test(text);
  const registered = /(?:urn:(?:ogc|x-ogc):def:crs:|opengis\.net\/def\/crs\/)EPSG[:/][^:/]*[:/](\d+)$/i.exec(text)?.[1];
  const [, first, second] = /^urn:ogc:def:crs,crs:EPSG:[\d.]*:(\d+),crs:EPSG:[\d.]*:(\d+)$/i.exec(text) ?? [];
  const plain = /(?:^EPSG:|epsg\.xml#)(\d+)$/i.exec(text)?.[1];
  const code = crs84
    ? 'EPSG:4326'
    : first !== undefined
      ? `EPSG:${first}+${second}`
      : registered !== undefined
        ? `EPSG:${registered}`
        : plain !== undefined
          ? `EPSG:${plain}`
          : text;
  try {
    const crs = readPositions(code, 'The srsName');
    return { crs, text, northFirst: (registered ?? first) !== undefined && northComesFirst(crs) };
  } catch (error) {
    if (error instanceof Problem) return { crs: null, text, northFirst: false };
    throw error;
  }
}

/** The first name of a system that stands within a node; undefined where none does. */
export const firstSrs = (node: XmlNode): string | undefined =>
  node.children.reduce<string | undefined>((found, c) => found ?? c.attributes.srsName ?? firstSrs(c), undefined);

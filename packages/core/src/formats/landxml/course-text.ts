import { plainDecimal } from '../../io/plain-decimal';
import { eachPart, type FeatureBatch, vertexRange } from '../../model/batch';

/** Northing, easting and, where there is one, elevation. Source: LandXML-1.2.xsd, PointType; from memory. */
export function placeText({ coords }: FeatureBatch, v: number): string {
  const z = coords[3 * v + 2]!;
  return `${plainDecimal(coords[3 * v + 1]!)} ${plainDecimal(coords[3 * v]!)}${Number.isNaN(z) ? '' : ` ${plainDecimal(z)}`}`;
}

/** The course of a record, a CoordGeom a part, of lines. Source: LandXML-1.2.xsd, CoordGeom; from memory. */
export function courseText(batch: FeatureBatch, i: number): string {
  const parts: string[] = [];
  eachPart(batch, i, (start, end) => {
    const pieces: string[] = [];
    for (let v = start; v + 1 < end; v++) pieces.push(lineText(placeText(batch, v), placeText(batch, v + 1)));
    // a part of one vertex is a line of no length
    if (end - start === 1) pieces.push(lineText(placeText(batch, start), placeText(batch, start)));
    parts.push(`<CoordGeom>${pieces.join('')}</CoordGeom>`);
  });
  return parts.join('');
}

const lineText = (start: string, end: string): string => `<Line><Start>${start}</Start><End>${end}</End></Line>`;

/** The vertices of a record as a list; with heights where all have one. */
export function listText(batch: FeatureBatch, i: number): string {
  const [start, end] = vertexRange(batch, i);
  const places = Array.from({ length: end - start }, (_, k) => placeText(batch, start + k));
  const high = places.every((p) => p.split(' ').length === 3);
  const flat = (p: string): string => p.split(' ').slice(0, 2).join(' ');
  return high ? `<PntList3D>${places.join(' ')}</PntList3D>` : `<PntList2D>${places.map(flat).join(' ')}</PntList2D>`;
}

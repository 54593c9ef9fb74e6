import { type Crs, type EarthCrs, isPlane, metresPerUnit } from '../../../crs/crs';
import { sameLength } from '../../../placement/ratio';
import { DRAWING_UNITS } from '../units';
import { writeWkt1 } from '../../../crs/definitions/wkt1';
import type { GroupWriter } from './groups';

/** $INSUNITS of a system: 0 where a drawing has no name for the unit, degrees among them. */
export function drawingUnitOf(crs: Crs): number {
  const metres = metresPerUnit(crs, null);
  return isPlane(crs) ? Number(Object.entries(DRAWING_UNITS).find(([, unit]) => sameLength(unit.metres, metres))?.[0] ?? 0) : 0;
}

const escaped = (text: string): string => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** A dictionary that names the system by its code and its axes; a system without a code is told as well-known text. */
function definitionOf(crs: EarthCrs): string {
  const code = /^EPSG:(\d+)$/.exec(crs.id ?? '')?.[1];
  if (code === undefined) return writeWkt1(crs);
  const axis = (order: number, name: string, letter: string, direction: string): string =>
    `<CoordinateSystemAxis><AxisOrder>${order}</AxisOrder><AxisName>${name}</AxisName><AxisAbbreviation>${letter}</AxisAbbreviation><AxisDirection>${direction}</AxisDirection></CoordinateSystemAxis>`;
  const projected = crs.kind === 'projected';
  const type = projected ? 'ProjectedCoordinateSystem' : 'GeographicCoordinateSystem';
  const axes = projected
    ? axis(1, 'Easting', 'E', 'east') + axis(2, 'Northing', 'N', 'north')
    : axis(1, 'Longitude', 'E', 'east') + axis(2, 'Latitude', 'N', 'north');
  const name = escaped(crs.name);
  return `<?xml version="1.0" encoding="UTF-16" standalone="no" ?>
<Dictionary version="1.0" xmlns="http://www.osgeo.org/mapguide/coordinatesystem">
<${type} id="${name}">
<Name>${name}</Name>
<Axis uom="${escaped(projected ? crs.unit.name : 'degree')}">${axes}</Axis>
</${type}>
<Alias id="${code}" type="CoordinateSystem">
<ObjectId>${name}</ObjectId>
<Namespace>EPSG Code</Namespace>
</Alias>
</Dictionary>
`;
}

const PIECE = 255;

/**
 * The geographic location object: the numbers of the drawing are those of the system. Source: DXF Reference 2010 and later, GEODATA.
 * @param at a point of the drawing
 */
export function putGeoData(
  out: GroupWriter,
  crs: EarthCrs,
  handle: string,
  dictionary: string,
  space: string,
  at: readonly [number, number],
): void {
  out.put(0, 'GEODATA');
  out.put(5, handle);
  out.put(330, dictionary);
  out.put(100, 'AcDbGeoData');
  out.put(90, 2);
  out.put(330, space);
  out.put(70, crs.kind === 'projected' ? 2 : 3);
  out.point(10, at[0], at[1], 0);
  out.point(11, at[0], at[1], 0);
  const unit = drawingUnitOf(crs);
  const metres = crs.kind === 'projected' ? metresPerUnit(crs, null) : 1;
  out.put(40, metres);
  out.put(91, unit);
  out.put(41, metres);
  out.put(92, unit);
  out.point(210, 0, 0, 1);
  out.put(12, 0);
  out.put(22, 1);
  out.put(95, 1);
  out.put(141, 1);
  out.put(294, 0);
  out.put(142, 0);
  out.put(143, 0);
  const coded = [...definitionOf(crs).replaceAll('\n', '^J')];
  while (coded.length > PIECE) out.words(303, coded.splice(0, PIECE).join(''));
  out.words(301, coded.join(''));
  for (const code of [302, 305, 306, 307]) out.put(code, '');
  out.put(93, 0);
  out.put(96, 0);
}

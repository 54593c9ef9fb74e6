import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform } from '@pontrel/core/crs/transform';
import { Drawing } from './drawing';
import { seeded } from './random';
import { acrossShore, alongShore, type Point, STREETS } from './town';

const METRES = 6; // $INSUNITS

/**
 * The water mains as they were drawn in 1987: metres of the old map grid on the datum of its day (EPSG:27200), which lies some
 * two hundred metres from today's. The grid file of the change must be on the shelf.
 */
export function oldMains(seed: number): string {
  const random = seeded(seed);
  const way = compileTransform(lookupCrs('EPSG:2193')!, lookupCrs('EPSG:27200')!);
  const old = ([x, y]: Point): Point => {
    const p = Float64Array.of(x, y);
    way.apply(p, 0, 1, 2);
    return [p[0]!, p[1]!];
  };
  const d = new Drawing(
    METRES,
    1,
    [
      { name: 'MAIN-CAST-IRON', color: 1, weight: 35 },
      { name: 'MAIN-CEMENT', color: 30, weight: 35, linetype: 'DASHED' },
      { name: 'HYDRANT', color: 5 },
    ],
    [
      {
        name: 'HYDRANT-1',
        circles: [0.4],
        lines: [[-0.4, 0, 0.4, 0]],
        attributes: [
          ['HYDRANT_NO', 'Number'],
          ['LAID', 'Year'],
        ],
      },
    ],
  );
  let number = 1;
  const lay = (line: Point[]): void => {
    const layer = random() < 0.6 ? 'MAIN-CAST-IRON' : 'MAIN-CEMENT';
    d.polyline(layer, line.map(old));
    for (let i = 2; i < line.length; i += 5)
      d.insert('HYDRANT', 'HYDRANT-1', old(line[i]!), 0, 0, { HYDRANT_NO: `H${number++}`, LAID: String(1948 + Math.floor(random() * 39)) });
  };
  for (const { u } of STREETS.along) lay(alongShore(u - 3, -420, 400));
  for (const { v } of STREETS.across) lay(acrossShore(v + 3, 58, 378));
  return d.toString();
}

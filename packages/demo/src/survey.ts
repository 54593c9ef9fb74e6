import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform } from '@pontrel/core/crs/transform';
import { Drawing } from './drawing';
import { seeded } from './random';
import { alongShore, ground, place, type Point, STREETS } from './town';

const METRES = 6; // $INSUNITS

/** The surveyor's drawing of what stands there: metres in the local circuit, NZGD2000 / Timaru 2000 (EPSG:2126). */
export function surveyDrawing(seed: number): string {
  const random = seeded(seed);
  const circuit = compileTransform(lookupCrs('EPSG:2193')!, lookupCrs('EPSG:2126')!);
  const local = (p: Point): Point => {
    const out = Float64Array.of(p[0], p[1]);
    circuit.apply(out, 0, 1, 2);
    return [out[0]!, out[1]!];
  };
  const d = new Drawing(
    METRES,
    1,
    [
      { name: 'SPOT-HEIGHT', color: 44 },
      { name: 'SPOT-TEXT', color: 44 },
      { name: 'FENCE-TIMBER', color: 32, linetype: 'DASHED' },
      { name: 'HEDGE', color: 94, weight: 50 },
      { name: 'KERB-OLD', color: 8 },
      { name: 'MARK', color: 1 },
    ],
    [
      {
        name: 'MARK-PEG',
        circles: [0.15],
        lines: [
          [-0.3, 0, 0.3, 0],
          [0, -0.3, 0, 0.3],
        ],
        attributes: [
          ['PEG', 'Name'],
          ['FIXED_BY', 'How it was fixed'],
        ],
      },
    ],
  );
  for (let k = 0; k < 420; k++) {
    const u = 10 + random() * 300,
      v = -300 + random() * 620;
    const z = Number(ground(u, v).toFixed(3));
    const p = local(place(u, v));
    d.point('SPOT-HEIGHT', p, z);
    if (k % 3 === 0) d.text('SPOT-TEXT', [p[0] + 0.6, p[1] + 0.6], 1.2, z.toFixed(2));
  }
  for (const street of STREETS.along) {
    for (const side of [-9.5, 9.5]) {
      for (let v = -300; v < 290; v += 46) {
        const layer = random() < 0.4 ? 'HEDGE' : 'FENCE-TIMBER';
        d.polyline(
          layer,
          alongShore(street.u + side, v, v + 40, 10).map((p) => local(p)),
        );
      }
    }
    d.polyline(
      'KERB-OLD',
      alongShore(street.u - 5.2, -300, 300, 20).map((p) => local(p)),
    );
  }
  ['A', 'B', 'C', 'D'].forEach((peg, i) =>
    d.insert('MARK', 'MARK-PEG', local(place(60 + 70 * i, -260 + 150 * i)), 2.5, 0, { PEG: `PEG ${peg}`, FIXED_BY: 'satellite, 2 h' }),
  );
  return d.toString();
}

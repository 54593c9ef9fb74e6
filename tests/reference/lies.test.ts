import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileFilter } from '@pontrel/core/filter/evaluate';
import { LINE, POINT, POLYGON } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { python } from './python';

type Place = [number, number];
interface Shape {
  kind: number;
  parts: Place[][];
}

// a grid of few numbers, so that corners meet edges and edges lie along edges all the time
const n = fc.integer({ min: 0, max: 8 });
const place = fc.tuple(n, n);
const closed = (ring: Place[]): Place[] => [...ring, ring[0]!];
const ring = fc.oneof(
  fc.tuple(n, n, fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 6 })).map(([x, y, w, h]): Place[] =>
    closed([
      [x, y],
      [x + w, y],
      [x + w, y + h],
      [x, y + h],
    ]),
  ),
  fc.uniqueArray(place, { minLength: 3, maxLength: 5, selector: String }).map(closed),
);
const area = fc.oneof(
  ring.map((r) => [r]),
  fc.tuple(ring, ring).map((both) => both),
);
const shape: fc.Arbitrary<Shape> = fc.oneof(
  place.map((p) => ({ kind: POINT, parts: [[p]] })),
  fc.uniqueArray(place, { minLength: 2, maxLength: 5, selector: String }).map((p) => ({ kind: LINE, parts: [p] })),
  area.map((parts) => ({ kind: POLYGON, parts })),
);
const region = fc.oneof(
  area.map((rings) => ({ rings })),
  place.map((at) => ({ at })),
  fc
    .tuple(n, n, fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 6 }))
    .map(([x, y, w, h]) => ({ box: [x, y, x + w, y + h] as const })),
);

const list = (places: Place[]): string => `(${places.map((p) => p.join(' ')).join(', ')})`;
const wktOf = ({ kind, parts }: Shape): string =>
  kind === POINT ? `POINT ${list(parts[0]!)}` : kind === LINE ? `LINESTRING ${list(parts[0]!)}` : `POLYGON (${parts.map(list).join(', ')})`;

/** Far from zero, where coordinates have few digits left behind the point. */
const FAR = 5_101_000;
const moved = ({ kind, parts }: Shape): Shape => ({ kind, parts: parts.map((p) => p.map(([x, y]): Place => [x / 8 + FAR, y / 8 + FAR])) });

describe('where records lie', () => {
  // shapely, over GEOS: the relations of OGC 06-103r4, section 6.1.15
  it('is told by filters as shapely tells it, edges and corners included, near zero and far from it', () => {
    const cases = fc.sample(fc.tuple(shape, region), { numRuns: 12_000, seed: 1987 });
    const asked = cases.map(([s, r]) => [
      wktOf(s),
      'rings' in r
        ? wktOf({ kind: POLYGON, parts: r.rings })
        : 'at' in r
          ? wktOf({ kind: POINT, parts: [[r.at]] })
          : wktOf({
              kind: POLYGON,
              parts: [
                [
                  [r.box[0], r.box[1]],
                  [r.box[2], r.box[1]],
                  [r.box[2], r.box[3]],
                  [r.box[0], r.box[3]],
                  [r.box[0], r.box[1]],
                ],
              ],
            }),
    ]);
    const told = python<([boolean, boolean, boolean] | null)[]>('lies.py', asked);
    const seen = [0, 0, 0];
    cases.forEach(([s, r], k) => {
      if (!told[k]) return;
      for (const far of [false, true]) {
        const own = far ? moved(s) : s;
        const at = (p: Place): Place => (far ? [p[0] / 8 + FAR, p[1] / 8 + FAR] : p);
        const text =
          'rings' in r
            ? wktOf({ kind: POLYGON, parts: r.rings.map((x) => x.map(at)) })
            : 'at' in r
              ? wktOf({ kind: POINT, parts: [[at(r.at)]] })
              : `BBOX(${[...at([r.box[0], r.box[1]]), ...at([r.box[2], r.box[3]])].join(', ')})`;
        const b = new BatchBuilder('L');
        for (const part of own.parts) {
          for (const [x, y] of part) b.vertex(x, y, NaN);
          b.endPart();
        }
        b.endFeature(own.kind, 'X', 1);
        const batch = b.take();
        const ours = ['S_INTERSECTS', 'S_WITHIN', 'S_DISJOINT'].map((f) => {
          const filter = compileFilter(`${f}(geometry, ${text})`, { inFrame: (x) => x });
          if (typeof filter === 'string') throw new Error(filter);
          return filter(batch)(0);
        });
        expect(ours, `${asked[k]!.join(' and ')}${far ? ', far' : ''}`).toEqual(told[k]);
        ours.forEach((yes, j) => (seen[j]! += Number(yes)));
      }
    });
    // none of the answers is rare
    expect(Math.min(...seen)).toBeGreaterThan(200);
  });
});

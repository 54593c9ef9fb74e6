import { EAST_NORTH } from '../src/crs/axes';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { outsideArea, toGreenwich, widthOf } from '../src/crs/area';
import { type GeographicCrs, type ProjectedCrs } from '../src/crs/crs';
import { readProjString, writeProjString } from '../src/crs/definitions/proj-string';
import { deprecationNote, readDefinition, readPositions } from '../src/crs/definitions/read-definition';
import { writePrj, writeWkt1 } from '../src/crs/definitions/wkt1';
import { writeWkt2 } from '../src/crs/definitions/wkt2';
import { sameDefinition } from '../src/crs/registry/identify';
import { lookupCrs } from '../src/crs/registry/registry';
import { compileTransform } from '../src/crs/transform';

const number = (min: number, max: number): fc.Arbitrary<number> =>
  fc.double({ min, max, noNaN: true }).map((v) => Number(v.toPrecision(10)));
const BASES = ['EPSG:4167', 'EPSG:4326', 'EPSG:4807', 'EPSG:4272'].map((id) => lookupCrs(id) as GeographicCrs);

/** A transverse Mercator of somebody's own, on some datum, in metres or feet, with axes that may run west and south. */
const anybodys: fc.Arbitrary<ProjectedCrs> = fc
  .record({
    base: fc.constantFrom(...BASES),
    lat: number(-80, 80),
    lon: number(-179, 179),
    k: number(0.9, 1.1),
    fe: number(-1e7, 1e7),
    fn: number(-1e7, 1e7),
    foot: fc.boolean(),
  })
  .map(({ base, lat, lon, k, fe, fn, foot }) => ({
    kind: 'projected',
    id: null,
    name: 'Site "A"',
    area: null,
    base,
    method: 9807,
    axes: EAST_NORTH,
    unit: foot ? { name: 'foot', metres: 0.3048 } : { name: 'metre', metres: 1 },
    parameters: { 8801: lat, 8802: lon, 8805: k, 8806: fe, 8807: fn },
  }));

describe("a definition of one's own", () => {
  it.each([
    ['WKT 2', writeWkt2],
    ['WKT 1', writeWkt1],
    ['the .prj dialect', writePrj],
  ] as const)('reads back as it was written in %s', (_form, write) => {
    fc.assert(
      fc.property(anybodys, (crs) => {
        const back = readPositions(write(crs));
        expect(sameDefinition(back, crs)).toBe(true);
      }),
      { seed: 6, numRuns: 120, endOnFailure: true },
    );
  });

  it('keeps its projection as a PROJ string', () => {
    fc.assert(
      fc.property(anybodys, (crs) => {
        const back = readProjString(writeProjString(crs)) as ProjectedCrs;
        for (const code of [8801, 8802, 8805, 8806, 8807]) expect(back.parameters[code]).toBeCloseTo(crs.parameters[code]!, 6);
        expect(back.unit.metres).toBe(crs.unit.metres);
        expect(back.base.datum.ellipsoid.a).toBeCloseTo(crs.base.datum.ellipsoid.a, 3);
        expect(back.base.datum.primeMeridian).toBeCloseTo(crs.base.datum.primeMeridian, 7);
      }),
      { seed: 6, numRuns: 120, endOnFailure: true },
    );
  });

  it('with a way of its own to WGS 84 is carried by that way, and back', () => {
    const own = readPositions('+proj=longlat +ellps=intl +towgs84=59.47,-5.04,187.44,0.47,-0.1,1.024,-4.5993 +no_defs');
    const registered = lookupCrs('EPSG:4272')!;
    // these are the parameters of EPSG:1564, NZGD49 to WGS 84 (2), in the registry with the coordinate frame's signs (values from memory)
    const p = Float64Array.of(172, -41),
      q = Float64Array.of(172, -41);
    const way = compileTransform(own, lookupCrs('EPSG:4326')!);
    way.apply(p, 0, 1, 2);
    compileTransform(registered, lookupCrs('EPSG:4326')!).apply(q, 0, 1, 2);
    // two ways for one datum, each good to some metres
    expect(Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)).toBeLessThan(1e-4);
    way.inverse().apply(p, 0, 1, 2);
    expect(Math.hypot(p[0]! - 172, p[1]! + 41)).toBeLessThan(1e-11);
  });

  it('may be a code in any of its forms, two of them, or a deprecated one, which is said', () => {
    for (const text of ['EPSG:2193', 'epsg:2193', '2193', 'urn:ogc:def:crs:EPSG::2193', 'urn:ogc:def:crs:EPSG:9.8:2193'])
      expect(readPositions(text).id).toBe('EPSG:2193');
    expect(readDefinition('EPSG:2193+7839')).toMatchObject({
      kind: 'compound',
      horizontal: { id: 'EPSG:2193' },
      vertical: { id: 'EPSG:7839' },
    });
    expect(() => readPositions('EPSG:7839')).toThrow(/holds no positions of a map/);
    expect(() => readDefinition('EPSG:2193+2193')).toThrow(/is not a system for heights/);
    expect(deprecationNote(readDefinition('EPSG:2193'))).toBeNull();
    expect(readDefinition('Site', 'x', new Map([['Site', 'EPSG:2193']]))).toMatchObject({ name: 'Site' });
  });
});

describe('the area of use', () => {
  it('is left by points as the transform to degrees says, also across the antimeridian', () => {
    const nztm = lookupCrs('EPSG:2193')!;
    expect(widthOf({ name: '', west: 170, east: -170, south: 0, north: 1 })).toBe(20);
    const p = Float64Array.of(1463700, 5101400, 1463700, 9000000, 1600000, 5400000);
    expect(outsideArea(nztm, p, 3, 2)).toBe(1);
    const degrees = Float64Array.from(p);
    compileTransform(nztm, lookupCrs('EPSG:4167')!).apply(degrees, 0, 3, 2);
    const own = Float64Array.from(p);
    toGreenwich(nztm, own, 3, 2);
    own.forEach((v, k) => expect(v).toBeCloseTo(degrees[k]!, 11));
    // grads of Paris
    const paris = Float64Array.of(0, 50);
    toGreenwich(lookupCrs('EPSG:4807')!, paris, 1, 2);
    expect([...paris].map((v) => Number(v.toFixed(8)))).toEqual([2.33722917, 45]);
  });
});

import { EAST_NORTH } from '../src/crs/axes';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { outsideArea, toGreenwich, widthOf } from '../src/crs/area';
import { type CompoundCrs, type GeographicCrs, positionsOf, type ProjectedCrs, verticalOf } from '../src/crs/crs';
import { definitionOf } from '../src/crs/definitions/definition-of';
import { readProjString, writeProjString } from '../src/crs/definitions/proj-string';
import { deprecationNote, readDefinition, readPositions } from '../src/crs/definitions/read-definition';
import { writePrj, writeWkt1 } from '../src/crs/definitions/wkt1';
import { writeWkt2 } from '../src/crs/definitions/wkt2';
import { identifyCrs, sameDefinition, sameSystem } from '../src/crs/registry/identify';
import { isDeprecated, lookup, lookupCrs } from '../src/crs/registry/registry';
import { rows } from '../src/crs/registry/tables';
import { messageOf } from '../src/model/problem';
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

describe('compound systems of the registry', () => {
  const compounds = rows('compound')
    .map((r) => lookup(r[0]!) as CompoundCrs)
    .filter((c) => !isDeprecated(c.id!) && c.horizontal.kind !== 'local');

  it('keep both parts, and are the same after their texts were read', () => {
    expect(compounds.length).toBeGreaterThan(150);
    const unwritable: string[] = [];
    for (const compound of compounds) {
      const crs = readPositions(compound.id!);
      expect([crs.id, crs.name, verticalOf(crs)?.id, positionsOf(crs).id]).toEqual([
        compound.id,
        compound.name,
        compound.vertical.id,
        compound.horizontal.id,
      ]);
      expect(sameSystem(crs, positionsOf(crs))).toBe(false);
      for (const write of [writeWkt2, writeWkt1, writePrj]) {
        let text: string;
        try {
          text = write(crs);
        } catch (error) {
          unwritable.push(`${compound.id}: ${messageOf(error)}`);
          continue;
        }
        const read = readPositions(text);
        const back = identifyCrs(read) ?? read;
        expect([compound.id, write.name, sameSystem(back, crs) || back.name]).toEqual([compound.id, write.name, true]);
      }
    }
    // methods that the older texts have no name for
    expect(unwritable.length).toBeLessThan(40);
  });

  it('a pair of codes is one, whether the registry has it or not', () => {
    const pair = readPositions('EPSG:2193+7839');
    expect([pair.id, definitionOf(pair)]).toEqual(['EPSG:2193+7839', 'EPSG:2193+7839']);
    expect(sameSystem(readPositions(writeWkt2(pair)), pair)).toBe(true);
    // a plane of one's own says nothing of heights yet
    expect(verticalOf(readPositions('local'))).toBeNull();
    expect(() => readPositions('EPSG:7839')).toThrow(/holds no positions of a map/);
  });
});

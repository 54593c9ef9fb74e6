import { describe, expect, it } from 'vitest';
import { findCandidates } from '../src/placement/finder';
import { allCrs, lookupCrs } from '../src/crs/registry/registry';
import { compileTransform } from '../src/crs/transform';
import { invert } from '../src/crs/datum/inverse';
import { helmertShift } from '../src/crs/datum/helmert';
import { transverseMercator } from '../src/crs/methods/transverse-mercator';
import { PARAM } from '../src/crs/crs';
import { readPositions } from '../src/crs/definitions/read-definition';
import { writePrj } from '../src/crs/definitions/wkt1';
import { identifyCrs } from '../src/crs/registry/identify';
import { searchCrs } from '../src/crs/registry/search';

const transform = (from: string, to: string, x: number, y: number): [number, number] => {
  const p = Float64Array.of(x, y);
  compileTransform(lookupCrs(from)!, lookupCrs(to)!).apply(p, 0, 1, 2);
  return [p[0]!, p[1]!];
};

describe('transverse Mercator', () => {
  it('agrees with the worked example of IOGP Guidance Note 7-2', () => {
    // Source: IOGP Guidance Note 7-2, section 3.5.3.1, OSGB36 / British National Grid: 50°30'N, 0°30'E gives 577274.99 m, 69740.50 m (values from memory)
    const airy = { name: 'Airy 1830', a: 6377563.396, invF: 299.3249646 };
    const values: Record<number, number> = {
      [PARAM.latitudeOfOrigin]: 49,
      [PARAM.longitudeOfOrigin]: -2,
      [PARAM.scaleFactor]: 0.9996012717,
      [PARAM.falseEasting]: 400000,
      [PARAM.falseNorthing]: -100000,
    };
    const projector = transverseMercator.compile(airy, (p) => values[p]!);
    const p = Float64Array.of(0.5, 50.5);
    projector.forward(p, 0, 1, 2);
    // the note's figures come of a shorter series; PROJ, in the reference checks, is the sharper judge
    expect(Math.abs(p[0]! - 577274.99)).toBeLessThan(0.01);
    expect(Math.abs(p[1]! - 69740.5)).toBeLessThan(0.01);
    projector.inverse(p, 0, 1, 2);
    expect(p[0]).toBeCloseTo(0.5, 11);
    expect(p[1]).toBeCloseTo(50.5, 11);
  });

  it('comes back to the same place from anywhere on a wide strip, poles included', () => {
    const way = compileTransform(lookupCrs('EPSG:4167')!, lookupCrs('EPSG:2193')!);
    const back = way.inverse();
    for (let lon = 138; lon <= 208; lon += 3.5) {
      for (const lat of [-90, -89.9999, -75.5, -44.2, -10, 0, 0.001, 30, 60]) {
        const p = Float64Array.of(lon > 180 ? lon - 360 : lon, lat);
        way.apply(p, 0, 1, 2);
        back.apply(p, 0, 1, 2);
        expect(Math.abs(p[1]! - lat)).toBeLessThan(1e-10);
        if (Math.abs(lat) < 89) expect(Math.abs(((p[0]! - lon + 540) % 360) - 180)).toBeLessThan(1e-9);
      }
    }
  });

  it('says that a datum change is not known rather than leaving it out', () => {
    const far = [...allCrs()].find((c) => c.kind === 'geographic' && c.name === 'Sibun Gorge 1922');
    expect(() => compileTransform(far!, lookupCrs('EPSG:2193')!)).toThrow(/No datum change from Sibun Gorge 1922/);
  });
});

describe('the registry', () => {
  it('finds by code, name and place', () => {
    expect(searchCrs('2193')[0]!.id).toBe('EPSG:2193');
    expect(searchCrs('timaru 2000')[0]!.id).toBe('EPSG:2126');
    expect(searchCrs('utm 59s new zealand').length).toBeGreaterThan(0);
    expect(searchCrs('no such place')).toEqual([]);
    expect(searchCrs('', { point: [171.298, -44.227], limit: 40 }).map((c) => c.id)).toEqual(
      expect.arrayContaining(['EPSG:2126', 'EPSG:2193']),
    );
    expect(searchCrs('foot', { box: [-83, 42, -82, 43] }).every((c) => c.kind === 'projected' && /foot/.test(c.unit.name))).toBe(true);
    // a deprecated code is found, with what takes its place behind it
    expect(
      searchCrs('2141')
        .map((c) => c.id)
        .slice(0, 1),
    ).toEqual(['EPSG:2141']);
  });

  it('knows its own .prj texts again by their content, whatever they are called', () => {
    for (const id of ['EPSG:2193', 'EPSG:2126', 'EPSG:4326', 'EPSG:4167', 'EPSG:3857', 'EPSG:32759', 'EPSG:27700']) {
      const text = writePrj(lookupCrs(id)!).replace(/^(PROJCS|GEOGCS)\["[^"]*"/, '$1["Some other name"');
      expect(identifyCrs(readPositions(text))?.id).toBe(id);
    }
  });

  it('tells where a .prj text breaks off', () => {
    const text = writePrj(lookupCrs('EPSG:2193')!);
    expect(() => readPositions(text.slice(0, 200))).toThrow(/breaks off at character 201/);
    expect(() => readPositions('hello')).toThrow(/is no code, no saved name and no definition/);
    expect(() => readPositions('EPSG:99999')).toThrow(/EPSG:99999 is not in the registry/);
    expect(readPositions('ENGCRS["Site",EDATUM["Site"],CS[Cartesian,2],LENGTHUNIT["foot",0.3048]]')).toMatchObject({
      kind: 'local',
      name: 'Site',
      unit: { metres: 0.3048 },
    });
    expect(() => readPositions('+proj=tmerc +lat_0=x')).toThrow(/\+lat_0=x, which is not a number/);
    expect(
      identifyCrs(
        readPositions('+proj=merc +a=6378137 +b=6378137 +lat_ts=0 +lon_0=0 +x_0=0 +y_0=0 +k=1 +units=m +nadgrids=@null +wktext +no_defs'),
      )?.id,
    ).toBe('EPSG:3857');
    expect(() => readPositions('+proj=tmerc +hidden=1')).toThrow(/\+hidden, which is not understood/);
  });
});

describe('finding a system for bare numbers', () => {
  // the quay, in millimetres of NZTM
  const extent: [number, number, number, number] = [1463_700_000, 5101_000_000, 1464_400_000, 5102_000_000];
  it('tries them in every system, in the unit that is stated', () => {
    const found = findCandidates(extent, 0.001, { systems: new Set(), places: [] }, 50);
    const nztm = found.find((c) => c.crs.id === 'EPSG:2193')!;
    expect(nztm.lon).toBeCloseTo(171.298, 2);
    expect(nztm.lat).toBeCloseTo(-44.227, 2);
    expect(found.every((c) => !c.clear)).toBe(true); // Argentina's zones would do as well: the numbers alone cannot tell
    expect(found.every((c) => c.mistake === null)).toBe(true);
  });

  it('is clear when one of them lies where work lies already', () => {
    const local: [number, number, number, number] = [419_144, 819_110, 419_553, 819_764];
    const [first] = findCandidates(local, 1, { systems: new Set(['EPSG:2193']), places: [[171.298, -44.227]] }, 50);
    expect(first).toMatchObject({ clear: true, mistake: null, crs: { id: 'EPSG:2126' } });
    expect(first!.away_km).toBeLessThan(1);
  });

  it('sees through each of the usual mistakes once it is known where the work lies', () => {
    const near = [171.298, -44.227] as const;
    const quay: [number, number, number, number] = [1463_700, 5101_000, 1464_400, 5102_000];
    const changed = (f: (x: number, y: number) => [number, number]): [number, number, number, number] => {
      const [a, b] = [f(quay[0], quay[1]), f(quay[2], quay[3])];
      return [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[0], b[0]), Math.max(a[1], b[1])];
    };
    const cases: [string, (x: number, y: number) => [number, number], RegExp][] = [
      ['millimetres', (x, y) => [x * 1000, y * 1000], /numbers are millimetres/],
      ['feet', (x, y) => [x / 0.3048, y / 0.3048], /numbers are (US survey )?feet/],
      ['links', (x, y) => [x / 0.201168, y / 0.201168], /numbers are links/],
      ['yards', (x, y) => [x / 0.9144, y / 0.9144], /numbers are yards/],
      ['northing first', (x, y) => [y, x], /N comes before E/],
      ['no false origin', (x, y) => [x - 1_600_000, y - 10_000_000], /false origin was dropped/],
      ['no false easting', (x, y) => [x - 1_600_000, y], /false easting was dropped/],
      ['no millions', (x, y) => [x % 1e6, y % 1e6], /leading digits/],
    ];
    for (const [name, change, mistake] of cases) {
      const found = findCandidates(changed(change), 1, { systems: new Set(['EPSG:2193']), places: [], near }, 12);
      const nztm = found.find((c) => c.crs.id === 'EPSG:2193');
      expect(nztm?.mistake, name).toMatch(mistake);
      expect(nztm!.pointed_km, name).toBeLessThan(2);
    }
  });

  it('tells the two ways in which drawings of a south-orientated system come', () => {
    // Hartebeesthoek94 / Lo29 counts to the west and south
    const own = findCandidates([71_900, 2847_300, 72_000, 2847_400], 1, { systems: new Set(), places: [], near: [28.28, -25.73] }, 12).find(
      (c) => c.crs.id === 'EPSG:2053',
    );
    expect(own).toMatchObject({ mistake: null, parameters: { unit_m: 1 } });
    const turned = findCandidates(
      [-72_000, -2847_400, -71_900, -2847_300],
      1,
      { systems: new Set(), places: [], near: [28.28, -25.73] },
      12,
    ).find((c) => c.crs.id === 'EPSG:2053');
    expect(turned).toMatchObject({ parameters: { signReversed: true } });
    expect(turned!.lat).toBeCloseTo(own!.lat, 2);
  });

  it('passes on what it was given', () => {
    expect(transform('EPSG:2193', 'EPSG:2193', 1.25, 2.5)).toEqual([1.25, 2.5]);
  });
});

describe('a change of datum by seven parameters', () => {
  it('agrees with the worked example of IOGP Guidance Note 7-2', () => {
    // Source: IOGP Guidance Note 7-2, section 4.3.3, position vector transformation WGS 72 to WGS 84 (values from memory):
    // X 3657660.66, Y 255768.55, Z 5201382.11 become X 3657660.78, Y 255778.43, Z 5201387.75
    const wgs72 = { name: 'WGS 72', a: 6378135, invF: 298.26 },
      wgs84 = { name: 'WGS 84', a: 6378137, invF: 298.257223563 };
    const geographic = (x: number, y: number, z: number, e: typeof wgs72): [number, number, number] => {
      const f = 1 / e.invF,
        e2 = f * (2 - f);
      let phi = Math.atan2(z, Math.hypot(x, y) * (1 - e2));
      let h = 0;
      for (let k = 0; k < 20; k++) {
        const nu = e.a / Math.sqrt(1 - e2 * Math.sin(phi) ** 2);
        h = Math.hypot(x, y) / Math.cos(phi) - nu;
        phi = Math.atan2(z, Math.hypot(x, y) * (1 - (e2 * nu) / (nu + h)));
      }
      return [(Math.atan2(y, x) * 180) / Math.PI, (phi * 180) / Math.PI, h];
    };
    const [lon, lat] = geographic(3657660.66, 255768.55, 5201382.11, wgs72);
    const [lon84, lat84] = geographic(3657660.78, 255778.43, 5201387.75, wgs84);
    const shift = helmertShift({
      helmert: { tx: 0, ty: 0, tz: 4.5, rx: 0, ry: 0, rz: 0.554, ds: 0.219 },
      pivot: null,
      from: wgs72,
      to: wgs84,
      inverse: false,
      heights: false,
    });
    const p = Float64Array.of(lon, lat);
    shift(p, 0, 1, 2);
    // a centimetre, as the example is given
    expect(Math.abs(p[0]! - lon84)).toBeLessThan(2e-7);
    expect(Math.abs(p[1]! - lat84)).toBeLessThan(2e-7);
    invert(shift, false)(p, 0, 1, 2);
    expect(Math.abs(p[0]! - lon)).toBeLessThan(1e-13);
    expect(Math.abs(p[1]! - lat)).toBeLessThan(1e-13);
  });
});

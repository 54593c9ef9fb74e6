import { describe, expect, it } from 'vitest';
import type { ProjectedCrs } from '../src/crs/crs';
import { METHODS } from '../src/crs/methods/index';
import { projectorOf } from '../src/crs/projector';
import { lookup } from '../src/crs/registry/registry';

const dms = (d: number, m = 0, s = 0): number => Math.sign(d) * (Math.abs(d) + m / 60 + s / 3600);

/**
 * The worked examples of IOGP Guidance Note 7-2 (section 3, one a method): a registered system, latitude and longitude of Greenwich, and
 * what the note gives, the east-west axis first, in the unit of the system. All values are from memory; tolerances are what the note rounds to.
 */
const EXAMPLES: readonly [section: string, code: string, lat: number, lon: number, x: number, y: number, tolerance: number][] = [
  ['3.2.1 Lambert Conic Conformal (2SP)', 'EPSG:32040', dms(28, 30), dms(-96), 2963503.91, 254759.8, 0.01],
  ['3.2.1.2 Lambert Conic Conformal (1SP)', 'EPSG:24200', dms(17, 55, 55.8), dms(-76, 56, 37.26), 255966.58, 142493.51, 0.01],
  ['3.2.1.4 Lambert Conic Conformal (2SP Belgium)', 'EPSG:31300', dms(50, 40, 46.461), dms(5, 48, 26.533), 251763.2, 153034.13, 0.01],
  ['3.2.1.5 Lambert Conic Conformal (2SP Michigan)', 'EPSG:6201', dms(43, 45), dms(-83, 10), 2308335.75, 160210.48, 0.01],
  ['3.2.2 Krovak', 'EPSG:2065', dms(50, 12, 32.442), dms(16, 50, 59.179), 568991, 1050538.63, 0.015],
  ['3.2.2.2 Krovak (North Orientated)', 'EPSG:5514', dms(50, 12, 32.442), dms(16, 50, 59.179), -568991, -1050538.63, 0.015],
  ['3.2.2.3 Krovak Modified', 'EPSG:5515', dms(50, 12, 32.442), dms(16, 50, 59.179), 5568990.91, 6050538.71, 0.01],
  ['3.2.2.4 Krovak Modified (North Orientated)', 'EPSG:5516', dms(50, 12, 32.442), dms(16, 50, 59.179), -5568990.91, -6050538.71, 0.01],
  ['3.2.3 Lambert Conic Near-Conformal', 'EPSG:22700', dms(37, 31, 17.625), dms(34, 8, 11.291), 15707.96, 623165.96, 0.01],
  ['3.2.5 Albers Equal Area', 'EPSG:3174', dms(42, 45), dms(-78, 45), 1466493.49, 702903.01, 0.01],
  ['3.3.1 Mercator (variant A)', 'EPSG:3002', dms(-3), dms(120), 5009726.58, 569150.82, 0.01],
  ['3.3.1.2 Mercator (variant B)', 'EPSG:3388', dms(53), dms(53), 165704.29, 5171848.07, 0.01],
  ['3.3.2 Popular Visualisation Pseudo Mercator', 'EPSG:3857', dms(24, 22, 54.433), dms(-100, 20), -11169055.58, 2800000, 0.01],
  ['3.3.3 Cassini-Soldner', 'EPSG:30200', dms(10), dms(-62), 66644.94, 82536.22, 0.01],
  ['3.3.3.1 Hyperbolic Cassini-Soldner', 'EPSG:3139', dms(-16, 50, 29.2435), dms(179, 59, 39.6115), 1601528.9, 1336966.01, 0.01],
  ['3.5.3.1 Transverse Mercator', 'EPSG:27700', dms(50, 30), dms(0.5), 577274.99, 69740.5, 0.01],
  ['3.5.3.3 Transverse Mercator (South Orientated)', 'EPSG:2053', dms(-25, 43, 55.302), dms(28, 16, 57.479), 71984.49, 2847342.74, 0.015],
  ['3.5.4 Hotine Oblique Mercator (variant B)', 'EPSG:29873', dms(5, 23, 14.1129), dms(115, 48, 19.8196), 679245.73, 596562.78, 0.01],
  ['3.4.1 Oblique Stereographic', 'EPSG:28992', 53, 6, 196105.283, 557057.739, 0.001],
  ['3.4.2 Polar Stereographic (variant A)', 'EPSG:32661', 73, 44, 3320416.75, 632668.43, 0.01],
  ['3.4.2 Polar Stereographic (variant B)', 'EPSG:3032', -75, 120, 7255380.79, 7053389.56, 0.01],
  ['3.4.2 Polar Stereographic (variant C)', 'EPSG:2985', dms(-66, 36, 18.82), dms(140, 4, 17.04), 303169.52, 244055.72, 0.01],
  ['3.6.1 New Zealand Map Grid', 'EPSG:27200', -34.444066, 172.739194, 2487100.638, 6751049.719, 0.1],
  ['3.6.2 Tunisia Mining Grid', 'EPSG:22300', 38.97997 * 0.9, 8.22437 * 0.9 + 2.33722917, 302, 598, 0.05],
  ['3.6.4 Lambert Azimuthal Equal Area', 'EPSG:3035', 50, 5, 3962799.45, 2999718.85, 0.01],
  ['3.6.6 Equidistant Cylindrical', 'EPSG:4087', 55, 10, 1113194.91, 6097230.31, 0.01],
  ['3.6.7 Modified Azimuthal Equidistant', 'EPSG:3295', dms(9, 35, 47.493), dms(138, 11, 34.908), 42665.9, 65509.82, 0.01],
  ['3.6.8 Guam Projection', 'EPSG:3993', dms(13, 20, 20.53846), dms(144, 38, 7.19265), 37712.48, 35242, 0.01],
  ['3.6.9 Laborde Oblique Mercator', 'EPSG:29701', dms(-16, 11, 23.28), dms(44, 27, 27.26), 188333.848, 1098841.091, 0.01],
  ['3.6.10 Colombia Urban', 'EPSG:6247', dms(4, 48), dms(-74, 15), 80859.033, 122543.174, 0.001],
];

describe('the worked examples of IOGP Guidance Note 7-2', () => {
  it.each(EXAMPLES)('%s, %s', (_section, code, lat, lon, x, y, tolerance) => {
    const crs = lookup(code) as ProjectedCrs;
    const projector = projectorOf(crs);
    const p = Float64Array.of(lon - crs.base.datum.primeMeridian, lat);
    projector.forward(p, 0, 1, 2);
    const { metres } = crs.unit;
    expect(Math.hypot(p[0]! / metres - x, p[1]! / metres - y)).toBeLessThan(tolerance);
    projector.inverse(p, 0, 1, 2);
    expect(Math.abs(p[0]! + crs.base.datum.primeMeridian - lon)).toBeLessThan(1e-9);
    expect(Math.abs(p[1]! - lat)).toBeLessThan(1e-9);
  });

  it('leave out only the methods of which no example is remembered, which the live check against PROJ holds', () => {
    const shown = new Set(EXAMPLES.map(([, code]) => (lookup(code) as ProjectedCrs).method));
    expect(
      [...METHODS.values()]
        .filter((m) => !shown.has(m.code))
        .map((m) => m.code)
        .sort((a, b) => a - b),
    ).toEqual([1027, 1029, 1078, 1111, 9812, 9818, 9823, 9824, 9826, 9827, 9828, 9834, 9835, 9841, 9842]);
  });
});

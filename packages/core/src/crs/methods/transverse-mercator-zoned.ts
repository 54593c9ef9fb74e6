import { PARAM } from '../crs';
import { type Method, type Projector, wrapDegrees } from './method';
import { kruger } from './transverse-mercator';

/**
 * Transverse Mercator in zones: the number of the zone stands before the easting, in millions.
 * Source: IOGP Guidance Note 7-2, section 3.5.3 (EPSG method 9824).
 */
export const transverseMercatorZoned: Method = {
  code: 9824,
  name: 'Transverse Mercator Zoned Grid System',
  parameters: [PARAM.latitudeOfOrigin, PARAM.initialLongitude, PARAM.zoneWidth, PARAM.scaleFactor, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const initial = value(PARAM.initialLongitude);
    const width = value(PARAM.zoneWidth);
    const count = Math.round(360 / width);
    const zones: Projector[] = [];
    const zoneOf = (zone: number): Projector =>
      (zones[zone] ??= kruger(ellipsoid, (p) => {
        if (p === PARAM.longitudeOfOrigin) return wrapDegrees(initial + width * (zone - 0.5));
        return value(p) + (p === PARAM.falseEasting ? zone * MILLION : 0);
      }));
    return {
      forward(p, from, n, stride) {
        for (let k = 0, i = from; k < n; k++, i += stride) {
          const zone = Math.floor(((((p[i]! - initial) % 360) + 360) % 360) / width) + 1;
          if (zone >= 1 && zone <= count) zoneOf(zone).forward(p, i, 1, stride);
          else p[i] = p[i + 1] = NaN;
        }
      },
      inverse(p, from, n, stride) {
        for (let k = 0, i = from; k < n; k++, i += stride) {
          const zone = Math.floor(p[i]! / MILLION);
          if (zone >= 1 && zone <= count) zoneOf(zone).inverse(p, i, 1, stride);
          else p[i] = p[i + 1] = NaN;
        }
      },
    };
  },
};

const MILLION = 1e6;

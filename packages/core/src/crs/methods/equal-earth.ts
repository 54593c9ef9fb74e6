import { PARAM } from '../crs';
import { auxiliary } from './auxiliary';
import { type Method, projector } from './method';

/** Source: IOGP Guidance Note 7-2, section 3.4.5 (EPSG method 1078); B. Šavrič, T. Patterson, B. Jenny, IJGIS 33 (2019). */
export const equalEarth: Method = {
  code: 1078,
  name: 'Equal Earth',
  parameters: [PARAM.longitudeOfOrigin, PARAM.falseEasting, PARAM.falseNorthing],
  compile(ellipsoid, value) {
    const { authalic, fromAuthalic, authalicRadius: R } = auxiliary(ellipsoid);
    const slope = (t: number): number => A1 + 3 * A2 * t ** 2 + t ** 6 * (7 * A3 + 9 * A4 * t ** 2);
    const rise = (t: number): number => t * (A1 + A2 * t ** 2 + t ** 6 * (A3 + A4 * t ** 2));
    return projector(
      value(PARAM.longitudeOfOrigin),
      value(PARAM.falseEasting),
      value(PARAM.falseNorthing),
      (lam, phi, out) => {
        const theta = Math.asin((ROOT3 / 2) * Math.sin(authalic(phi)));
        out[0] = (R * 2 * lam * Math.cos(theta)) / (ROOT3 * slope(theta));
        out[1] = R * rise(theta);
      },
      (x, y, out) => {
        const h = y / R;
        let theta = h;
        for (let round = 0; round < 20; round++) {
          const step = (rise(theta) - h) / slope(theta);
          theta -= step;
          if (Math.abs(step) < 1e-16) break;
        }
        out[0] = (ROOT3 * x * slope(theta)) / (2 * R * Math.cos(theta));
        out[1] = fromAuthalic(Math.asin((2 * Math.sin(theta)) / ROOT3));
      },
    );
  },
};

const ROOT3 = Math.sqrt(3);
const A1 = 1.340264,
  A2 = -0.081106,
  A3 = 0.000893,
  A4 = 0.003796;

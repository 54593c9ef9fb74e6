import { RAD } from '../angles';
import { PARAM } from '../crs';
import { type Method, projector } from './method';

/** Grads and kilometres, by two constants of latitude. Source: IOGP Guidance Note 7-2, section 3.6.3 (EPSG method 9816). */
export const tunisiaMining: Method = {
  code: 9816,
  name: 'Tunisia Mining Grid',
  parameters: [PARAM.latitudeOfFalseOrigin, PARAM.longitudeOfFalseOrigin, PARAM.eastingAtFalseOrigin, PARAM.northingAtFalseOrigin],
  compile(_ellipsoid, value) {
    const lat0 = value(PARAM.latitudeOfFalseOrigin) * RAD;
    return projector(
      value(PARAM.longitudeOfFalseOrigin),
      value(PARAM.eastingAtFalseOrigin),
      value(PARAM.northingAtFalseOrigin),
      (lam, phi, out) => {
        out[0] = (lam / GRAD / EAST) * KM;
        out[1] = ((phi - lat0) / GRAD / (phi > lat0 ? NORTH_OF : SOUTH_OF)) * KM;
      },
      (x, y, out) => {
        out[0] = (x / KM) * EAST * GRAD;
        out[1] = lat0 + (y / KM) * (y > 0 ? NORTH_OF : SOUTH_OF) * GRAD;
      },
    );
  },
};

const GRAD = Math.PI / 200;
const KM = 1000;
/** Grads in a kilometre: along a parallel, and along a meridian north and south of the origin. */
const EAST = 0.012185,
  NORTH_OF = 0.010015,
  SOUTH_OF = 0.01002;

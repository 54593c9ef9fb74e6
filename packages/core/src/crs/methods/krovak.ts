import { RAD } from '../angles';
import type { Ellipsoid } from '../ellipsoid';
import { PARAM } from '../crs';
import { auxiliary, conformalT } from './auxiliary';
import { type Formula, type Method, mirrored, type Projector, projector } from './method';

const PARAMETERS = [
  PARAM.latitudeOfCentre,
  PARAM.longitudeFromPole,
  PARAM.coneAxisColatitude,
  PARAM.pseudoParallel,
  PARAM.scaleOnPseudoParallel,
  PARAM.falseEasting,
  PARAM.falseNorthing,
];

/** Oblique conformal cone with westings and southings. Source: IOGP Guidance Note 7-2, section 3.2.3 (EPSG method 9819). */
export const krovak: Method = {
  code: 9819,
  name: 'Krovak',
  parameters: PARAMETERS,
  orientation: { x: 'west', y: 'south' },
  compile: (ellipsoid, value) => cone(ellipsoid, value, false),
};

/** The same with eastings and northings, all negative in use. Source: IOGP Guidance Note 7-2, section 3.2.3 (EPSG method 1041). */
export const krovakNorth: Method = {
  code: 1041,
  name: 'Krovak (North Orientated)',
  parameters: PARAMETERS,
  compile: (ellipsoid, value) => mirrored(cone(ellipsoid, value, false), -1, -1),
};

/** Corrected by a polynomial of the network. Source: IOGP Guidance Note 7-2, section 3.2.3.1 (EPSG method 1042). */
export const krovakModified: Method = {
  code: 1042,
  name: 'Krovak Modified',
  parameters: PARAMETERS,
  orientation: { x: 'west', y: 'south' },
  compile: (ellipsoid, value) => cone(ellipsoid, value, true),
};

/** Source: IOGP Guidance Note 7-2, section 3.2.3.1 (EPSG method 1043). */
export const krovakModifiedNorth: Method = {
  code: 1043,
  name: 'Krovak Modified (North Orientated)',
  parameters: PARAMETERS,
  compile: (ellipsoid, value) => mirrored(cone(ellipsoid, value, true), -1, -1),
};

function cone(ellipsoid: Ellipsoid, value: (parameter: number) => number, modified: boolean): Projector {
  const { e, e2, fromConformal } = auxiliary(ellipsoid);
  const phiC = value(PARAM.latitudeOfCentre) * RAD;
  const alpha = value(PARAM.coneAxisColatitude) * RAD;
  const phiP = value(PARAM.pseudoParallel) * RAD;
  const sinC = Math.sin(phiC);
  const A = (ellipsoid.a * Math.sqrt(1 - e2)) / (1 - e2 * sinC * sinC);
  const B = Math.sqrt(1 + (e2 * Math.cos(phiC) ** 4) / (1 - e2));
  const gamma = Math.asin(sinC / B);
  const tO = Math.tan(Math.PI / 4 + gamma / 2) * Math.pow(conformalT(phiC, e), B);
  const n = Math.sin(phiP);
  const rO = (value(PARAM.scaleOnPseudoParallel) * A) / Math.tan(phiP);
  const tanP = Math.tan(Math.PI / 4 + phiP / 2);
  const sinA = Math.sin(alpha),
    cosA = Math.cos(alpha);
  const out2 = new Float64Array(2);

  const forward: Formula = (lam, phi, out) => {
    const U = 2 * (Math.atan(tO * Math.pow(conformalT(phi, e), -B)) - Math.PI / 4);
    const V = -B * lam;
    const sinT = cosA * Math.sin(U) + sinA * Math.cos(U) * Math.cos(V);
    const T = Math.asin(sinT);
    const D = Math.asin((Math.cos(U) * Math.sin(V)) / Math.cos(T));
    const r = rO * Math.pow(tanP / Math.tan(T / 2 + Math.PI / 4), n);
    out[0] = r * Math.sin(n * D);
    out[1] = r * Math.cos(n * D);
    if (modified) {
      correction(out[0], out[1], out2);
      out[0] -= out2[0]!;
      out[1] -= out2[1]!;
    }
  };
  const inverse: Formula = (west, south, out) => {
    let y = west,
      x = south;
    // the correction is a matter of centimetres, and so even flatter from one round to the next
    for (let round = 0; modified && round < 4; round++) {
      correction(y, x, out2);
      y = west + out2[0]!;
      x = south + out2[1]!;
    }
    const D = Math.atan2(y, x) / n;
    const T = 2 * (Math.atan(Math.pow(rO / Math.hypot(x, y), 1 / n) * tanP) - Math.PI / 4);
    const U = Math.asin(cosA * Math.sin(T) - sinA * Math.cos(T) * Math.cos(D));
    const V = Math.asin((Math.cos(T) * Math.sin(D)) / Math.cos(U));
    out[0] = -V / B;
    out[1] = fromConformal(Math.PI / 2 - 2 * Math.atan(Math.pow(Math.tan(U / 2 + Math.PI / 4) / tO, -1 / B)));
  };
  return projector(value(PARAM.longitudeFromPole), value(PARAM.falseEasting), value(PARAM.falseNorthing), forward, inverse);
}

/** Origin of the polynomial, metres of westing and southing, and its coefficients C1 to C10. */
const Y0 = 654000,
  X0 = 1089000;
const C = [
  0, 2.946529277e-2, 2.515965696e-2, 1.193845912e-7, -4.668270147e-7, 9.233980362e-12, 1.523735715e-12, 1.696780024e-18, 4.408314235e-18,
  -8.331083518e-24, -3.689471323e-24,
] as const;

/** dY and dX at a westing and a southing, metres. */
function correction(west: number, south: number, out: Float64Array): void {
  const y = west - Y0,
    x = south - X0;
  const x2 = x * x,
    y2 = y * y;
  const quartic = x2 * x2 + y2 * y2 - 6 * x2 * y2;
  out[1] =
    C[1] +
    C[3] * x -
    C[4] * y -
    2 * C[6] * x * y +
    C[5] * (x2 - y2) +
    C[7] * x * (x2 - 3 * y2) -
    C[8] * y * (3 * x2 - y2) +
    4 * C[9] * x * y * (x2 - y2) +
    C[10] * quartic;
  out[0] =
    C[2] +
    C[3] * y +
    C[4] * x +
    2 * C[5] * x * y +
    C[6] * (x2 - y2) +
    C[8] * x * (x2 - 3 * y2) +
    C[7] * y * (3 * x2 - y2) -
    4 * C[10] * x * y * (x2 - y2) +
    C[9] * quartic;
}

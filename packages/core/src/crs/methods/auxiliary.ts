import type { Ellipsoid } from '../ellipsoid';

/**
 * The auxiliary latitudes of one ellipsoid, each as a series in the third flattening n to its sixth power: exact to the last bits on any
 * ellipsoid of the earth, at the poles too, where closed forms lose half of their digits. Latitudes in radians.
 *
 * Source: C. F. F. Karney, "On auxiliary latitudes", Survey Review 56 (2024), appendix A. The coefficients are written from
 * memory and are checked against the closed forms and PROJ.
 */
export interface Auxiliary {
  /** First eccentricity and its square. */
  e: number;
  e2: number;
  /** Geographic latitude from the conformal one. */
  fromConformal(chi: number): number;
  /** Authalic latitude, on which a sphere has the same areas, and the way back. */
  authalic(phi: number): number;
  fromAuthalic(beta: number): number;
  /** Radius of the sphere of the same area, metres. */
  authalicRadius: number;
  /** Length of the meridian from the equator, metres, and the way back. */
  arc(phi: number): number;
  fromArc(metres: number): number;
}

/** The auxiliary quantities of an ellipsoid that projections work with. */
export function auxiliary({ a, invF }: Ellipsoid): Auxiliary {
  const f = invF === 0 ? 0 : 1 / invF;
  const e2 = f * (2 - f);
  const e = Math.sqrt(e2);
  const n = f / (2 - f);
  const delta = conformalToGeographic(n);
  const xi = geographicToAuthalic(n);
  const xiBack = authalicToGeographic(n);
  const mu = geographicToRectifying(n);
  const muBack = rectifyingToGeographic(n);
  const unit = (a / (1 + n)) * (1 + n ** 2 / 4 + n ** 4 / 64 + n ** 6 / 256);
  const qPole = 1 + (e === 0 ? 1 : ((1 - e2) * Math.atanh(e)) / e);
  return {
    e,
    e2,
    fromConformal: (chi) => addSines(chi, delta),
    authalic: (phi) => addSines(phi, xi),
    fromAuthalic: (beta) => addSines(beta, xiBack),
    authalicRadius: a * Math.sqrt(qPole / 2),
    arc: (phi) => unit * addSines(phi, mu),
    fromArc: (metres) => addSines(metres / unit, muBack),
  };
}

/** x + sum of c_j sin 2jx, by Clenshaw's summation. */
function addSines(x: number, c: readonly number[]): number {
  const cos2 = 2 * Math.cos(2 * x);
  let b1 = 0,
    b2 = 0;
  for (let j = 5; j >= 0; j--) {
    const b = cos2 * b1 - b2 + c[j]!;
    b2 = b1;
    b1 = b;
  }
  return x + Math.sin(2 * x) * b1;
}

/** t of the conformal mappings: the tangent of half of the conformal colatitude. IOGP Guidance Note 7-2, section 3.1.1. */
export function conformalT(phi: number, e: number): number {
  const es = e * Math.sin(phi);
  return Math.tan(Math.PI / 4 - phi / 2) / Math.pow((1 - es) / (1 + es), e / 2);
}

/** Radius of a parallel on the ellipsoid of semi-major axis 1: cos phi / sqrt(1 - e2 sin2 phi). */
export function parallelRadius(phi: number, e2: number): number {
  const s = Math.sin(phi);
  return Math.cos(phi) / Math.sqrt(1 - e2 * s * s);
}

/** Radius of curvature in the prime vertical, metres. */
export function primeVertical(phi: number, a: number, e2: number): number {
  const s = Math.sin(phi);
  return a / Math.sqrt(1 - e2 * s * s);
}

/** Radius of curvature of the meridian, metres. */
export function meridional(phi: number, a: number, e2: number): number {
  const s = Math.sin(phi);
  return (a * (1 - e2)) / Math.pow(1 - e2 * s * s, 1.5);
}

/** Coefficients of the series from conformal to geographic latitude. @param n third flattening */
export function conformalToGeographic(n: number): number[] {
  return [
    n * (2 + n * (-2 / 3 + n * (-2 + n * (116 / 45 + n * (26 / 45 - (n * 2854) / 675))))),
    n ** 2 * (7 / 3 + n * (-8 / 5 + n * (-227 / 45 + n * (2704 / 315 + (n * 2323) / 945)))),
    n ** 3 * (56 / 15 + n * (-136 / 35 + n * (-1262 / 105 + (n * 73814) / 2835))),
    n ** 4 * (4279 / 630 + n * (-332 / 35 - (n * 399572) / 14175)),
    n ** 5 * (4174 / 315 - (n * 144838) / 6237),
    n ** 6 * (601676 / 22275),
  ];
}

/** Coefficients of the series from geographic to conformal latitude. @param n third flattening */
export function geographicToConformal(n: number): number[] {
  return [
    n * (-2 + n * (2 / 3 + n * (4 / 3 + n * (-82 / 45 + n * (32 / 45 + (n * 4642) / 4725))))),
    n ** 2 * (5 / 3 + n * (-16 / 15 + n * (-13 / 9 + n * (904 / 315 - (n * 1522) / 945)))),
    n ** 3 * (-26 / 15 + n * (34 / 21 + n * (8 / 5 - (n * 12686) / 2835))),
    n ** 4 * (1237 / 630 + n * (-12 / 5 - (n * 24832) / 14175)),
    n ** 5 * (-734 / 315 + (n * 109598) / 31185),
    n ** 6 * (444337 / 155925),
  ];
}

function geographicToAuthalic(n: number): number[] {
  return [
    n * (-4 / 3 + n * (-4 / 45 + n * (88 / 315 + n * (538 / 4725 + n * (20824 / 467775 - (n * 44732) / 2837835))))),
    n ** 2 * (34 / 45 + n * (8 / 105 + n * (-2482 / 14175 + n * (-37192 / 467775 - (n * 12467764) / 212837625)))),
    n ** 3 * (-1532 / 2835 + n * (-898 / 14175 + n * (54968 / 467775 + (n * 100320856) / 1915538625))),
    n ** 4 * (6007 / 14175 + n * (24496 / 467775 - (n * 5884124) / 70945875)),
    n ** 5 * (-23356 / 66825 - (n * 839792) / 19348875),
    n ** 6 * (570284222 / 1915538625),
  ];
}

function authalicToGeographic(n: number): number[] {
  return [
    n * (4 / 3 + n * (4 / 45 + n * (-16 / 35 + n * (-2582 / 14175 + n * (60136 / 467775 + (n * 28112932) / 212837625))))),
    n ** 2 * (46 / 45 + n * (152 / 945 + n * (-11966 / 14175 + n * (-21016 / 51975 + (n * 251310128) / 638512875)))),
    n ** 3 * (3044 / 2835 + n * (3802 / 14175 + n * (-94388 / 66825 - (n * 8797648) / 10945935))),
    n ** 4 * (6059 / 4725 + n * (41072 / 93555 - (n * 1472637812) / 638512875)),
    n ** 5 * (768272 / 467775 + (n * 455935736) / 638512875),
    n ** 6 * (4210684958 / 1915538625),
  ];
}

function geographicToRectifying(n: number): number[] {
  return [
    n * (-3 / 2 + n ** 2 * (9 / 16 - (n ** 2 * 3) / 32)),
    n ** 2 * (15 / 16 + n ** 2 * (-15 / 32 + (n ** 2 * 135) / 2048)),
    n ** 3 * (-35 / 48 + (n ** 2 * 105) / 256),
    n ** 4 * (315 / 512 - (n ** 2 * 189) / 512),
    n ** 5 * (-693 / 1280),
    n ** 6 * (1001 / 2048),
  ];
}

function rectifyingToGeographic(n: number): number[] {
  return [
    n * (3 / 2 + n ** 2 * (-27 / 32 + (n ** 2 * 269) / 512)),
    n ** 2 * (21 / 16 + n ** 2 * (-55 / 32 + (n ** 2 * 6759) / 4096)),
    n ** 3 * (151 / 96 - (n ** 2 * 417) / 128),
    n ** 4 * (1097 / 512 - (n ** 2 * 15543) / 2560),
    n ** 5 * (8011 / 2560),
    n ** 6 * (293393 / 61440),
  ];
}

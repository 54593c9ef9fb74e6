import { albers } from './albers';
import { bonne, bonneSouth } from './bonne';
import { cassini, hyperbolicCassini } from './cassini';
import { colombiaUrban } from './colombia-urban';
import { equalAreaCylinder, equalAreaCylinderSpherical } from './equal-area-cylinder';
import { equalEarth } from './equal-earth';
import {
  equidistantCylinder,
  equidistantCylinder9823,
  equidistantCylinder9842,
  equidistantCylinderSpherical,
} from './equidistant-cylinder';
import { guam } from './guam';
import { hotineA, hotineB } from './hotine';
import { krovak, krovakModified, krovakModifiedNorth, krovakNorth } from './krovak';
import { laborde } from './laborde';
import { lambertAzimuthal, lambertAzimuthalSpherical } from './lambert-azimuthal';
import { lambertConic1sp } from './lambert-conic-1sp';
import { lambertConic2sp } from './lambert-conic-2sp';
import { lambertConicBelgium } from './lambert-conic-belgium';
import { lambertConicMichigan } from './lambert-conic-michigan';
import { lambertConicWest } from './lambert-conic-west';
import { lambertNearConformal } from './lambert-near-conformal';
import { mercatorA, mercatorB, mercatorSpherical } from './mercator';
import type { Method } from './method';
import { modifiedAzimuthal } from './modified-azimuthal';
import { nzMapGrid } from './nz-map-grid';
import { obliqueStereographic } from './oblique-stereographic';
import { polarStereographicA, polarStereographicB, polarStereographicC } from './polar-stereographic';
import { polyconic } from './polyconic';
import { pseudoMercator } from './pseudo-mercator';
import { transverseMercator } from './transverse-mercator';
import { transverseMercator3d } from './transverse-mercator-3d';
import { transverseMercatorSouth } from './transverse-mercator-south';
import { transverseMercatorZoned } from './transverse-mercator-zoned';
import { tunisiaMining } from './tunisia-mining';

/** Every projection method, by EPSG code. */
export const METHODS: ReadonlyMap<number, Method> = new Map(
  [
    transverseMercator,
    transverseMercatorSouth,
    transverseMercatorZoned,
    transverseMercator3d,
    lambertConic2sp,
    lambertConic1sp,
    lambertConicBelgium,
    lambertConicMichigan,
    lambertConicWest,
    lambertNearConformal,
    mercatorA,
    mercatorB,
    mercatorSpherical,
    pseudoMercator,
    cassini,
    hyperbolicCassini,
    albers,
    bonne,
    bonneSouth,
    lambertAzimuthal,
    lambertAzimuthalSpherical,
    equalAreaCylinder,
    equalAreaCylinderSpherical,
    equidistantCylinder,
    equidistantCylinderSpherical,
    equidistantCylinder9823,
    equidistantCylinder9842,
    equalEarth,
    polarStereographicA,
    polarStereographicB,
    polarStereographicC,
    obliqueStereographic,
    hotineA,
    hotineB,
    laborde,
    krovak,
    krovakNorth,
    krovakModified,
    krovakModifiedNorth,
    nzMapGrid,
    tunisiaMining,
    polyconic,
    guam,
    modifiedAzimuthal,
    colombiaUrban,
  ].map((m) => [m.code, m]),
);

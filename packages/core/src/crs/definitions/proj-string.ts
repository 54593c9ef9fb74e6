import type { Ellipsoid } from '../ellipsoid';
import { Problem } from '../../model/problem';
import { type Crs, type Datum, type EarthCrs, PARAM, type ProjectedCrs } from '../crs';
import type { Helmert } from '../datum/helmert';
import { METHODS } from '../methods/index';
import { adoptDatum, sameEllipsoid } from '../registry/identify';
import { axesOfMethod, datumByCode } from '../registry/registry';
import { linearUnit, meridianByName } from './units';
import { real } from './wkt-tree';

/**
 * PROJ strings: "+proj=tmerc +lat_0=0 +lon_0=173 …". They hold the figure of the earth and the projection, and of the
 * datum only what `+datum` and `+towgs84` say. Source: documentation of PROJ, "Cartographic projection" and "Projections".
 */

/** A projection by its name there. */
interface ProjName {
  method: number;
  name: string;
  /** EPSG parameter codes with the names of PROJ. */
  parameters: readonly (readonly [number, string])[];
  /** Options without a value. */
  flags?: readonly string[];
  /** Fixed parameters of the method for this name. */
  fixed?: Readonly<Record<number, number>>;
  /** Of several methods with one name, the one whose condition holds. */
  when?: (given: ReadonlyMap<string, string>) => boolean;
  /** Only on a sphere do the formulas mean the same. */
  sphere?: true;
}

const P = PARAM;
const FALSE: ProjName['parameters'] = [
  [P.falseEasting, 'x_0'],
  [P.falseNorthing, 'y_0'],
];
const ORIGIN: ProjName['parameters'] = [[P.latitudeOfOrigin, 'lat_0'], [P.longitudeOfOrigin, 'lon_0'], ...FALSE];
const NATURAL: ProjName['parameters'] = [[P.latitudeOfOrigin, 'lat_0'], [P.longitudeOfOrigin, 'lon_0'], [P.scaleFactor, 'k'], ...FALSE];
const CONIC: ProjName['parameters'] = [
  [P.latitudeOfFalseOrigin, 'lat_0'],
  [P.longitudeOfFalseOrigin, 'lon_0'],
  [P.parallel1, 'lat_1'],
  [P.parallel2, 'lat_2'],
  [P.eastingAtFalseOrigin, 'x_0'],
  [P.northingAtFalseOrigin, 'y_0'],
];
const CYLINDER: ProjName['parameters'] = [[P.parallel1, 'lat_ts'], [P.longitudeOfOrigin, 'lon_0'], ...FALSE];
const OBLIQUE: ProjName['parameters'] = [
  [P.latitudeOfCentre, 'lat_0'],
  [P.longitudeOfCentre, 'lonc'],
  [P.azimuth, 'alpha'],
  [P.rectifiedAngle, 'gamma'],
  [P.scaleAtCentre, 'k'],
];
const KROVAK: ProjName['parameters'] = [
  [P.latitudeOfCentre, 'lat_0'],
  [P.longitudeFromPole, 'lon_0'],
  [P.coneAxisColatitude, 'alpha'],
  [P.scaleOnPseudoParallel, 'k'],
  ...FALSE,
];
const given =
  (name: string) =>
  (g: ReadonlyMap<string, string>): boolean =>
    g.has(name);
const polar = (g: ReadonlyMap<string, string>): boolean => Math.abs(Math.abs(Number(g.get('lat_0') ?? 0)) - 90) < 1e-9;

const NAMES: readonly ProjName[] = [
  { method: 9808, name: 'tmerc', parameters: NATURAL, when: (g) => g.get('axis') === 'wsu' },
  { method: 9807, name: 'tmerc', parameters: NATURAL },
  { method: 1111, name: 'tmerc', parameters: NATURAL },
  { method: 9826, name: 'lcc', parameters: [[P.latitudeOfOrigin, 'lat_1'], ...NATURAL], when: (g) => g.get('axis') === 'wnu' },
  {
    method: 1051,
    name: 'lcc',
    parameters: [...CONIC, [P.ellipsoidScale, 'k_0']],
    when: (g) => g.has('lat_2') && g.get('lat_1') !== g.get('lat_2') && (g.has('k_0') || g.has('k')),
  },
  {
    method: 9801,
    name: 'lcc',
    parameters: [[P.latitudeOfOrigin, 'lat_1'], ...NATURAL],
    when: (g) => g.get('lat_0') === g.get('lat_1') && (g.get('lat_2') ?? g.get('lat_1')) === g.get('lat_1'),
  },
  { method: 9802, name: 'lcc', parameters: CONIC },
  { method: 9817, name: 'lcca', parameters: NATURAL },
  { method: 9805, name: 'merc', parameters: CYLINDER, when: given('lat_ts') },
  { method: 9804, name: 'merc', parameters: [[P.longitudeOfOrigin, 'lon_0'], [P.scaleFactor, 'k'], ...FALSE] },
  { method: 1024, name: 'webmerc', parameters: ORIGIN },
  { method: 9833, name: 'cass', parameters: ORIGIN, flags: ['hyperbolic'], when: given('hyperbolic') },
  { method: 9806, name: 'cass', parameters: ORIGIN },
  { method: 9822, name: 'aea', parameters: CONIC },
  { method: 9820, name: 'laea', parameters: ORIGIN },
  { method: 1027, name: 'laea', parameters: ORIGIN, sphere: true },
  {
    method: 9829,
    name: 'stere',
    parameters: [[P.standardParallel, 'lat_ts'], [P.longitudeFromPole, 'lon_0'], ...FALSE],
    when: (g) => polar(g) && g.has('lat_ts'),
  },
  { method: 9810, name: 'stere', parameters: NATURAL, when: polar },
  { method: 9809, name: 'sterea', parameters: NATURAL },
  { method: 9812, name: 'omerc', parameters: [...OBLIQUE, ...FALSE], flags: ['no_uoff'], when: (g) => g.has('no_uoff') || g.has('no_off') },
  { method: 9815, name: 'omerc', parameters: [...OBLIQUE, [P.eastingAtCentre, 'x_0'], [P.northingAtCentre, 'y_0']] },
  {
    method: 9815,
    name: 'somerc',
    fixed: { [P.azimuth]: 90, [P.rectifiedAngle]: 90 },
    parameters: [
      [P.latitudeOfCentre, 'lat_0'],
      [P.longitudeOfCentre, 'lon_0'],
      [P.scaleAtCentre, 'k_0'],
      [P.eastingAtCentre, 'x_0'],
      [P.northingAtCentre, 'y_0'],
    ],
  },
  {
    method: 9813,
    name: 'labrd',
    parameters: [[P.latitudeOfCentre, 'lat_0'], [P.longitudeOfCentre, 'lon_0'], [P.azimuth, 'azi'], [P.scaleAtCentre, 'k'], ...FALSE],
  },
  { method: 9819, name: 'krovak', parameters: KROVAK, fixed: { [P.pseudoParallel]: 78.5 }, when: (g) => g.get('axis') === 'swu' },
  { method: 1041, name: 'krovak', parameters: KROVAK, fixed: { [P.pseudoParallel]: 78.5 } },
  { method: 9811, name: 'nzmg', parameters: ORIGIN },
  { method: 9818, name: 'poly', parameters: ORIGIN },
  { method: 9827, name: 'bonne', parameters: [[P.latitudeOfOrigin, 'lat_1'], [P.longitudeOfOrigin, 'lon_0'], ...FALSE] },
  { method: 9835, name: 'cea', parameters: CYLINDER },
  { method: 9834, name: 'cea', parameters: CYLINDER, sphere: true },
  { method: 1028, name: 'eqc', parameters: CYLINDER, sphere: true },
  { method: 1029, name: 'eqc', parameters: CYLINDER, sphere: true },
  { method: 1078, name: 'eqearth', parameters: [[P.longitudeOfOrigin, 'lon_0'], ...FALSE] },
  { method: 1052, name: 'col_urban', parameters: [...ORIGIN, [P.planeHeight, 'h_0']] },
  { method: 9831, name: 'aeqd', parameters: ORIGIN, flags: ['guam'], when: given('guam') },
  { method: 9832, name: 'aeqd', parameters: ORIGIN },
];

/** Figures of the earth by their names there: semi-major axis, metres, and inverse flattening. */
const ELLIPSOIDS: Readonly<Record<string, readonly [number, number]>> = {
  MERIT: [6378137, 298.257],
  SGS85: [6378136, 298.257],
  GRS80: [6378137, 298.257222101],
  IAU76: [6378140, 298.257],
  airy: [6377563.396, 299.3249646],
  'APL4.9': [6378137, 298.25],
  NWL9D: [6378145, 298.25],
  mod_airy: [6377340.189, 299.3249373654824],
  andrae: [6377104.43, 300],
  danish: [6377019.256, 300],
  aust_SA: [6378160, 298.25],
  GRS67: [6378160, 298.247167427],
  GSK2011: [6378136.5, 298.2564151],
  bessel: [6377397.155, 299.1528128],
  bess_nam: [6377483.865, 299.1528128],
  clrk66: [6378206.4, 294.9786982138982],
  clrk80: [6378249.145, 293.4663],
  clrk80ign: [6378249.2, 293.4660212936269],
  CPM: [6375738.7, 334.29],
  delmbr: [6376428, 311.5],
  engelis: [6378136.05, 298.2566],
  evrst30: [6377276.345, 300.8017],
  evrst48: [6377304.063, 300.8017],
  evrst56: [6377301.243, 300.8017],
  evrst69: [6377295.664, 300.8017],
  evrstSS: [6377298.556, 300.8017],
  fschr60: [6378166, 298.3],
  fschr60m: [6378155, 298.3],
  fschr68: [6378150, 298.3],
  helmert: [6378200, 298.3],
  hough: [6378270, 297],
  intl: [6378388, 297],
  krass: [6378245, 298.3],
  kaula: [6378163, 298.24],
  lerch: [6378139, 298.257],
  mprts: [6397300, 191],
  new_intl: [6378157.5, 298.2496153900135],
  plessis: [6376523, 308.64099709583735],
  PZ90: [6378136, 298.25784],
  SEasia: [6378155, 298.3000002408657],
  walbeck: [6376896, 302.78000018165636],
  WGS60: [6378165, 298.3],
  WGS66: [6378145, 298.25],
  WGS72: [6378135, 298.26],
  WGS84: [6378137, 298.257223563],
  sphere: [6370997, 0],
};

/** Datums by their names there, as EPSG codes. */
const DATUMS: Readonly<Record<string, string>> = {
  WGS84: '6326',
  NAD83: '6269',
  NAD27: '6267',
  GGRS87: '6121',
  potsdam: '6314',
  carthage: '6223',
  hermannskogel: '6312',
  ire65: '6299',
  nzgd49: '6272',
  OSGB36: '6277',
};
/** Those that say all of a datum: the others bring a way to WGS 84 of their own. */
const WHOLE = new Set(['WGS84', 'NAD83', 'NAD27']);

/** Linear units by their names there, metres. */
const UNITS: Readonly<Record<string, number>> = {
  m: 1,
  km: 1000,
  dm: 0.1,
  cm: 0.01,
  mm: 0.001,
  ft: 0.3048,
  'us-ft': 12 / 39.37,
  yd: 0.9144,
  'us-yd': 36 / 39.37,
  ch: 20.1168,
  'us-ch': 792 / 39.37,
  link: 0.201168,
  fath: 1.8288,
  in: 0.0254,
  'us-in': 1 / 39.37,
  mi: 1609.344,
  'us-mi': 63360 / 39.37,
  kmi: 1852,
  'ind-ft': 0.30479841,
  'ind-yd': 0.91439523,
  'ind-ch': 20.11669506,
};

const NAMED_MERIDIANS: Readonly<Record<string, string>> = {
  ferro: 'Ferro',
  paris: 'Paris',
  lisbon: 'Lisbon',
  bogota: 'Bogota',
  madrid: 'Madrid',
  rome: 'Rome',
  bern: 'Bern',
  jakarta: 'Jakarta',
  brussels: 'Brussels',
  stockholm: 'Stockholm',
  athens: 'Athens',
  oslo: 'Oslo',
};

/** @throws Problem `crs-not-writable` when a PROJ string cannot say it */
export function writeProjString(crs: Crs): string {
  if (crs.kind === 'local')
    throw new Problem('crs-not-writable', `${crs.name} has no place on earth, and a PROJ string states one. Take wkt1 or wkt2.`);
  if (crs.kind === 'geographic') return ['+proj=longlat', ...figureOf(crs.datum), '+no_defs', '+type=crs'].join(' ');
  const { ellipsoid } = crs.base.datum;
  const entry = NAMES.find((n) => n.method === crs.method && (!n.sphere || ellipsoid.invF === 0));
  if (!entry)
    throw new Problem(
      'crs-not-writable',
      `${crs.name} cannot be written as a PROJ string: it has no name there for ${METHODS.get(crs.method)?.name ?? `method ${crs.method}`} on this ellipsoid.`,
    );
  const [sx, sy] = crs.axes.along ? [1, 1] : [crs.axes.x === 'west' ? -1 : 1, crs.axes.y === 'south' ? -1 : 1];
  // signs are turned after the false origin there, and by an orientated method of the registry before it
  const { x = 'east', y = 'north' } = METHODS.get(crs.method)?.orientation ?? {};
  const krovak = entry.name === 'krovak';
  const parameters = entry.parameters.map(([code, name]) => {
    const value = crs.parameters[code] ?? 0;
    const sign = krovak ? 1 : name === 'x_0' && x === 'west' ? -1 : name === 'y_0' && y === 'south' ? -1 : 1;
    return `+${name}=${real(sign * value + 0)}`;
  });
  if (crs.method === 9829 || crs.method === 9810)
    parameters.splice(
      0,
      crs.method === 9810 ? 1 : 0,
      `+lat_0=${(crs.parameters[P.standardParallel] ?? crs.parameters[P.latitudeOfOrigin]!) < 0 ? -90 : 90}`,
    );
  const axis = sx === 1 && sy === 1 ? [] : [`+axis=${krovak ? 'swu' : `${sx === -1 ? 'w' : 'e'}${sy === -1 ? 's' : 'n'}u`}`];
  return [
    `+proj=${entry.name}`,
    ...axis,
    ...(entry.flags ?? []).map((f) => `+${f}`),
    ...parameters,
    ...figureOf(crs.base.datum),
    unitOf(crs),
    '+no_defs',
    '+type=crs',
  ].join(' ');
}

function figureOf(datum: Datum): string[] {
  const whole = Object.entries(DATUMS).find(([name, code]) => WHOLE.has(name) && datum.id === `EPSG:${code}`);
  if (whole) return [`+datum=${whole[0]}`];
  const { a, invF } = datum.ellipsoid;
  const known = Object.entries(ELLIPSOIDS).find(([, [axis, inverse]]) => Math.abs(axis - a) < 1e-6 && Math.abs(inverse - invF) < 1e-9);
  const figure = known ? [`+ellps=${known[0]}`] : invF === 0 ? [`+R=${real(a)}`] : [`+a=${real(a)}`, `+rf=${real(invF)}`];
  const h = datum.toWgs84;
  return [
    ...figure,
    ...(h ? [`+towgs84=${[h.tx, h.ty, h.tz, h.rx, h.ry, h.rz, h.ds].map(real).join(',')}`] : []),
    ...(datum.primeMeridian === 0 ? [] : [`+pm=${real(datum.primeMeridian)}`]),
  ];
}

function unitOf({ unit }: ProjectedCrs): string {
  const known = Object.entries(UNITS).find(([, metres]) => Math.abs(metres - unit.metres) < 1e-12 * metres);
  return known ? `+units=${known[0]}` : `+to_meter=${real(unit.metres)}`;
}

/** @throws Problem `crs-text-broken`, `crs-method-unknown`, or `crs-option-unknown` for an option that would be passed over */
export function readProjString(text: string, what = 'The PROJ string'): EarthCrs {
  const options = new Map<string, string>();
  for (const token of text.trim().split(/\s+/)) {
    const [name, value = ''] = token.replace(/^\+/, '').split('=', 2) as [string, string?];
    if (!options.has(name)) options.set(name, value);
  }
  const held = new Set<string>(['no_defs', 'type', 'wktext', 'over', 'nadgrids']);
  const take = (name: string): string | undefined => {
    held.add(name);
    return options.get(name);
  };
  const name = take('proj');
  if (!name) throw new Problem('crs-text-broken', `${what} has no +proj.`);
  const number = (key: string, otherwise: number): number => {
    const value = take(key);
    if (value === undefined) return otherwise;
    const parsed = angleOf(value);
    if (!Number.isFinite(parsed)) throw new Problem('crs-text-broken', `${what} has +${key}=${value}, which is not a number.`);
    return parsed;
  };
  const datum = datumIn(take, number, what);
  const base: Crs = { kind: 'geographic', id: null, name: datum.name, area: null, dimension: 2, datum, degreesPerUnit: 1 };
  const finish = <C extends Crs>(crs: C): C => {
    const unknown = [...options.keys()].filter((k) => !held.has(k));
    if (unknown.length > 0)
      throw new Problem(
        'crs-option-unknown',
        `${what} has +${unknown.join(', +')}, which ${unknown.length === 1 ? 'is' : 'are'} not understood for +proj=${name}.`,
      );
    const grids = options.get('nadgrids');
    if (grids !== undefined && grids !== '@null')
      throw new Problem(
        'crs-option-unknown',
        `${what} names the grid ${grids}. Name the datum by a code instead: its ways, with grids, come from the registry.`,
      );
    return crs;
  };
  if (name === 'longlat' || name === 'latlong' || name === 'lonlat' || name === 'latlon') return finish(base);

  const toMetre = take('to_meter'),
    units = take('units');
  const metres = toMetre !== undefined ? ratioOf(toMetre) : units === undefined ? 1 : UNITS[units];
  if (!(metres! > 0)) throw new Problem('crs-text-broken', `${what} has an unknown unit (${toMetre ?? units}).`);
  const unit = linearUnit(units ?? 'unit', metres!);
  const axis = take('axis');
  if (name === 'utm') {
    const zone = number('zone', NaN);
    if (!(zone >= 1 && zone <= 60))
      throw new Problem('crs-text-broken', `${what} has the zone ${options.get('zone') ?? 'missing'}; UTM zones are 1 to 60.`);
    const south = take('south') !== undefined;
    return finish({
      kind: 'projected',
      id: null,
      name: `UTM zone ${zone}${south ? 'S' : 'N'} on ${datum.name}`,
      area: null,
      base,
      method: 9807,
      unit,
      axes: axesOfMethod(9807),
      parameters: {
        [P.latitudeOfOrigin]: 0,
        [P.longitudeOfOrigin]: zone * 6 - 183,
        [P.scaleFactor]: 0.9996,
        [P.falseEasting]: 500_000,
        [P.falseNorthing]: south ? 1e7 : 0,
      },
    });
  }
  // a spherical Mercator of the ellipsoid's axis, as the web's maps have it
  const pseudo = name === 'merc' && datum.ellipsoid.invF === 0 && options.get('nadgrids') === '@null';
  const entry = NAMES.find(
    (n) => n.name === (pseudo ? 'webmerc' : name) && (!n.when || n.when(options)) && (!n.sphere || datum.ellipsoid.invF === 0),
  );
  if (!entry)
    throw new Problem(
      'crs-method-unknown',
      `${what} uses +proj=${name}, which is not available${NAMES.some((n) => n.name === name) ? ' with these options' : ''}.`,
    );
  for (const flag of entry.flags ?? []) held.add(flag);
  take('no_off');
  if (entry.name === 'stere') take('lat_0');
  if (entry.method === 9801) take('lat_2');
  if (pseudo) for (const key of ['lat_ts', 'k', 'k_0']) take(key);
  const parameters: Record<number, number> = { ...entry.fixed };
  for (const [code, key] of entry.parameters) {
    const scale = key === 'k' || key === 'k_0';
    const alternate = key === 'k' ? 'k_0' : key === 'k_0' ? 'k' : null;
    const otherwise = scale ? 1 : key === 'gamma' ? number('alpha', 0) : 0;
    parameters[code] = number(key, alternate ? number(alternate, otherwise) : otherwise);
  }
  const orientation = METHODS.get(entry.method)?.orientation;
  if (orientation && entry.name !== 'krovak') {
    if (orientation.x === 'west') turn(parameters, P.falseEasting);
    if (orientation.y === 'south') turn(parameters, P.falseNorthing);
  }
  const axes = axesOfMethod(entry.method);
  return finish({
    kind: 'projected',
    id: null,
    name: `${METHODS.get(entry.method)!.name} on ${datum.name}`,
    area: null,
    method: entry.method,
    parameters,
    unit,
    base: pseudo ? { ...base, datum: datumByCode(DATUMS['WGS84']!) } : base,
    axes:
      axis && axis.length >= 2 && !orientation
        ? {
            ...axes,
            x: axis.includes('w') ? 'west' : 'east',
            y: axis.includes('s') ? 'south' : 'north',
            northFirst: axis.startsWith('n') || axis.startsWith('s'),
          }
        : axes,
  });
}

const turn = (parameters: Record<number, number>, code: number): void => {
  if (parameters[code]) parameters[code] = -parameters[code]!;
};

/** "24d50'12.3\"E", or plain degrees. */
function angleOf(text: string): number {
  const parts = /^([-+]?[\d.]+)d(?:([\d.]+)')?(?:([\d.]+)")?([NSEWnsew])?$/.exec(text);
  if (!parts) return text === '' ? NaN : Number(text);
  const [, d, m = '0', s = '0', side = ''] = parts;
  const size = Math.abs(Number(d)) + Number(m) / 60 + Number(s) / 3600;
  return d!.startsWith('-') || /[SW]/i.test(side) ? -size : size;
}

/** "1200/3937", or a plain number. */
function ratioOf(text: string): number {
  const [a, b = '1'] = text.split('/');
  return Number(a) / Number(b);
}

function datumIn(take: (name: string) => string | undefined, number: (key: string, otherwise: number) => number, what: string): Datum {
  const named = take('datum');
  const ellps = take('ellps');
  const meridianText = take('pm');
  const towgs84 = take('towgs84');
  const radius = number('R', NaN),
    axis = number('a', NaN),
    inverse = number('rf', NaN),
    minor = number('b', NaN),
    flattening = number('f', NaN);
  let primeMeridian = 0;
  if (meridianText !== undefined) {
    const known = NAMED_MERIDIANS[meridianText];
    primeMeridian = known ? meridianByName(known)! : meridianText === 'greenwich' ? 0 : angleOf(meridianText);
    if (!Number.isFinite(primeMeridian))
      throw new Problem('crs-text-broken', `${what} has the prime meridian ${meridianText}, which is not known.`);
  }
  if (named !== undefined) {
    const code = DATUMS[named];
    if (!code) throw new Problem('crs-text-broken', `${what} has the datum ${named}, which is not known.`);
    return datumByCode(code);
  }
  let ellipsoid: Ellipsoid;
  if (Number.isFinite(radius)) ellipsoid = { name: 'Sphere', a: radius, invF: 0 };
  else if (Number.isFinite(axis)) {
    const invF = Number.isFinite(inverse)
      ? inverse
      : Number.isFinite(minor)
        ? minor === axis
          ? 0
          : axis / (axis - minor)
        : Number.isFinite(flattening) && flattening !== 0
          ? 1 / flattening
          : 0;
    ellipsoid = { name: 'Own', a: axis, invF };
  } else {
    const figure = ELLIPSOIDS[ellps ?? 'GRS80'];
    if (!figure) throw new Problem('crs-text-broken', `${what} has the ellipsoid ${ellps}, which is not known.`);
    ellipsoid = { name: ellps ?? 'GRS80', a: figure[0], invF: figure[1] };
  }
  const shift = towgs84 === undefined ? null : helmertOf(towgs84, what);
  const datum = adoptDatum({ id: null, name: `${ellipsoid.name} ellipsoid`, ellipsoid, primeMeridian });
  const wgs84 = datumByCode(DATUMS['WGS84']!);
  if (shift && Object.values(shift).every((v) => v === 0) && sameEllipsoid(ellipsoid, wgs84.ellipsoid)) return wgs84;
  return shift ? { ...datum, id: null, toWgs84: shift } : datum;
}

function helmertOf(text: string, what: string): Helmert {
  const v = text.split(',').map(Number);
  if ((v.length !== 3 && v.length !== 7) || v.some((n) => !Number.isFinite(n)))
    throw new Problem('crs-text-broken', `${what} has +towgs84=${text}; it takes three or seven numbers.`);
  const [tx, ty, tz, rx = 0, ry = 0, rz = 0, ds = 0] = v as [number, number, number, number?, number?, number?, number?];
  return { tx, ty, tz, rx, ry, rz, ds };
}

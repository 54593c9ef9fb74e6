import type { Ellipsoid } from '../ellipsoid';
import { widthOf } from '../area';
import {
  type CompoundCrs,
  type Crs,
  type Datum,
  datumOf,
  type GeographicCrs,
  PARAM,
  type ProjectedCrs,
  type EarthCrs,
  isOnEarth,
  type LocalCrs,
  positionsOf,
  type VerticalCrs,
  verticalOf,
  withHeights,
} from '../crs';
import { meridianName } from '../definitions/units';
import { fold } from '../definitions/wkt-tree';
import { METHODS } from '../methods/index';
import { wrapDegrees } from '../methods/method';
import { projectorOf } from '../projector';
import { aliasesOf, allCrs, datumAliases, datumByCode, isDeprecated, lookup } from './registry';
import { rows } from './tables';

/** A registered system that a definition may be, by its content. */
export interface Identification {
  crs: EarthCrs;
  /** 0 to 100. 100: content, datum and name agree; 90: all but the name; 70: others have the same content; 40: the datum is another or unknown. */
  confidence: number;
  reason: string;
}

/**
 * The registered systems with the content of a definition, the surest first: ellipsoid, prime meridian, unit and the
 * projection itself, tried on points of the area of use, and then the datum. Names only decide between equals.
 */
export function identify(crs: Crs): Identification[] {
  // no register knows a plane of its own
  if (!isOnEarth(crs)) return [];
  const name = fold(positionsOf(crs).name);
  const found: { crs: EarthCrs; datum: boolean; named: number }[] = [];
  for (const candidate of candidatesFor(crs)) {
    const datum = sameDatumContent(datumOf(candidate), datumOf(crs));
    const { common, dialect } = aliasesOf(candidate.id!);
    found.push({
      crs: candidate,
      datum,
      named: fold(candidate.name) === name ? 2 : [dialect ?? '', ...common].some((n) => fold(n) === name) ? 1 : 0,
    });
  }
  const score = (f: (typeof found)[number]): number => (f.datum ? 100 : 0) + 30 * f.named - (isDeprecated(f.crs.id!) ? 20 : 0);
  found.sort((a, b) => score(b) - score(a) || Number(a.crs.id!.slice(5)) - Number(b.crs.id!.slice(5)));
  const equals = found.filter((f) => f.datum && !isDeprecated(f.crs.id!)).length;
  return found.map((f) => {
    if (!f.datum)
      return {
        crs: f.crs,
        confidence: f.named ? 60 : 40,
        reason: `the projection is the same, but the datum is called ${datumOf(crs).name || 'nothing'}`,
      };
    if (f.named) return { crs: f.crs, confidence: 100, reason: 'content, datum and name agree' };
    if (equals <= 1) return { crs: f.crs, confidence: 90, reason: 'content and datum agree; it goes by another name' };
    return {
      crs: f.crs,
      confidence: 70,
      reason: `content and datum agree, as they do for ${equals - 1} other ${equals === 2 ? 'system' : 'systems'}`,
    };
  });
}

/** The registered system that a definition surely is, whatever it is called. */
export function identifyCrs(crs: Crs): EarthCrs | undefined {
  const [first] = identify(crs);
  if (!first || first.confidence < 70) return undefined;
  if (crs.kind === 'local' || !crs.compound) return first.crs;
  const vertical = identifyVertical(crs.compound.vertical);
  const registered = compoundWith(first.crs, vertical);
  return withHeights(
    registered ?? { ...crs.compound, id: null, name: `${first.crs.name} + ${vertical.name}`, horizontal: first.crs, vertical },
  ) as EarthCrs;
}

/** Names of systems for heights, their last word apart, which other registers leave out. */
const plainHeights = (name: string): string => fold(name).replace(/(height|depth)s?$/, '');

/** The registered system for heights of this name, unit and direction; the system itself where there is none. */
function identifyVertical(vertical: VerticalCrs): VerticalCrs {
  if (vertical.id !== null) return vertical;
  const alike = rows('vertical')
    .filter((r) => !isDeprecated(`EPSG:${r[0]}`))
    .map((r) => lookup(r[0]!) as VerticalCrs)
    .filter((v) => sameHeights(v, vertical));
  const named = alike.filter((v) => plainHeights(v.name) === plainHeights(vertical.name));
  const found = named.length > 0 ? named : alike;
  return found.length === 1 ? found[0]! : vertical;
}

/** The registered compound system of two registered parts, where there is one. */
function compoundWith(horizontal: EarthCrs, vertical: VerticalCrs): CompoundCrs | undefined {
  const row = rows('compound').find(
    (r) => `EPSG:${r[2]}` === horizontal.id && `EPSG:${r[3]}` === vertical.id && !isDeprecated(`EPSG:${r[0]}`),
  );
  return row && (lookup(row[0]!) as CompoundCrs);
}

/** True when two systems have the same content, whatever they are called. */
export function sameDefinition(a: Crs, b: Crs): boolean {
  if (!sameHeights(verticalOf(a), verticalOf(b))) return false;
  if (!isOnEarth(a) || !isOnEarth(b))
    return a.kind === b.kind && a.name === b.name && near((a as LocalCrs).unit.metres, (b as LocalCrs).unit.metres, 1e-9);
  return sameDatumContent(datumOf(a), datumOf(b)) && sameContent(a, b);
}

function sameHeights(a: VerticalCrs | null, b: VerticalCrs | null): boolean {
  if (a === null || b === null) return a === b;
  if (a.id !== null && b.id !== null) return a.id === b.id;
  const named = plainHeights(a.name) === plainHeights(b.name) || (a.datum.name !== '' && fold(a.datum.name) === fold(b.datum.name));
  return named && a.direction === b.direction && near(a.unit.metres, b.unit.metres, 1e-9);
}

/** The same registered system, or the same content. */
export const sameSystem = (a: Crs, b: Crs): boolean => (a.id !== null && a.id === b.id) || sameDefinition(a, b);

let byFigure: Map<string, EarthCrs[]> | null = null;

/** Systems of one kind on ellipsoids of about one size, by which most are ruled out; no ellipsoid lies near the edge of a class. */
const classOf = (crs: EarthCrs): string => `${crs.kind} ${Math.floor((datumOf(crs).ellipsoid.a + 3.33) / 10)}`;

function candidatesFor(crs: EarthCrs): EarthCrs[] {
  if (!byFigure) {
    byFigure = new Map();
    for (const one of allCrs()) {
      const list = byFigure.get(classOf(one));
      if (list) list.push(one);
      else byFigure.set(classOf(one), [one]);
    }
  }
  return (byFigure.get(classOf(crs)) ?? []).filter((candidate) => sameContent(candidate, crs));
}

/** The same numbers for the same places, the datum apart. */
function sameContent(a: EarthCrs, b: EarthCrs): boolean {
  if (!sameFigure(datumOf(a), datumOf(b))) return false;
  if (a.kind === 'geographic' || b.kind === 'geographic')
    return a.kind === b.kind && near((a as GeographicCrs).degreesPerUnit, (b as GeographicCrs).degreesPerUnit, 1e-9);
  return sameProjection(a, b);
}

function sameProjection(a: ProjectedCrs, b: ProjectedCrs): boolean {
  if (!near(a.unit.metres, b.unit.metres, 1e-9) || a.axes.x !== b.axes.x || a.axes.y !== b.axes.y) return false;
  if (a.method === b.method)
    return (
      METHODS.get(a.method)?.parameters.every(
        (p) =>
          near(a.parameters[p] ?? 0, b.parameters[p] ?? 0, 1e-9) ||
          ((p === PARAM.azimuth || p === PARAM.rectifiedAngle) && near(wrapDegrees(a.parameters[p]! - b.parameters[p]!), 0, 1e-9)),
      ) ?? false
    );
  // different methods may say the same (one parallel with a scale, or two): then points of the area tell
  const area = a.area ?? b.area;
  if (!area || !METHODS.has(a.method) || !METHODS.has(b.method) || !alike(a.method, b.method)) return false;
  const width = widthOf(area);
  const pm = a.base.datum.primeMeridian;
  const points = [
    [0.2, 0.3],
    [0.5, 0.5],
    [0.8, 0.9],
  ].flatMap(([s, t]) => [area.west + s! * width - pm, area.south + t! * (area.north - area.south)]);
  const p = Float64Array.from(points),
    q = Float64Array.from(points);
  projectorOf(a).forward(p, 0, 3, 2);
  projectorOf(b).forward(q, 0, 3, 2);
  return p.every((v, k) => Math.abs(v - q[k]!) < 1e-3);
}

/** Methods that can say the same by other parameters. */
const FAMILIES: readonly (readonly number[])[] = [
  [9801, 9802, 1051, 9803],
  [9804, 9805, 9841],
  [9810, 9829, 9830],
  [9812, 9815],
  [9807, 1111],
  [9820, 1027],
  [9834, 9835],
  [1028, 9842],
  [1029, 9823],
  [9815, 9809],
];
const alike = (a: number, b: number): boolean => FAMILIES.some((f) => f.includes(a) && f.includes(b));

function sameFigure(a: Datum, b: Datum): boolean {
  return sameEllipsoid(a.ellipsoid, b.ellipsoid) && Math.abs(a.primeMeridian - b.primeMeridian) < 2e-7;
}

/** Whether two ellipsoids are one, as far as texts round them. */
export function sameEllipsoid(a: Ellipsoid, b: Ellipsoid): boolean {
  // texts round the axis to millimetres and the flattening to eight digits
  return Math.abs(a.a - b.a) < 2e-3 && near(a.invF, b.invF, 1e-7);
}

function sameDatumContent(a: Datum, b: Datum): boolean {
  if (a.id !== null && b.id !== null) return a.id === b.id;
  if (!sameFigure(a, b)) return false;
  const names = (d: Datum): string[] => [plain(d.name), ...(d.id ? datumAliases(d.id).map(plain) : [])];
  const other = names(b);
  return names(a).some((n) => other.includes(n));
}

/** Names of datums compare letter by letter, cases, blanks, a leading "D_" and the word "ensemble" apart. */
const plain = (name: string): string =>
  fold(name.replace(/^D[_ ]/i, '').replaceAll('+', ' plus'))
    .replace(/ensemble$/, '')
    .replace('worldgeodeticsystem', 'wgs');

const near = (a: number, b: number, relative: number): boolean => Math.abs(a - b) <= relative * Math.max(1, Math.abs(a), Math.abs(b));

let byName: Map<string, string[]> | null = null;

/** The registered datum that a text means by a name on an ellipsoid and a meridian; the unregistered one otherwise. */
export function adoptDatum(datum: Datum): Datum {
  if (!byName) {
    byName = new Map();
    for (const r of rows('datums')) {
      for (const name of [r[1]!, ...(r[7]?.split(';') ?? [])]) {
        const key = plain(name);
        byName.set(key, [...(byName.get(key) ?? []), r[0]!]);
      }
    }
  }
  if (datum.toWgs84) return datum;
  const index = byName;
  const called = (name: string): Datum | undefined => (index.get(plain(name)) ?? []).map(datumByCode).find((d) => sameFigure(d, datum));
  // the dialect of .prj files calls a datum the same on every meridian
  return (
    called(datum.name) ?? (datum.primeMeridian === 0 ? undefined : called(`${datum.name} (${meridianName(datum.primeMeridian)})`)) ?? datum
  );
}

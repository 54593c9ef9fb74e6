import { localPlane } from '../local-plane';
import { EAST_NORTH } from '../axes';
import { Problem } from '../../model/problem';
import { type AnyCrs, type Crs, type GeographicCrs, LENGTHS, PARAM, type ProjectedCrs, RATIOS, type VerticalCrs } from '../crs';
import { METHODS } from '../methods/index';
import { adoptDatum } from '../registry/identify';
import { aliasesOf, axesOfMethod, datumAliases } from '../registry/registry';
import { type FirstMethod, PRJ_METHODS, WKT1_METHODS } from './names';
import { degreesPerUnit, dialectUnit, isMeridian, linearUnit, meridianName } from './units';
import { childOf, fold, needed, quoted, real, type WktNode } from './wkt-tree';

/**
 * Well-known text of the first generation: as OGC 01-009 section 7 has it, with authority codes and axes, and in the
 * dialect that travels as the .prj file of a shapefile, with names in underscores and neither. The names of both are in `names.ts`.
 */
type Flavour = 'wkt1' | 'prj';

/** @throws Problem `crs-not-writable` when the text has no name for the method or the kind */
export function writeWkt1(crs: AnyCrs): string {
  if ('compound' in crs && crs.compound) return writeWkt1(crs.compound);
  switch (crs.kind) {
    case 'geographic':
      return geographicText(crs, 'wkt1');
    case 'projected':
      return projectedText(crs, 'wkt1');
    // Source: OGC 01-009, section 7.2, <local cs>; 32767 is the largest local datum type
    case 'local':
      return `LOCAL_CS[${quoted(crs.name)},LOCAL_DATUM["Local",32767],UNIT[${quoted(crs.unit.name)},${real(crs.unit.metres)}],AXIS["Easting",EAST],AXIS["Northing",NORTH]]`;
    case 'compound':
      return `COMPD_CS[${quoted(crs.name)},${writeWkt1(crs.horizontal)},${verticalText(crs.vertical)}${authority(crs.id)}]`;
    case 'vertical':
      return verticalText(crs);
    case 'geocentric':
      return `GEOCCS[${quoted(crs.name)},${datumText(crs.datum.name, crs.datum)},UNIT["metre",1],AXIS["Geocentric X",OTHER],AXIS["Geocentric Y",OTHER],AXIS["Geocentric Z",NORTH]${authority(crs.id)}]`;
  }
}

/**
 * Heights are stated by a second definition behind the first. Source: common practice, no source.
 * @throws Problem `crs-not-writable` when the dialect has no name for the method
 */
export function writePrj(crs: Crs): string {
  if (crs.kind === 'local') return writeWkt1(crs);
  if (crs.compound) {
    const { name, datum, unit, direction } = crs.compound.vertical;
    const heights = `VERTCS[${quoted(underscored(name))},VDATUM[${quoted(underscored(datum.name))}],PARAMETER["Vertical_Shift",0.0],PARAMETER["Direction",${direction === 'down' ? '-1.0' : '1.0'}],UNIT[${quoted(dialectUnit(unit))},${pointed(unit.metres)}]]`;
    return `${writePrj(crs.compound.horizontal)},${heights}`;
  }
  return crs.kind === 'geographic' ? geographicText(crs, 'prj') : projectedText(crs, 'prj');
}

function projectedText(crs: ProjectedCrs, flavour: Flavour): string {
  const table = flavour === 'prj' ? PRJ_METHODS : WKT1_METHODS;
  const text = table.find((m) => m.method === crs.method && (flavour === 'wkt1' || suits(m, crs)));
  if (!text)
    throw new Problem(
      'crs-not-writable',
      `${crs.name} cannot be written as ${flavour === 'prj' ? 'a .prj file' : 'WKT of the first generation'}: its projection method (${METHODS.get(crs.method)?.name ?? crs.method}) has no name there.`,
    );
  const number = flavour === 'prj' ? pointed : real;
  const values = text.parameters.map(([code, name]): [string, number] => [name, valueOf(crs, code)]);
  const parameters = [...values, ...text.constants].map(([name, value]) => `PARAMETER[${quoted(name)},${number(value)}]`).join(',');
  if (flavour === 'prj') {
    const name = (crs.id && aliasesOf(crs.id).dialect) || underscored(crs.name);
    return `PROJCS[${quoted(name)},${geographicText(crs.base, flavour)},PROJECTION[${quoted(text.name)}],${parameters},UNIT[${quoted(dialectUnit(crs.unit))},${pointed(crs.unit.metres)}]]`;
  }
  return `PROJCS[${quoted(crs.name)},${geographicText(crs.base, flavour)},PROJECTION[${quoted(text.name)}],${parameters},UNIT[${quoted(crs.unit.name)},${real(crs.unit.metres)}],${axesText(crs)}${authority(crs.id)}]`;
}

/** A name that stands for one half of a method: a pole, or a parallel. */
function suits(m: FirstMethod, crs: ProjectedCrs): boolean {
  if (m.name === 'Stereographic_North_Pole') return crs.parameters[PARAM.standardParallel]! > 0;
  if (m.name === 'Stereographic_South_Pole') return crs.parameters[PARAM.standardParallel]! < 0;
  if (/^Hotine.*(Natural_Origin|Center)$/.test(m.name)) return crs.parameters[PARAM.azimuth] === crs.parameters[PARAM.rectifiedAngle];
  if (m.name === 'Mercator' && m.method === 9804) return crs.parameters[PARAM.scaleFactor] !== undefined;
  return true;
}

/** A parameter in the unit of the text: angles in that of its geographic system. OGC 01-009, section 7.3.1. */
function valueOf(crs: ProjectedCrs, code: number): number {
  // one parallel with a scale on the equator is written as the parallel that is true
  if (crs.method === 9804 && code === PARAM.parallel1) return trueParallel(crs);
  const value = crs.parameters[code] ?? 0;
  if (LENGTHS.has(code)) return value / crs.unit.metres;
  if (RATIOS.has(code)) return value;
  return (code === PARAM.azimuth && value > 180 ? value - 360 : value) / crs.base.degreesPerUnit;
}

/** Latitude at which a Mercator of scale k0 is true: cos phi / sqrt(1 - e2 sin2 phi) = k0. */
function trueParallel(crs: ProjectedCrs): number {
  const { invF } = crs.base.datum.ellipsoid;
  const f = invF === 0 ? 0 : 1 / invF;
  const e2 = f * (2 - f),
    k2 = crs.parameters[PARAM.scaleFactor]! ** 2;
  return (Math.acos(Math.sqrt(Math.max(0, Math.min(1, (k2 * (1 - e2)) / (1 - k2 * e2))))) * 180) / Math.PI;
}

function geographicText(crs: GeographicCrs, flavour: Flavour): string {
  const { datum } = crs;
  if (flavour === 'prj') {
    const name = (crs.id && aliasesOf(crs.id).dialect) || `GCS_${underscored(crs.name)}`;
    const datumName =
      (datum.id && datumAliases(datum.id).find((n) => n.startsWith('D_'))) || `D_${underscored(datum.name.replace(/^D[_ ]/i, ''))}`;
    const unit = crs.degreesPerUnit === 1 ? ['Degree', '0.0174532925199433'] : ['Grad', real((crs.degreesPerUnit * Math.PI) / 180)];
    return (
      `GEOGCS[${quoted(name)},DATUM[${quoted(datumName)},SPHEROID[${quoted(underscored(datum.ellipsoid.name))},${pointed(datum.ellipsoid.a)},${pointed(datum.ellipsoid.invF)}]],` +
      `PRIMEM[${quoted(underscored(meridianName(datum.primeMeridian)))},${pointed(datum.primeMeridian)}],UNIT["${unit[0]}",${unit[1]}]]`
    );
  }
  const unit = crs.degreesPerUnit === 1 ? '"degree",0.0174532925199433' : `"grad",${real((crs.degreesPerUnit * Math.PI) / 180)}`;
  return `GEOGCS[${quoted(crs.name)},${datumText(wkt1Datum(datum), datum)},UNIT[${unit}],AXIS["Latitude",NORTH],AXIS["Longitude",EAST]${authority(crs.id)}]`;
}

function datumText(name: string, datum: GeographicCrs['datum']): string {
  const { ellipsoid } = datum;
  return `DATUM[${quoted(name)},SPHEROID[${quoted(ellipsoid.name)},${real(ellipsoid.a)},${real(ellipsoid.invF)}]${authority(datum.id)}],PRIMEM[${quoted(meridianName(datum.primeMeridian))},${real(datum.primeMeridian)}]`;
}

/** Names of datums in the first generation have underscores, and the common one of WGS 84 is short. Common practice, no source. */
function wkt1Datum(datum: GeographicCrs['datum']): string {
  if (datum.id === 'EPSG:6326') return 'WGS_1984';
  return datum.name
    .replace(/ ensemble$/, '')
    .replace(/[^A-Za-z0-9+-]+/g, '_')
    .replace(/^_|_$/g, '');
}

function verticalText(crs: VerticalCrs): string {
  return `VERT_CS[${quoted(crs.name)},VERT_DATUM[${quoted(crs.datum.name)},2005${authority(crs.datum.id)}],UNIT[${quoted(crs.unit.name)},${real(crs.unit.metres)}],AXIS[${quoted(crs.direction === 'up' ? 'Gravity-related height' : 'Depth')},${crs.direction.toUpperCase()}]${authority(crs.id)}]`;
}

function axesText({ axes }: ProjectedCrs): string {
  if (axes.along) {
    const { toward } = axes.along;
    const texts = axes.letters.map((l) => `AXIS[${quoted(l)},${toward.toUpperCase()}]`);
    return (axes.northFirst ? texts.reverse() : texts).join(',');
  }
  const texts = [
    `AXIS[${quoted(axes.x === 'east' ? 'Easting' : 'Westing')},${axes.x.toUpperCase()}]`,
    `AXIS[${quoted(axes.y === 'north' ? 'Northing' : 'Southing')},${axes.y.toUpperCase()}]`,
  ];
  return (axes.northFirst ? texts.reverse() : texts).join(',');
}

function authority(id: string | null): string {
  return id ? `,AUTHORITY["EPSG",${quoted(id.slice(5))}]` : '';
}

const underscored = (name: string): string => name.replace(/[^A-Za-z0-9.]+/g, '_').replace(/^_|_$/g, '');

function pointed(value: number): string {
  const text = real(value);
  return /[.e]/.test(text) ? text : `${text}.0`;
}

/**
 * The system of a parsed text of the first generation, in either dialect.
 * @param what it is called in messages
 * @throws Problem `crs-text-broken`, `crs-method-unknown`
 */
export function systemOf(node: WktNode, what: string): AnyCrs {
  switch (node.key) {
    case 'GEOGCS':
      return geographicOf(node, what);
    case 'PROJCS':
      return projectedOf(node, what);
    case 'COMPD_CS': {
      const [horizontal, vertical] = node.children
        .filter((c) => ['GEOGCS', 'PROJCS', 'VERT_CS', 'VERTCS'].includes(c.key))
        .map((c) => systemOf(c, what));
      if (horizontal?.kind !== 'geographic' && horizontal?.kind !== 'projected')
        throw new Problem('crs-text-broken', `${what} has no system for positions inside COMPD_CS.`);
      if (vertical?.kind !== 'vertical') return horizontal;
      return { kind: 'compound', id: idOf(node), name: node.texts[0] ?? '', area: null, horizontal, vertical };
    }
    case 'VERT_CS':
    case 'VERTCS': {
      const datum = childOf(node, 'VERT_DATUM', 'VDATUM', 'DATUM');
      const unit = childOf(node, 'UNIT');
      const turned = node.children.some((c) => c.key === 'PARAMETER' && /^direction$/i.test(c.texts[0] ?? '') && c.numbers[0] === -1);
      const down = turned || childOf(node, 'AXIS')?.words[0]?.toUpperCase() === 'DOWN';
      return {
        kind: 'vertical',
        id: idOf(node),
        name: node.texts[0] ?? '',
        area: null,
        datum: { id: datum ? idOf(datum) : null, name: datum?.texts[0] ?? '' },
        unit: linearUnit(unit?.texts[0] ?? 'metre', unit?.numbers[0] ?? 1),
        direction: down ? 'down' : 'up',
      };
    }
    case 'LOCAL_CS': {
      const unit = childOf(node, 'UNIT');
      return localPlane(linearUnit(unit?.texts[0] ?? 'metre', unit?.numbers[0] ?? 1), node.texts[0] ?? undefined);
    }
    case 'GEOCCS': {
      const geographic = geographicOf({ ...node, children: node.children.filter((c) => c.key !== 'UNIT') }, what);
      return { kind: 'geocentric', id: idOf(node), name: node.texts[0] ?? '', area: null, datum: geographic.datum };
    }
    default:
      throw new Problem('crs-text-broken', `${what} should begin with PROJCS, GEOGCS or COMPD_CS; it begins with ${node.key}.`);
  }
}

function idOf(node: WktNode): string | null {
  const a = childOf(node, 'AUTHORITY');
  return a && a.texts[0]?.toUpperCase() === 'EPSG' ? `EPSG:${a.texts[1] ?? a.numbers[0]}` : null;
}

function projectedOf(node: WktNode, what: string): ProjectedCrs {
  const projection = needed(node, what, 'PROJECTION').texts[0] ?? '';
  const unitNode = needed(node, what, 'UNIT');
  const unit = linearUnit(unitNode.texts[0] ?? '', unitNode.numbers[0] ?? 1);
  const base = geographicOf(needed(node, what, 'GEOGCS'), what);
  const given = new Map(node.children.filter((c) => c.key === 'PARAMETER').map((c) => [fold(c.texts[0] ?? ''), c.numbers[0] ?? 0]));
  // a Web Mercator travels as a plain one with a note for another reader
  const pseudo = /\+nadgrids=@null/.test(childOf(node, 'EXTENSION')?.texts[1] ?? '') && fold(projection) === 'mercator1sp';
  const named = [...WKT1_METHODS, ...PRJ_METHODS].filter((m) => fold(m.name) === fold(projection));
  const axisWords = node.children.filter((c) => c.key === 'AXIS').map((c) => c.words[0]?.toUpperCase());
  const southwest = axisWords.includes('SOUTH') || axisWords.includes('WEST');
  const method = pseudo
    ? WKT1_METHODS.find((m) => m.method === 1024)!
    : (named.find((m) => (m.when ? m.when(given) : fits(m, given)) && (m.method !== 1041 || !southwest)) ??
      named.find((m) => fits(m, given)) ??
      named[0]);
  if (!method) throw new Problem('crs-method-unknown', `${what} uses the projection ${projection}, which is not available.`);
  const parameters: Record<number, number> = {};
  for (const [code, name] of method.parameters) {
    const value = given.get(fold(name)) ?? missingValue(code, given);
    parameters[code] = LENGTHS.has(code) ? value * unit.metres : RATIOS.has(code) ? value : value * base.degreesPerUnit;
  }
  for (const p of METHODS.get(method.method)?.parameters ?? []) parameters[p] ??= missingValue(p, given, parameters);
  const axes = axesOfMethod(method.method);
  // both axes away from a pole say nothing about signs
  const turned =
    axisWords.length === 2 && axisWords[0] !== axisWords[1]
      ? {
          ...axes,
          x: axisWords.includes('WEST') ? ('west' as const) : axisWords.includes('EAST') ? ('east' as const) : axes.x,
          y: axisWords.includes('SOUTH') ? ('south' as const) : axisWords.includes('NORTH') ? ('north' as const) : axes.y,
          northFirst: axisWords[0] === 'NORTH' || axisWords[0] === 'SOUTH',
        }
      : axes;
  return {
    kind: 'projected',
    id: idOf(node),
    name: node.texts[0] ?? '',
    area: null,
    base,
    method: method.method,
    parameters,
    unit,
    axes: turned ?? EAST_NORTH,
  };
}

/** A method whose parameters are all given and that leaves none of the text's unused. */
function fits(m: FirstMethod, given: ReadonlyMap<string, number>): boolean {
  const own = new Set([...m.parameters.map(([, name]) => fold(name)), ...m.constants.map(([name]) => fold(name))]);
  return (
    [...given.keys()].every((name) => own.has(name)) && m.constants.every(([name, value]) => (given.get(fold(name)) ?? value) === value)
  );
}

/** What a text leaves out: scales are 1, the rectified angle is the azimuth, all else is 0. */
function missingValue(code: number, given: ReadonlyMap<string, number>, held: Record<number, number> = {}): number {
  if (RATIOS.has(code)) return 1;
  if (code === PARAM.rectifiedAngle) return given.get('azimuth') ?? held[PARAM.azimuth] ?? 0;
  return 0;
}

function geographicOf(node: WktNode, what: string): GeographicCrs {
  const datum = needed(node, what, 'DATUM');
  const spheroid = needed(datum, what, 'SPHEROID', 'ELLIPSOID');
  const radians = childOf(node, 'UNIT')?.numbers[0] ?? Math.PI / 180;
  const meridian = childOf(node, 'PRIMEM')?.numbers[0] ?? 0;
  const [a, invF] = [spheroid.numbers[0] ?? 0, spheroid.numbers[1] ?? 0];
  if (!(a > 1e5 && invF >= 0))
    throw new Problem(
      'crs-text-broken',
      `${what} has an ellipsoid of semi-major axis ${a} and inverse flattening ${invF}, which cannot be.`,
    );
  const perUnit = degreesPerUnit(radians);
  const of = (primeMeridian: number): GeographicCrs['datum'] =>
    adoptDatum({
      id: null,
      name: (datum.texts[0] ?? '').replaceAll('_', ' '),
      ellipsoid: { name: spheroid.texts[0] ?? '', a, invF },
      primeMeridian,
    });
  // meridians are degrees in the dialect and by most writers, and in the unit of the system by the standard: the registry tells
  const adopted = of(perUnit === 1 || isMeridian(meridian) ? meridian : meridian * perUnit);
  // a way to WGS 84 beside a registered datum is one of several that the registry knows better
  const shift = childOf(datum, 'TOWGS84')?.numbers ?? [];
  const [tx, ty, tz, rx = 0, ry = 0, rz = 0, ds = 0] = shift as [number, number, number, number?, number?, number?, number?];
  const own = adopted.id === null && shift.length >= 3 ? { ...adopted, toWgs84: { tx, ty, tz, rx, ry, rz, ds } } : adopted;
  return { kind: 'geographic', dimension: 2, id: idOf(node), name: node.texts[0] ?? '', area: null, degreesPerUnit: perUnit, datum: own };
}

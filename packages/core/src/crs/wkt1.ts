import { Problem } from '../model/problem';
import { type Crs, type GeographicCrs, PARAM } from './crs';

/**
 * Well-known text of the first generation in the dialect that travels as the .prj file of a shapefile: datum and system
 * names with underscores, the parameter names below, no authority codes and no axes.
 * Sources: OGC 01-009 section 7 (grammar); the dialect's names are common practice, no source.
 */

/** Parameter names of the dialect by EPSG parameter code, in the order in which they are written. */
const METHOD_TEXTS: readonly { method: number; name: string; parameters: readonly [string, number][]; constants?: readonly [string, number][] }[] = [
  {
    method: 9807, name: 'Transverse_Mercator',
    parameters: [
      ['False_Easting', PARAM.falseEasting], ['False_Northing', PARAM.falseNorthing], ['Central_Meridian', PARAM.longitudeOfOrigin],
      ['Scale_Factor', PARAM.scaleFactor], ['Latitude_Of_Origin', PARAM.latitudeOfOrigin],
    ],
  },
  {
    method: 1024, name: 'Mercator_Auxiliary_Sphere',
    parameters: [['False_Easting', PARAM.falseEasting], ['False_Northing', PARAM.falseNorthing], ['Central_Meridian', PARAM.longitudeOfOrigin]],
    constants: [['Standard_Parallel_1', 0], ['Auxiliary_Sphere_Type', 0]],
  },
];

/** Datum names that common readers know by another word than the registry's. Common practice, no source. */
const DATUM_NAMES: Record<string, string> = {
  'World Geodetic System 1984 ensemble': 'D_WGS_1984',
  'World Geodetic System 1984': 'D_WGS_1984',
  'New Zealand Geodetic Datum 2000': 'D_NZGD_2000',
  'New Zealand Geodetic Datum 1949': 'D_New_Zealand_1949',
  'European Terrestrial Reference System 1989 ensemble': 'D_ETRS_1989',
  'Geocentric Datum of Australia 1994': 'D_GDA_1994',
  'North American Datum 1983': 'D_North_American_1983',
  'North American Datum 1927': 'D_North_American_1927',
};

/** Prime meridians by their longitude, degrees. Source: EPSG registry, prime meridians. Readers tell Paris by its name. */
const MERIDIANS: readonly [number, string][] = [
  [0, 'Greenwich'], [2.33722917, 'Paris'], [-9.13190611, 'Lisbon'], [-74.08091667, 'Bogota'], [-3.68793889, 'Madrid'], [12.45233333, 'Rome'], [7.43958333, 'Bern'],
  [106.80771944, 'Jakarta'], [-17.66666667, 'Ferro'], [4.367975, 'Brussels'], [18.05827778, 'Stockholm'], [23.7163375, 'Athens'], [10.72291667, 'Oslo'],
];

/** System names of the dialect where they are not the registry's with underscores. Common practice, no source. */
const SYSTEM_NAMES: Record<string, string> = {
  'EPSG:4326': 'GCS_WGS_1984',
  'EPSG:4167': 'GCS_NZGD_2000',
  'EPSG:2193': 'NZGD_2000_New_Zealand_Transverse_Mercator',
  'EPSG:3857': 'WGS_1984_Web_Mercator_Auxiliary_Sphere',
};

/** @throws Problem `crs-not-writable` when the method has no name in the dialect */
export function writePrj(crs: Crs): string {
  if (crs.kind === 'geographic') return geographicText(crs);
  const text = METHOD_TEXTS.find((m) => m.method === crs.method);
  if (!text) throw new Problem('crs-not-writable', `${crs.name} cannot be written as a .prj file: its projection method has no name there.`);
  const values = text.parameters.map(([name, code]): [string, number] => {
    const value = crs.parameters[code] ?? 0;
    const length = code === PARAM.falseEasting || code === PARAM.falseNorthing;
    return [name, length ? value / crs.unit.metres : value];
  });
  const parameters = [...values, ...(text.constants ?? [])].map(([name, value]) => `PARAMETER["${name}",${real(value)}]`);
  const unit = crs.unit.metres === 1 ? 'Meter' : crs.unit.name;
  return `PROJCS["${SYSTEM_NAMES[crs.id ?? ''] ?? underscored(crs.name)}",${geographicText(crs.base)},PROJECTION["${text.name}"],${parameters.join(',')},UNIT["${underscored(unit)}",${real(crs.unit.metres)}]]`;
}

function geographicText(crs: GeographicCrs): string {
  const { datum } = crs;
  const name = SYSTEM_NAMES[crs.id ?? ''] ?? `GCS_${underscored(crs.name)}`;
  const datumName = DATUM_NAMES[datum.name] ?? `D_${underscored(datum.name)}`;
  const meridian = MERIDIANS.find(([longitude]) => Math.abs(longitude - datum.primeMeridian) < 1e-6)?.[1] ?? 'Reference_Meridian';
  const unit = crs.degreesPerUnit === 1 ? ['Degree', '0.0174532925199433'] : ['Grad', real((crs.degreesPerUnit * Math.PI) / 180)];
  return `GEOGCS["${name}",DATUM["${datumName}",SPHEROID["${underscored(datum.ellipsoid.name)}",${real(datum.ellipsoid.a)},${real(datum.ellipsoid.invF)}]],PRIMEM["${meridian}",${real(datum.primeMeridian)}],UNIT["${unit[0]}",${unit[1]}]]`;
}

const underscored = (name: string): string => name.replace(/[^A-Za-z0-9.]+/g, '_').replace(/^_|_$/g, '');

function real(value: number): string {
  const text = String(value);
  return /[.e]/.test(text) ? text : `${text}.0`;
}

/** A keyword with its quoted texts, numbers and children. */
interface Node {
  key: string;
  texts: string[];
  numbers: number[];
  children: Node[];
}

/**
 * Reads a .prj text.
 * @throws Problem `crs-text-broken` with the character at which it stops making sense; `crs-method-unknown`
 */
export function readPrj(text: string): Crs {
  const node = parse(text);
  if (node.key === 'GEOGCS') return geographicOf(node);
  if (node.key !== 'PROJCS') throw new Problem('crs-text-broken', `A .prj text should begin with PROJCS or GEOGCS; this one begins with ${node.key}.`);
  const projection = child(node, 'PROJECTION').texts[0] ?? '';
  const method = METHOD_TEXTS.find((m) => fold(m.name) === fold(projection));
  if (!method) throw new Problem('crs-method-unknown', `The .prj text uses the projection ${projection}, which is not available.`);
  const unit = child(node, 'UNIT');
  const metres = unit.numbers[0] ?? 1;
  const given = new Map(node.children.filter((c) => c.key === 'PARAMETER').map((c) => [fold(c.texts[0] ?? ''), c.numbers[0] ?? 0]));
  const parameters: Record<number, number> = {};
  for (const [name, code] of method.parameters) {
    const value = given.get(fold(name)) ?? (code === PARAM.scaleFactor ? 1 : 0);
    parameters[code] = code === PARAM.falseEasting || code === PARAM.falseNorthing ? value * metres : value;
  }
  return {
    kind: 'projected', id: null, name: node.texts[0] ?? '', area: null, base: geographicOf(child(node, 'GEOGCS')), method: method.method, parameters,
    unit: { name: metres === 1 ? 'metre' : (unit.texts[0] ?? ''), metres },
  };
}

function geographicOf(node: Node): GeographicCrs {
  const datum = child(node, 'DATUM');
  const spheroid = child(datum, 'SPHEROID');
  const written = datum.texts[0] ?? '';
  const registered = Object.entries(DATUM_NAMES).find(([, dialect]) => fold(dialect) === fold(written))?.[0];
  const radians = node.children.find((c) => c.key === 'UNIT')?.numbers[0] ?? Math.PI / 180;
  const degrees = (radians * 180) / Math.PI;
  return {
    kind: 'geographic', id: null, name: node.texts[0] ?? '', area: null, degreesPerUnit: Math.abs(degrees - 1) < 1e-9 ? 1 : degrees,
    datum: {
      id: null, name: registered ?? written.replace(/^D_/, '').replaceAll('_', ' '),
      ellipsoid: { name: spheroid.texts[0] ?? '', a: spheroid.numbers[0] ?? 0, invF: spheroid.numbers[1] ?? 0 },
      primeMeridian: node.children.find((c) => c.key === 'PRIMEM')?.numbers[0] ?? 0,
    },
  };
}

const fold = (name: string): string => name.toLowerCase().replace(/[^a-z0-9]/g, '');

function child(node: Node, key: string): Node {
  const found = node.children.find((c) => c.key === key);
  if (!found) throw new Problem('crs-text-broken', `The .prj text has no ${key} inside ${node.key}.`);
  return found;
}

function parse(text: string): Node {
  let at = 0;
  const broken = (expected: string): Problem =>
    new Problem('crs-text-broken', `The .prj text breaks off at character ${at + 1}: ${expected} was expected.`);
  const blank = (): void => { while (at < text.length && /\s/.test(text[at]!)) at++; };
  const node = (): Node => {
    const key = /^[A-Za-z0-9_]+/.exec(text.slice(at))?.[0];
    if (!key) throw broken('a keyword');
    at += key.length;
    blank();
    const close = text[at] === '(' ? ')' : ']';
    if (text[at] !== '[' && text[at] !== '(') throw broken('"["');
    const made: Node = { key: key.toUpperCase(), texts: [], numbers: [], children: [] };
    do {
      at++;
      blank();
      if (text[at] === '"') {
        const end = text.indexOf('"', at + 1);
        if (end < 0) throw broken('a closing quote');
        made.texts.push(text.slice(at + 1, end));
        at = end + 1;
      } else {
        const number = /^[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?/.exec(text.slice(at))?.[0];
        if (number) {
          made.numbers.push(Number(number));
          at += number.length;
        } else if (/^[A-Za-z]+\s*[,\])]/.test(text.slice(at))) at += /^[A-Za-z]+/.exec(text.slice(at))![0].length;
        else made.children.push(node());
      }
      blank();
    } while (text[at] === ',');
    if (text[at] !== close) throw broken(`"${close}"`);
    at++;
    return made;
  };
  blank();
  return node();
}

import { localPlane } from '../local-plane';
import type { Axes } from '../axes';
import { Problem } from '../../model/problem';
import {
  type AnyCrs,
  type EarthCrs,
  type Datum,
  type GeocentricCrs,
  type GeographicCrs,
  LENGTHS,
  type ProjectedCrs,
  RATIOS,
  type VerticalCrs,
} from '../crs';
import { METHODS } from '../methods/index';
import { adoptDatum } from '../registry/identify';
import { axesOfMethod, datumByCode, ensembleMembers, hasDatum } from '../registry/registry';
import { PARAMETER_NAMES } from './names';
import { degreesPerUnit, linearUnit, meridianName } from './units';
import { childOf, fold, needed, quoted, real, type WktNode } from './wkt-tree';

/** Well-known text of the second generation. Source: ISO 19162:2019 (OGC 18-010r7), sections 8 to 10 and 14. */

const DEGREE = 'ANGLEUNIT["degree",0.0174532925199433]';
const METRE = 'LENGTHUNIT["metre",1]';

/** A system with the date at which its coordinates hold, where there is one. Source: OGC 18-010r11, "Coordinate metadata". */
export const writeDatedWkt2 = (crs: AnyCrs): string =>
  crs.epoch === undefined ? writeWkt2(crs) : `COORDINATEMETADATA[${writeWkt2(crs)},EPOCH[${crs.epoch}]]`;

/** A system as WKT 2. Source: OGC 18-010r11 (ISO 19162:2019). */
export function writeWkt2(crs: AnyCrs): string {
  if ('compound' in crs && crs.compound) return writeWkt2(crs.compound);
  switch (crs.kind) {
    case 'geographic':
      return `GEOGCRS[${quoted(crs.name)},${frame(crs.datum)},${ellipsoidalAxes(crs)}${usage(crs)}${idText(crs.id)}]`;
    case 'geocentric':
      return `GEODCRS[${quoted(crs.name)},${frame(crs.datum)},CS[Cartesian,3],${(['X', 'Y', 'Z'] as const).map((axis, k) => `AXIS["(${axis})",geocentric${axis},ORDER[${k + 1}],${METRE}]`).join(',')}${usage(crs)}${idText(crs.id)}]`;
    case 'projected':
      return projectedText(crs);
    // Source: ISO 19162:2019, section 13 (engineering CRS)
    case 'local':
      return `ENGCRS[${quoted(crs.name)},EDATUM["Local"],CS[Cartesian,2],AXIS["(E)",east,ORDER[1]],AXIS["(N)",north,ORDER[2]],LENGTHUNIT[${quoted(crs.unit.name)},${real(crs.unit.metres)}]]`;
    case 'vertical':
      return verticalText(crs);
    case 'compound':
      return `COMPOUNDCRS[${quoted(crs.name)},${writeWkt2(crs.horizontal)},${verticalText(crs.vertical)}${usage(crs)}${idText(crs.id)}]`;
  }
}

function frame(datum: Datum): string {
  const { ellipsoid } = datum;
  const figure = `ELLIPSOID[${quoted(ellipsoid.name)},${real(ellipsoid.a)},${real(ellipsoid.invF)},${METRE}]`;
  const members = datum.id && datum.ensemble_m !== undefined ? ensembleMembers(datum.id) : [];
  const body =
    members.length > 0
      ? `ENSEMBLE[${quoted(datum.name)},${members.map((m) => `MEMBER[${quoted(m)}]`).join(',')},${figure},ENSEMBLEACCURACY[${datum.ensemble_m}]${idText(datum.id)}]`
      : `DATUM[${quoted(datum.name)},${figure}${idText(datum.id)}]`;
  return `${body},PRIMEM[${quoted(meridianName(datum.primeMeridian))},${real(datum.primeMeridian)},${DEGREE}]`;
}

function angleUnit(degrees: number): string {
  return degrees === 1
    ? DEGREE
    : `ANGLEUNIT[${quoted(Math.abs(degrees - 0.9) < 1e-12 ? 'grad' : 'angle')},${real((degrees * Math.PI) / 180)}]`;
}

function ellipsoidalAxes(crs: GeographicCrs): string {
  const unit = angleUnit(crs.degreesPerUnit);
  const axes = ['"geodetic latitude (Lat)",north', '"geodetic longitude (Lon)",east'];
  if (crs.lonFirst) axes.reverse();
  const texts = axes.map((axis, k) => `AXIS[${axis},ORDER[${k + 1}],${unit}]`);
  if (crs.dimension === 3) texts.push(`AXIS["ellipsoidal height (h)",up,ORDER[3],${METRE}]`);
  return `CS[ellipsoidal,${crs.dimension}],${texts.join(',')}`;
}

function projectedText(crs: ProjectedCrs): string {
  const method = METHODS.get(crs.method);
  if (!method)
    throw new Problem('crs-not-writable', `${crs.name} cannot be written: its projection method EPSG:${crs.method} is not available.`);
  const unit = `LENGTHUNIT[${quoted(crs.unit.name)},${real(crs.unit.metres)}]`;
  const parameters = method.parameters.map((code) => {
    const value = crs.parameters[code] ?? 0;
    const [number, unitText] = LENGTHS.has(code)
      ? [value / crs.unit.metres, unit]
      : RATIOS.has(code)
        ? [value, 'SCALEUNIT["unity",1]']
        : [value, DEGREE];
    return `PARAMETER[${quoted(PARAMETER_NAMES[code]!)},${real(number)},${unitText},ID["EPSG",${code}]]`;
  });
  const { axes } = crs;
  const texts = [axisText(axes, 0), axisText(axes, 1)];
  if (axes.northFirst) texts.reverse();
  return (
    `PROJCRS[${quoted(crs.name)},BASEGEOGCRS[${quoted(crs.base.name)},${frame(crs.base.datum)},${idText(crs.base.id).slice(1) || DEGREE}],` +
    `CONVERSION[${quoted(`${crs.name} projection`)},METHOD[${quoted(method.name)},ID["EPSG",${method.code}]],${parameters.join(',')}],` +
    `CS[Cartesian,2],${texts.map((t, k) => `AXIS[${t},ORDER[${k + 1}],${unit}]`).join(',')}${usage(crs)}${idText(crs.id)}]`
  );
}

function axisText(axes: Axes, k: 0 | 1): string {
  const letter = axes.letters[k];
  if (axes.along) return `"(${letter})",${axes.along.toward},MERIDIAN[${real(axes.along.meridians[k])},${DEGREE}]`;
  const direction = k === 0 ? axes.x : axes.y;
  return `"${direction}ing (${letter})",${direction}`;
}

function verticalText(crs: VerticalCrs): string {
  const axis = crs.direction === 'up' ? '"gravity-related height (H)",up' : '"depth (D)",down';
  return `VERTCRS[${quoted(crs.name)},VDATUM[${quoted(crs.datum.name)}${idText(crs.datum.id)}],CS[vertical,1],AXIS[${axis},LENGTHUNIT[${quoted(crs.unit.name)},${real(crs.unit.metres)}]]${usage(crs)}${idText(crs.id)}]`;
}

function usage({ area }: AnyCrs): string {
  if (!area) return '';
  return `,USAGE[SCOPE["Not known."],AREA[${quoted(area.name)}],BBOX[${[area.south, area.west, area.north, area.east].map(real).join(',')}]]`;
}

function idText(id: string | null): string {
  return id ? `,ID["EPSG",${id.slice(5)}]` : '';
}

/** Keywords with which a text of the second generation may begin, by kind; the long and the short ones mean the same. */
const ROOTS: Readonly<Record<string, AnyCrs['kind'] | 'bound' | 'local' | 'dated'>> = {
  GEOGCRS: 'geographic',
  GEOGRAPHICCRS: 'geographic',
  GEODCRS: 'geographic',
  GEODETICCRS: 'geographic',
  PROJCRS: 'projected',
  PROJECTEDCRS: 'projected',
  VERTCRS: 'vertical',
  VERTICALCRS: 'vertical',
  COMPOUNDCRS: 'compound',
  BOUNDCRS: 'bound',
  ENGCRS: 'local',
  ENGINEERINGCRS: 'local',
  COORDINATEMETADATA: 'dated',
};

/** Whether the root of a text is a keyword that only WKT 2 has. */
export function isWkt2(node: WktNode): boolean {
  return node.key in ROOTS;
}

/**
 * The system of a parsed text.
 * @param what it is called in messages
 * @throws Problem `crs-text-broken`, `crs-method-unknown`, `crs-kind`
 */
export function systemOfWkt2(node: WktNode, what: string): AnyCrs {
  switch (ROOTS[node.key]) {
    case 'geographic':
      return geodeticSystem(node, what);
    case 'projected':
      return projectedSystem(node, what);
    case 'vertical':
      return verticalSystem(node);
    case 'compound': {
      const [horizontal, vertical] = node.children.filter(isWkt2).map((c) => systemOfWkt2(c, what));
      if (horizontal?.kind !== 'geographic' && horizontal?.kind !== 'projected')
        throw new Problem('crs-text-broken', `${what} has no system for positions inside ${node.key}.`);
      if (vertical?.kind !== 'vertical') throw new Problem('crs-text-broken', `${what} has no system for heights inside ${node.key}.`);
      return { kind: 'compound', id: idOf(node), name: node.texts[0] ?? '', area: areaOf(node), horizontal, vertical };
    }
    case 'bound':
      return boundSystem(node, what);
    case 'dated': {
      const inner = node.children.find(isWkt2),
        epoch = childOf(node, 'EPOCH', 'COORDEPOCH')?.numbers[0];
      if (!inner) throw new Problem('crs-text-broken', `${what} has no system inside ${node.key}.`);
      const crs = systemOfWkt2(inner, what);
      return epoch === undefined ? crs : { ...crs, epoch };
    }
    case 'local': {
      const unit = childOf(node, 'LENGTHUNIT', 'UNIT') ?? node.children.flatMap((c) => childOf(c, 'LENGTHUNIT', 'UNIT') ?? [])[0];
      return localPlane(linearUnit(unit?.texts[0] ?? 'metre', unit?.numbers[0] ?? 1), node.texts[0] ?? undefined);
    }
    default:
      throw new Problem('crs-text-broken', `${what} begins with ${node.key}, which is not a coordinate reference system.`);
  }
}

/** A system with its own way to WGS 84 beside it. */
function boundSystem(node: WktNode, what: string): AnyCrs {
  const inner = needed(node, what, 'SOURCECRS').children.find(isWkt2);
  if (!inner) throw new Problem('crs-text-broken', `${what} has no system inside SOURCECRS.`);
  const system = systemOfWkt2(inner, what);
  const transformation = childOf(node, 'ABRIDGEDTRANSFORMATION');
  const given = new Map(
    (transformation?.children ?? [])
      .filter((c) => c.key === 'PARAMETER')
      .map((c) => [Number(childOf(c, 'ID')?.numbers[0] ?? childOf(c, 'ID')?.texts[1] ?? 0), c.numbers[0] ?? 0]),
  );
  if (!given.has(8605) || (system.kind !== 'projected' && system.kind !== 'geographic')) return system;
  const frameRotation = /coordinate frame/i.test(childOf(transformation!, 'METHOD')?.texts[0] ?? '') ? -1 : 1;
  const get = (code: number): number => given.get(code) ?? 0;
  // in the abridged form scale is a ratio, and not parts per million
  const toWgs84 = {
    tx: get(8605),
    ty: get(8606),
    tz: get(8607),
    rx: frameRotation * get(8608),
    ry: frameRotation * get(8609),
    rz: frameRotation * get(8610),
    ds: given.has(8611) ? (get(8611) - 1) * 1e6 : 0,
  };
  return withDatum(system, { ...(system.kind === 'projected' ? system.base : system).datum, id: null, toWgs84 });
}

/** The same system on another datum; what it was registered as no longer holds. */
export function withDatum(crs: EarthCrs, datum: Datum): EarthCrs {
  return crs.kind === 'projected' ? { ...crs, id: null, base: { ...crs.base, id: null, datum } } : { ...crs, id: null, datum };
}

function idOf(node: WktNode): string | null {
  const id = node.children.find((c) => c.key === 'ID' || c.key === 'AUTHORITY');
  return id?.texts[0]?.toUpperCase() === 'EPSG' ? `EPSG:${id.numbers[0] ?? id.texts[1]}` : null;
}

function areaOf(node: WktNode): AnyCrs['area'] {
  const holder = childOf(node, 'USAGE') ?? node;
  const box = childOf(holder, 'BBOX')?.numbers;
  if (box?.length !== 4) return null;
  return { name: childOf(holder, 'AREA')?.texts[0] ?? '', south: box[0]!, west: box[1]!, north: box[2]!, east: box[3]! };
}

const ANGLE_KEYS = ['ANGLEUNIT', 'UNIT'];
const LENGTH_KEYS = ['LENGTHUNIT', 'UNIT'];

function datumIn(node: WktNode, what: string): Datum {
  const made = needed(node, what, 'DATUM', 'ENSEMBLE', 'GEODETICDATUM', 'TRF');
  const figure = needed(made, what, 'ELLIPSOID', 'SPHEROID');
  const length = childOf(figure, ...LENGTH_KEYS)?.numbers[0] ?? 1;
  const [a, invF] = [(figure.numbers[0] ?? 0) * length, figure.numbers[1] ?? 0];
  if (!(a > 1e5 && invF >= 0))
    throw new Problem(
      'crs-text-broken',
      `${what} has an ellipsoid of semi-major axis ${a} and inverse flattening ${invF}, which cannot be.`,
    );
  const meridian = childOf(node, 'PRIMEM', 'PRIMEMERIDIAN');
  const angle = meridian && childOf(meridian, ...ANGLE_KEYS)?.numbers[0];
  const primeMeridian = (meridian?.numbers[0] ?? 0) * (angle === undefined ? 1 : degreesPerUnit(angle));
  const stated: Datum = { id: null, name: made.texts[0] ?? '', ellipsoid: { name: figure.texts[0] ?? '', a, invF }, primeMeridian };
  const code = idOf(made)?.slice(5);
  const registered = code && hasDatum(code) ? datumByCode(code) : null;
  return registered && registered.ellipsoid.invF.toFixed(4) === invF.toFixed(4) && Math.abs(registered.primeMeridian - primeMeridian) < 2e-7
    ? registered
    : adoptDatum(stated);
}

function geodeticSystem(node: WktNode, what: string): GeographicCrs | GeocentricCrs {
  const axes = node.children.filter((c) => c.key === 'AXIS');
  const common = { id: idOf(node), name: node.texts[0] ?? '', area: areaOf(node), datum: datumIn(node, what) };
  const system = childOf(node, 'CS');
  if (/cartesian/i.test(system?.words[0] ?? '')) return { kind: 'geocentric', ...common };
  const unit = (axes[0] && childOf(axes[0], ...ANGLE_KEYS)) ?? childOf(node, ...ANGLE_KEYS);
  return {
    kind: 'geographic',
    ...common,
    dimension: axes.length === 3 ? 3 : 2,
    degreesPerUnit: unit ? degreesPerUnit(unit.numbers[0] ?? 0) : 1,
    ...(axes[0]?.words[0]?.toLowerCase() === 'east' ? { lonFirst: true as const } : {}),
  };
}

function projectedSystem(node: WktNode, what: string): ProjectedCrs {
  const baseNode = needed(node, what, 'BASEGEOGCRS', 'BASEGEODCRS');
  const conversion = needed(node, what, 'CONVERSION', 'DERIVINGCONVERSION');
  const methodNode = needed(conversion, what, 'METHOD', 'PROJECTION');
  const axisNodes = node.children.filter((c) => c.key === 'AXIS');
  const unitNode = (axisNodes[0] && childOf(axisNodes[0], ...LENGTH_KEYS)) ?? childOf(node, ...LENGTH_KEYS);
  const unit = linearUnit(unitNode?.texts[0] ?? 'metre', unitNode?.numbers[0] ?? 1);
  const methodName = methodNode.texts[0] ?? '';
  const method = METHODS.get(Number(idOf(methodNode)?.slice(5))) ?? [...METHODS.values()].find((m) => fold(m.name) === fold(methodName));
  if (!method) throw new Problem('crs-method-unknown', `${what} uses the projection ${methodName}, which is not available.`);
  const parameters: Record<number, number> = Object.fromEntries(method.parameters.map((p) => [p, RATIOS.has(p) ? 1 : 0]));
  for (const c of conversion.children.filter((n) => n.key === 'PARAMETER')) {
    const name = fold(c.texts[0] ?? '');
    const code =
      method.parameters.find((p) => idOf(c) === `EPSG:${p}`) ?? method.parameters.find((p) => fold(PARAMETER_NAMES[p]!) === name);
    if (code === undefined) continue;
    const value = c.numbers[0] ?? 0;
    const factor = childOf(c, ...LENGTH_KEYS, ...ANGLE_KEYS, 'SCALEUNIT')?.numbers[0];
    parameters[code] = LENGTHS.has(code)
      ? value * (factor ?? unit.metres)
      : RATIOS.has(code)
        ? value * (factor ?? 1)
        : value * (factor === undefined ? 1 : degreesPerUnit(factor));
  }
  const datum = datumIn(baseNode, what);
  const baseUnit = childOf(baseNode, ...ANGLE_KEYS);
  return {
    kind: 'projected',
    id: idOf(node),
    name: node.texts[0] ?? '',
    area: areaOf(node),
    method: method.code,
    parameters,
    unit,
    axes: axesOf(axisNodes, method.code),
    base: {
      kind: 'geographic',
      id: idOf(baseNode),
      name: baseNode.texts[0] ?? '',
      area: null,
      dimension: 2,
      datum,
      degreesPerUnit: baseUnit ? degreesPerUnit(baseUnit.numbers[0] ?? 0) : 1,
    },
  };
}

function axesOf(nodes: WktNode[], method: number): Axes {
  const axes = axesOfMethod(method);
  if (nodes.length < 2) return axes;
  const letter = (n: WktNode): string => /\(([^)]+)\)/.exec(n.texts[0] ?? '')?.[1] ?? n.texts[0]?.slice(0, 1).toUpperCase() ?? '';
  const direction = (n: WktNode): string => n.words[0]?.toLowerCase() ?? '';
  const meridian = (n: WktNode): number | null => childOf(n, 'MERIDIAN')?.numbers[0] ?? null;
  const [first, second] = nodes as [WktNode, WktNode];
  const along = [meridian(first), meridian(second)];
  if (along[0] !== null && along[1] !== null) {
    // about a pole the letters tell which axis is which
    const northFirst =
      /^(N|northing|X \(north\))/i.test(letter(first)) ||
      (letter(first).toUpperCase() === 'X' && letter(second).toUpperCase() === 'Y' && direction(first) === 'north' && along[0] === 0);
    return {
      ...axes,
      northFirst,
      letters: northFirst ? [letter(second), letter(first)] : [letter(first), letter(second)],
      along: {
        toward: direction(first) === 'south' ? 'south' : 'north',
        meridians: northFirst ? [along[1]!, along[0]!] : [along[0]!, along[1]!],
      },
    };
  }
  const northFirst = direction(first) === 'north' || direction(first) === 'south';
  const [x, y] = northFirst ? [second, first] : [first, second];
  return {
    x: direction(x) === 'west' ? 'west' : 'east',
    y: direction(y) === 'south' ? 'south' : 'north',
    northFirst,
    letters: [letter(x) || 'E', letter(y) || 'N'],
  };
}

function verticalSystem(node: WktNode): VerticalCrs {
  const datum = childOf(node, 'VDATUM', 'VERTICALDATUM', 'VRF', 'DATUM', 'ENSEMBLE');
  const axis = childOf(node, 'AXIS');
  const unit = (axis && childOf(axis, ...LENGTH_KEYS)) ?? childOf(node, ...LENGTH_KEYS);
  return {
    kind: 'vertical',
    id: idOf(node),
    name: node.texts[0] ?? '',
    area: areaOf(node),
    datum: { id: datum ? idOf(datum) : null, name: datum?.texts[0] ?? '' },
    unit: linearUnit(unit?.texts[0] ?? 'metre', unit?.numbers[0] ?? 1),
    direction: axis?.words[0]?.toLowerCase() === 'down' ? 'down' : 'up',
  };
}

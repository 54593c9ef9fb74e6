import { readFile } from 'node:fs/promises';
import { areaAround, outsideArea } from '@pontrel/core/crs/area';
import { OperationSet, shareWithin } from '@pontrel/core/crs/operation-set';
import { operationAt } from '@pontrel/core/crs/by-part';
import type { AnyCrs, Crs } from '@pontrel/core/crs/crs';
import { writeProjString } from '@pontrel/core/crs/definitions/proj-string';
import { deprecationNote, readDefinition, readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { writePrj, writeWkt1 } from '@pontrel/core/crs/definitions/wkt1';
import { writeDatedWkt2 } from '@pontrel/core/crs/definitions/wkt2';
import { findCandidates } from '@pontrel/core/placement/finder';
import { type DatumPath, datumPaths, nameOf } from '@pontrel/core/crs/operations';
import { identify } from '@pontrel/core/crs/registry/identify';
import { compileTransform, onEarth, type Transform } from '@pontrel/core/crs/transform';
import { Problem } from '@pontrel/core/model/problem';
import { type Result, Usage } from './result';

/** The options of the commands about systems, as they were typed. */
export interface CrsOptions {
  json?: boolean;
  from?: string;
  to?: string;
  operation?: string;
  /** False after --no-grids. */
  grids?: boolean;
  as?: string;
  extent?: string;
  near?: string;
}

/** Transforms the points of the standard input, one "x y [z]" a line, each by the operation that is best where it lies. */
export async function transform({ from, to, operation, grids }: CrsOptions): Promise<Result> {
  if (!from || !to) throw new Usage('crs transform needs --from and --to.');
  const [a, b] = [readDefinition(from, '--from'), readDefinition(to, '--to')];
  const points = readPoints(await standardInput());
  const parts = operation === undefined ? partsOf(a, b, points) : [{ path: namedPath(a, b, operation), points: points.keys() }];
  const flat = new Float64Array(3 * points.length);
  points.forEach((p, i) => flat.set([p[0]!, p[1]!, p[2] ?? 0], 3 * i));
  const given = Float64Array.from(flat);
  const used = parts.map(({ path, points: own }) => {
    const transform = path ? compileTransform(a, b, { path }) : compileTransform(a, b);
    const indices = [...own];
    for (const i of indices) transform.apply(flat, 3 * i, 1, 3);
    return { transform, count: indices.length, indices };
  });
  const [main] = used;
  const out = points.map((p, i) => {
    const numbers = [flat[3 * i]!, flat[3 * i + 1]!, ...(p.length > 2 || isGeocentric(b) ? [flat[3 * i + 2]!] : [])];
    return Number.isNaN(numbers[0]!) ? null : numbers;
  });
  const outside = (system: AnyCrs, numbers: Float64Array): string | null => {
    if (system.kind !== 'geographic' && system.kind !== 'projected') return null;
    const n = outsideArea(system, numbers, points.length, 3);
    return n === 0 ? null : `${n} of ${points.length} points lie outside the area of use of ${system.name} (${system.area!.name}).`;
  };
  const notes = [
    deprecationNote(a),
    deprecationNote(b),
    main!.transform.heightNote,
    outside(a, given),
    outside(b, flat),
    used.length > 1
      ? `The points lie in the areas of ${used.length} operations: ${used.map(({ transform: t, count }) => `${nameOf(t.path)} for ${count}`).join(', ')}. Name one with --operation to use it for all.`
      : null,
    outsideOperations(a, used, given),
    operation === undefined && grids !== false ? gridNote(a, b, main!.transform.path, given) : null,
  ].filter((n) => n !== null);
  return {
    json: {
      operation: operationOf(main!.transform),
      ...(used.length > 1 ? { operations: used.map(({ transform: t, count }) => ({ ...operationOf(t), count })) } : {}),
      points: out,
      ...(notes.length > 0 ? { notes } : {}),
    },
    text: out.map((p) => (p ? p.join(' ') : '* *')).join('\n'),
    notes,
    exit: 0,
  };
}

function operationOf({ path, accuracy_m, steps }: Transform): object {
  return {
    id:
      path.steps
        .map((s) => s.operation.id)
        .filter(Boolean)
        .join(' + ') || null,
    name: path.ballpark ? 'No change of datum is known: numbers are taken over' : nameOf(path) || 'No change of datum',
    accuracy_m,
    grids: [...new Set(path.steps.length > 0 ? steps.flatMap((s) => s.grids) : [])],
  };
}

const isGeocentric = (c: AnyCrs): boolean => c.kind === 'geocentric';

/** Points, by their numbers, that take one operation; that of most points first. A path of null is left to be found. */
interface Part {
  path: DatumPath | null;
  points: Iterable<number>;
}

function partsOf(a: AnyCrs, b: AnyCrs, points: readonly number[][]): Part[] {
  const all: Part[] = [{ path: null, points: points.keys() }];
  // what has no datum to change, or no place on the globe to tell one from another, leaves nothing to choose
  if (a.kind === 'local' || b.kind === 'local' || isGeocentric(a) || isGeocentric(b)) return all;
  const from = positionsOf(a);
  const operations = new OperationSet(from, positionsOf(b));
  if (from.kind === 'geocentric' || !operations.isChoice) return all;
  const parts = new Map<DatumPath, number[]>();
  points.forEach(([x, y], i) => {
    const path = operationAt(operations, from, Float64Array.of(x!, y!));
    const own = parts.get(path);
    if (own) own.push(i);
    else parts.set(path, [i]);
  });
  return parts.size === 0
    ? all
    : [...parts].map(([path, own]) => ({ path, points: own })).sort((p, q) => q.points.length - p.points.length);
}

/** That points lie where no operation is known to hold; null where all lie within the area of theirs. */
function outsideOperations(
  a: AnyCrs,
  used: readonly { transform: Transform; indices: readonly number[] }[],
  points: Float64Array,
): string | null {
  if (a.kind === 'local' || isGeocentric(a)) return null;
  const from = positionsOf(a);
  if (from.kind === 'geocentric') return null;
  const sentences = used.flatMap(({ transform: { path }, indices }) => {
    if (!path.area || path.steps.length === 0) return [];
    const out = indices.filter((i) => {
      const area = areaAround(from, points.slice(3 * i, 3 * i + 2), 1, 2);
      return area !== null && shareWithin(area, path.area!) < 0.25;
    }).length;
    return out === 0
      ? []
      : [`${out} of ${points.length / 3} points lie outside the area of ${nameOf(path)}: its accuracy is not known there.`];
  });
  return sentences.length > 0 ? sentences.join(' ') : null;
}

/** That a grid file which is not at hand would make the operation more accurate where the points lie; null where none would. */
function gridNote(a: AnyCrs, b: AnyCrs, chosen: DatumPath, points: Float64Array): string | null {
  if (a.kind === 'local' || b.kind === 'local' || chosen.steps.length === 0) return null;
  const from = positionsOf(a);
  const area = from.kind === 'geocentric' ? null : areaAround(from, Float64Array.from(points), points.length / 3, 3);
  const better = area && new OperationSet(from, positionsOf(b)).betterWithGrid(chosen, area);
  return better
    ? `With the grid file ${better.missing.join(' and ')}, which is not at hand, ${nameOf(better)} would be accurate to ${better.accuracy_m} m. Put it into a folder that PONTREL_GRIDS names.`
    : null;
}

/** The path whose operation is named. */
function namedPath(a: AnyCrs, b: AnyCrs, operation: string): DatumPath {
  const [from, to] = [positionsOf(a), positionsOf(b)];
  const wanted = operation
    .split(/[\s+]+/)
    .filter(Boolean)
    .map((id) => (/^\d+$/.test(id) ? `EPSG:${id}` : id.toUpperCase()));
  const paths = datumPaths(from, to);
  const ids = (p: DatumPath): string[] => p.steps.map((s) => s.operation.id);
  const path = paths.find((p) => ids(p).join(' ') === wanted.join(' ')) ?? paths.find((p) => wanted.every((id) => ids(p).includes(id)));
  if (!path)
    throw new Problem(
      'operation-unknown',
      `${operation} does not lead from ${a.name} to ${b.name}. These do: ${
        paths
          .filter((p) => p.steps.length > 0)
          .map((p) => ids(p).join(' + '))
          .join(', ') || 'none'
      }.`,
    );
  if (path.missing.length > 0)
    throw new Problem(
      'grid-missing',
      `${operation} needs the grid file ${path.missing.join(' and ')}, which is not at hand. Put it into a folder that PONTREL_GRIDS names.`,
    );
  return path;
}

function positionsOf(c: AnyCrs): Parameters<typeof datumPaths>[0] {
  if (c.kind === 'compound') return onEarth(c.horizontal);
  if (c.kind === 'local') return onEarth(c);
  if (c.kind === 'vertical')
    throw new Problem(
      'crs-kind',
      `${c.id ?? c.name} (${c.name}) is a system for heights only. Name a compound system, or one for positions.`,
    );
  return c;
}

async function standardInput(): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of process.stdin) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

function readPoints(text: string): number[][] {
  const points: number[][] = [];
  text.split(/\r?\n/).forEach((line, k) => {
    if (line.trim() === '') return;
    const numbers = line
      .trim()
      .split(/[\s,;]+/)
      .map(Number);
    if (numbers.length < 2 || numbers.length > 3 || numbers.some((n) => !Number.isFinite(n)))
      throw new Problem(
        'point-unread',
        `Line ${k + 1}, "${line.trim().slice(0, 60)}", is no point. Write "x y" or "x y z", the east-west axis first.`,
      );
    points.push(numbers);
  });
  return points;
}

const WRITERS: Record<string, (c: AnyCrs) => string> = {
  wkt1: writeWkt1,
  wkt2: writeDatedWkt2,
  prj: (c) => writePrj(positions(c)),
  proj: (c) => writeProjString(positions(c)),
  json: (c) => JSON.stringify(c, null, 2),
};

function positions(c: AnyCrs): Crs {
  if (c.kind === 'compound') return c.horizontal;
  if (c.kind === 'geographic' || c.kind === 'projected' || c.kind === 'local') return c;
  throw new Problem('crs-not-writable', `${c.name} cannot be written so: the form holds positions of maps only. Take wkt1 or wkt2.`);
}

/** Shows a system in one of the forms that there are for it. */
export function show(name: string, options: CrsOptions): Result {
  const write = WRITERS[options.as ?? 'wkt2'];
  if (!write) throw new Usage(`--as takes wkt1, wkt2, prj, proj or json; "${options.as}" is none of them.`);
  const system = readDefinition(name, 'The CRS');
  const text = write(system);
  return { json: { id: system.id, name: system.name, as: options.as ?? 'wkt2', text, note: deprecationNote(system) }, text, exit: 0 };
}

/** Finds the registered systems that a definition in a file has the content of. */
export async function identifyFile(file: string): Promise<Result> {
  let text: string;
  try {
    text = await readFile(file, 'utf8');
  } catch {
    throw new Problem('file-unread', `${file} cannot be read. Check that it is there.`);
  }
  const system = readPositions(text, file);
  const found = identify(system).slice(0, 5);
  return {
    json: {
      name: system.name,
      matches: found.map((f) => ({ id: f.crs.id, name: f.crs.name, confidence: f.confidence, reason: f.reason })),
    },
    text:
      found.length === 0
        ? `${system.name}: no registered system has this content.`
        : found.map((f) => `${f.crs.id} ${f.crs.name} (${f.confidence} %: ${f.reason})`).join('\n'),
    exit: 0,
  };
}

function numbersOf(text: string, count: number, option: string): number[] {
  const numbers = text.split(',').map(Number);
  if (numbers.length !== count || numbers.some((n) => !Number.isFinite(n)))
    throw new Usage(`${option} takes ${count} numbers with commas between; "${text}" is not that.`);
  return numbers;
}

/** Finds the systems in which an extent would make sense. */
export function find({ extent, near }: CrsOptions): Result {
  if (!extent) throw new Usage('crs find needs --extent minx,miny,maxx,maxy.');
  const box = numbersOf(extent, 4, '--extent') as [number, number, number, number];
  if (box[0] > box[2] || box[1] > box[3])
    throw new Problem('extent-turned', `The extent ${extent} has its greatest numbers first. Write minx,miny,maxx,maxy.`);
  const place = near === undefined ? null : (numbersOf(near, 2, '--near') as [number, number]);
  const found = findCandidates(box, null, { systems: new Set(), places: [], near: place }, 20);
  return {
    json: {
      candidates: found.map((c) => ({
        id: c.crs.id,
        name: c.crs.name,
        lon: c.lon,
        lat: c.lat,
        inside: c.inside,
        mistake: c.mistake,
        away_km: c.pointed_km,
        parameters: c.parameters,
      })),
    },
    text: found
      .map((c) => `${c.crs.id}\t${c.crs.name}\t${c.lon.toFixed(4)} ${c.lat.toFixed(4)}${c.mistake ? `\t${c.mistake}` : ''}`)
      .join('\n'),
    exit: 0,
  };
}

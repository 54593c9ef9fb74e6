import { readFile } from 'node:fs/promises';
import { outsideArea } from '@pontrel/core/crs/area';
import type { AnyCrs, Crs } from '@pontrel/core/crs/crs';
import { writeProjString } from '@pontrel/core/crs/definitions/proj-string';
import { deprecationNote, readDefinition, readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { writePrj, writeWkt1 } from '@pontrel/core/crs/definitions/wkt1';
import { writeWkt2 } from '@pontrel/core/crs/definitions/wkt2';
import { findCandidates } from '@pontrel/core/placement/finder';
import { type DatumPath, datumPaths, nameOf } from '@pontrel/core/crs/operations';
import { identify } from '@pontrel/core/crs/registry/identify';
import { compileTransform, onEarth, expanded, type Transform } from '@pontrel/core/crs/transform';
import { Problem } from '@pontrel/core/model/problem';
import { type Result, Usage } from './result';

/** The options of the commands about systems, as they were typed. */
export interface CrsOptions {
  json?: boolean;
  from?: string;
  to?: string;
  operation?: string;
  as?: string;
  extent?: string;
  near?: string;
}

/** Transforms the points of the standard input, one "x y [z]" a line. */
export async function transform({ from, to, operation }: CrsOptions): Promise<Result> {
  if (!from || !to) throw new Usage('crs transform needs --from and --to.');
  const [a, b] = [readDefinition(from, '--from'), readDefinition(to, '--to')];
  const points = readPoints(await standardInput());
  const way = wayBetween(a, b, operation);
  const flat = new Float64Array(3 * points.length);
  points.forEach((p, i) => flat.set([p[0]!, p[1]!, p[2] ?? 0], 3 * i));
  const given = Float64Array.from(flat);
  way.apply(flat, 0, points.length, 3);
  const out = points.map((p, i) => {
    const numbers = [flat[3 * i]!, flat[3 * i + 1]!, ...(p.length > 2 || isGeocentric(b) ? [flat[3 * i + 2]!] : [])];
    return Number.isNaN(numbers[0]!) ? null : numbers;
  });
  const used = way.path;
  const parts = used.steps.flatMap(expanded);
  const outside = (system: AnyCrs, numbers: Float64Array): string | null => {
    if (system.kind !== 'geographic' && system.kind !== 'projected') return null;
    const n = outsideArea(system, numbers, points.length, 3);
    return n === 0 ? null : `${n} of ${points.length} points lie outside the area of use of ${system.name} (${system.area!.name}).`;
  };
  const notes = [deprecationNote(a), deprecationNote(b), way.heightNote, outside(a, given), outside(b, flat)].filter((n) => n !== null);
  return {
    json: {
      operation: {
        id:
          used.steps
            .map((s) => s.operation.id)
            .filter(Boolean)
            .join(' + ') || null,
        name: used.ballpark ? 'No change of datum is known: numbers are taken over' : nameOf(used) || 'No change of datum',
        accuracy_m: way.accuracy_m,
        grids: [...new Set(parts.length > 0 ? way.steps.flatMap((s) => s.grids) : [])],
      },
      points: out,
      ...(notes.length > 0 ? { notes } : {}),
    },
    text: out.map((p) => (p ? p.join(' ') : '* *')).join('\n'),
    notes,
    exit: 0,
  };
}

const isGeocentric = (c: AnyCrs): boolean => c.kind === 'geocentric';

/** The best way, or the one whose operation is named. */
function wayBetween(a: AnyCrs, b: AnyCrs, operation: string | undefined): Transform {
  if (operation === undefined) return compileTransform(a, b);
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
  return compileTransform(a, b, { path });
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
  wkt2: writeWkt2,
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

import { eachPart, type FeatureBatch, LINE, NO_GEOMETRY, POLYGON, vertexRange } from '../../model/batch';
import { BATCH_RECORDS, BatchBuilder, copyRecord, copyValues } from '../../model/batch-builder';
import { Problem } from '../../model/problem';
import type { FormatOption } from '../../formats/format-option';
import { type Derivation, type DerivationInput, type Derived, lengthOf, type Role } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { namedBy, recordName } from '../derived/record-name';
import { readAreas } from '../parcels/areas-read';
import { contoursOf } from './contours';
import { onGround } from './drape';
import { outlineTin } from './outline-tin';
import { surfaceFrom, type SurfaceRead } from './surface-from';
import { Ground, nextSide, type Tin, twinsOf } from './tin';
import { type Against, volumesBetween } from './volume';

const SURFACE: Role = { id: 'surface', title: 'The ground', kinds: ['polygon', 'line', 'point', 'text'], elevation: true };

/** Settings of all that make a surface of records. */
const OF_SURFACES: readonly FormatOption[] = [
  { id: 'height', label: 'Heights are in', kind: 'text', asks: 'field', hint: 'the geometry' },
  { id: 'longest', label: 'Longest side at the edge', kind: 'length', initial_m: 0, orNone: true },
  { id: 'spike', label: 'Height stands out by', kind: 'length', initial_m: 5, orNone: true },
];

const surfaceOf = ({ records, settings, unit_m }: DerivationInput, role: string): Promise<SurfaceRead> =>
  surfaceFrom(records(role), {
    height: String(settings.height),
    longest: lengthOf(settings, 'longest', unit_m),
    spike: lengthOf(settings, 'spike', unit_m),
    unit_m,
  });

/** What there is to know of a surface, as figures. */
function surfaceFigures({ tin: { xyz, triangles }, counts, faults }: SurfaceRead, unit_m: number): Record<string, number> {
  let [low, high, plan, space] = [Infinity, -Infinity, 0, 0];
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
    for (const n of [a, b, c]) {
      low = Math.min(low, xyz[n + 2]!);
      high = Math.max(high, xyz[n + 2]!);
    }
    const [ux, uy, uz] = [xyz[b]! - xyz[a]!, xyz[b + 1]! - xyz[a + 1]!, xyz[b + 2]! - xyz[a + 2]!];
    const [vx, vy, vz] = [xyz[c]! - xyz[a]!, xyz[c + 1]! - xyz[a + 1]!, xyz[c + 2]! - xyz[a + 2]!];
    const up = ux * vy - uy * vx;
    plan += up / 2;
    space += Math.hypot(up, uy * vz - uz * vy, uz * vx - ux * vz) / 2;
  }
  return {
    points: counts.points,
    breaklines: counts.breaklines,
    triangles: triangles.length / 3,
    flatTriangles: counts.flat,
    lowest_m: low * unit_m,
    highest_m: high * unit_m,
    area_m2: plan * unit_m ** 2,
    surfaceArea_m2: space * unit_m ** 2,
    spikes: faults.filter((f) => f.kind === 'spike-height').length,
  };
}

/** A ground surface of heights: its triangles are the records. */
export const SURFACE_OF: Derivation = {
  id: 'surface',
  title: 'Ground surface',
  says: 'Triangles between points, texts and lines that have heights; lines are sides of them (breaklines, contours).',
  roles: [SURFACE],
  settings: OF_SURFACES,
  async run(input) {
    const read = await surfaceOf(input, 'surface');
    return {
      records: () => triangleRecords(input.name, read.tin),
      figures: surfaceFigures(read, input.unit_m),
      faults: read.faults,
      findings: read.findings,
    };
  },
};

function* triangleRecords(layer: string, { xyz, triangles }: Tin): Generator<FeatureBatch> {
  let builder = new BatchBuilder(layer);
  for (let t = 0; t < triangles.length; t += 3) {
    for (const n of [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!, triangles[t]!])
      builder.vertex(xyz[3 * n]!, xyz[3 * n + 1]!, xyz[3 * n + 2]!);
    builder.endPart();
    builder.endFeature(POLYGON, 'Triangle', t / 3 + 1);
    if (builder.full) {
      yield builder.take();
      builder = new BatchBuilder(layer);
    }
  }
  if (builder.count > 0) yield builder.take();
}

/** Contours of a surface. */
export const CONTOURS: Derivation = {
  id: 'contours',
  title: 'Contours',
  says: 'Lines of equal height on a surface, one interval apart.',
  roles: [SURFACE],
  settings: [
    { id: 'interval', label: 'Interval', kind: 'length', initial_m: 1 },
    { id: 'base', label: 'One of them at', kind: 'number', initial: 0, least: -1e5, most: 1e5 },
    { id: 'index', label: 'Index contour every', kind: 'number', initial: 5, least: 1, most: 1000 },
    ...OF_SURFACES,
  ],
  async run(input) {
    const { settings, unit_m, name } = input;
    const interval = lengthOf(settings, 'interval', unit_m);
    const read = await surfaceOf(input, 'surface');
    const { lowest_m, highest_m } = surfaceFigures(read, unit_m);
    if ((highest_m! - lowest_m!) / unit_m / interval > MOST_LEVELS)
      throw new Problem(
        'interval-small',
        `From ${lowest_m} m to ${highest_m} m there would be more than ${MOST_LEVELS} heights: give a larger interval.`,
      );
    const base = Number(settings.base) / unit_m;
    const every = Math.round(Number(settings.index));
    let [lines, length] = [0, 0];
    for (const { line } of contoursOf(read.tin, interval, base)) {
      lines++;
      for (let k = 0; k + 3 < line.length; k += 2) length += Math.hypot(line[k + 2]! - line[k]!, line[k + 3]! - line[k + 1]!);
    }
    return {
      *records() {
        let builder = new BatchBuilder(name);
        let n = 0;
        for (const { height, line } of contoursOf(read.tin, interval, base)) {
          for (let k = 0; k < line.length; k += 2) builder.vertex(line[k]!, line[k + 1]!, height);
          builder.endPart();
          builder.set('elevation', height);
          builder.set('kind', Math.round((height - base) / interval) % every === 0 ? 'index' : 'intermediate');
          builder.endFeature(LINE, 'Contour', ++n);
          if (!builder.full) continue;
          yield builder.take();
          builder = new BatchBuilder(name);
        }
        if (builder.count > 0) yield builder.take();
      },
      figures: { contours: lines, length_m: length * unit_m, ...surfaceFigures(read, unit_m) },
      faults: read.faults,
      findings: read.findings,
    };
  },
};

/** Heights of contours: more would be drawn over each other on any map. */
const MOST_LEVELS = 100_000;

/** Records that get heights from a surface, or are told how they lie to it. */
export const DRAPE: Derivation = {
  id: 'drape',
  title: 'Records on the ground',
  says: 'Records dropped on a surface, or with heights above it; tells what floats, what lies buried, and what lies outside.',
  roles: [
    { id: 'records', title: 'Records', kinds: ['point', 'line', 'polygon', 'text'] },
    // nobody can guess which of the layers is the ground
    { ...SURFACE, kinds: [] },
  ],
  settings: [
    {
      id: 'gives',
      label: 'Height becomes',
      kind: 'choice',
      choices: [
        { value: 'ground', label: 'that of the ground' },
        { value: 'above', label: 'height above the ground' },
        { value: 'absolute', label: 'ground and its own' },
      ],
    },
    {
      id: 'of',
      label: 'Of',
      kind: 'choice',
      choices: [
        { value: 'all', label: 'all' },
        { value: 'without', label: 'those without a height' },
        { value: 'off', label: 'those without, and those off the ground' },
      ],
    },
    { id: 'offset', label: 'Offset, m', kind: 'number', initial: 0, least: -1e5, most: 1e5 },
    { id: 'tolerance', label: 'On the ground within', kind: 'length', initial_m: 0.15 },
    {
      id: 'lines',
      label: 'Lines follow it',
      kind: 'choice',
      choices: [
        { value: 'triangles', label: 'over every triangle' },
        { value: 'vertices', label: 'at their vertices' },
      ],
    },
    namedBy('Records are called by'),
    ...OF_SURFACES,
  ],
  run: drape,
};

async function drape(input: DerivationInput): Promise<Derived> {
  const { settings, unit_m, name, records } = input;
  const read = await surfaceOf(input, 'surface');
  const ground = new Ground(read.tin);
  const tolerance = lengthOf(settings, 'tolerance', unit_m);
  const offset = Number(settings.offset) / unit_m;
  const { gives, of } = settings;
  const faults: Fault[] = [];
  const counts = { records: 0, changed: 0, outside: 0, floating: 0, buried: 0, withoutHeight: 0 };
  const out: FeatureBatch[] = [];
  for await (const batch of records('records')) {
    const builder = new BatchBuilder(name);
    if (batch.declared) builder.declare(batch.declared);
    for (let i = 0; i < batch.count; i++) {
      counts.records++;
      const lies = lieOf(ground, batch, i, offset);
      const about = recordName(batch, i, String(settings.names));
      if (lies.outside) {
        counts.outside++;
        faults.push({ kind: 'off-surface', at: lies.outside, size: null, about });
      }
      if (!lies.hasHeight) counts.withoutHeight++;
      else if (gives !== 'absolute' && lies.off > tolerance) {
        counts[lies.above ? 'floating' : 'buried']++;
        faults.push({ kind: lies.above ? 'floats' : 'buried', at: lies.at, size: lies.off * unit_m, about });
      }
      const wanted = of === 'all' || !lies.hasHeight || (of === 'off' && lies.off > tolerance);
      if (!wanted || batch.kinds[i] === NO_GEOMETRY) copyRecord(batch, i, builder);
      else {
        counts.changed++;
        dropped(ground, batch, i, builder, { gives: String(gives), offset, over: settings.lines === 'triangles' });
      }
    }
    out.push(builder.take());
  }
  return {
    records: () => out,
    figures: counts,
    faults: [...faults.sort((a, b) => (b.size ?? 0) - (a.size ?? 0)), ...read.faults],
    findings: read.findings,
  };
}

/** How a record lies to the ground. */
interface Lie {
  hasHeight: boolean;
  /** The farthest that a vertex with a height is from where it should be, whether that is above, and where. */
  off: number;
  above: boolean;
  at: [number, number];
  /** The first vertex outside the surface; null where there is none. */
  outside: [number, number] | null;
}

function lieOf(ground: Ground, batch: FeatureBatch, i: number, offset: number): Lie {
  const { coords } = batch;
  const lie: Lie = { hasHeight: false, off: 0, above: false, at: [NaN, NaN], outside: null };
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) {
    const [x, y, z] = [coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!];
    const on = ground.at(x, y);
    if (Number.isNaN(on)) lie.outside ??= [x, y];
    if (Number.isNaN(z)) continue;
    lie.hasHeight = true;
    const off = z - on - offset;
    if (Math.abs(off) > lie.off) Object.assign(lie, { off: Math.abs(off), above: off > 0, at: [x, y] });
  }
  return lie;
}

/** Adds a record with its heights from the ground. */
function dropped(
  ground: Ground,
  batch: FeatureBatch,
  i: number,
  out: BatchBuilder,
  { gives, offset, over }: { gives: string; offset: number; over: boolean },
): void {
  const { coords } = batch;
  const kind = batch.kinds[i]!;
  const height = (z: number, on: number): number =>
    gives === 'ground' ? on + offset : gives === 'above' ? z - on - offset : z + on + offset;
  eachPart(batch, i, (start, end) => {
    if (over && gives === 'ground' && (kind === LINE || kind === POLYGON)) {
      const xy = new Float64Array(2 * (end - start));
      for (let v = start; v < end; v++) xy.set([coords[3 * v]!, coords[3 * v + 1]!], 2 * (v - start));
      const lying = onGround(ground, xy);
      for (let k = 0; k < lying.length; k += 3) out.vertex(lying[k]!, lying[k + 1]!, lying[k + 2]! + offset);
    } else
      for (let v = start; v < end; v++) {
        const [x, y, z] = [coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!];
        out.vertex(x, y, height(z, ground.at(x, y)));
      }
    out.endPart();
  });
  copyValues(batch, i, out);
  out.endFeature(kind, batch.entities[i]!, batch.locations[i]!);
}

/** Volumes between two surfaces, or a surface and a height, within outlines. */
export const VOLUME: Derivation = {
  id: 'volume',
  title: 'Volumes',
  says: 'Cut (where the surface lies above the other one) and fill (where it lies below), within each outline.',
  roles: [
    SURFACE,
    { id: 'against', title: 'The other surface', kinds: [], optional: true, elevation: true },
    { id: 'outline', title: 'Outlines', kinds: [], optional: true },
  ],
  settings: [
    { id: 'level', label: 'Or against the height, m', kind: 'number', initial: 0, least: -1e5, most: 1e5 },
    namedBy('Outlines are called by'),
    ...OF_SURFACES,
  ],
  run: volume,
};

async function volume(input: DerivationInput): Promise<Derived> {
  const { records, settings, name, unit_m } = input;
  const first = await surfaceOf(input, 'surface');
  const second = input.has('against') ? await surfaceOf(input, 'against') : null;
  const ground = new Ground(first.tin);
  const against: Against = second ? new Ground(second.tin) : Number(settings.level) / unit_m;
  const read = input.has('outline') ? await readAreas(records('outline'), { names: String(settings.names), reach: 0, unit_m }) : null;
  if (read && read.areas.length === 0) throw new Problem('no-areas', 'The outlines are no areas. Choose a layer that has areas.');
  const outlines = read?.areas ?? [{ rings: borderOf(first.tin), name: 'all' }];
  const rows = outlines.map((outline) => {
    const over = read ? outlineTin(outline.rings) : null;
    const v = volumesBetween(ground, against, over);
    return {
      outline,
      wanted: over ? areaOf(over) * unit_m ** 2 : 0,
      cut_m3: v.cut * unit_m ** 3,
      fill_m3: v.fill * unit_m ** 3,
      area_m2: v.area * unit_m ** 2,
      cutArea_m2: v.cutArea * unit_m ** 2,
      fillArea_m2: v.fillArea * unit_m ** 2,
    };
  });
  const sum = (of: (row: (typeof rows)[number]) => number): number => rows.reduce((n, row) => n + of(row), 0);
  // what lies beyond a surface has no volume: said, not passed over
  const short = rows.filter((r) => read && r.wanted - r.area_m2 > SHORT * r.wanted);
  return {
    *records() {
      const builder = new BatchBuilder(name);
      for (const [n, { outline, wanted: _wanted, ...figures }] of rows.entries()) {
        for (const ring of outline.rings) {
          for (let k = 0; k < ring.length; k += 2) builder.vertex(ring[k]!, ring[k + 1]!, NaN);
          builder.endPart();
        }
        builder.set('name', outline.name);
        for (const [field, value] of Object.entries(figures)) builder.set(field, value);
        builder.set('net_m3', figures.cut_m3 - figures.fill_m3);
        builder.endFeature(POLYGON, 'Polygon', n + 1);
        if (builder.count === BATCH_RECORDS) yield builder.take();
      }
      if (builder.count > 0) yield builder.take();
    },
    figures: {
      outlines: rows.length,
      cut_m3: sum((r) => r.cut_m3),
      fill_m3: sum((r) => r.fill_m3),
      net_m3: sum((r) => r.cut_m3 - r.fill_m3),
      area_m2: sum((r) => r.area_m2),
      cutArea_m2: sum((r) => r.cutArea_m2),
      fillArea_m2: sum((r) => r.fillArea_m2),
    },
    faults: [
      ...short.map(({ outline, wanted, area_m2 }): Fault => ({
        kind: 'outline-beyond',
        at: [outline.rings[0]![0]!, outline.rings[0]![1]!],
        size: wanted - area_m2,
        about: outline.name,
      })),
      ...first.faults,
      ...(second?.faults ?? []),
    ],
    findings: [...first.findings, ...(second?.findings ?? []), ...(read?.findings ?? [])],
  };
}

/** A share of an outline that may lie beyond a surface by what numbers lose. */
const SHORT = 1e-9;

const areaOf = ({ xyz, triangles }: Tin): number => {
  let area = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
    area += ((xyz[b]! - xyz[a]!) * (xyz[c + 1]! - xyz[a + 1]!) - (xyz[b + 1]! - xyz[a + 1]!) * (xyz[c]! - xyz[a]!)) / 2;
  }
  return area;
};

/** The outlines of a surface as rings. */
function borderOf(tin: Tin): number[][] {
  const { xyz, triangles } = tin;
  const twins = twinsOf(tin);
  const from = new Map<number, number[]>();
  for (let s = 0; s < triangles.length; s++)
    if (twins[s] === -1) {
      const own = from.get(triangles[s]!);
      if (own) own.push(triangles[nextSide(s)]!);
      else from.set(triangles[s]!, [triangles[nextSide(s)]!]);
    }
  const rings: number[][] = [];
  for (const [start, ways] of from)
    while (ways.length > 0) {
      const ring: number[] = [];
      let n = start;
      do {
        ring.push(xyz[3 * n]!, xyz[3 * n + 1]!);
        n = from.get(n)!.pop()!;
      } while (n !== start);
      rings.push([...ring, ring[0]!, ring[1]!]);
    }
  return rings;
}

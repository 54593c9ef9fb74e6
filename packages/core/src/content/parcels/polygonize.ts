import { segmentDistance } from '../../geometry/distance';
import { ringArea2 } from '../../geometry/ring-area';
import { ringHolds } from '../../geometry/ring-holds';
import { eachPart, type FeatureBatch, isRaised, LINE, POINT, POLYGON, TEXT, vertexRange } from '../../model/batch';
import { inBatches } from '../../model/batch-builder';
import { Doubles } from '../../model/doubles';
import type { Finding } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { Value } from '../../model/value';
import { boxesOf, type Face, facesOf, type LooseEnd } from './faces';
import { type Derivation, type Derived, lengthOf } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { extendEnds } from './extend-ends';
import { type Linework, nodeLinework } from './node-linework';

/** How areas are made of lines. Lengths are in units of the coordinates. */
export interface PolygonizeOptions {
  /** Name of the layer that the areas are. */
  layer: string;
  /** Distance within which lines meet. */
  tolerance: number;
  /** How far a loose end is extended to meet a line; not at all when 0. */
  extend: number;
  /** Overshoots that are no longer than this are trimmed. */
  trim: number;
  /** Metres in one unit of the coordinates, for what is told of lengths and areas. */
  unit_m: number;
}

/** A text or a point that tells something of the area that it stands in. */
interface Label {
  x: number;
  y: number;
  values: Record<string, Value>;
}

/** Fields that tell how something is drawn and where it stands in its file: of a label, they are not about its area. */
const OF_THE_DRAWING: ReadonlySet<string> = new Set([
  ...['layer', 'entity', 'handle', 'color', 'linetype', 'lineweight_mm', 'xdata'],
  ...['text_height', 'text_angle', 'text_align', 'text_style', 'block_angle', 'scale_x', 'scale_y', 'scale_z'],
]);

/** No plane of the earth goes farther from its origin, metres: beyond it, a projection has no image any more, whatever it says. */
const FARTHEST_M = 1e8;

/** Lines and areas as segments, and the labels among the rest. */
class Drawn {
  private readonly segments = new Doubles();
  readonly labels: Label[] = [];
  lines = 0;
  /** Records that have heights, that lie nowhere, at least in part, and that have no geometry. */
  readonly without = { heights: 0, place: 0, geometry: 0 };

  /** @param farthest coordinate that is a place, in units of the coordinates */
  constructor(private readonly farthest: number) {}

  add(batch: FeatureBatch): void {
    const { coords } = batch;
    for (let i = 0; i < batch.count; i++) {
      const kind = batch.kinds[i]!;
      if (kind === LINE || kind === POLYGON) {
        this.lines++;
        if (isRaised(batch, i)) this.without.heights++;
        let whole = true;
        eachPart(batch, i, (start, end) => {
          for (let v = start; v + 1 < end; v++)
            if (!this.push(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 3]!, coords[3 * v + 4]!)) whole = false;
        });
        if (!whole) this.without.place++;
      } else if (kind === TEXT || kind === POINT) this.label(batch, i);
      else this.without.geometry++;
    }
  }

  all(): Float64Array {
    return this.segments.take();
  }

  private isPlace(v: number): boolean {
    return Math.abs(v) <= this.farthest;
  }

  private label(batch: FeatureBatch, i: number): void {
    const [v, end] = vertexRange(batch, i);
    if (v === end || !this.isPlace(batch.coords[3 * v]!) || !this.isPlace(batch.coords[3 * v + 1]!)) {
      this.without.place++;
      return;
    }
    const values: Record<string, Value> = {};
    for (const [name, column] of batch.columns) {
      const value = column[i] ?? null;
      if (value !== null && !OF_THE_DRAWING.has(name)) values[name] = value;
    }
    this.labels.push({ x: batch.coords[3 * v]!, y: batch.coords[3 * v + 1]!, values });
  }

  /** @returns whether it lies somewhere */
  private push(...segment: [number, number, number, number]): boolean {
    if (!segment.every((v) => this.isPlace(v))) return false;
    for (const v of segment) this.segments.push(v);
    return true;
  }
}

/** What of the records is not in the areas. */
const leftBehind = ({ heights, place, geometry }: Drawn['without']): Finding[] =>
  [
    { code: 'heights-left', count: heights, message: 'Lines have heights: the areas are flat.' },
    { code: 'no-place', count: place, message: 'Records lie nowhere in this system, at least in part: what does is left out.' },
    { code: 'no-geometry', count: geometry, message: 'Records have no geometry: they are left out.' },
  ].flatMap((f): Finding[] => (f.count > 0 ? [{ ...f, severity: 'caution' }] : []));

/**
 * Makes areas of lines, and gives each the values of the texts and points that stand in it. Lines are noded first; areas of the source count as
 * their outlines.
 * @param batches without curves, in one plane
 * @throws Problem `no-lines` where there is none, `no-areas` where lines enclose nothing
 */
export async function polygonize(
  batches: AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>,
  { layer, tolerance, extend, trim, unit_m }: PolygonizeOptions,
): Promise<Derived> {
  const work = new Drawn(FARTHEST_M / unit_m);
  for await (const batch of batches) work.add(batch);
  if (work.lines === 0) throw new Problem('no-lines', 'There is no line to make areas of. Choose layers that have lines.');
  const faults: Fault[] = [];
  const noded = extended(nodeLinework(work.all(), tolerance), tolerance, extend, unit_m, faults);
  const { faces, dangles, bridges } = facesOf(noded);
  if (faces.length === 0)
    throw new Problem(
      'no-areas',
      'These lines enclose nothing. Give a larger tolerance if their ends should meet, or choose other layers.',
    );
  const told = tellLabels(faces, work.labels, tolerance, faults);
  for (const d of dangles) faults.push(lineFault(d.length <= trim ? 'line-trimmed' : 'line-loose', d, unit_m));
  for (const b of bridges) faults.push(lineFault('line-between', b, unit_m));
  const sizes = faces.map((f) => areaOf(f) * unit_m ** 2);
  const areas = batchesOf(layer, faces, told);
  return {
    records: () => areas,
    figures: {
      lines: work.lines,
      areas: faces.length,
      holes: faces.reduce((n, f) => n + f.holes.length, 0),
      area_m2: sizes.reduce((n, a) => n + a, 0),
      smallest_m2: sizes.reduce((n, a) => Math.min(n, a), Infinity),
      labels: work.labels.length,
      largestMove_m: noded.largestMove * unit_m,
      dangles: dangles.length,
      bridges: bridges.length,
    },
    faults: faults.sort((a, b) => (b.size ?? 0) - (a.size ?? 0)),
    findings: leftBehind(work.without),
  };
}

/** Areas from lines, as an operation. */
export const POLYGONIZE: Derivation = {
  id: 'polygonize',
  title: 'Areas from lines',
  says: 'Areas of the lines that enclose them, each with the values of the texts and points that stand in it.',
  roles: [{ id: 'lines', title: 'Lines and labels', kinds: ['line', 'polygon', 'point', 'text'] }],
  settings: [
    { id: 'tolerance', label: 'Ends meet within', kind: 'length', initial_m: 0.001, orNone: true },
    { id: 'extend', label: 'Extend loose ends up to', kind: 'length', initial_m: 0, orNone: true },
    { id: 'trim', label: 'Trim overshoots up to', kind: 'length', initial_m: 0, orNone: true },
  ],
  run: (input) =>
    polygonize(input.records('lines'), {
      layer: input.name,
      unit_m: input.unit_m,
      tolerance: lengthOf(input.settings, 'tolerance', input.unit_m),
      extend: lengthOf(input.settings, 'extend', input.unit_m),
      trim: lengthOf(input.settings, 'trim', input.unit_m),
    }),
};

/** Lines whose loose ends reach on to the next line, where that is near enough. */
function extended(noded: Linework, tolerance: number, most: number, unit_m: number, faults: Fault[]): Linework {
  const more = most > 0 ? extendEnds(noded, most) : [];
  if (more.length === 0) return noded;
  for (const { from, to } of more)
    faults.push({ kind: 'line-extended', at: from, size: Math.hypot(to[0] - from[0], to[1] - from[1]) * unit_m, about: '' });
  const again = nodeLinework(withSegments(noded, more), tolerance);
  return { ...again, largestMove: noded.largestMove + again.largestMove };
}

function withSegments({ nodes, edges }: Linework, more: readonly { from: [number, number]; to: [number, number] }[]): Float64Array {
  const out = new Float64Array(2 * edges.length + 4 * more.length);
  edges.forEach((n, k) => out.set(nodes.subarray(2 * n, 2 * n + 2), 2 * k));
  more.forEach(({ from, to }, k) => out.set([...from, ...to], 2 * edges.length + 4 * k));
  return out;
}

const lineFault = (kind: Fault['kind'], { at, length }: LooseEnd, unit_m: number): Fault => ({
  kind,
  at,
  size: length * unit_m,
  about: '',
});

const areaOf = ({ shell, holes }: Face): number => [shell, ...holes].reduce((n, ring) => n + ringArea2(ring, 0, ring.length / 2, 2), 0) / 2;

const holds = ({ shell, holes }: Face, x: number, y: number): boolean =>
  ringHolds(shell, 0, shell.length / 2, x, y, 2) && !holes.some((h) => ringHolds(h, 0, h.length / 2, x, y, 2));

const distance = (ring: Float64Array, x: number, y: number): number => {
  let least = Infinity;
  for (let k = 0; k + 3 < ring.length; k += 2)
    least = Math.min(least, segmentDistance(ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!, x, y));
  return least;
};

/** The values that each area gets of the labels in it; what is wrong with labels is added to the faults. */
function tellLabels(faces: readonly Face[], labels: readonly Label[], tolerance: number, faults: Fault[]): Label[][] {
  const told: Label[][] = faces.map(() => []);
  if (labels.length === 0) return told;
  const boxes = boxesOf(faces);
  const say = (kind: Fault['kind'], { x, y }: { x: number; y: number }, about: string): void => {
    faults.push({ kind, at: [x, y], size: null, about });
  };
  for (const label of labels) {
    const { x, y } = label;
    const near = boxes.search(x - tolerance, y - tolerance, x + tolerance, y + tolerance);
    if (near.some((k) => [faces[k]!.shell, ...faces[k]!.holes].some((ring) => distance(ring, x, y) <= tolerance)))
      say('label-on-line', label, saidBy(label));
    const within = near.find((k) => holds(faces[k]!, x, y));
    if (within === undefined) say('label-outside', label, saidBy(label));
    else told[within]!.push(label);
  }
  faces.forEach((face, k) => {
    const first = { x: face.shell[0]!, y: face.shell[1]! };
    if (told[k]!.length === 0) say('no-label', first, '');
    if (clashes(told[k]!)) say('labels-differ', told[k]![0]!, told[k]!.map(saidBy).join(' and '));
  });
  return told;
}

/** What a label says first, for people. */
const saidBy = ({ values }: Label): string => String(values.text ?? Object.values(values)[0] ?? '');

const clashes = (labels: readonly Label[]): boolean =>
  labels.some((a, k) =>
    labels.slice(k + 1).some((b) => Object.keys(a.values).some((name) => name in b.values && a.values[name] !== b.values[name])),
  );

/** The areas as records, with the values of their labels: several of one field from the top down. */
const batchesOf = (layer: string, faces: readonly Face[], told: readonly (readonly Label[])[]): FeatureBatch[] => [
  ...inBatches(layer, faces, (builder, face, k) => {
    for (const ring of [face.shell, ...face.holes]) {
      for (let v = 0; v < ring.length; v += 2) builder.vertex(ring[v]!, ring[v + 1]!, NaN);
      builder.endPart();
    }
    const values = new Map<string, Value[]>();
    for (const label of [...told[k]!].sort((a, b) => b.y - a.y || a.x - b.x))
      for (const [name, value] of Object.entries(label.values)) {
        const own = values.get(name);
        if (!own) values.set(name, [value]);
        else if (!own.includes(value)) own.push(value);
      }
    for (const [name, own] of values) builder.set(name, own.length === 1 ? own[0]! : own.map(String).join('\n'));
    builder.endFeature(POLYGON, 'Polygon', k + 1);
  }),
];

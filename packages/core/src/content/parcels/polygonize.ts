import { segmentDistance } from '../../geometry/distance';
import { ringArea2 } from '../../geometry/ring-area';
import { ringHolds } from '../../geometry/ring-holds';
import { eachPart, type FeatureBatch, hasHeight, LINE, POINT, POLYGON, TEXT, vertexRange } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import { Doubles } from '../../model/doubles';
import type { Finding } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { Value } from '../../model/value';
import { boxesOf, type Face, facesOf, type LooseEnd } from './faces';
import { nodeLinework } from './node-linework';

/** How areas are made of lines. */
export interface PolygonizeOptions {
  /** Name of the layer that the areas are. */
  layer: string;
  /** Distance within which lines meet, in units of the coordinates. */
  tolerance: number;
  /** Metres in one unit of the coordinates, for what is told of lengths and areas. */
  unit_m: number;
}

/** What came of lines. Lengths are metres, areas square metres, in the plane of the coordinates. */
export interface Polygonized {
  areas: FeatureBatch[];
  figures: {
    lines: number;
    areas: number;
    holes: number;
    area_m2: number;
    smallest_m2: number;
    labels: number;
    largestMove_m: number;
    dangles: number;
    bridges: number;
  };
  /** Lines that bound no area, the longest first. */
  loose: { kind: 'dangle' | 'bridge'; at: [number, number]; length_m: number }[];
  findings: Finding[];
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
class Linework {
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
        if (hasHeight(batch, i)) this.without.heights++;
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
const leftBehind = ({ heights, place, geometry }: Linework['without']): Finding[] =>
  [
    { code: 'heights-left', count: heights, message: 'Lines have heights: the areas are flat.' },
    { code: 'no-place', count: place, message: 'Records lie nowhere in this system, at least in part: what does is left out.' },
    { code: 'no-geometry', count: geometry, message: 'Records have no geometry: they are left out.' },
  ].flatMap((f): Finding[] => (f.count > 0 ? [{ ...f, severity: 'caution' }] : []));

/** Areas that are written into one batch. */
const AT_ONCE = 2000;

/**
 * Makes areas of lines, and gives each the values of the texts and points that stand in it. Lines are noded first; areas of the source count as
 * their outlines.
 * @param batches without curves, in one plane
 * @throws Problem `no-lines` where there is none, `no-areas` where lines enclose nothing
 */
export async function polygonize(
  batches: AsyncIterable<FeatureBatch> | Iterable<FeatureBatch>,
  { layer, tolerance, unit_m }: PolygonizeOptions,
): Promise<Polygonized> {
  const work = new Linework(FARTHEST_M / unit_m);
  for await (const batch of batches) work.add(batch);
  if (work.lines === 0) throw new Problem('no-lines', 'There is no line to make areas of. Choose layers that have lines.');
  const noded = nodeLinework(work.all(), tolerance);
  const { faces, dangles, bridges } = facesOf(noded);
  if (faces.length === 0)
    throw new Problem(
      'no-areas',
      'These lines enclose nothing. Give a larger tolerance if their ends should meet, or choose other layers.',
    );
  const findings = leftBehind(work.without);
  const told = tellLabels(faces, work.labels, tolerance, findings);
  const loose = [
    ...dangles.map((d) => ({ kind: 'dangle' as const, ...lengthIn(d, unit_m) })),
    ...bridges.map((b) => ({ kind: 'bridge' as const, ...lengthIn(b, unit_m) })),
  ].sort((a, b) => b.length_m - a.length_m);
  if (loose.length > 0)
    findings.push({
      code: 'lines-loose',
      severity: 'caution',
      message:
        `Lines bound no area: ${dangles.length} with a loose end, ${bridges.length} between two parts. ` +
        `The longest has ${loose[0]!.length_m.toPrecision(4)} m, at ${atText(loose[0]!.at)}.`,
      count: loose.length,
      ...placeOf(loose[0]!.at),
    });
  const sizes = faces.map((f) => areaOf(f) * unit_m ** 2);
  return {
    areas: batchesOf(layer, faces, told),
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
    loose,
    findings,
  };
}

const lengthIn = ({ at, length }: LooseEnd, unit_m: number): { at: [number, number]; length_m: number } => ({
  at,
  length_m: length * unit_m,
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

/** The values that each area gets of the labels in it; what is wrong with labels is added to the findings. */
function tellLabels(faces: readonly Face[], labels: readonly Label[], tolerance: number, findings: Finding[]): Label[][] {
  const told: Label[][] = faces.map(() => []);
  if (labels.length === 0) return told;
  const boxes = boxesOf(faces);
  const outside: Label[] = [],
    onLine: Label[] = [];
  for (const label of labels) {
    const { x, y } = label;
    const near = boxes.search(x - tolerance, y - tolerance, x + tolerance, y + tolerance);
    if (near.some((k) => [faces[k]!.shell, ...faces[k]!.holes].some((ring) => distance(ring, x, y) <= tolerance))) onLine.push(label);
    const within = near.find((k) => holds(faces[k]!, x, y));
    if (within === undefined) outside.push(label);
    else told[within]!.push(label);
  }
  const say = (code: string, at: readonly { x: number; y: number }[], message: string): void => {
    if (at.length > 0)
      findings.push({
        code,
        severity: 'caution',
        message: `${message} The first is at ${atText([at[0]!.x, at[0]!.y])}.`,
        count: at.length,
        ...placeOf([at[0]!.x, at[0]!.y]),
      });
  };
  const first = (face: Face): { x: number; y: number } => ({ x: face.shell[0]!, y: face.shell[1]! });
  say('label-outside', outside, 'Labels stand in no area: their values go nowhere.');
  say('label-on-line', onLine, 'Labels stand on a line: which area they mean is not certain.');
  say(
    'no-label',
    faces.flatMap((f, k) => (told[k]!.length === 0 ? [first(f)] : [])),
    'Areas have no label.',
  );
  say(
    'labels-differ',
    faces.flatMap((f, k) => (clashes(told[k]!) ? [first(f)] : [])),
    'Areas have two labels that tell different things in one field: they get both, one below the other.',
  );
  return told;
}

const atText = (at: readonly [number, number]): string => at.map((v) => v.toFixed(3)).join(' ');

const placeOf = (at: readonly [number, number]): Pick<Finding, 'location'> => ({ location: atText(at) });

const clashes = (labels: readonly Label[]): boolean =>
  labels.some((a, k) =>
    labels.slice(k + 1).some((b) => Object.keys(a.values).some((name) => name in b.values && a.values[name] !== b.values[name])),
  );

/** The areas as records, with the values of their labels: several of one field from the top down. */
function batchesOf(layer: string, faces: readonly Face[], told: readonly (readonly Label[])[]): FeatureBatch[] {
  const out: FeatureBatch[] = [];
  let builder = new BatchBuilder(layer);
  faces.forEach((face, k) => {
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
    if (builder.count === AT_ONCE) {
      out.push(builder.take());
      builder = new BatchBuilder(layer);
    }
  });
  if (builder.count > 0) out.push(builder.take());
  return out;
}

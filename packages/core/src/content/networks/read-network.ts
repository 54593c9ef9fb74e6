import Flatbush from 'flatbush';
import { eachPart, type FeatureBatch, LINE, NO_GEOMETRY, partCount, POINT, POLYGON, TEXT, vertexRange } from '../../model/batch';
import { emptyBounds, growAlong } from '../../geometry/bounds';
import { segmentDistance } from '../../geometry/distance';
import type { Finding } from '../../model/finding';
import type { Value } from '../../model/value';
import type { Fault } from '../derived/fault';
import { NodeTable } from '../parcels/node-table';
import type { Network, Pipe, Structure } from './network';

/** How a network is made of records. */
export interface NetworkOptions {
  /** How far an end may lie from its structure, in units of the coordinates. */
  tolerance: number;
  /** Whether ends that meet without a structure get one. */
  makeMissing: boolean;
  /** How far a text may stand from the pipe whose diameter it says, in units of the coordinates. */
  textReach: number;
  /** The field of each property; "" for one of a usual name. */
  fields: Readonly<Record<NetworkField, string>>;
  unit_m: number;
}

/** Names that fields of a property usually have, in small letters; common practice, no source. */
const USUAL = {
  structureId: ['id', 'structure_id', 'manhole_id', 'mh_id', 'node_id', 'number', 'no', 'name', 'asset_id'],
  pipeId: ['id', 'pipe_id', 'asset_id', 'number', 'no', 'name'],
  from: ['from_id', 'from', 'us_id', 'us_node', 'start_id', 'from_node', 'upstream'],
  to: ['to_id', 'to', 'ds_id', 'ds_node', 'end_id', 'to_node', 'downstream'],
  rim: ['rim', 'rim_level', 'cover', 'cover_level', 'lid_level', 'lid', 'ground'],
  sump: ['sump', 'sump_level', 'invert', 'invert_level', 'il'],
  start: ['inv_start', 'invert_start', 'inv_in', 'us_invert', 'us_il', 'inv_us', 'start_inv', 'il_us'],
  end: ['inv_end', 'invert_end', 'inv_out', 'ds_invert', 'ds_il', 'inv_ds', 'end_inv', 'il_ds'],
  diameter: ['diameter', 'diam', 'dia', 'dn', 'size'],
  material: ['material', 'mat'],
  kind: ['kind', 'type', 'block'],
} as const satisfies Record<string, readonly string[]>;

/** A property of a structure or a pipe that a field may tell. */
export type NetworkField = keyof typeof USUAL;

/** All of them. */
export const NETWORK_FIELDS = Object.keys(USUAL) as NetworkField[];

/** A record that a structure or a pipe was made of. */
export interface RecordOf {
  batch: FeatureBatch;
  i: number;
}

/** A network as it was read. */
export interface NetworkRead extends Network {
  /** What each structure and each pipe was made of; null for a structure that was made where ends meet. */
  structureRecords: (RecordOf | null)[];
  pipeRecords: RecordOf[];
  faults: Fault[];
  findings: Finding[];
  /** The farthest that an end was moved, in units of the coordinates. */
  largestMove: number;
}

/** Reads structures and pipes, and ties the ends of pipes to the structures that they meet. @param pipes and structures without curves, in one plane @param texts that say diameters; null where nobody named any */
export async function readNetwork(
  pipes: AsyncIterable<FeatureBatch>,
  structures: AsyncIterable<FeatureBatch>,
  options: NetworkOptions,
  texts: AsyncIterable<FeatureBatch> | null = null,
): Promise<NetworkRead> {
  const read = new NetworkReader(options);
  for await (const batch of structures) read.addStructures(batch);
  for await (const batch of pipes) read.addPipes(batch);
  if (texts) for await (const batch of texts) read.addTexts(batch);
  return read.tied();
}

class NetworkReader {
  private readonly network: Network = { structures: [], pipes: [] };
  private readonly structureRecords: (RecordOf | null)[] = [];
  private readonly pipeRecords: RecordOf[] = [];
  /** What the records themselves say that a pipe leads from and to. */
  private readonly said: { from: string | null; to: string | null }[] = [];
  private readonly faults: Fault[] = [];
  private readonly texts: { x: number; y: number; diameter: number }[] = [];
  private hasTexts = false;
  private readonly left = { notPoints: 0, notLines: 0, nowhere: 0, several: 0 };

  constructor(private readonly options: NetworkOptions) {}

  private value(batch: FeatureBatch, i: number, field: NetworkField): Value {
    const named = this.options.fields[field];
    if (named !== '') return batch.columns.get(named)?.[i] ?? null;
    // of names alike the most usual one that says something
    for (const usual of USUAL[field])
      for (const [name, column] of batch.columns) if (name.toLowerCase() === usual && (column[i] ?? null) !== null) return column[i]!;
    return null;
  }

  private text(batch: FeatureBatch, i: number, field: NetworkField): string | null {
    const value = this.value(batch, i, field);
    return value === null || String(value).trim() === '' ? null : String(value).trim();
  }

  private number(batch: FeatureBatch, i: number, field: NetworkField): number | null {
    const text = this.text(batch, i, field);
    if (text === null) return null;
    // "DN 225", "IL 4.630", "300 mm": what a person writes beside a number
    const number = Number(/-?\d+(?:[.,]\d+)?/.exec(text)?.[0].replace(',', '.') ?? NaN);
    return Number.isFinite(number) ? number : null;
  }

  addStructures(batch: FeatureBatch): void {
    for (let i = 0; i < batch.count; i++) {
      const kind = batch.kinds[i]!;
      if (kind === NO_GEOMETRY) this.left.nowhere++;
      else if (kind !== POINT && kind !== TEXT && kind !== POLYGON) this.left.notPoints++;
      else {
        const [x, y, z] = middleOf(batch, i);
        if (!Number.isFinite(x) || !Number.isFinite(y)) {
          this.left.nowhere++;
          continue;
        }
        this.structureRecords.push({ batch, i });
        this.network.structures.push({
          id: this.text(batch, i, 'structureId') ?? `${batch.layer} ${batch.locations[i]!}`,
          x,
          y,
          kind: this.text(batch, i, 'kind'),
          rim: this.number(batch, i, 'rim') ?? heightOf(z),
          sump: this.number(batch, i, 'sump'),
        });
      }
    }
  }

  addPipes(batch: FeatureBatch): void {
    for (let i = 0; i < batch.count; i++) {
      const kind = batch.kinds[i]!;
      if (kind === NO_GEOMETRY) this.left.nowhere++;
      else if (kind !== LINE) this.left.notLines++;
      else if (partCount(batch, i) !== 1) this.left.several++;
      else this.addPipe(batch, i);
    }
  }

  private addPipe(batch: FeatureBatch, i: number): void {
    const { coords } = batch;
    const [first, after] = vertexRange(batch, i);
    const line = new Float64Array(2 * (after - first));
    for (let v = first; v < after; v++) line.set([coords[3 * v]!, coords[3 * v + 1]!], 2 * (v - first));
    if (line.length < 4 || !line.every(Number.isFinite)) {
      this.left.nowhere++;
      return;
    }
    const zOf = (v: number): number | null => heightOf(coords[3 * v + 2]!);
    this.pipeRecords.push({ batch, i });
    this.said.push({ from: this.text(batch, i, 'from'), to: this.text(batch, i, 'to') });
    this.network.pipes.push({
      id: this.text(batch, i, 'pipeId') ?? `${batch.layer} ${batch.locations[i]!}`,
      line,
      from: -1,
      to: -1,
      start: this.number(batch, i, 'start') ?? zOf(first),
      end: this.number(batch, i, 'end') ?? zOf(after - 1),
      diameter: this.number(batch, i, 'diameter'),
      material: this.text(batch, i, 'material'),
    });
  }

  /** Texts that say a diameter: a number, with DN or another mark before it. */
  addTexts(batch: FeatureBatch): void {
    this.hasTexts = true;
    for (let i = 0; i < batch.count; i++) {
      if (batch.kinds[i] !== TEXT) continue;
      const said = DIAMETER.exec(String(batch.columns.get('text')?.[i] ?? ''))?.[1];
      const [v] = vertexRange(batch, i);
      if (said !== undefined)
        this.texts.push({ x: batch.coords[3 * v]!, y: batch.coords[3 * v + 1]!, diameter: Number(said.replace(',', '.')) });
    }
  }

  /** Gives pipes without a diameter that of the text beside them, and tells of those that have none. */
  private takeDiameters(): void {
    const { pipes } = this.network;
    // a network of which nobody says diameters has none to miss
    if (!this.hasTexts && pipes.every((p) => p.diameter === null)) return;
    const { textReach } = this.options;
    const boxes = this.texts.length > 0 ? new Flatbush(this.texts.length) : null;
    for (const { x, y } of this.texts) boxes?.add(x, y, x, y);
    boxes?.finish();
    for (const pipe of pipes) {
      if (pipe.diameter !== null) continue;
      let least = textReach;
      const box = emptyBounds();
      growAlong(box, pipe.line);
      for (const n of boxes?.search(box[0] - textReach, box[1] - textReach, box[2] + textReach, box[3] + textReach) ?? []) {
        const { x, y, diameter } = this.texts[n]!;
        for (let k = 0; k + 3 < pipe.line.length; k += 2) {
          const apart = segmentDistance(pipe.line[k]!, pipe.line[k + 1]!, pipe.line[k + 2]!, pipe.line[k + 3]!, x, y);
          if (apart > least) continue;
          least = apart;
          pipe.diameter = diameter;
        }
      }
      if (pipe.diameter === null) this.faults.push({ kind: 'no-diameter', at: [pipe.line[0]!, pipe.line[1]!], size: null, about: pipe.id });
    }
  }

  /** Ties ends to structures, and what lies within the tolerance of one is moved there. */
  tied(): NetworkRead {
    const { structures, pipes } = this.network;
    const { tolerance, unit_m } = this.options;
    const nearest = nearestOf(structures);
    let largestMove = 0;
    const free = new NodeTable(Math.max(tolerance, Number.MIN_VALUE));
    const meeting: { pipe: number; end: 'from' | 'to'; at: [number, number]; apart: number }[][] = [];
    pipes.forEach((pipe, k) => {
      for (const end of ['from', 'to'] as const) {
        const v = end === 'from' ? 0 : pipe.line.length - 2;
        const at: [number, number] = [pipe.line[v]!, pipe.line[v + 1]!];
        const found = nearest(...at);
        if (found && found.apart <= tolerance) {
          const { x, y, id } = structures[found.n]!;
          pipe[end] = found.n;
          pipe.line.set([x, y], v);
          largestMove = Math.max(largestMove, found.apart);
          if (found.apart > 0) this.faults.push({ kind: 'end-moved', at, size: found.apart * unit_m, about: `${pipe.id} to ${id}` });
        } else (meeting[free.take(...at)] ??= []).push({ pipe: k, end, at, apart: found?.apart ?? Infinity });
      }
    });
    meeting.forEach((ends, node) => {
      const { at, apart, pipe } = ends[0]!;
      const about = ends.map((e) => pipes[e.pipe]!.id).join(', ');
      if (ends.length === 1)
        this.faults.push({ kind: 'end-open', at, size: Number.isFinite(apart) ? apart * unit_m : null, about: pipes[pipe]!.id });
      else this.faults.push({ kind: 'structure-missing', at, size: null, about });
      if (ends.length === 1 || !this.options.makeMissing) return;
      const n = structures.length;
      const [x, y] = [free.x(node), free.y(node)];
      structures.push({ id: `made ${n + 1}`, x, y, kind: 'made', rim: null, sump: null });
      this.structureRecords.push(null);
      for (const e of ends) {
        const { line } = pipes[e.pipe]!;
        pipes[e.pipe]![e.end] = n;
        largestMove = Math.max(largestMove, Math.hypot(e.at[0] - x, e.at[1] - y));
        line.set([x, y], e.end === 'from' ? 0 : line.length - 2);
      }
    });
    this.compareSaid();
    this.takeDiameters();
    return {
      ...this.network,
      structureRecords: this.structureRecords,
      pipeRecords: this.pipeRecords,
      faults: this.faults,
      findings: this.findings(),
      largestMove,
    };
  }

  /** What records say that they are tied to against what they meet. */
  private compareSaid(): void {
    const { structures, pipes } = this.network;
    pipes.forEach((pipe, k) => {
      for (const end of ['from', 'to'] as const) {
        const said = this.said[k]![end];
        const met = pipe[end] < 0 ? null : structures[pipe[end]]!.id;
        if (said === null || said === met) continue;
        const v = end === 'from' ? 0 : pipe.line.length - 2;
        this.faults.push({
          kind: 'reference-differs',
          at: [pipe.line[v]!, pipe.line[v + 1]!],
          size: null,
          about: `${pipe.id} says ${said}, and meets ${met ?? 'nothing'}`,
        });
      }
    });
  }

  private findings(): Finding[] {
    const { notPoints, notLines, nowhere, several } = this.left;
    return [
      { code: 'not-structures', count: notPoints, message: 'Records among the structures are lines: they are left out.' },
      { code: 'not-pipes', count: notLines, message: 'Records among the pipes are no lines: they are left out.' },
      {
        code: 'several-lines',
        count: several,
        message: 'Records among the pipes are several lines each: they are left out. Split them first.',
      },
      { code: 'no-place', count: nowhere, message: 'Records lie nowhere in this system: they are left out.' },
    ].flatMap((f): Finding[] => (f.count > 0 ? [{ ...f, severity: 'wrong' }] : []));
  }
}

/** A diameter as it is lettered beside a pipe: DN 225, Ø300, 150 mm, or the number alone; common practice, no source. */
const DIAMETER = /^\s*(?:DN|Ø|ø|dia\.?)?\s*(\d+(?:[.,]\d+)?)(?:\s*mm)?\b/i;

/** A height that was drawn; what is drawn flat lies at nought, which says nothing. Common practice, no source. */
const heightOf = (z: number): number | null => (Number.isNaN(z) || z === 0 ? null : z);

/** Where a structure stands: a point, or the middle of the corners of an outline. */
function middleOf(batch: FeatureBatch, i: number): [number, number, number] {
  const { coords } = batch;
  let [x, y, n] = [0, 0, 0];
  const [first] = vertexRange(batch, i);
  if (batch.kinds[i] !== POLYGON) return [coords[3 * first]!, coords[3 * first + 1]!, coords[3 * first + 2]!];
  eachPart(batch, i, (start, end) => {
    for (let v = start; v + 1 < end; v++, n++) {
      x += coords[3 * v]! - coords[3 * first]!;
      y += coords[3 * v + 1]! - coords[3 * first + 1]!;
    }
  });
  return [coords[3 * first]! + x / n, coords[3 * first + 1]! + y / n, coords[3 * first + 2]!];
}

/** Finds the structure that is nearest to a place. */
function nearestOf(structures: readonly Structure[]): (x: number, y: number) => { n: number; apart: number } | null {
  if (structures.length === 0) return () => null;
  const boxes = new Flatbush(structures.length);
  for (const { x, y } of structures) boxes.add(x, y, x, y);
  boxes.finish();
  return (x, y) => {
    const n = boxes.neighbors(x, y, 1)[0]!;
    return { n, apart: Math.hypot(structures[n]!.x - x, structures[n]!.y - y) };
  };
}

/** Whether two pipes are the same line, in either direction. */
export const sameLine = (a: Pipe, b: Pipe, within: number): boolean => {
  if (a.line.length !== b.line.length) return false;
  const apart = (turned: boolean): boolean => {
    for (let k = 0; k < a.line.length; k += 2) {
      const m = turned ? b.line.length - 2 - k : k;
      if (Math.hypot(a.line[k]! - b.line[m]!, a.line[k + 1]! - b.line[m + 1]!) > within) return true;
    }
    return false;
  };
  return !apart(false) || !apart(true);
};

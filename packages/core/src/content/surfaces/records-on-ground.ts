import { eachPart, type FeatureBatch, LINE, NO_GEOMETRY, POLYGON, vertexRange } from '../../model/batch';
import { BatchBuilder, copyRecord, copyValues } from '../../model/batch-builder';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { namedBy, recordName } from '../derived/record-name';
import { onGround } from './drape';
import { OF_SURFACES, SURFACE, surfaceOf } from './surface-role';
import { Ground } from './tin';

/** Records that get heights from a surface, or are told how they lie to it. */
export const DRAPE: Derivation = {
  id: 'drape',
  title: 'Records on the ground',
  says: 'Records dropped on a surface, or with heights above it; tells what floats, what lies buried, and what lies outside.',
  heights: true,
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

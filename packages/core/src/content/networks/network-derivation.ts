import type { FormatOption, OptionValues } from '../../formats/format-option';
import { LINE, POINT } from '../../model/batch';
import { type BatchBuilder, inBatches } from '../../model/batch-builder';
import { FreeNames } from '../../model/free-names';
import { Problem } from '../../model/problem';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import { loopsOf, partsOfNetwork, type Pipe, planLength, slopeOf, type Structure, waysOf } from './network';
import { networkFaults } from './network-faults';
import { NETWORK_FIELDS, type NetworkField, type NetworkRead, readNetwork, type RecordOf } from './read-network';

const FIELD_LABELS: Readonly<Record<NetworkField, string>> = {
  structureId: 'Structures are called by',
  pipeId: 'Pipes are called by',
  from: 'A pipe comes from',
  to: 'A pipe leads to',
  rim: 'Rim',
  sump: 'Sump',
  start: 'Invert at its start',
  end: 'Invert at its end',
  diameter: 'Diameter',
  material: 'Material',
  kind: 'Kind of structure',
};

/** Settings of all that read a network: the fields that say what. */
export const FIELD_SETTINGS: readonly FormatOption[] = NETWORK_FIELDS.map((id) => ({
  id,
  label: FIELD_LABELS[id],
  kind: 'text',
  asks: 'field',
  hint: 'a field of a usual name',
}));

/** The field of each property of a network, as settings have it; "" for one of a usual name. */
export const fieldsOf = (settings: OptionValues): Record<NetworkField, string> =>
  Object.fromEntries(NETWORK_FIELDS.map((f) => [f, String(settings[f] ?? '')])) as Record<NetworkField, string>;

/** A network of pipes and structures that hold together by their ids. */
export const NETWORK: Derivation = {
  id: 'network',
  title: 'Network',
  says: 'Pipes tied to the structures that they end at, with ids, lengths, inverts and slopes; tells where the network does not hold together.',
  heights: true,
  roles: [
    { id: 'pipes', title: 'Pipes', kinds: ['line'] },
    { id: 'structures', title: 'Structures', kinds: ['point'] },
    // which texts say diameters nobody can guess
    { id: 'texts', title: 'Diameters from texts', kinds: [], optional: true },
  ],
  settings: [
    { id: 'tolerance', label: 'Ends meet within', kind: 'length', initial_m: 0.05, orNone: true },
    {
      id: 'missing',
      label: 'Structures missing',
      kind: 'choice',
      choices: [
        { value: 'tell', label: 'are told' },
        { value: 'make', label: 'are made' },
      ],
    },
    { id: 'reach', label: 'Text no farther than', kind: 'length', initial_m: 3 },
    ...FIELD_SETTINGS,
  ],
  run: network,
};

async function network({ records, has, settings, name, unit_m }: DerivationInput): Promise<Derived> {
  const tolerance = lengthOf(settings, 'tolerance', unit_m);
  const fields = fieldsOf(settings);
  const read = await readNetwork(
    records('pipes'),
    records('structures'),
    { tolerance, makeMissing: settings.missing === 'make', textReach: lengthOf(settings, 'reach', unit_m), fields, unit_m },
    has('texts') ? records('texts') : null,
  );
  if (read.pipes.length === 0) throw new Problem('no-pipes', 'There is no line to make a pipe of. Choose layers that have lines.');
  const faults = [...read.faults, ...networkFaults(read, tolerance, unit_m)].sort((a, b) => (b.size ?? 0) - (a.size ?? 0));
  const { out } = waysOf(read);
  const parts = partsOfNetwork(read);
  const structureNames = new UniqueNames(read.structures.map((s) => s.id)),
    pipeNames = new UniqueNames(read.pipes.map((p) => p.id));
  const batches = [
    ...inBatches(`${name}-structures`, read.structures, (builder, _, k) => structureRecord(builder, read, k, structureNames, parts.of)),
    ...inBatches(`${name}-pipes`, read.pipes, (builder, _, k) => pipeRecord(builder, read, k, pipeNames, structureNames, unit_m)),
  ];
  return {
    records: () => batches,
    figures: {
      structures: read.structures.length,
      pipes: read.pipes.length,
      length_m: read.pipes.reduce((n, p) => n + planLength(p), 0) * unit_m,
      parts: parts.count,
      waysOut: read.structures.filter((_, n) => out[n]!.length === 0).length,
      loops: loopsOf(read).length,
      tied: read.pipes.reduce((n, p) => n + (p.from >= 0 ? 1 : 0) + (p.to >= 0 ? 1 : 0), 0),
      largestMove_m: read.largestMove * unit_m,
    },
    faults,
    findings: [...read.findings, ...structureNames.findings('Structures'), ...pipeNames.findings('Pipes')],
  };
}

/** Names of which each is there once: a reference leads to one record only. */
class UniqueNames {
  readonly names: string[];
  private readonly changed: string[] = [];

  constructor(ids: readonly string[]) {
    const free = new FreeNames(ids, (id, n) => `${id} (${n})`);
    const used = new Set<string>();
    this.names = ids.map((id) => {
      const own = used.has(id) ? free.take(id) : id;
      used.add(own);
      if (own !== id) this.changed.push(id);
      return own;
    });
  }

  findings(what: string): Derived['findings'] {
    return this.changed.length === 0
      ? []
      : [
          {
            code: 'ids-twice',
            severity: 'wrong',
            message: `${what} share an id, the first ${this.changed[0]}: all but the first of each got a number behind it.`,
            count: this.changed.length,
          },
        ];
  }
}

/** What is worked out is kept to the micrometre: digits beyond are those of the way in which numbers are added. */
const rounded = (value: number): number => Number(value.toFixed(6));

/** Sets what the network says of a record, and beside it what the record says itself. */
function setAll(builder: BatchBuilder, record: RecordOf | null, own: Readonly<Record<string, string | number | null>>): void {
  for (const [field, value] of Object.entries(own)) builder.set(field, value);
  const names = new Set(Object.keys(own).map((n) => n.toLowerCase()));
  if (record)
    for (const [field, column] of record.batch.columns)
      builder.set(names.has(field.toLowerCase()) ? `source_${field}` : field, column[record.i] ?? null);
}

function structureRecord(builder: BatchBuilder, read: NetworkRead, k: number, names: UniqueNames, parts: Int32Array): void {
  const { x, y, kind, rim, sump }: Structure = read.structures[k]!;
  builder.vertex(x, y, rim ?? NaN);
  builder.endPart();
  setAll(builder, read.structureRecords[k]!, {
    id: names.names[k]!,
    kind,
    rim,
    sump,
    depth: rim !== null && sump !== null ? rounded(rim - sump) : null,
    part: parts[k]! + 1,
  });
  builder.endFeature(POINT, 'Structure', k + 1);
}

function pipeRecord(
  builder: BatchBuilder,
  read: NetworkRead,
  k: number,
  names: UniqueNames,
  structures: UniqueNames,
  unit_m: number,
): void {
  const pipe: Pipe = read.pipes[k]!;
  const { line, start, end, diameter, material } = pipe;
  const length = planLength(pipe);
  const slope = slopeOf(pipe);
  // heights along a pipe are those of its inverts, straight from one to the other
  let along = 0;
  for (let v = 0; v < line.length; v += 2) {
    if (v > 0) along += Math.hypot(line[v]! - line[v - 2]!, line[v + 1]! - line[v - 1]!);
    builder.vertex(line[v]!, line[v + 1]!, start === null || end === null || length === 0 ? NaN : start + ((end - start) * along) / length);
  }
  builder.endPart();
  setAll(builder, read.pipeRecords[k]!, {
    id: names.names[k]!,
    from_id: pipe.from < 0 ? null : structures.names[pipe.from]!,
    to_id: pipe.to < 0 ? null : structures.names[pipe.to]!,
    inv_start: start,
    inv_end: end,
    length_m: rounded(length * unit_m),
    len3d_m: start === null || end === null ? null : rounded(Math.hypot(length, end - start) * unit_m),
    slope_pct: slope === null ? null : rounded(slope),
    diameter,
    material,
  });
  builder.endFeature(LINE, 'Pipe', k + 1);
}

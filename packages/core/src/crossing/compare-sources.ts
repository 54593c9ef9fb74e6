import { joinFields, hasGeometry, type LayerProfile } from '../content/features/profile';
import { inPieces, placeBatch, resizeBatch, sourceTransform, transformBatch, unitOf } from '../content/features/transform-batch';
import { compareRevisions, type RecordDifference, type Revision, type RevisionReport } from '../content/revisions/compare-revisions';
import type { Crs } from '../crs/crs';
import { sameSystem } from '../crs/registry/identify';
import type { Database } from '../io/database';
import type { FeatureBatch } from '../model/batch';
import type { Finding } from '../model/finding';
import { Problem } from '../model/problem';
import type { ReadBatches } from '../operations/operation';
import { compilePlacement } from '../placement/placement-transform';
import type { PlacedIn } from '../placement/route';
import type { SymbolLibrary } from '../symbology/library';
import { inOtherUnit } from '../symbology/sizes';
import type { SourceSummary } from './crossing-source';

/** One of two sources that are revisions of the same data. */
export interface ComparedSource extends Pick<SourceSummary, 'name' | 'layers' | 'unit' | 'findings' | 'extent'> {
  library: SymbolLibrary | null;
  /** Where it lies; null where nothing says so. */
  placed: PlacedIn | null;
  records: ReadBatches;
}

/** What a comparison of two sources says. */
export interface SourceComparison extends RevisionReport {
  /** Where its differences lie, their numbers being those of the older source or of its system; null where nothing says so of either. */
  placed: PlacedIn | null;
  /** Metres in one unit of these numbers. */
  unit_m: number;
  /** Fields of the records of both. */
  recordFields: string[];
}

/** How two sources are compared. */
export interface CompareOptions {
  /** The field by which records are one; by where they lie when absent. */
  key?: string | undefined;
  /** Distance up to which a record has not moved, metres. */
  tolerance_m: number;
}

/** Metres within which a record has not moved, where nobody says another length. */
export const USUAL_TOLERANCE_M = 0.001;

/** Metres by which chords may stand off, where curves have to be carried into the system of the older source. */
const CHORD_M = 0.0005;

/** The names of the fields of a layer. */
const fieldsOf = (layer: LayerProfile): string[] => joinFields(layer.groups).map((f) => f.name);

/** The names of the fields of some layers, each once. */
export const fieldsOfAll = (layers: readonly LayerProfile[]): string[] => [...new Set(layers.flatMap(fieldsOf))];

/**
 * Compares two sources record by record, in the numbers of the older one: those of the newer are brought into its unit, or both into
 * the system of the older one where more than the unit differs.
 * @param db an empty database, which holds the differences afterwards for `differenceRecords`
 * @throws Problem `key-unknown` when one of them does not have the key
 */
export async function compareSources(
  db: Database,
  before: ComparedSource,
  after: ComparedSource,
  { key, tolerance_m }: CompareOptions,
  different: (difference: RecordDifference) => void,
): Promise<SourceComparison> {
  if (key !== undefined)
    for (const { name, layers } of [before, after])
      if (!layers.some((l) => fieldsOf(l).includes(key))) {
        const all = fieldsOfAll(layers);
        throw new Problem('key-unknown', `${name} has no field ${key}. It has ${all.join(', ') || 'no fields'}.`, { file: name });
      }
  const [own, other] = [whereOf(before), whereOf(after)];
  const [a, b] = [own ?? lent(other, before), other ?? lent(own, after)];
  const inOldNumbers = !a || !b || (sameSystem(a.crs, b.crs) && ((onlyUnit(a) && onlyUnit(b)) || sameNumbers(a, b)));
  const placed = inOldNumbers ? a : { crs: a.crs, parameters: { unit_m: null }, extent: null };
  const unit_m = unitOfNumbers(placed, before);
  const report = await compareRevisions(
    db,
    revisionOf(before, () => (inOldNumbers ? before.records() : carried(before, a, a.crs))),
    revisionOf(after, () => (inOldNumbers ? inOtherUnits(after, unitOfNumbers(b, after) / unit_m) : carried(after, b, a.crs))),
    { ...(key === undefined ? {} : { key }), tolerance: tolerance_m / unit_m },
    different,
  );
  return {
    ...report,
    findings: [...findingsOf(before, after, own, other), ...report.findings],
    placed,
    unit_m,
    recordFields: fieldsOfAll([...before.layers, ...after.layers]),
  };
}

function findingsOf(before: ComparedSource, after: ComparedSource, a: PlacedIn | null, b: PlacedIn | null): Finding[] {
  const findings: Finding[] = [before, after].flatMap((s) =>
    s.findings.map((f) => (f.left ? { ...f, code: 'not-compared', message: `${s.name}: ${f.message} It is not compared.` } : f)),
  );
  if ((a === null) !== (b === null))
    findings.push({
      code: 'crs-stated-once',
      severity: 'caution',
      message:
        `Of ${(a ? before : after).name} alone is it known which system it is in: the numbers of the other are taken for the same. ` +
        `Place it, or say with --from which system both are in.`,
      count: 1,
    });
  const drawn = Math.max(...[before, after].map(({ library }) => (library ? library.blocks.size + library.styles.size : 0)));
  if (drawn > 0)
    findings.push({
      code: 'library-not-compared',
      severity: 'caution',
      message: 'Only records are compared: what blocks draw, and the styles of layers, may be others.',
      count: drawn,
    });
  return findings;
}

const revisionOf = (source: ComparedSource, read: Revision['read']): Revision => ({
  layers: source.layers.map((l) => ({ name: l.name, fields: fieldsOf(l) })),
  read,
});

const whereOf = ({ layers, placed }: ComparedSource): PlacedIn | null => (hasGeometry(layers) ? placed : null);

/** Whether numbers become positions by their unit alone. */
const onlyUnit = ({ parameters: { fit, axesSwapped, signReversed, offset } }: PlacedIn): boolean =>
  !fit && !axesSwapped && !signReversed && !offset;

const sameNumbers = (a: PlacedIn, b: PlacedIn): boolean => JSON.stringify(a.parameters) === JSON.stringify(b.parameters);

/** Where a source lies whose own place nobody tells: its numbers are taken for those of the other. */
const lent = (other: PlacedIn | null, { unit }: ComparedSource): PlacedIn | null =>
  other && (onlyUnit(other) ? { crs: other.crs, parameters: { unit_m: unit?.metres ?? null }, extent: null } : other);

/** Metres in one unit of the numbers of a source; those without a system and a unit are taken for metres. */
const unitOfNumbers = (placed: PlacedIn | null, { unit }: ComparedSource): number =>
  placed ? unitOf(placed, compilePlacement(placed.crs, placed.parameters)) : (unit?.metres ?? 1);

/** Records whose numbers are in another unit than those of the older source: a drawing that went from millimetres to metres has not moved. */
async function* inOtherUnits(source: ComparedSource, ratio: number): AsyncGenerator<FeatureBatch> {
  for await (const batch of source.records()) yield Math.abs(ratio - 1) < 1e-9 ? batch : inOtherUnit(batch, ratio);
}

/** Records in another system, curves in chords. */
async function* carried(source: ComparedSource, from: PlacedIn, to: Crs): AsyncGenerator<FeatureBatch> {
  const way = sourceTransform(source.name, { ...from, extent: source.extent }, to);
  for await (const batch of inPieces(toAsync(source.records()), way, CHORD_M))
    yield transformBatch(resizeBatch(placeBatch(batch, way, CHORD_M), way), way.transform).batch;
}

async function* toAsync(batches: ReturnType<ReadBatches>): AsyncGenerator<FeatureBatch> {
  yield* batches;
}

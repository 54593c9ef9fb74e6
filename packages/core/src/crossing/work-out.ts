import type { Derived } from '../content/derived/derivation';
import { derivationById } from '../content/derived/derivations';
import { localPlane, METRE } from '../crs/local-plane';
import { differenceRecords, differenceSummary } from '../content/revisions/difference-records';
import type { Database } from '../io/database';
import type { FeatureBatch } from '../model/batch';
import { NO_GEOMETRY } from '../model/batch';
import { BatchBuilder } from '../model/batch-builder';
import { Problem } from '../model/problem';
import { crsOf, type PlacedIn } from '../placement/route';
import { type ComparedSource, compareSources } from './compare-sources';
import { deriveRecords } from './derive-records';
import type { WorkedOut } from './worked-out';

/** What came of a rule by which records are worked out. */
export interface WorkedOutRecords extends Derived {
  /** Where their numbers lie; null where nothing says so. */
  placed: PlacedIn | null;
}

/**
 * Works out the records of a source by its rule.
 * @param sources those that the rule names, placed as the recipe places them; of a comparison, the older one first
 * @param db an empty database, which is to stay open while the records are read
 * @param passed gets how many records were read at a time
 * @throws Problem `operation-unknown`; those of the operation, and of a comparison
 */
export async function workOut(
  rule: WorkedOut,
  sources: readonly ComparedSource[],
  db: Database,
  passed: (records: number) => void,
): Promise<WorkedOutRecords> {
  if (rule.by === 'comparison') {
    const [before, after] = sources.map((s) => counted(s, passed)) as [ComparedSource, ComparedSource];
    const { recordFields, placed, unit_m, findings } = await compareSources(
      db,
      before,
      after,
      { ...(rule.key === null ? {} : { key: rule.key }), tolerance_m: rule.tolerance_m },
      () => {},
    );
    const records = function* (): Generator<FeatureBatch> {
      yield* differenceRecords(db, recordFields, unit_m);
      yield* differenceSummary(db);
    };
    // of these the differences know nothing: what stayed behind when the two were read is no record of theirs
    return { records, placed, figures: {}, faults: [], findings: findings.map(({ left: _left, ...f }) => f) };
  }
  const derivation = derivationById(rule.operation);
  if (!derivation) throw new Problem('operation-unknown', `There is no operation "${rule.operation}".`);
  const crs = crsOf(rule.crs);
  if (!crs) throw new Problem('crs-unknown', `${rule.crs.slice(0, 40)} is not in the registry: nothing can be worked out in it.`);
  const placed: PlacedIn = { crs, parameters: { unit_m: null }, extent: null };
  const from = sources.map((s) => ({ ...s, placed: s.placed ?? placed }));
  const derived = await deriveRecords(derivation, from, { ...rule, crs }, passed);
  const where = derivation.ownPlane ? { ...placed, crs: localPlane(METRE) } : placed;
  return { ...derived, placed: where, records: () => orSummary(derived.records(), rule.name, derived.figures) };
}

function counted(source: ComparedSource, passed: (records: number) => void): ComparedSource {
  return {
    ...source,
    async *records() {
      for await (const batch of source.records()) {
        passed(batch.count);
        yield batch;
      }
    },
  };
}

/** The records, or where there is none a table of the figures: that nothing is at fault is a result as well. */
function* orSummary(records: Iterable<FeatureBatch>, name: string, figures: Readonly<Record<string, number>>): Generator<FeatureBatch> {
  let some = false;
  for (const batch of records) {
    if (batch.count > 0) some = true;
    yield batch;
  }
  if (some) return;
  const builder = new BatchBuilder(name);
  for (const [n, [figure, value]] of Object.entries(figures).entries()) {
    builder.set('figure', figure);
    builder.set('value', value);
    builder.endFeature(NO_GEOMETRY, 'Figure', n + 1);
  }
  yield builder.take();
}

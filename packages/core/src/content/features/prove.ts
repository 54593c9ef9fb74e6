import { isPlane } from '../../crs/crs';
import type { FeatureFormat } from '../../formats/format';
import { cutAtAntimeridian } from '../../geometry/cut-meridian';
import type { FolderSource, Watch } from '../../io/bytes';
import { type FeatureBatch, KINDS, vertexRange } from '../../model/batch';
import { type Finding, Findings } from '../../model/finding';
import type { SymbolLibrary } from '../../symbology/library';
import { NO_SYMBOLOGY } from '../../symbology/carried';
import { messageOf } from '../../model/problem';
import type { Transform } from '../../crs/transform';
import { formatOptions } from '../../formats/options';
import {
  columnsAsWritten,
  computeColumns,
  inPieces,
  measuresInColumn,
  placeBatch,
  resizeBatch,
  routeBatch,
  transformBatch,
} from './transform-batch';
import type { Plan, PlannedSet } from './plan';
import { type Feed, statedIn, type WriteTarget } from './write';
import { lengthUnit } from '../../symbology/sizes';
import { SymbologyProof } from './prove-symbology';
import { toleranceFor } from '../tolerance';
import { Account } from '../account';
import type { Reason } from '../../model/reason';
import { selectRecords } from '../../model/select-records';
import type { Announced, Proof } from './proof';
import { Cursor } from './read-back-cursor';
import { Comparison } from './comparison';

/** A source as the proof reads it again by itself. */
export interface ProofFeed extends Omit<Feed, 'read'> {
  /** The layers that the plan knows of it. */
  layers: readonly string[];
  /** Its records as the operations make them, with their items numbered; what an operation leaves behind is in `account`. */
  read(watch: Watch, account: Account): AsyncIterable<FeatureBatch>;
  /** What its reader has found, complete once it was read. */
  findings(): readonly Finding[];
}

/**
 * Reads a deliverable's files back with the ordinary reader, carries them back into each source's own CRS and compares
 * them record by record, in the order in which they were written, with the sources read once more. Keeps the account of all that
 * the sources hold.
 *
 * @param lost of each feed, the records that the run could not carry, by their number in the feed
 * @param announced tells what a person was told beforehand; what stays behind for any other reason is a difference
 * @param onReadBack gets every batch as it was read, and at the end what the records of a file are drawn with, for showing them
 */
export async function proveDeliverable(
  format: FeatureFormat,
  plan: Plan,
  feeds: readonly ProofFeed[],
  lost: readonly ReadonlySet<number>[],
  announced: Announced,
  target: WriteTarget,
  folder: FolderSource,
  watch: Watch,
  total: number,
  onReadBack: { batch(set: PlannedSet, batch: FeatureBatch): void; library(library: SymbolLibrary): void } = { batch() {}, library() {} },
): Promise<Proof> {
  const readFindings = new Findings();
  const account = new Account();
  const options = formatOptions(format, target.options);
  const comparison = new Comparison(
    plan,
    toleranceFor(format.features.write!.rounding_m?.(options) ?? 0),
    format.features.write!.lift_m?.(options) ?? 0,
  );
  // one cursor a file: several sets may lie in it, in the order in which their records were written
  const cursors: Cursor[] = [];
  const files = await format.features.write!.readBack(folder, plan.sets, { stem: target.stem, options });
  const carried = format.features.write!.symbology?.(options) ?? NO_SYMBOLOGY;
  const targetUnit_m = lengthUnit(target.crs);
  for (const { open, sets } of files) {
    for (const s of sets) comparison.sets[s]!.looks = new SymbologyProof(carried, () => open.library?.() ?? null, targetUnit_m);
    const cursor = new Cursor(open, readFindings, watch, (batch) => {
      comparison.fieldsSeen(sets, batch);
      onReadBack.batch(plan.sets[sets[0]!]!, batch);
    });
    for (const s of sets) cursors[s] = cursor;
  }
  const cuts = format.features.write!.cutsAtAntimeridian?.(options) === true;
  const computed = plan.sets.some((s) => s.fields.some((f) => f.computed));
  let done = 0;
  try {
    for (const [f, feed] of feeds.entries()) {
      let first = 0,
        lastItem = -1,
        lastSet = -1;
      const inverse = feed.transform.transform.inverse();
      comparison.locate = feed.locate ?? ((x, y) => [x, y]);
      const metres = isPlane(feed.transform.crs) ? feed.transform.crs.unit.metres : null;
      for await (const batch of inPieces(feed.read(watch, account), feed.transform, target.chord_m)) {
        watch.check();
        const whole = measuresInColumn(resizeBatch(placeBatch(batch, feed.transform, target.chord_m), feed.transform), plan);
        const placed = cuts ? cutAsWritten(whole, feed.transform.transform, inverse) : whole;
        // before it is cut: a part may have a position where the whole has none
        const nowhere = confirmedLost(whole, feed.transform.transform, lost[f]!, first);
        // only what is worked out from the geometry needs it in the target system again
        const full = columnsAsWritten(
          computed ? computeColumns(transformBatch(placed, feed.transform.transform).batch, plan, target.crs) : placed,
          plan,
        );
        const { source } = feed.transform;
        const own = account.layer(source, batch.layer);
        const leave = (i: number, reason: Reason | null): void => {
          if (reason) own.left(placed.items![i]!, reason, placed.locations[i]!);
        };
        for (const { set, rows, n } of routeBatch(full, source, plan, nowhere, leave)) {
          comparison.sets[set]!.proof.in += n;
          for (let k = 0; k < n; k++) {
            const cursor = cursors[set]!;
            // waits only when the next record is not at hand
            if (!cursor.ready(inverse) && !(await cursor.load(inverse))) break;
            const i = rows[k]!;
            comparison.record(set, placed, full, i, cursor, metres);
            comparison.drawn(set, full, i, cursor, feed);
            cursor.row++;
            cursor.taken++;
            comparison.sets[set]!.proof.out++;
            const item = placed.items![i]!;
            own.crossed(item);
            if (format.features.carries.kinds[KINDS[batch.kinds[i]!]!] !== KINDS[batch.kinds[i]!]) own.changed(item, 'kind-changed');
            if (item === lastItem && set === lastSet) own.changed(item, 'split');
            if (!format.features.carries.curves && batch.bulges && isCurved(batch, i)) own.changed(item, 'curves-as-chords');
            lastItem = item;
            lastSet = set;
          }
        }
        first += batch.count;
        done += batch.count;
        watch.progress(done, total);
      }
      for (const finding of feed.findings())
        if (finding.left)
          account.layer(feed.transform.source, finding.location ?? '').notRead(finding.code, finding.count, finding.message);
    }
    // what is left over in a file belongs to none of its records
    for (const { sets } of files) comparison.sets[sets[0]!]!.proof.out += await cursors[sets[0]!]!.rest();
    // what a file states of itself is known once it was read
    for (const { open } of files) {
      const library = open.library?.();
      if (library) onReadBack.library(library);
    }
    for (const { open, sets } of files) comparison.checkFile(sets, open.facts(), statedIn(format, target.crs));
    comparison.checkShown(
      files.flatMap(({ open }) => open.facts().pictures ?? []),
      target.shown ?? [],
    );
    for (const { open, sets } of files)
      for (const s of sets) comparison.checkLooks(plan.sets[s]!, comparison.sets[s]!, carried, open.library?.() ?? null);
  } catch (error) {
    if (error instanceof Error && error.name === 'Cancelled') throw error;
    comparison.differ({ code: 'unreadable', set: '', count: 1, expected: false, samples: [], message: messageOf(error) });
    comparison.failed = true;
  } finally {
    for (const cursor of cursors) await cursor.close();
    for (const { close } of files) close?.();
  }
  const ways = feeds.map(({ transform: { source, accuracy_m, steps } }) => ({
    source,
    accuracy_m,
    steps: steps.map((s) => ({ id: s.id, name: s.name, accuracy_m: s.accuracy_m })),
  }));
  const rows = account.rows();
  if (!comparison.failed) comparison.checkAccount(rows, announced);
  return { ...comparison.result(readFindings.list()), account: rows, ways };
}

function isCurved(batch: FeatureBatch, i: number): boolean {
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) if (batch.bulges![v] !== 0) return true;
  return false;
}

/** A placed batch with what goes over the antimeridian in the parts that it is written in. */
function cutAsWritten(placed: FeatureBatch, transform: Transform, inverse: Transform): FeatureBatch {
  const { batch, lost } = transformBatch(placed, transform);
  const cut = cutAtAntimeridian(batch, lost);
  if (cut === batch) return placed;
  const coords = Float64Array.from(cut.coords);
  inverse.apply(coords, 0, coords.length / 3, 3);
  return { ...cut, coords };
}

/**
 * The records of a batch that the run left because they have no image in the target, numbered within the batch: those of them only
 * that have indeed none.
 * @param first number of the batch's first record in its feed
 */
function confirmedLost(placed: FeatureBatch, transform: Transform, lost: ReadonlySet<number>, first: number): ReadonlySet<number> {
  const here: number[] = [];
  if (lost.size > 0) for (let i = 0; i < placed.count; i++) if (lost.has(first + i)) here.push(i);
  if (here.length === 0) return NOBODY;
  const nowhere = transformBatch(selectRecords(placed, Uint32Array.from(here)), transform).lost;
  return new Set(here.filter((_, k) => nowhere.has(k)));
}

const NOBODY: ReadonlySet<number> = new Set();

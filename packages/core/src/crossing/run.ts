import type { Crs } from '../crs/crs';
import type { Format } from '../formats/format';
import type { FolderSink, Watch } from '../io/bytes';
import type { FeatureBatch } from '../model/batch';
import { Findings } from '../model/finding';
import { type Carrier, computeColumns, placeBatch, routeBatch, transformBatch } from './cross';
import type { Plan } from './plan';

/** The records of one source, as often as they are asked for, always in the same order. */
export interface Feed {
  carrier: Carrier;
  /** Carries a place in the source's CRS to where it is shown; absent where nothing is shown. */
  locate?(x: number, y: number): [number, number];
  read(watch: Watch): AsyncIterable<FeatureBatch>;
}

export interface RunResult {
  written: number[];
  /** Of each feed, the records without an image in the target, by their number in the feed. */
  lost: ReadonlySet<number>[];
  findings: Findings;
}

/** Writes a deliverable's sets into `folder`. `total` is the number of records to expect, for the progress. */
export async function runDeliverable(
  format: Format, plan: Plan, feeds: readonly Feed[], target: Crs, chord_m: number, folder: FolderSink, watch: Watch, total: number,
): Promise<RunResult> {
  if (!format.write) throw new Error(`${format.name} is only read.`);
  const findings = new Findings();
  for (const finding of format.write.crsFindings(target)) findings.add(finding);
  const writers = [];
  for (const set of plan.sets) writers.push(await format.write.create(folder, set, target));
  const written = plan.sets.map(() => 0);
  const lostOf: Set<number>[] = [];
  let done = 0;
  for (const feed of feeds) {
    const lostHere = new Set<number>();
    lostOf.push(lostHere);
    let first = 0;
    for await (const batch of feed.read(watch)) {
      watch.check();
      const placed = placeBatch(batch, feed.carrier, chord_m);
      const { batch: moved, lost } = transformBatch(placed, feed.carrier.transform);
      const full = computeColumns(moved, plan);
      for (const { set, rows, n } of routeBatch(full, feed.carrier.source, plan, lost, findings)) {
        await writers[set]!.append(full, rows, n);
        written[set]! += n;
      }
      for (const i of lost) lostHere.add(first + i);
      first += batch.count;
      done += batch.count;
      watch.progress(done, total);
    }
  }
  for (const writer of writers) await writer.close();
  return { written, lost: lostOf, findings };
}

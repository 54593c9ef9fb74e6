import { type Crs, positionsOf } from '../../crs/crs';
import type { FeatureFormat, ShownPicture } from '../../formats/format';
import { cutAtAntimeridian } from '../../geometry/cut-meridian';
import { formatOptions } from '../../formats/options';
import type { OptionValues } from '../../formats/format-option';
import type { ByteSource, FolderSink, Watch } from '../../io/bytes';
import { closingAfterFailure } from '../../io/open-files';
import type { FeatureBatch } from '../../model/batch';
import { Findings } from '../../model/finding';
import { scaledLibrary, type SymbolLibrary } from '../../symbology/library';
import {
  type SourceTransform,
  columnsAsWritten,
  computeColumns,
  inPieces,
  measuresInColumn,
  placeBatch,
  resizeBatch,
  routeBatch,
  transformBatch,
} from './transform-batch';
import type { Plan } from './plan';

/** The records of one source, as often as they are asked for, always in the same order. */
export interface Feed {
  transform: SourceTransform;
  /** Carries a place in the source's CRS to where it is shown; absent where nothing is shown. */
  locate?(x: number, y: number): [number, number];
  /** What its records are drawn with, in its own unit. */
  library?: SymbolLibrary | null;
  read(watch: Watch): AsyncIterable<FeatureBatch>;
}

/** What a run of records has written: how many went into each set. */
export interface WriteResult {
  written: number[];
  /** Of each feed, the records without an image in the target, by their number in the feed. */
  lost: ReadonlySet<number>[];
  findings: Findings;
}

/** Where and as what a deliverable is written. */
export interface WriteTarget {
  crs: Crs;
  stem: string;
  options: OptionValues;
  chord_m: number;
  /** A file of the format that the sets are added to. */
  base?: ByteSource | undefined;
  /** Pictures below the records. */
  shown?: readonly ShownPicture[] | undefined;
}

/** The system as a file of the format states it: without that of heights where it cannot. */
export const statedIn = ({ features: { carries } }: FeatureFormat, crs: Crs): Crs => (carries.verticalSystem ? crs : positionsOf(crs));

/**
 * Writes a deliverable's sets into `folder`. When that fails no file is left open.
 * @param total the number of records to expect, for the progress
 */
export async function writeDeliverable(
  format: FeatureFormat,
  plan: Plan,
  feeds: readonly Feed[],
  target: WriteTarget,
  folder: FolderSink,
  watch: Watch,
  total: number,
): Promise<WriteResult> {
  const files = closingAfterFailure(folder);
  try {
    return await writeSets(format, plan, feeds, target, files, watch, total);
  } catch (e) {
    await files.closeAll();
    throw e;
  }
}

async function writeSets(
  format: FeatureFormat,
  plan: Plan,
  feeds: readonly Feed[],
  target: WriteTarget,
  folder: FolderSink,
  watch: Watch,
  total: number,
): Promise<WriteResult> {
  if (!format.features.write) throw new Error(`${format.name} is only read.`);
  const findings = new Findings();
  const options = formatOptions(format, target.options);
  for (const finding of format.features.write.crsFindings(target.crs, options)) findings.add(finding);
  const libraries = feeds.flatMap(({ transform: carrier, library }) =>
    library ? [{ source: carrier.source, library: scaledLibrary(library, carrier.sizes.ratio) }] : [],
  );
  const writer = await format.features.write.create(folder, plan.sets, {
    crs: statedIn(format, target.crs),
    stem: target.stem,
    options,
    libraries,
    base: target.base,
    shown: target.shown,
  });
  const cuts = format.features.write.cutsAtAntimeridian?.(options) === true;
  const written = plan.sets.map(() => 0);
  const lostOf: Set<number>[] = [];
  let done = 0;
  for (const feed of feeds) {
    const lostHere = new Set<number>();
    lostOf.push(lostHere);
    let first = 0;
    for await (const batch of inPieces(feed.read(watch), feed.transform, target.chord_m)) {
      watch.check();
      const placed = measuresInColumn(resizeBatch(placeBatch(batch, feed.transform, target.chord_m), feed.transform), plan);
      const { batch: moved, lost } = transformBatch(placed, feed.transform.transform);
      const full = columnsAsWritten(computeColumns(cuts ? cutAtAntimeridian(moved, lost) : moved, plan, target.crs), plan);
      for (const { set, rows, n } of routeBatch(full, feed.transform.source, plan, lost)) {
        await writer.append(set, full, rows, n, feed.transform.source);
        written[set]! += n;
      }
      for (const i of lost) lostHere.add(first + i);
      first += batch.count;
      done += batch.count;
      watch.progress(done, total);
    }
  }
  await writer.close(findings);
  return { written, lost: lostOf, findings };
}

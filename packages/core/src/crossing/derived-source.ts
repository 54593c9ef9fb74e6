import { Profiler } from '../content/features/profile';
import { definitionOf } from '../crs/definitions/definition-of';
import { localPlane, METRE } from '../crs/local-plane';
import type { FolderSink, FolderSource } from '../io/bytes';
import type { FeatureBatch } from '../model/batch';
import { Placement } from '../placement/placement';
import type { PlacedIn } from '../placement/route';
import type { CrossingSource } from './crossing-source';
import { extentOf } from './placement-of';
import { runDeliverable, type RunOptions, type RunReport } from './pipeline';
import { EMPTY_RECIPE } from './recipe';

/** The format in which records that were worked out are kept: an open one, with room for all kinds of layers in one file. */
export const DERIVED_FORMAT = 'geopackage';

/** Metres by which chords of curves may stand off in what was worked out, and in what it was worked out from. */
export const DERIVED_CHORD_M = 0.0005;

/** Records that were worked out, as a source. @param records the same ones as often as they are asked for */
export function derivedSource(name: string, records: () => Iterable<FeatureBatch>): CrossingSource {
  const profiler = new Profiler();
  for (const batch of records()) profiler.add(batch);
  const layers = profiler.layers();
  return {
    name,
    extent: extentOf(layers),
    unit: null,
    layers,
    findings: [],
    library: null,
    records,
    reopen: () =>
      Promise.resolve({
        async *read() {
          yield* records();
        },
        facts: () => ({ crs: null, crsText: null, unit: null, version: null }),
      }),
  };
}

/**
 * Writes records that were worked out from sources as a file of their own, proved like every other, which can then be a source itself.
 * @param stem name of the file without its extension
 * @param records the same ones as often as they are asked for
 * @param placed where their numbers lie; numbers of a local plane in metres where nothing says so
 * @param folder an empty folder for the file
 * @returns the report, whose proof holds the file to the records
 * @throws Problem when nothing could be written
 */
export async function writeDerived(
  stem: string,
  records: () => Iterable<FeatureBatch>,
  placed: PlacedIn | null,
  folder: FolderSink & FolderSource,
  watches: Pick<RunOptions, 'writing' | 'proving'> = {},
): Promise<RunReport> {
  const { crs, parameters } = placed ?? { crs: localPlane(METRE), parameters: { unit_m: null } };
  const text = definitionOf(crs);
  const source = derivedSource(stem, records);
  const placement = Placement.parse({ ...parameters, crs: text });
  return runDeliverable(
    { ...EMPTY_RECIPE, chord_m: DERIVED_CHORD_M, sources: { [stem]: { placement, layers: {} } } },
    { id: 'derived', name: stem, stem, format: DERIVED_FORMAT, crs: text, grouping: 'layer' },
    [source],
    folder,
    watches,
  );
}

import { MapDrawing } from '../content/map/drawing';
import type { MapScale } from '../content/map/map-scale';
import type { ProvedSource } from '../content/map/prove-drawing';
import type { DrawnSource } from '../content/map/records';
import { sourceTransform } from '../content/features/transform-batch';
import { type Crs, isPlane, ownSigns } from '../crs/crs';
import { type Bounds, emptyBounds, grow, isEmpty } from '../geometry/bounds';
import type { Region } from '../geometry/within';
import type { Watch } from '../io/bytes';
import type { FeatureBatch } from '../model/batch';
import { type Finding, Findings } from '../model/finding';
import { REASONS } from '../model/reason';
import { applyOperations, type SourceContext } from '../operations/apply';
import { isTaken } from '../operations/layer-rule';
import { placesInTarget, routeTo } from '../placement/route';
import type { PixelGrid } from '../raster/pixel-grid';
import { styleBy } from '../symbology/layer-style';
import { symbolKey } from '../symbology/library';
import type { CrossingSource, SourceSummary } from './crossing-source';
import { placementOf } from './placement-of';
import { layerRule, type Recipe } from './recipe';
import { contextOf, readOnceMore } from './source-records';

/** Why no map can be drawn in a system; null where one can. */
export function mapBlocked(crs: Crs): string | null {
  if (!isPlane(crs))
    return `A map has a scale, and ${crs.name} has none: its units are degrees. Choose a projected system, such as the reference frame.`;
  const [x, y] = ownSigns(crs);
  return x === 1 && y === 1
    ? null
    : `${crs.name} counts to the west or the south, and a map is drawn north up. Choose another system for it.`;
}

/** Sources of records of which something is drawn: those that are placed and of which a layer is taken. */
export const drawnSources = <S extends SourceSummary>(recipe: Recipe, sources: readonly S[]): S[] =>
  sources.filter(
    (s) => placementOf(recipe, s) !== null && s.layers.some((l) => l.extent !== null && isTaken(layerRule(recipe, s.name, l.name))),
  );

/** Tells of sources that have no place yet: nothing of them is on a map. */
export const notPlaced = (recipe: Recipe, sources: readonly SourceSummary[]): Finding[] =>
  sources
    .filter((s) => s.extent !== null && placementOf(recipe, s) === null)
    .map((s) => ({
      code: 'source-not-placed',
      severity: 'caution',
      message: `${s.name} has no place yet, so nothing of it is on the map. Place it first.`,
      count: s.layers.reduce((n, l) => n + l.count, 0),
      location: s.name,
    }));

/** Places along each side of an extent that are carried into another system, since its edges may bend. */
const CELLS = 16;

/** The bounds in a system of all that is drawn of some sources; null where that is nothing. */
export function drawnExtent(recipe: Recipe, sources: readonly SourceSummary[], target: Crs): Bounds | null {
  const box = emptyBounds();
  for (const source of drawnSources(recipe, sources)) {
    const route = routeTo(placementOf(recipe, source)!, target);
    for (const { name, extent } of source.layers) {
      if (!extent || !isTaken(layerRule(recipe, source.name, name))) continue;
      const p = placesInTarget(route, extent, CELLS);
      for (let k = 0; k < p.length; k += 2) if (Number.isFinite(p[k]! + p[k + 1]!)) grow(box, p[k]!, p[k + 1]!);
    }
  }
  return isEmpty(box) ? null : box;
}

/** Records that are drawn over pictures, and what is needed to look for them afterwards. */
export interface MapRecords {
  /** The drawing of them, once the grid is known. */
  over(grid: PixelGrid): MapDrawing;
  /** The same sources, to be read from their files once more. */
  proved(watch: Watch): ProvedSource[];
}

/** The records of taken layers; the others go through the operations all the same, since those may look at them. */
async function* takenOf(recipe: Recipe, source: string, batches: AsyncIterable<FeatureBatch>): AsyncGenerator<FeatureBatch> {
  for await (const batch of batches) if (isTaken(layerRule(recipe, source, batch.layer))) yield batch;
}

/**
 * The records of a crossing as they are drawn on a map.
 * @param region the area of interest, in the frame; null where there is none
 * @param sources every source of records of the crossing
 * @param piecewise whether only single windows of the map are wanted
 * @throws Problem where a way leads nowhere, and those of tables and filters
 */
export async function mapRecords(
  recipe: Recipe,
  map: MapScale,
  target: Crs,
  region: Region | null,
  sources: readonly CrossingSource[],
  check: () => void,
  piecewise: boolean,
): Promise<MapRecords> {
  const drawn: { source: CrossingSource; context: SourceContext; own: DrawnSource }[] = [];
  for (const source of drawnSources(recipe, sources)) {
    const context = await contextOf(recipe, source, region, sources);
    const styles = new Map(
      source.layers.map((l) => [l.name, styleBy(layerRule(recipe, source.name, l.name), source.styles?.[symbolKey(l.name)])]),
    );
    const own: DrawnSource = {
      name: source.name,
      transform: sourceTransform(source.name, placementOf(recipe, source)!, target),
      library: source.library,
      read: () => takenOf(recipe, source.name, applyOperations(source.records, context)),
      label: (layer) => styles.get(layer)?.label ?? null,
      notDrawn: (layer) => {
        const scales = styles.get(layer)?.scales;
        if (scales && ((scales.min !== null && map.scale < scales.min) || (scales.max !== null && map.scale >= scales.max)))
          return { reason: REASONS.scale, entities: null };
        const { leftOut } = layerRule(recipe, source.name, layer);
        return leftOut && leftOut.length > 0 ? { reason: REASONS.entity, entities: leftOut } : null;
      },
    };
    drawn.push({ source, context, own });
  }
  return {
    over: (grid) => new MapDrawing({ grid, map, sources: drawn.map((d) => d.own) }, check, piecewise),
    proved: (watch) =>
      drawn.map(({ source, context, own }): ProvedSource => {
        let findings = new Findings();
        return {
          ...own,
          findings: () => findings.list(),
          reading: (account) =>
            takenOf(
              recipe,
              source.name,
              readOnceMore(recipe, source, context, account, watch, (found) => (findings = found)),
            ),
        };
      }),
  };
}

import { placementOf } from '@pontrel/core/crossing/placement-of';
import { type Crs, northUp } from '@pontrel/core/crs/crs';
import { crsOf } from '@pontrel/core/placement/route';
import { layerRule, type Recipe } from '@pontrel/core/crossing/recipe';
import { symbolKey } from '@pontrel/core/symbology/library';
import { styleBy } from '@pontrel/core/symbology/layer-style';
import { type Bounds, emptyBounds, isEmpty, join } from '@pontrel/core/geometry/bounds';
import { Problem } from '@pontrel/core/model/problem';
import type { SourceRecord } from '../store/records';
import { summaryOf } from './views';
import { carrierOf, storeExtent, type TileSource } from '../tiles/cut-tile';

/** The frame as it is drawn, north up: what tiles, bounds and places on the map are in. */
export function frameOf(recipe: Recipe): Crs | null {
  const crs = recipe.frame ? crsOf(recipe.frame.crs) : null;
  return crs && northUp(crs);
}

/** The sources that can be drawn: placed, and with a way into the frame. */
export function placedSources(recipe: Recipe, sources: readonly SourceRecord[], storeOf: (source: SourceRecord) => string): TileSource[] {
  const frame = frameOf(recipe);
  if (!frame) return [];
  return sources.flatMap((s): TileSource[] => {
    const { name, extent } = summaryOf(s);
    if (!placementOf(recipe, { name, extent })) return [];
    const source: TileSource = { file: storeOf(s), name, extent, placement: recipe.sources[name]!.placement!, ...labelsOf(recipe, s) };
    try {
      carrierOf(source, frame);
    } catch (error) {
      if (error instanceof Problem) return [];
      throw error;
    }
    return [source];
  });
}

/** What the layers of a source are labelled with. */
function labelsOf(recipe: Recipe, { name, layers, facts }: SourceRecord): Pick<TileSource, 'labels'> {
  const labels = layers.flatMap(({ profile }): [string, string][] => {
    const { label } = styleBy(layerRule(recipe, name, profile.name), facts.styles?.[symbolKey(profile.name)]);
    return label ? [[profile.name, label.field]] : [];
  });
  return labels.length > 0 ? { labels: Object.fromEntries(labels) } : {};
}

/** Bounds of a source's records, in its own numbers, without those that lie far from the rest. */
export function sourceExtent(source: SourceRecord): Bounds | null {
  if (source.facts.core) return source.facts.core;
  const extent = emptyBounds();
  for (const { profile } of source.layers) if (profile.extent) join(extent, profile.extent);
  return isEmpty(extent) ? null : extent;
}

export function frameExtent(frame: Crs, sources: readonly SourceRecord[], placed: readonly TileSource[]): Bounds | null {
  const all = emptyBounds();
  for (const tileSource of placed) {
    const extent = sourceExtent(sources.find((s) => s.name === tileSource.name)!);
    if (extent) join(all, storeExtent(tileSource, extent, frame));
  }
  return isEmpty(all) ? null : all;
}

export function layerExtents(
  frame: Crs,
  sources: readonly SourceRecord[],
  placed: readonly TileSource[],
): Record<string, Record<string, Bounds>> {
  return Object.fromEntries(
    placed.map((p) => {
      const { layers } = sources.find((s) => s.name === p.name)!;
      const extents = layers.flatMap(({ profile }): [string, Bounds][] =>
        profile.extent ? [[profile.name, storeExtent(p, profile.extent, frame)]] : [],
      );
      return [p.name, Object.fromEntries(extents.filter(([, extent]) => !isEmpty(extent)))];
    }),
  );
}

import path from 'node:path';
import { placementOf } from '@pontrel/core/crossing/placement-of';
import { type Crs, northUp } from '@pontrel/core/crs/crs';
import { crsOf } from '@pontrel/core/placement/route';
import { layerRule, type Recipe } from '@pontrel/core/crossing/recipe';
import { symbolKey } from '@pontrel/core/symbology/library';
import { styleBy } from '@pontrel/core/symbology/layer-style';
import { type Bounds, emptyBounds, isEmpty, join } from '@pontrel/core/geometry/bounds';
import { Problem } from '@pontrel/core/model/problem';
import type { CrossingRecord, SourceRecord } from '../store/records';
import type { DataFolder } from '../store/data-folder';
import { STORE_FILE } from '../work/read-source';
import { extentOfSource, summaryOf } from './views';
import { type Carried, carrierOf, storeExtent, type TileSource } from '../tiles/cut-tile';

/** The frame as it is drawn, north up: what tiles, bounds and places on the map are in. */
export function frameOf(recipe: Recipe): Crs | null {
  const crs = recipe.frame ? crsOf(recipe.frame.crs) : null;
  return crs && northUp(crs);
}

/** Whether a recipe places a source: pictures that do not say where they lie are placed by a fit only. */
export function isPlaced(recipe: Recipe, source: SourceRecord): boolean {
  const { placement } = recipe.sources[source.name] ?? {};
  const unplaced = source.facts.images?.members.some((m) => m.unfit === null && m.map === null) ?? false;
  return placementOf(recipe, summaryOf(source)) !== null && (!unplaced || placement?.fit !== undefined);
}

/** The sources that can be drawn: placed, and with a way into the frame. */
export function placedSources(recipe: Recipe, sources: readonly SourceRecord[]): Carried[] {
  const frame = frameOf(recipe);
  if (!frame) return [];
  return sources.flatMap((s): Carried[] => {
    const { name, extent } = summaryOf(s);
    if (!isPlaced(recipe, s)) return [];
    const source: Carried = { name, extent, placement: recipe.sources[name]!.placement! };
    try {
      carrierOf(source, frame);
    } catch (error) {
      if (error instanceof Problem) return [];
      throw error;
    }
    return [source];
  });
}

/** Those of the placed sources that have records, with their stores. */
export function tileSources(
  recipe: Recipe,
  sources: readonly SourceRecord[],
  placed: readonly Carried[],
  storeOf: (source: SourceRecord) => string,
): TileSource[] {
  return placed.flatMap((p): TileSource[] => {
    const source = sources.find((s) => s.name === p.name)!;
    return source.facts.images ? [] : [{ ...p, file: storeOf(source), ...labelsOf(recipe, source), ...groundsOf(source) }];
  });
}

/** Layers of triangles with heights, and from where to where these go. */
function groundsOf({ layers }: SourceRecord): Pick<TileSource, 'grounds'> {
  const grounds = layers.flatMap(({ profile: { name, zRange, groups } }): [string, [number, number]][] =>
    groups.some((g) => g.kind === 'polygon' && g.heights && g.most === 4) && zRange ? [[name, zRange]] : [],
  );
  return grounds.length > 0 ? { grounds: Object.fromEntries(grounds) } : {};
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
  return source.facts.core ?? extentOfSource(source);
}

export function frameExtent(frame: Crs, sources: readonly SourceRecord[], placed: readonly Carried[]): Bounds | null {
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
  placed: readonly Carried[],
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

/** The same, as the stores of a crossing lie in its folder. */
export function storedTileSources(folder: DataFolder, crossing: CrossingRecord, sources: SourceRecord[]): TileSource[] {
  const placed = placedSources(crossing.recipe, sources);
  return tileSources(crossing.recipe, sources, placed, (s) => path.join(folder.source(crossing.id, s.id), STORE_FILE));
}

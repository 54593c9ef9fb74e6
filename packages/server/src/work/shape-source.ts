import type { PreparedSource } from '@pontrel/core/crossing/prepare';
import { intoFrame, keeperOf, regionOf } from '@pontrel/core/crossing/area-of-interest';
import { type AreaOfInterest, type Recipe, sourceOfArea } from '@pontrel/core/crossing/recipe';
import {
  isReshaped,
  joinedSources,
  joinTables,
  rulesOf,
  type Shaped,
  shapedProfiles,
  shapeLayers,
  unitOfSource,
} from '@pontrel/core/crossing/shaped';
import type { ReshapeContext } from '@pontrel/core/operations/reshape';
import type { Region } from '@pontrel/core/geometry/within';
import { Problem } from '@pontrel/core/model/problem';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';

/** @param region of interest, where only that is wanted @param stores files of the stores, by source, for the tables that are joined */
export async function contextOf(
  recipe: Recipe,
  source: string,
  store: FeatureStore,
  region: Region | null,
  stores: Readonly<Record<string, string>>,
): Promise<ReshapeContext> {
  const opened = new Map(
    joinedSources(recipe, source).flatMap((name) => (stores[name] === undefined ? [] : [[name, new FeatureStore(stores[name])] as const])),
  );
  try {
    const tables = await joinTables(
      recipe,
      source,
      (layer) => store.fieldNames(layer),
      (name) => {
        const other = opened.get(name);
        return other ? () => other.batches() : null;
      },
    );
    return {
      rules: rulesOf(recipe, source),
      library: store.library(),
      unit_m: unitOfSource(recipe, source),
      tables,
      inFrame: intoFrame(recipe, source),
      ...(region ? { keep: keeperOf(recipe, source, region) } : {}),
    };
  } finally {
    for (const other of opened.values()) other.close();
  }
}

/** An area of interest worked out from the stores of the sources. */
export async function regionFrom(
  recipe: Recipe,
  area: AreaOfInterest | undefined,
  stores: Readonly<Record<string, string>>,
): Promise<Region | null> {
  if (!area) return null;
  const from = sourceOfArea(area);
  const file = from === null ? null : stores[from];
  if (file === undefined)
    throw new Problem(
      'source-unknown',
      `The area of interest is that of ${from}, which is not in this crossing any more. Choose another one.`,
    );
  const store = file === null ? null : new FeatureStore(file);
  try {
    return await regionOf(recipe, area, () => store!.batches());
  } finally {
    store?.close();
  }
}

export interface ShapeRequest {
  recipe: Recipe;
  source: string;
  area?: AreaOfInterest | undefined;
  /** Files of the stores, by source. */
  stores: Readonly<Record<string, string>>;
}

/** The layers of a source that its rules change, summed up again; null where they change none. */
export async function shapeSource({ recipe, source, area, stores }: ShapeRequest): Promise<Shaped | null> {
  if (!isReshaped(recipe, source, area)) return null;
  return shapeWithin(recipe, source, await regionFrom(recipe, area, stores), stores);
}

/** The same with the region of interest at hand. */
async function shapeWithin(
  recipe: Recipe,
  source: string,
  region: Region | null,
  stores: Readonly<Record<string, string>>,
): Promise<Shaped> {
  const store = new FeatureStore(stores[source]!);
  try {
    return await shapeLayers(() => store.batches(), await contextOf(recipe, source, store, region, stores));
  } finally {
    store.close();
  }
}

/** A source as it will cross. */
export function withShapes<S extends PreparedSource>(recipe: Recipe, source: S, shaped: Shaped | null): S {
  return shaped
    ? { ...source, layers: shapedProfiles(source.layers, shaped, rulesOf(recipe, source.name)), reports: shaped.reports }
    : source;
}

/** A source as it will cross, for a run that has worked out the region of interest. */
export async function shapedSource<S extends PreparedSource>(
  recipe: Recipe,
  source: S,
  area: AreaOfInterest | undefined,
  region: Region | null,
  stores: Readonly<Record<string, string>>,
): Promise<S> {
  return isReshaped(recipe, source.name, area)
    ? withShapes(recipe, source, await shapeWithin(recipe, source.name, region, stores))
    : source;
}

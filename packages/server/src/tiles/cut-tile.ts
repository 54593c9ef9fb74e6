import { lightOn } from '@pontrel/core/geometry/hillshade';
import { type PlainValue, shownValue } from '@pontrel/core/model/value';
import type { RecordBounds } from '@pontrel/host-node/store/bounds-pages';
import { drawnBlock } from '@pontrel/core/symbology/placed-symbol';
import type { Placement } from '@pontrel/core/placement/placement';
import { lookText } from '@pontrel/contract/tile-look';
import { FAR_M, LETTER_WIDTH, resolutionAt, TILE_PIXELS, tileBounds } from '@pontrel/contract/tile-grid';
import { type Crs, isPlane, metresPerUnit, northUp } from '@pontrel/core/crs/crs';
import { label } from '@pontrel/core/crs/transform';
import { type SourceTransform, sourceTransform, placeBatch, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { crsOf, placedBy } from '@pontrel/core/placement/route';
import { gridRegistryVersion } from '@pontrel/core/crs/datum/grid-registry';
import { type Bounds, emptyBounds, grow, isEmpty } from '@pontrel/core/geometry/bounds';
import { clipLine, clipRing } from '@pontrel/core/geometry/clip';
import { eachPart, type FeatureBatch, KINDS, LINE, partCount, POINT, POLYGON, TEXT, vertexRange } from '@pontrel/core/model/batch';
import type { SymbolLibrary } from '@pontrel/core/symbology/library';
import { lengthUnit } from '@pontrel/core/symbology/sizes';
import { lookOf, symbologyKey } from '@pontrel/core/symbology/symbolizer';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';
import type { PointMap } from '@pontrel/core/placement/fit';
import { Coverage } from './coverage';
import { encodeTile, MVT_EXTENT, MVT_LINE, MVT_POINT, MVT_POLYGON, type TileFeature } from './mvt';

/** A source, and how its coordinates get into the frame. */
export interface Carried {
  name: string;
  /** Bounds of all that it holds in its own numbers. */
  extent: Bounds | null;
  placement: Placement;
}

/** A store of records to draw. */
export interface TileSource extends Carried {
  file: string;
  /** The field that the records of a layer are labelled with, by layer. */
  labels?: Readonly<Record<string, string>>;
  /** The lowest and the highest height of each layer of triangles, in the source's own numbers. */
  grounds?: Readonly<Record<string, readonly [number, number]>>;
}

export interface TileRequest {
  sources: TileSource[];
  frame: string;
  z: number;
  x: number;
  y: number;
}

/** Pixels drawn beyond the tile's edge, so that symbols and strokes there are whole. */
const BUFFER = 8;
/** Grid steps in one pixel. */
const STEPS = MVT_EXTENT / TILE_PIXELS;

const stores = new Map<string, FeatureStore>();
const MOST_OPEN = 32;

/** An open store, kept for the next tile. */
export function storeAt(file: string): FeatureStore {
  let store = stores.get(file);
  if (store) stores.delete(file);
  else store = new FeatureStore(file);
  stores.set(file, store);
  if (stores.size > MOST_OPEN) {
    const [oldest] = stores;
    oldest![1].close();
    stores.delete(oldest![0]);
  }
  return store;
}

/** One vector tile of all sources in the frame; empty when nothing lies there. */
export function cutTile(request: TileRequest): Uint8Array {
  const frame = northUp(crsOf(request.frame)!);
  const unit_m = isPlane(frame) ? frame.unit.metres : null;
  const bounds = tileBounds(request.z, request.x, request.y, unit_m);
  const resolution = resolutionAt(request.z, unit_m);
  const features = request.sources.flatMap((source) => cutSource(source, frame, bounds, resolution));
  return features.length === 0 ? new Uint8Array(0) : encodeTile('records', features);
}

function cutSource(source: TileSource, frame: Crs, bounds: Bounds, resolution: number): TileFeature[] {
  const carrier = carrierOf(source, frame);
  const margin = BUFFER * resolution;
  const window: Bounds = [bounds[0] - margin, bounds[1] - margin, bounds[2] + margin, bounds[3] + margin];
  const own = boundsBack(window, backFrom(carrier));
  if (isEmpty(own)) return [];
  const store = storeAt(source.file);
  // one pixel in the source's unit, for thinning before any geometry is touched
  const pixel = (own[2] - own[0]) / (TILE_PIXELS + 2 * BUFFER);
  const all = store.boundsIn(own);
  const sides = (b: RecordBounds): number => Math.max(b.maxx - b.minx, b.maxy - b.miny);
  // what could not be told apart anyway marks the pixels that it covers, all of it; what is large enough is drawn as it is
  const crowded = all.length > MOST_RECORDS;
  const found = onePerPixel(all, own, pixel);
  const out: TileFeature[] = [];
  const frameUnit_m = metresPerUnit(frame, null);
  const coverage = new Coverage();
  const pixelOf = (x: number, y: number): [number, number] => [(x - bounds[0]) / resolution, (bounds[3] - y) / resolution];
  const far = resolution * frameUnit_m >= FAR_M;
  const ids = dots(
    crowded ? found.filter((b) => sides(b) < pixel) : found,
    store,
    source.name,
    carrier,
    own,
    pixel,
    (x, y) => (x < window[0] || x > window[2] || y < window[1] || y > window[3] ? null : pixelOf(x, y)),
    far,
    crowded ? coverage : null,
    out,
  );
  if (crowded) {
    const seen = found.filter((b) => sides(b) >= pixel);
    const few = seen.length <= MOST_RECORDS;
    const byGeometry = (b: RecordBounds): boolean => few || sides(b) >= WIDEST_COVERED * pixel;
    const marked = [...ids, ...seen.filter((b) => !byGeometry(b)).map((b) => b.id)];
    ids.splice(0, ids.length, ...seen.filter(byGeometry).map((b) => b.id));
    for (const { batch } of store.byIds(marked)) cover(batch, carrier, frameUnit_m, source.name, pixelOf, coverage, resolution);
  }
  const library = store.library();
  const looks = looksOf(library, lengthUnit(carrier.crs, carrier.unit_m));
  const steps = heightSteps(source, carrier);
  for (const { batch, ids: own } of store.byIds(ids)) {
    const { batch: moved, lost } = transformBatch(placeBatch(batch, carrier, (resolution / 4) * frameUnit_m), carrier.transform);
    for (let i = 0; i < moved.count; i++) {
      if (lost.has(i)) continue;
      const feature = featureOf(
        moved,
        i,
        own[i]!,
        source,
        looks,
        window,
        bounds,
        resolution,
        frameUnit_m,
        carrier.unit_m / frameUnit_m,
        carrier.placement.rotation,
      );
      const step = feature?.properties.light === undefined ? null : steps(moved, i);
      if (step !== null) feature!.properties.height = step;
      const symbol = library && symbolAt(batch, i, library, pixel);
      if (symbol) {
        const drawn = transformBatch(placeBatch(symbol, carrier, (resolution / 4) * frameUnit_m), carrier.transform);
        for (let k = 0; k < drawn.batch.count; k++) {
          const part = drawn.lost.has(k)
            ? null
            : featureOf(
                drawn.batch,
                k,
                own[i]!,
                source,
                looks,
                window,
                bounds,
                resolution,
                frameUnit_m,
                carrier.unit_m / frameUnit_m,
                carrier.placement.rotation,
              );
          if (part) out.push(part);
        }
        if (feature) feature.properties.drawn = 1;
      }
      if (feature) out.push(feature);
    }
  }
  return [...coverage.features(), ...out];
}

/** Marks the pixels that records cover: their lines and outlines, and of texts a stroke as long as they are. @param resolution units of the frame in a pixel */
function cover(
  batch: FeatureBatch,
  carrier: SourceTransform,
  frameUnit_m: number,
  source: string,
  pixelOf: (x: number, y: number) => [number, number],
  coverage: Coverage,
  resolution: number,
): void {
  const { batch: moved, lost } = transformBatch(placeBatch(batch, carrier, (resolution / 4) * frameUnit_m), carrier.transform);
  const { coords } = moved;
  const unit = carrier.unit_m / frameUnit_m;
  for (let i = 0; i < moved.count; i++) {
    if (lost.has(i)) continue;
    const kind = moved.kinds[i]!;
    const color = moved.columns.get('color')?.[i];
    const mask = coverage.mask({ source, layer: moved.layer, kind: KINDS[kind]!, color: typeof color === 'string' ? color : null });
    eachPart(moved, i, (start, end) => {
      let [x, y] = pixelOf(coords[3 * start]!, coords[3 * start + 1]!);
      if (kind === TEXT) {
        const [dx, dy] = strokeOfText(moved, i, unit, carrier.placement.rotation);
        mask.line(x, y, x + dx / resolution, y - dy / resolution);
      } else if (kind === POINT) mask.dot(x, y);
      for (let v = start + 1; v < end; v++) {
        const [nx, ny] = pixelOf(coords[3 * v]!, coords[3 * v + 1]!);
        mask.line(x, y, nx, ny);
        [x, y] = [nx, ny];
      }
    });
  }
}

/** The stroke that stands for a text too small to be read, in units of the frame. */
function strokeOfText(batch: FeatureBatch, i: number, unit: number, rotation: number): [number, number] {
  const value = (name: string): number => Number(batch.columns.get(name)?.[i] ?? 0) || 0;
  const length = value('text_height') * unit * LETTER_WIDTH * String(batch.columns.get('text')?.[i] ?? '').length;
  const angle = ((value('text_angle') + rotation) * Math.PI) / 180;
  return [length * Math.cos(angle), length * Math.sin(angle)];
}

/** A dot is a line of no length to speak of: whoever draws the tiles paints lines once a tile, and images with every movement. */
function asDot(feature: TileFeature): TileFeature {
  return {
    ...feature,
    type: MVT_LINE,
    parts: feature.parts.map(([x, y]) => [x!, y!, x! + 1, y!]),
    properties: { ...feature.properties, dot: 1 },
  };
}

/** Steps of single precision that a pixel must have before bounds are taken for places. */
const FINE = 16;

/**
 * Puts records smaller than a pixel or so into `out` by their bounds alone, where these are fine enough for the picture.
 * @returns the ids of the records that have to be drawn from their geometry
 */
function dots(
  found: readonly RecordBounds[],
  store: FeatureStore,
  source: string,
  { placement: plane, transform }: SourceTransform,
  box: Bounds,
  pixel: number,
  pixelAt: (x: number, y: number) => [number, number] | null,
  far: boolean,
  coverage: Coverage | null,
  out: TileFeature[],
): number[] {
  if (pixel < FINE * Math.max(...box.map(Math.abs)) * 2 ** -23) return found.map((b) => b.id);
  const least = DOT_PIXELS * pixel;
  const rest: number[] = [];
  const small = found.filter((b) => {
    const is = b.maxx - b.minx < least && b.maxy - b.miny < least;
    if (!is) rest.push(b.id);
    return is;
  });
  const places = new Float64Array(2 * small.length);
  small.forEach((b, k) => places.set([(b.minx + b.maxx) / 2, (b.miny + b.maxy) / 2], 2 * k));
  plane.forward(places, 0, small.length, 2);
  transform.apply(places, 0, small.length, 2);
  const placeOf = new Map(small.map((b, k) => [b.id, k]));
  for (const mark of store.marks(small.map((b) => b.id))) {
    if (mark.kind === TEXT) {
      rest.push(mark.id);
      continue;
    }
    const k = placeOf.get(mark.id)!;
    const at = Number.isNaN(places[2 * k]!) ? null : pixelAt(places[2 * k]!, places[2 * k + 1]!);
    if (!at) continue;
    const kind = KINDS[mark.kind]!;
    if (coverage) {
      const mask = coverage.mask({ source, layer: mark.layer, kind, color: mark.color });
      if (kind === 'point') mask.dot(...at);
      else mask.mark(...at);
      continue;
    }
    const feature: TileFeature = {
      id: mark.id,
      type: MVT_POINT,
      parts: [at.map((v) => Math.round(v * STEPS))],
      properties: { source, layer: mark.layer, entity: mark.entity, kind, ...(mark.color === null ? {} : { color: mark.color }) },
    };
    out.push(kind === 'point' && !far ? feature : asDot(feature));
  }
  return rest;
}

/** Records of a source that a tile draws one by one. */
const MOST_RECORDS = 2500;
/** Pixels; what is larger than this is always drawn as it is. */
const WIDEST_COVERED = 16;

/** All that are as large as a pixel, and of the smaller ones the first of each layer in each pixel. */
function onePerPixel(bounds: readonly RecordBounds[], box: Bounds, pixel: number): RecordBounds[] {
  const across = Math.ceil((box[2] - box[0]) / pixel) + 1;
  const takenByLayer = new Map<number, Set<number>>();
  return bounds.filter((b) => {
    if (b.maxx - b.minx >= pixel || b.maxy - b.miny >= pixel) return true;
    const at = Math.floor(((b.miny + b.maxy) / 2 - box[1]) / pixel) * across + Math.floor(((b.minx + b.maxx) / 2 - box[0]) / pixel);
    let taken = takenByLayer.get(b.layer);
    if (!taken) takenByLayer.set(b.layer, (taken = new Set()));
    if (taken.has(at)) return false;
    taken.add(at);
    return true;
  });
}

/** Pixels across from which a block is drawn as its symbol. */
const SYMBOL_PIXELS = 5;

/** What a placed block draws, in the source's own numbers; null where it is no block, or too small to be told apart. */
function symbolAt(batch: FeatureBatch, i: number, library: SymbolLibrary, pixel: number): FeatureBatch | null {
  const placed = drawnBlock(batch, i, library);
  if (!placed) return null;
  const box = emptyBounds();
  for (let k = 0; k < placed.coords.length; k += 3) grow(box, placed.coords[k]!, placed.coords[k + 1]!);
  return Math.max(box[2] - box[0], box[3] - box[1]) < SYMBOL_PIXELS * pixel ? null : placed;
}

const carriers = new Map<string, SourceTransform>();
const MOST_CARRIERS = 64;

/** How a source gets into the frame; kept, since every tile asks. */
export function carrierOf({ name, placement, extent }: Carried, frame: Crs): SourceTransform {
  const key = JSON.stringify([name, placement, extent, frame.id === null ? frame : label(frame), gridRegistryVersion()]);
  let carrier = carriers.get(key);
  if (!carrier) {
    if (carriers.size >= MOST_CARRIERS) carriers.clear();
    carriers.set(key, (carrier = sourceTransform(name, placedBy(placement, extent)!, frame)));
  }
  return carrier;
}

/** From the frame to a source's own numbers. */
export function backFrom({ placement: plane, transform }: SourceTransform): PointMap {
  const inverse = transform.inverse();
  return (p, start, count, stride) => {
    inverse.apply(p, start, count, stride);
    plane.inverse(p, start, count, stride);
  };
}

/** The bounds, in the source's own numbers, of a box in the frame; its edges are followed, since they may bend. */
export function boundsBack(box: Bounds, back: PointMap): Bounds {
  const n = 8;
  const points = new Float64Array(8 * n);
  for (let i = 0; i < n; i++) {
    const t = i / n;
    const x = box[0] + (box[2] - box[0]) * t,
      y = box[1] + (box[3] - box[1]) * t;
    points.set([x, box[1], box[2], y, box[2] - (box[2] - box[0]) * t, box[3], box[0], box[3] - (box[3] - box[1]) * t], 8 * i);
  }
  back(points, 0, 4 * n, 2);
  const out = emptyBounds();
  for (let i = 0; i < points.length; i += 2) if (!Number.isNaN(points[i]!)) grow(out, points[i]!, points[i + 1]!);
  return out;
}

function featureOf(
  batch: FeatureBatch,
  i: number,
  id: number,
  { name: source, labels }: TileSource,
  looks: (batch: FeatureBatch, i: number) => string | null,
  window: Bounds,
  bounds: Bounds,
  resolution: number,
  frameUnit_m: number,
  unit: number,
  rotation: number,
): TileFeature | null {
  const kind = batch.kinds[i]!;
  const line = kind === LINE,
    area = kind === POLYGON;
  const parts: number[][] = [];
  const grid = (x: number, y: number, part: number[]): void => {
    const gx = Math.round(((x - bounds[0]) / resolution) * STEPS),
      gy = Math.round(((bounds[3] - y) / resolution) * STEPS);
    const n = part.length;
    // vertices closer than a quarter of a pixel are not told apart
    if (n >= 2 && Math.abs(part[n - 2]! - gx) < STEPS / 4 && Math.abs(part[n - 1]! - gy) < STEPS / 4) return;
    part.push(gx, gy);
  };
  eachPart(batch, i, (start, end) => {
    if (!line && !area) {
      const x = batch.coords[3 * start]!,
        y = batch.coords[3 * start + 1]!;
      if (x < window[0] || x > window[2] || y < window[1] || y > window[3]) return;
      const part: number[] = [];
      grid(x, y, part);
      parts.push(part);
      return;
    }
    const flat: number[] = [];
    for (let v = start; v < end; v++) flat.push(batch.coords[3 * v]!, batch.coords[3 * v + 1]!);
    if (area) flat.length -= 2; // the closing vertex
    for (const piece of area ? [clipRing(flat, window)] : clipLine(flat, window)) {
      const part: number[] = [];
      for (let k = 0; k < piece.length; k += 2) grid(piece[k]!, piece[k + 1]!, part);
      if (part.length === 2) part.push(part[0]! + 1, part[1]!); // shorter than a pixel: still a dot
      if (area && part.length === 4) part.push(part[0]!, part[1]! + 1);
      if (part.length > 0) parts.push(part);
    }
  });
  if (parts.length === 0) return null;
  const dot = area ? dotOf(parts) : null;
  const at = (name: string): PlainValue => shownValue(batch.columns.get(name)?.[i] ?? null);
  const properties: TileFeature['properties'] = { source, layer: batch.layer, entity: batch.entities[i]!, kind: KINDS[kind]! };
  const color = at('color');
  if (typeof color === 'string') properties.color = color;
  const look = looks(batch, i);
  if (look !== null) properties.look = look;
  const label = labels?.[batch.layer] === undefined ? null : at(labels[batch.layer]!);
  if (label !== null && label !== '') properties.label = String(label);
  const light = area ? lightOf(batch, i) : null;
  if (light !== null) properties.light = light;
  if (kind === TEXT) {
    properties.text = String(at('text') ?? '');
    properties.size = Number(at('text_height') ?? 0) * unit;
    properties.angle = Number(at('text_angle') ?? 0) + rotation;
  }
  if (dot) return asDot({ id, type: MVT_POINT, parts: [dot], properties });
  if (kind === POINT && resolution * frameUnit_m >= FAR_M) return asDot({ id, type: MVT_POINT, parts, properties });
  return { id, type: area ? MVT_POLYGON : line ? MVT_LINE : MVT_POINT, parts, properties };
}

/** Steps of light that a tile tells apart. */
const LIGHTS = 32;

/** How the light falls on a record that is a triangle with heights, in whole steps of a hundred; null for any other. */
function lightOf(batch: FeatureBatch, i: number): number | null {
  const [start, end] = vertexRange(batch, i);
  if (end - start !== 4 || partCount(batch, i) !== 1) return null;
  const light = lightOn(batch.coords, 3 * start);
  return light === null ? null : Math.round((Math.round(light * LIGHTS) / LIGHTS) * 100);
}

/** Steps of height that a tile tells apart, from the lowest of a layer to its highest. */
const HEIGHTS = 32;

/** Tells how high a triangle lies among those of its layer, in whole steps of a hundred; null where the layer is no ground. */
function heightSteps({ grounds }: TileSource, carrier: SourceTransform): (batch: FeatureBatch, i: number) => number | null {
  const ranges = new Map(
    Object.entries(grounds ?? {}).map(([layer, range]) => {
      // heights are carried into the unit of the placement as positions are
      const ends = Float64Array.of(0, 0, range[0], 0, 0, range[1]);
      carrier.placement.forward(ends, 0, 2, 3);
      return [layer, [ends[2]!, ends[5]!] as const];
    }),
  );
  return (batch, i) => {
    const range = ranges.get(batch.layer);
    if (!range || !(range[1] > range[0])) return null;
    const [start] = vertexRange(batch, i);
    const middle = (batch.coords[3 * start + 2]! + batch.coords[3 * start + 5]! + batch.coords[3 * start + 8]!) / 3;
    return Math.round((Math.round(((middle - range[0]) / (range[1] - range[0])) * HEIGHTS) / HEIGHTS) * 100);
  };
}

/** Tells what records are drawn with. Records of a layer are mostly drawn alike, so that what was told once is known. */
function looksOf(library: SymbolLibrary | null, unit_m: number): (batch: FeatureBatch, i: number) => string | null {
  const known = new Map<string, string | null>();
  return (batch, i) => {
    const key = symbologyKey(batch, i);
    if (key === null) return null;
    let told = known.get(key);
    if (told === undefined) known.set(key, (told = lookText(lookOf(batch, i, library, unit_m))));
    return told;
  };
}

/** Pixels across below which an area is a dot: what draws the tiles leaves rings of that size out. */
const DOT_PIXELS = 2.5;

/** The middle of a very small area; null for a larger one. */
function dotOf(parts: readonly number[][]): [number, number] | null {
  let x0 = Infinity,
    y0 = Infinity,
    x1 = -Infinity,
    y1 = -Infinity;
  for (const part of parts) {
    for (let k = 0; k < part.length; k += 2) {
      x0 = Math.min(x0, part[k]!);
      x1 = Math.max(x1, part[k]!);
      y0 = Math.min(y0, part[k + 1]!);
      y1 = Math.max(y1, part[k + 1]!);
    }
  }
  return Math.max(x1 - x0, y1 - y0) < DOT_PIXELS * STEPS ? [Math.round((x0 + x1) / 2), Math.round((y0 + y1) / 2)] : null;
}

/** Bounds of everything in a store, in the frame. */
export function storeExtent(source: Carried, extent: Bounds, frame: Crs): Bounds {
  const { placement: plane, transform } = carrierOf(source, frame);
  return boundsBack(extent, (p, start, count, stride) => {
    plane.forward(p, start, count, stride);
    transform.apply(p, start, count, stride);
  });
}

import type OlMap from 'ol/Map';
import type BaseLayer from 'ol/layer/Base';
import type { FeatureLike } from 'ol/Feature';
import { nearestVertex } from './ask-place';
import type { Measure } from './Measure';
import type { Picked } from './styles';

export type XY = readonly [number, number];

/** What a click on the map means, and what follows the pointer meanwhile. There is one at a time. */
export interface MapTool {
  /** @param at x, y in the frame @param reach units of the frame within which a vertex catches the point */
  click(at: XY, pixel: number[], reach: number): void;
  hover?(at: XY): void;
  /** The vertex that would catch a point set here; it is shown while the pointer rests. */
  catches?(at: XY, reach: number): Promise<XY | null>;
  /** Is told two corners of a box while it is drawn by dragging, and at last when it is done; the map stays where it is. */
  drag?(from: XY, to: XY, done: boolean): void;
}

/** A point that is asked for; `snap` finds the vertex that catches it. */
export interface Taking {
  prompt: string;
  snap(x: number, y: number, reach: number): Promise<[number, number] | null>;
  take(x: number, y: number, caught: boolean): void;
  /** Where the pointer is, while it is over the map. */
  hover?(x: number, y: number): void;
  drag?: MapTool['drag'];
  cancel(): void;
}

export const takePoint = (taking: Taking): MapTool => ({
  click: ([x, y], _pixel, reach) =>
    void taking.snap(x, y, reach).then((vertex) => taking.take(...(vertex ?? ([x, y] as const)), vertex !== null)),
  hover: ([x, y]) => taking.hover?.(x, y),
  catches: ([x, y], reach) => taking.snap(x, y, reach),
  ...(taking.drag ? { drag: taking.drag } : {}),
});

/** Tells the coordinates of a point, or of the vertex near it. */
export const tellCoordinates = (crossing: string, tell: (at: XY) => void): MapTool => ({
  click: ([x, y], _pixel, reach) => void nearestVertex(crossing, x, y, reach).then((vertex) => tell(vertex ?? [x, y])),
  catches: ([x, y], reach) => nearestVertex(crossing, x, y, reach),
});

export const measureWith = (measure: Measure): MapTool => ({
  click: ([x, y], _pixel, reach) => measure.add(x, y, reach),
  hover: ([x, y]) => measure.hover(x, y),
  catches: ([x, y], reach) => measure.nearest(x, y, reach),
});

/** What lies over others where a click meets several. */
const RANK: Record<string, number> = { point: 0, text: 1, line: 2, polygon: 3 };
const RANK_OF_COVERAGE = 10;

/**
 * Picks the record under the pointer, among the layers whose records can be picked.
 * @param covered finds the record of a layer at a place where many cover the pixels together
 */
export const pickRecord = (
  map: () => OlMap | null,
  pickable: (layer: BaseLayer) => boolean,
  pick: (picked: Picked | null) => void,
  covered: (layer: Omit<Picked, 'id'>, at: XY, reach: number) => Promise<number | null>,
): MapTool => ({
  click(at, pixel, reach) {
    let best: { feature: FeatureLike; rank: number } | null = null;
    map()?.forEachFeatureAtPixel(
      pixel,
      (feature, layer) => {
        if (!pickable(layer)) return;
        const rank = isCoverage(feature) ? RANK_OF_COVERAGE : (RANK[String(feature.get('kind'))] ?? 9);
        if (!best || rank < best.rank) best = { feature, rank };
      },
      { hitTolerance: 5 },
    );
    const found = (best as { feature: FeatureLike } | null)?.feature;
    if (!found) return pick(null);
    const layer = { source: String(found.get('source')), layer: String(found.get('layer')) };
    if (!isCoverage(found)) return pick({ ...layer, id: Number(found.getId()) });
    void covered(layer, at, reach).then((id) => pick(id === null ? null : { ...layer, id }));
  },
});

const isCoverage = (feature: FeatureLike): boolean => feature.get('cover') === 1;

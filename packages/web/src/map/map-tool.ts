import type OlMap from 'ol/Map';
import type BaseLayer from 'ol/layer/Base';
import type { FeatureLike } from 'ol/Feature';
import { type Measure, nearestVertex } from './Measure';
import type { Picked } from './styles';

export type XY = readonly [number, number];

/** What a click on the map means, and what follows the pointer meanwhile. There is one at a time. */
export interface MapTool {
  /** @param at x, y in the frame @param reach units of the frame within which a vertex catches the point */
  click(at: XY, pixel: number[], reach: number): void;
  hover?(at: XY): void;
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
  ...(taking.drag ? { drag: taking.drag } : {}),
});

/** Tells the coordinates of a point, or of the vertex near it. */
export const tellCoordinates = (crossing: string, tell: (at: XY) => void): MapTool => ({
  click: ([x, y], _pixel, reach) => void nearestVertex(crossing, x, y, reach).then((vertex) => tell(vertex ?? [x, y])),
});

export const measureWith = (measure: Measure): MapTool => ({
  click: ([x, y], _pixel, reach) => measure.add(x, y, reach),
  hover: ([x, y]) => measure.hover(x, y),
});

/** What lies over others where a click meets several. */
const RANK: Record<string, number> = { point: 0, text: 1, line: 2, polygon: 3 };

/** Picks the record under the pointer, among the layers whose records can be picked. */
export const pickRecord = (
  map: () => OlMap | null,
  pickable: (layer: BaseLayer) => boolean,
  pick: (picked: Picked | null) => void,
): MapTool => ({
  click(_at, pixel) {
    let best: { feature: FeatureLike; rank: number } | null = null;
    map()?.forEachFeatureAtPixel(
      pixel,
      (feature, layer) => {
        // what many records cover together is none of them
        if (!pickable(layer) || feature.get('cover') === 1) return;
        const rank = RANK[String(feature.get('kind'))] ?? 9;
        if (!best || rank < best.rank) best = { feature, rank };
      },
      { hitTolerance: 5 },
    );
    const found = (best as { feature: FeatureLike } | null)?.feature;
    pick(found ? { source: String(found.get('source')), layer: String(found.get('layer')), id: Number(found.getId()) } : null);
  },
});

import { crsOf } from '@pontrel/core/placement/route';
import { placeBatch, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { metresPerUnit, northUp } from '@pontrel/core/crs/crs';
import { type Bounds, emptyBounds, grow, isEmpty, join } from '@pontrel/core/geometry/bounds';
import { eachPart, type FeatureBatch, LINE, POLYGON } from '@pontrel/core/model/batch';
import { carrierOf, storeAt, type TileSource } from './cut-tile';

export interface PictureRequest {
  /** What is drawn over one another, each with a path of its own. */
  sheets: { sources: TileSource[]; layers: Record<string, string[]> | null }[];
  frame: string;
  width: number;
  height: number;
}

/** A picture of what several stores hold, to one scale. */
export interface Picture {
  /** Paths in pixels, in the order of the sheets: lines and outlines, and points. */
  paths: { lines: string; points: string }[];
  /** In the frame, of what is shown. */
  box: Bounds;
  /** Metres in a pixel. */
  scale_m: number;
  /** Records that were drawn; of a large layer, evenly picked ones. */
  drawn: number;
}

const MOST_A_LAYER = 3000;
const MARGIN = 10;

/** Draws stores as paths in the plane of the frame. */
export function samplePicture({ sheets, frame: code, width, height }: PictureRequest): Picture {
  const frame = northUp(crsOf(code)!);
  const unit_m = metresPerUnit(frame, null);
  const drawn = sheets.map(({ sources, layers }) =>
    sources.flatMap((source) => {
      const carrier = carrierOf(source, frame);
      const store = storeAt(source.file);
      return (layers?.[source.name] ?? store.layerNames()).flatMap((layer) =>
        [...store.byIds(store.sampleIds(layer, MOST_A_LAYER))].map(
          ({ batch }) => transformBatch(placeBatch(batch, carrier, 0.5), carrier.transform).batch,
        ),
      );
    }),
  );
  const box = emptyBounds();
  for (const batches of drawn) {
    for (const { coords } of batches) {
      const own = emptyBounds();
      for (let k = 0; k < coords.length; k += 3) if (!Number.isNaN(coords[k]!)) grow(own, coords[k]!, coords[k + 1]!);
      if (!isEmpty(own)) join(box, own);
    }
  }
  const pixel = Math.max((box[2] - box[0]) / (width - 2 * MARGIN), (box[3] - box[1]) / (height - 2 * MARGIN), 1e-9);
  const X = (x: number): number => Math.round(10 * (width / 2 + (x - (box[0] + box[2]) / 2) / pixel)) / 10;
  const Y = (y: number): number => Math.round(10 * (height / 2 - (y - (box[1] + box[3]) / 2) / pixel)) / 10;
  return {
    paths: drawn.map((batches) => pathsOf(batches, X, Y)),
    box,
    scale_m: pixel * unit_m,
    drawn: drawn[0]?.reduce((n, b) => n + b.count, 0) ?? 0,
  };
}

function pathsOf(batches: readonly FeatureBatch[], X: (x: number) => number, Y: (y: number) => number): Picture['paths'][number] {
  let lines = '',
    points = '';
  for (const batch of batches) {
    for (let i = 0; i < batch.count; i++) {
      const drawn = batch.kinds[i] === LINE || batch.kinds[i] === POLYGON;
      eachPart(batch, i, (start, end) => {
        let px = NaN,
          py = NaN;
        for (let v = start; v < end; v++) {
          if (Number.isNaN(batch.coords[3 * v]!)) continue;
          const x = X(batch.coords[3 * v]!),
            y = Y(batch.coords[3 * v + 1]!);
          if (!drawn) points += `M${x} ${y}h0`;
          // what lies within half a pixel is not seen
          else if (!(Math.abs(x - px) < 0.5 && Math.abs(y - py) < 0.5) || v === end - 1) {
            lines += `${Number.isNaN(px) ? 'M' : 'L'}${x} ${y}`;
            px = x;
            py = y;
          }
        }
      });
    }
  }
  return { lines, points };
}

import { placeBatch, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { northUp } from '@pontrel/core/crs/crs';
import { crsOf } from '@pontrel/core/placement/route';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import { backFrom, boundsBack, carrierOf, storeAt, type TileSource } from './cut-tile';

export interface NearestRequest {
  sources: TileSource[];
  frame: string;
  x: number;
  y: number;
  /** Units of the frame. */
  reach: number;
}

/** Chords of arcs are not vertices: curves are cut so coarsely that only their ends and quarters are caught. */
const COARSE_M = 1e6;

/** The vertex nearest to a place, in the frame, to full precision; null when none is within reach. */
export function nearestVertex({ sources, frame, x, y, reach }: NearestRequest): [number, number] | null {
  const target = northUp(crsOf(frame)!);
  let best: [number, number] | null = null;
  let least = reach;
  for (const source of sources) {
    const carrier = carrierOf(source, target);
    const window: Bounds = [x - reach, y - reach, x + reach, y + reach];
    const store = storeAt(source.file);
    const ids = [...store.boundsIn(boundsBack(window, backFrom(carrier)))].map((b) => b.id);
    for (const { batch } of store.byIds(ids)) {
      const { coords } = transformBatch(placeBatch(batch, carrier, COARSE_M), carrier.transform).batch;
      for (let v = 0; v < coords.length; v += 3) {
        const d = Math.hypot(coords[v]! - x, coords[v + 1]! - y);
        if (d <= least) {
          least = d;
          best = [coords[v]!, coords[v + 1]!];
        }
      }
    }
  }
  return best;
}

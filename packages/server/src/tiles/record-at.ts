import { placeBatch, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { metresPerUnit, northUp } from '@pontrel/core/crs/crs';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import { distanceTo } from '@pontrel/core/geometry/distance';
import type { RecordBounds } from '@pontrel/host-node/store/bounds-pages';
import { crsOf } from '@pontrel/core/placement/route';
import { backFrom, boundsBack, carrierOf, storeAt, type TileSource } from './cut-tile';

/** Asks for the record of a layer that lies at a place in the frame. */
export interface RecordAtRequest {
  source: TileSource;
  layer: string;
  frame: string;
  x: number;
  y: number;
  /** Units of the frame within which a record that does not cover the place is taken. */
  reach: number;
}

/** Records that are looked at, the nearest ones by their bounds; beyond them a pixel is too coarse to mean one. */
const MOST_LOOKED_AT = 2000;

/** The number of the record that lies at a place, or nearest to it; of several areas the last one, which is drawn over the others. Null where there is none. */
export function recordAt({ source, layer, frame, x, y, reach }: RecordAtRequest): number | null {
  const target = northUp(crsOf(frame)!);
  const carrier = carrierOf(source, target);
  const chord_m = (reach * metresPerUnit(target, null)) / 4;
  const window: Bounds = [x - reach, y - reach, x + reach, y + reach];
  const store = storeAt(source.file);
  const back = boundsBack(window, backFrom(carrier));
  const [mx, my] = [(back[0] + back[2]) / 2, (back[1] + back[3]) / 2];
  const away = ({ minx, miny, maxx, maxy }: RecordBounds): number =>
    Math.max(minx - mx, mx - maxx, 0) ** 2 + Math.max(miny - my, my - maxy, 0) ** 2;
  const near = store
    .boundsIn(back)
    .map((r) => ({ id: r.id, away: away(r) }))
    .sort((a, b) => a.away - b.away);
  let best: number | null = null;
  let least = reach;
  for (const { batch, ids } of store.byIds(near.slice(0, MOST_LOOKED_AT).map((r) => r.id))) {
    if (batch.layer !== layer) continue;
    const placed = transformBatch(placeBatch(batch, carrier, chord_m), carrier.transform).batch;
    for (let i = 0; i < placed.count; i++) {
      const d = distanceTo(placed, i, x, y);
      if (d > least || (d === least && best !== null && ids[i]! < best)) continue;
      least = d;
      best = ids[i]!;
    }
  }
  return best;
}

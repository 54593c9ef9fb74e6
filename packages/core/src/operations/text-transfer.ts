import { flatten } from '../geometry/flatten';
import { ringHolds } from '../geometry/ring-holds';
import { type Bounds, featureBounds, emptyBounds } from '../geometry/bounds';
import { eachPart, type FeatureBatch, POLYGON, TEXT } from '../model/batch';
import type { TextGift } from '../crossing/recipe';

/** A text that looks for the object that it belongs to. */
interface Seeker {
  record: number;
  text: string;
  x: number;
  y: number;
  gift: TextGift;
  /** The object found, and how good it is: the area it stands in, or the distance. */
  object: number;
  best: number;
}

/** Texts in a grid of squares, so that an object meets only those near it. */
class TextGrid {
  private readonly cells = new Map<string, Seeker[]>();
  constructor(private readonly size: number) {}

  add(seeker: Seeker): void {
    const key = `${Math.floor(seeker.x / this.size)} ${Math.floor(seeker.y / this.size)}`;
    const cell = this.cells.get(key);
    if (cell) cell.push(seeker);
    else this.cells.set(key, [seeker]);
  }

  *within([minx, miny, maxx, maxy]: Bounds): Generator<Seeker> {
    const [x0, x1, y0, y1] = [minx, maxx, miny, maxy].map((v) => Math.floor(v / this.size)) as [number, number, number, number];
    // an object larger than the whole grid: the cells that there are, not those that there might be
    if ((x1 - x0 + 1) * (y1 - y0 + 1) > this.cells.size) {
      for (const cell of this.cells.values()) yield* cell.filter((s) => s.x >= minx && s.x <= maxx && s.y >= miny && s.y <= maxy);
      return;
    }
    for (let x = x0; x <= x1; x++) for (let y = y0; y <= y1; y++) yield* this.cells.get(`${x} ${y}`) ?? [];
  }
}

/** Chord tolerance for asking where a text stands, as a share of the reach. */
const FINE = 0.01;

/**
 * Finds the object of each text: the smallest area that it stands in, or the nearest object within reach. First all batches are
 * shown to `collect`, then again to `meet`, numbered in the same order; then `given` and `homeless` tell.
 */
export class TextGiver {
  private readonly seekers: Seeker[] = [];
  private readonly grids = new Map<string, { gift: TextGift; grid: TextGrid; reach: number }[]>();

  /** @param gifts by the layer that the texts are on @param unit_m metres in a unit of the coordinates */
  constructor(
    private readonly gifts: ReadonlyMap<string, TextGift>,
    private readonly unit_m: number,
  ) {}

  /** @param first number of the batch's first record among all */
  collect(batch: FeatureBatch, first: number): void {
    const gift = this.gifts.get(batch.layer);
    const texts = batch.columns.get('text');
    if (!gift || !texts) return;
    for (let i = 0; i < batch.count; i++) {
      const text = texts[i];
      if (batch.kinds[i] !== TEXT || typeof text !== 'string') continue;
      const v = 3 * (i === 0 ? 0 : batch.partEnds[batch.featureEnds[i - 1]! - 1]!);
      this.seekers.push({ record: first + i, text, x: batch.coords[v]!, y: batch.coords[v + 1]!, gift, object: -1, best: Infinity });
    }
  }

  private settle(): void {
    for (const gift of new Set(this.gifts.values())) {
      const own = this.seekers.filter((s) => s.gift === gift);
      const reach = gift.how === 'near' ? gift.within_m / this.unit_m : 0;
      const xs = own.map((s) => s.x),
        ys = own.map((s) => s.y);
      const spread =
        own.length === 0
          ? 1
          : Math.max(
              xs.reduce((a, b) => Math.max(a, b)) - xs.reduce((a, b) => Math.min(a, b)),
              ys.reduce((a, b) => Math.max(a, b)) - ys.reduce((a, b) => Math.min(a, b)),
            );
      const grid = new TextGrid(Math.max(reach, spread / Math.sqrt(own.length + 1), 1e-9));
      for (const seeker of own) grid.add(seeker);
      const list = this.grids.get(gift.layer) ?? [];
      this.grids.set(gift.layer, [...list, { gift, grid, reach }]);
    }
  }

  meet(batch: FeatureBatch, first: number): void {
    if (this.grids.size === 0) this.settle();
    const gifts = this.grids.get(batch.layer);
    if (!gifts) return;
    const flat = flatten(batch, Math.max(...gifts.map((g) => g.reach)) * FINE || 0.01 / this.unit_m);
    const box = emptyBounds();
    for (let i = 0; i < flat.count; i++) {
      if (flat.kinds[i] === TEXT) continue;
      featureBounds(flat, i, box);
      for (const { gift, grid, reach } of gifts) {
        for (const seeker of grid.within([box[0] - reach, box[1] - reach, box[2] + reach, box[3] + reach])) {
          const how = gift.how === 'in' ? areaAround(flat, i, box, seeker) : distanceTo(flat, i, seeker);
          if (how < seeker.best && (gift.how === 'in' || how <= reach)) {
            seeker.best = how;
            seeker.object = first + i;
          }
        }
      }
    }
  }

  /** Fields given to objects, by the number of the object: the texts in their order, one below the other. */
  given(): Map<number, Map<string, string>> {
    const out = new Map<number, Map<string, string>>();
    for (const { object, text, gift } of this.seekers) {
      if (object < 0) continue;
      let fields = out.get(object);
      if (!fields) out.set(object, (fields = new Map()));
      const known = fields.get(gift.field);
      fields.set(gift.field, known === undefined ? text : `${known}\n${text}`);
    }
    return out;
  }

  /** Numbers of the texts that found an object. */
  housed(): Set<number> {
    return new Set(this.seekers.filter((s) => s.object >= 0).map((s) => s.record));
  }

  /** Which text went where, or nowhere. */
  list(): { record: number; text: string; x: number; y: number; object: number | null; layer: string; field: string }[] {
    return this.seekers.map((s) => ({
      record: s.record,
      text: s.text,
      x: s.x,
      y: s.y,
      object: s.object < 0 ? null : s.object,
      layer: s.gift.layer,
      field: s.gift.field,
    }));
  }
}

/** Size of the box of an area that holds the place; infinite when it does not. */
function areaAround(batch: FeatureBatch, i: number, box: Bounds, { x, y }: { x: number; y: number }): number {
  if (batch.kinds[i] !== POLYGON || x < box[0] || x > box[2] || y < box[1] || y > box[3]) return Infinity;
  let inside = false;
  eachPart(batch, i, (start, end) => {
    if (ringHolds(batch.coords, start, end, x, y)) inside = !inside;
  });
  return inside ? (box[2] - box[0]) * (box[3] - box[1]) : Infinity;
}

function distanceTo(batch: FeatureBatch, i: number, { x, y }: { x: number; y: number }): number {
  let least = Infinity;
  const { coords } = batch;
  eachPart(batch, i, (start, end) => {
    for (let v = start; v < end; v++) {
      const [ax, ay] = [coords[3 * v]!, coords[3 * v + 1]!];
      const last = v + 1 === end;
      const dx = last ? 0 : coords[3 * v + 3]! - ax,
        dy = last ? 0 : coords[3 * v + 4]! - ay;
      const size = dx * dx + dy * dy;
      const t = size === 0 ? 0 : Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / size));
      least = Math.min(least, Math.hypot(x - ax - t * dx, y - ay - t * dy));
    }
  });
  return least;
}

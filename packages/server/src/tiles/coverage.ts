import { TILE_PIXELS } from '@pontrel/contract/tile-grid';
import { MVT_EXTENT, MVT_POLYGON, type TileFeature } from './mvt';

/** Grid steps in one pixel. */
const STEPS = MVT_EXTENT / TILE_PIXELS;

/** Steps by which rectangles of pixels reach over each other, so that no seam shows between them at scales between those of the tiles. */
const OVERLAP = 2;

/** What of a record decides how its pixels are drawn. */
export interface CoverLook {
  source: string;
  layer: string;
  kind: string;
  color: string | null;
}

/** Ways of drawing that are told apart in one tile; what comes beyond is drawn as the first of its layer. */
const MOST_LOOKS = 200;

/** The pixels of a tile that some records cover. */
export class PixelMask {
  private readonly bits = new Uint8Array(TILE_PIXELS * TILE_PIXELS);

  /** Marks the pixel that a place lies in. @param x in pixels from the west edge @param y in pixels from the north edge */
  mark(x: number, y: number): void {
    const px = Math.floor(x),
      py = Math.floor(y);
    if (px >= 0 && py >= 0 && px < TILE_PIXELS && py < TILE_PIXELS) this.bits[py * TILE_PIXELS + px] = 1;
  }

  /** Marks the pixels along a straight line. */
  line(x0: number, y0: number, x1: number, y1: number): void {
    const steps = Math.ceil(2 * Math.max(Math.abs(x1 - x0), Math.abs(y1 - y0)));
    for (let k = 0; k <= steps; k++) {
      const t = steps === 0 ? 0 : k / steps;
      this.mark(x0 + (x1 - x0) * t, y0 + (y1 - y0) * t);
    }
  }

  /** Marks a dot of three pixels across. */
  dot(x: number, y: number): void {
    for (const [dx, dy] of [
      [0, 0],
      [1, 0],
      [-1, 0],
      [0, 1],
      [0, -1],
    ] as const)
      this.mark(x + dx, y + dy);
  }

  /** The marked pixels as rectangles in steps of the tile: runs of a row, joined with those of equal length below. */
  rectangles(): number[][] {
    const out: number[][] = [];
    let open = new Map<number, { from: number; to: number; top: number }>();
    for (let y = 0; y <= TILE_PIXELS; y++) {
      const next: typeof open = new Map();
      for (const [from, to] of y < TILE_PIXELS ? this.runs(y) : []) {
        const key = from * (TILE_PIXELS + 1) + to;
        next.set(key, open.get(key) ?? { from, to, top: y });
      }
      for (const [key, { from, to, top }] of open) {
        if (next.has(key)) continue;
        const [x0, x1, y0, y1] = [from * STEPS, to * STEPS + OVERLAP, top * STEPS, y * STEPS + OVERLAP];
        out.push([x0, y0, x1, y0, x1, y1, x0, y1]);
      }
      open = next;
    }
    return out;
  }

  private *runs(y: number): Generator<[from: number, to: number]> {
    const row = y * TILE_PIXELS;
    for (let x = 0; x < TILE_PIXELS; x++) {
      if (this.bits[row + x] === 0) continue;
      const from = x;
      while (x < TILE_PIXELS && this.bits[row + x] !== 0) x++;
      yield [from, x];
    }
  }
}

/**
 * What records too many to be drawn one by one cover of a tile: every one of them marks its pixels, none is left out, and what is drawn
 * alike is one feature.
 */
export class Coverage {
  private readonly masks = new Map<string, { look: CoverLook; mask: PixelMask }>();

  mask(look: CoverLook): PixelMask {
    const key = `${look.layer}\n${look.kind}\n${look.color ?? ''}`;
    let own = this.masks.get(key);
    if (!own && this.masks.size >= MOST_LOOKS) own = [...this.masks.values()].find((m) => m.look.layer === look.layer);
    if (!own) this.masks.set(key, (own = { look, mask: new PixelMask() }));
    return own.mask;
  }

  /** One feature a way of drawing. They stand for many records, so that none can be picked by them. */
  features(): TileFeature[] {
    return [...this.masks.values()].flatMap(({ look: { color, ...look }, mask }): TileFeature[] => {
      const parts = mask.rectangles();
      return parts.length === 0
        ? []
        : [{ id: 0, type: MVT_POLYGON, parts, properties: { ...look, entity: '', cover: 1, ...(color === null ? {} : { color }) } }];
    });
  }
}

import type Database from 'better-sqlite3';
import type { Bounds } from '@pontrel/core/geometry/bounds';

/** Bounds of a record, to single precision and never too small; `layer` is the store's own number for it. */
export interface RecordBounds {
  id: number;
  minx: number;
  maxx: number;
  miny: number;
  maxy: number;
  layer: number;
}

/** Records in a page, and bytes of one: id and layer, then west, east, south and north to single precision. */
const PAGE = 8192,
  ROW = 24;

type Raw = [id: number, minx: number, maxx: number, miny: number, maxy: number, layer: number];

/**
 * Writes the bounds once more as pages of plain numbers, in the order of the tree, in which neighbours lie together: a picture
 * of a whole county asks for all of them, and to take them row by row from the tree takes longer than to draw them.
 */
export function writePages(db: Database.Database): void {
  const insert = db.prepare('INSERT INTO bounds_pages (minx, maxx, miny, maxy, bytes) VALUES (?, ?, ?, ?, ?)');
  const view = new DataView(new ArrayBuffer(PAGE * ROW));
  const box = [Infinity, -Infinity, Infinity, -Infinity];
  let n = 0;
  const flush = (): void => {
    if (n > 0) insert.run(...box, Buffer.from(view.buffer, 0, n * ROW));
    n = 0;
    box.splice(0, 4, Infinity, -Infinity, Infinity, -Infinity);
  };
  // one table is written while another is read, which the tree does not mind
  db.unsafeMode(true);
  try {
    for (const [id, minx, maxx, miny, maxy, layer] of db
      .prepare<[], Raw>('SELECT id, minx, maxx, miny, maxy, layer FROM bounds')
      .raw()
      .iterate()) {
      view.setUint32(n * ROW, id, true);
      view.setUint32(n * ROW + 4, layer, true);
      [minx, maxx, miny, maxy].forEach((v, k) => {
        view.setFloat32(n * ROW + 8 + 4 * k, v, true);
        box[k] = k % 2 === 0 ? Math.min(box[k]!, v) : Math.max(box[k]!, v);
      });
      if (++n === PAGE) flush();
    }
    flush();
  } finally {
    db.unsafeMode(false);
  }
}

/** Bounds of the records that touch a box; null where a store has no pages. */
export function boundsFromPages(db: Database.Database, [x0, y0, x1, y1]: Bounds): RecordBounds[] | null {
  if (!db.prepare("SELECT 1 FROM sqlite_master WHERE name = 'bounds_pages'").get()) return null;
  const out: RecordBounds[] = [];
  const pages = db
    .prepare<number[], Buffer>('SELECT bytes FROM bounds_pages WHERE maxx >= ? AND minx <= ? AND maxy >= ? AND miny <= ?')
    .pluck();
  for (const bytes of pages.iterate(x0, x1, y0, y1)) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    for (let at = 0; at < bytes.length; at += ROW) {
      const minx = view.getFloat32(at + 8, true),
        maxx = view.getFloat32(at + 12, true),
        miny = view.getFloat32(at + 16, true),
        maxy = view.getFloat32(at + 20, true);
      if (maxx >= x0 && minx <= x1 && maxy >= y0 && miny <= y1)
        out.push({ id: view.getUint32(at, true), layer: view.getUint32(at + 4, true), minx, maxx, miny, maxy });
    }
  }
  return out;
}

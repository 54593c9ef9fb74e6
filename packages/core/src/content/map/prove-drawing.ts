import type { Bounds } from '../../geometry/bounds';
import type { Watch } from '../../io/bytes';
import { type FeatureBatch, NO_GEOMETRY, TEXT } from '../../model/batch';
import type { PixelWindow, Raster } from '../../model/raster';
import type { Finding } from '../../model/finding';
import { type Reason, REASONS } from '../../model/reason';
import { Account, type AccountRow } from '../account';
import { type Band, MapDrawing } from './drawing';
import type { PixelGrid } from '../../raster/pixel-grid';
import { probesOf } from './probes';
import { letterCorners } from './shape-box';
import type { Shape } from './shapes';
import { type DrawnRecord, type DrawnSource, recordsOf, type RecordsToDraw } from './records';

/** A source whose records are drawn, read from its file once more with an account of everything in it. */
export interface ProvedSource extends DrawnSource {
  /** @param account gets every item that is read, and those that the rules leave behind */
  reading(account: Account): AsyncIterable<FeatureBatch>;
  /** What the reader said when it was read last. */
  findings(): readonly Finding[];
}

/** What a look at a map for its records says. */
export interface DrawingProof {
  account: AccountRow[];
  /** Records that lie on the picture, and those of them of which nothing is to be seen. */
  records: { drawn: number; unseen: number };
  /** Pixels that nothing of the drawing lets through, and those of them that have another colour in the file. */
  pixels: { solid: number; different: number };
  labels: { placed: number; noRoom: number };
}

/** What a text is said to be that reaches over the edge of its picture. */
export const LETTERING_CUT = 'lettering-cut';

/** Opacity, of 255, from which a pixel of the drawing hides what is below. */
const SOLID = 250;
/** Values by which the colour of such a pixel may differ through what shines through it and rounding. */
const SHINES = 6;

/** What was written, as a map is looked for in it. */
export interface WrittenMap {
  read(window: PixelWindow): Promise<Raster>;
  /** Which pixels of a window lie within its area; null where all do. */
  within: ((window: PixelWindow) => Uint8Array) | null;
  /** Values by which pixels may differ on the mean through packing; null where they arrive as they are. */
  packed: number | null;
}

/**
 * Looks for every record of a map in what was written: the drawing is made once more from the files of the sources; something of each record
 * must be seen at a place where it lies, and what is solid in the drawing must have its colour in the file.
 */
export async function proveDrawing(
  { grid, map }: Pick<RecordsToDraw, 'grid' | 'map'>,
  sources: readonly ProvedSource[],
  { read, within, packed }: WrittenMap,
  watch: Watch,
): Promise<DrawingProof> {
  const account = new Account();
  const quiet = sources.map((s) => ({ ...s, read: () => s.reading(new Account()) }));
  const drawing = new MapDrawing({ grid, map, sources: quiet }, () => watch.check());
  const settled = new Settled(account);
  const tally = { solid: 0, different: 0, sum: 0 };
  let first = true;
  for await (const band of drawing.bands()) {
    watch.progress(band.top, grid.height);
    const window = { x: 0, y: band.top, width: grid.width, height: band.height };
    const mask = within?.(window) ?? null;
    mask?.forEach((inside, k) => {
      if (!inside) band.pixels[4 * k + 3] = 0;
    });
    compareSolid(band, await read(window), tally);
    const box: Bounds = [0, band.top, grid.width, band.top + band.height];
    // items are numbered in each pass over the records; those of the first are what there was
    const numbering = first ? account : new Account();
    for (const source of sources)
      for await (const drawn of recordsOf({ ...source, read: () => source.reading(numbering) }, { grid, map }, (batch, i, reason) =>
        settled.left(source.name, batch, i, reason),
      )) {
        watch.check();
        for (const record of drawn) settled.look(source.name, record, box, band, mask);
      }
    if (first)
      for (const source of sources)
        for (const { left, location, code, count, message } of source.findings())
          if (left) account.layer(source.name, location ?? '').notRead(code, count, message);
    first = false;
  }
  for (const source of quiet)
    for await (const drawn of recordsOf(source, { grid, map })) for (const record of drawn) settled.finish(source.name, record, grid);
  const rows = account.rows();
  const sum = (of: (row: AccountRow) => number): number => rows.reduce((n, row) => n + of(row), 0);
  const { placed, noRoom } = await drawing.labels();
  const lies = packed === null || tally.sum / Math.max(1, tally.solid) > 3 * packed + SHINES;
  return {
    account: rows,
    records: { drawn: sum((r) => r.crossed + r.missing), unseen: sum((r) => r.missing) },
    pixels: { solid: tally.solid, different: lies ? tally.different : 0 },
    labels: { placed: placed.length, noRoom },
  };
}

/** What is known of an item while bands are looked at: something of it lies on the picture, is seen there, or should be and is not. */
const LIES = 1,
  SEEN = 2,
  UNSEEN = 4;

/** What is known of the items of a layer, a byte each. */
class Sights {
  private known = new Uint8Array(1024);

  add(item: number, what: number): void {
    if (item >= this.known.length) {
      const grown = new Uint8Array(Math.max(item + 1, 2 * this.known.length));
      grown.set(this.known);
      this.known = grown;
    }
    this.known[item] = this.known[item]! | what;
  }

  has(item: number, what: number): boolean {
    return ((this.known[item] ?? 0) & what) !== 0;
  }
}

/** What becomes of records while bands are looked at. */
class Settled {
  /** By source and layer. */
  private readonly sights = new Map<string, Sights>();

  constructor(private readonly account: Account) {}

  /** Looks for a record in a band. @param mask which of its pixels lie within the area; null where all do */
  look(source: string, { batch, i, lost, shapes }: DrawnRecord, box: Bounds, band: Band, mask: Uint8Array | null): void {
    if (batch.kinds[i] === NO_GEOMETRY) return this.left(source, batch, i, REASONS.noGeometry);
    if (lost) return this.left(source, batch, i, REASONS.noImage);
    const visible = shapes().filter((s) => opacityOf(s) > 0);
    if (visible.length === 0) return this.left(source, batch, i, REASONS.drawsNothing);
    const item = batch.items![i]!;
    const sight = this.sightOf(source, batch);
    for (const shape of visible) {
      const probes = onPicture(probesOf(shape, box, mask !== null), box, mask);
      if (probes.length === 0) continue;
      sight.add(item, LIES);
      if (isSeen(probes, band, box[2], opacityOf(shape))) sight.add(item, SEEN);
      // a gap between dashes or letters may be all that lies in a band
      else if (shape.kind === 'area' || (shape.kind === 'line' && !shape.pen.dash)) sight.add(item, UNSEEN);
    }
  }

  /** To be called for every record once all bands were looked at. */
  finish(source: string, { batch, i, shapes }: DrawnRecord, { width, height }: PixelGrid): void {
    const item = batch.items![i]!;
    const sight = this.sightOf(source, batch);
    if (!sight.has(item, LIES)) return this.left(source, batch, i, REASONS.offPicture);
    const layer = this.account.layer(source, batch.layer);
    if (sight.has(item, SEEN) && !sight.has(item, UNSEEN)) layer.crossed(item);
    const reaches = (corners: readonly number[]): boolean => corners.some((v, k) => v < 0 || v > (k % 2 === 0 ? width : height));
    if (batch.kinds[i] === TEXT && shapes().some((s) => s.kind === 'letters' && reaches(letterCorners(s.lettering))))
      layer.changed(item, LETTERING_CUT);
  }

  left(source: string, batch: FeatureBatch, i: number, reason: Reason): void {
    this.account.layer(source, batch.layer).left(batch.items![i]!, reason, batch.locations[i]!);
  }

  private sightOf(source: string, { layer }: FeatureBatch): Sights {
    const key = `${source}\n${layer}`;
    let own = this.sights.get(key);
    if (!own) this.sights.set(key, (own = new Sights()));
    return own;
  }
}

const opacityOf = (shape: Shape): number => (shape.kind === 'letters' ? 1 : shape.kind === 'line' ? shape.pen.opacity : shape.fill.opacity);

/** Those of some places that lie in a band and within its area. */
function onPicture(probes: readonly number[], [, top, width, bottom]: Bounds, mask: Uint8Array | null): number[] {
  const out: number[] = [];
  for (let k = 0; k < probes.length; k += 2) {
    const c = Math.floor(probes[k]!),
      r = Math.floor(probes[k + 1]!);
    if (c < 0 || r < top || c >= width || r >= bottom || (mask && !mask[(r - top) * width + c])) continue;
    out.push(probes[k]!, probes[k + 1]!);
  }
  return out;
}

/** The share of its opacity that the thinnest line has at the pixel that it runs through, or at one beside it. */
const SHARE_SEEN = 0.3;

/** Whether something as opaque as a shape is drawn at one of some places, or beside it. */
function isSeen(probes: readonly number[], { top, height, pixels }: Band, width: number, opacity: number): boolean {
  const least = Math.max(1, 255 * SHARE_SEEN * opacity);
  for (let k = 0; k < probes.length; k += 2) {
    const c = Math.floor(probes[k]!),
      r = Math.floor(probes[k + 1]!) - top;
    for (let y = Math.max(0, r - 1); y <= Math.min(height - 1, r + 1); y++)
      for (let x = Math.max(0, c - 1); x <= Math.min(width - 1, c + 1); x++) if (pixels[4 * (y * width + x) + 3]! >= least) return true;
  }
  return false;
}

/** Compares what is solid in a drawing with the same pixels of the file. */
function compareSolid({ pixels }: Band, { data, bands }: Raster, tally: { solid: number; different: number; sum: number }): void {
  for (let i = 0; 4 * i < pixels.length; i++) {
    if (pixels[4 * i + 3]! < SOLID) continue;
    tally.solid++;
    let off = 0;
    for (let b = 0; b < 3; b++) off = Math.max(off, Math.abs(data[i * bands + Math.min(b, bands - 1)]! - pixels[4 * i + b]!));
    tally.sum += off;
    if (off > SHINES) tally.different++;
  }
}

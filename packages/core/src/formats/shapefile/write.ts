import { ringArea2 } from '../../geometry/ring-area';
import { writePrj } from '../../crs/definitions/wkt1';
import type { Crs } from '../../crs/crs';
import { type Bounds, emptyBounds, grow, isEmpty } from '../../geometry/bounds';
import { ringDepths } from '../../geometry/nesting';
import type { FolderSink } from '../../io/bytes';
import { type FeatureBatch, partCount, partRanges, vertexRange } from '../../model/batch';
import { putText } from '../prj';
import { hasSheet, sldOf, STYLE } from '../styles';
import type { DeliverableWriter, TargetSet, WriteContext } from '../format';
import { BufferedSink } from '../../io/buffered-sink';
import { DbfWriter } from './dbf-write';
import { SIDECAR, SidecarWriter } from './sidecar';
import { FILE_CODE, FILE_VERSION, HEADER_BYTES, NO_MEASURE, RECORD_HEADER_BYTES, SHAPE } from './shapes';

/** Stands for no measure: anything below −10³⁸ does. Source: "Shapefile Technical Description", 1998, page 2. */
const NOT_MEASURED = 10 * NO_MEASURE;

/** The shape type that a set is written as. */
function shapeTypeOf({ kind, several, heights, measures }: TargetSet): number {
  if (kind === 'none') return SHAPE.null;
  const form = kind === 'line' ? 'polyline' : kind === 'polygon' ? 'polygon' : several ? 'multipoint' : 'point';
  return heights ? SHAPE[`${form}Z`] : measures ? SHAPE[`${form}M`] : SHAPE[form];
}

/** Bytes that a vertex takes: a shape with heights always has room for measures. */
export const vertexBytes = ({ heights, measures }: Pick<TargetSet, 'heights' | 'measures'>): number => (heights ? 32 : measures ? 24 : 16);

/** Bytes that a file of a set may have: its lengths are counted in 16-bit words of 31 bits, and many programs stop at half of that. Common practice, no source. */
export const MOST_BYTES = 2 ** 31 - 1;

/** The name of the n-th part of a set, from 1. */
export const partName = (set: string, part: number): string => (part === 1 ? set : `${set}_part${part}`);

/**
 * Writes one shapefile: .shp, .shx, .dbf, .prj and .cpg.
 * Source: "Shapefile Technical Description", 1998; outer rings run clockwise and holes counter-clockwise (page 8).
 */
async function createShapefile(folder: FolderSink, set: TargetSet, name: string, crs: Crs): Promise<ShapefileWriter> {
  await putText(folder, `${name}.prj`, writePrj(crs));
  await putText(folder, `${name}.cpg`, 'UTF-8');
  const shp = new BufferedSink(await folder.create(`${name}.shp`));
  const shx = new BufferedSink(await folder.create(`${name}.shx`));
  const dbf = await DbfWriter.create(folder, `${name}.dbf`, set.fields);
  return new ShapefileWriter(set, shp, shx, dbf);
}

/** One shapefile a set, in as many parts as it needs to stay within `most` bytes a file. */
export async function createShapefiles(
  folder: FolderSink,
  sets: readonly TargetSet[],
  context: WriteContext,
  most = MOST_BYTES,
): Promise<DeliverableWriter> {
  const open = async (set: TargetSet, part: number): Promise<{ shapes: ShapefileWriter; sidecar: SidecarWriter }> => {
    const name = partName(set.name, part);
    if (hasSheet(set)) await putText(folder, `${name}${STYLE}`, sldOf(set, context));
    return {
      shapes: await createShapefile(folder, set, name, context.crs),
      sidecar: new SidecarWriter(await folder.create(`${name}${SIDECAR}`), set, context),
    };
  };
  const writers: (Awaited<ReturnType<typeof open>> & { part: number })[] = [];
  for (const set of sets) writers.push({ ...(await open(set, 1)), part: 1 });
  const close = async ({ shapes, sidecar }: (typeof writers)[number]): Promise<void> => {
    await shapes.close();
    await sidecar.close();
  };
  return {
    async append(set, batch, rows, n, source) {
      for (let from = 0; from < n;) {
        const { shapes, sidecar, part } = writers[set]!;
        const fits = shapes.fitting(batch, rows, from, n, most);
        if (fits === 0) {
          await close(writers[set]!);
          writers[set] = { ...(await open(sets[set]!, part + 1)), part: part + 1 };
          continue;
        }
        const some = from === 0 && fits === n ? rows : rows.subarray(from, from + fits);
        sidecar.append(batch, some, fits, source);
        await shapes.append(batch, some, fits);
        from += fits;
      }
    },
    async close(findings) {
      for (const [k, writer] of writers.entries()) {
        await close(writer);
        if (writer.part > 1)
          findings.add({
            code: 'shp-parts',
            severity: 'info',
            message: `${sets[k]!.name} is in ${writer.part} parts, as none of its files may be larger than ${Math.round(most / 1e6)} MB.`,
            count: writer.part,
            location: sets[k]!.name,
          });
      }
    },
  };
}

type Range = [number, number];

function widen(range: Range, value: number): void {
  if (value < range[0]) range[0] = value;
  if (value > range[1]) range[1] = value;
}

class ShapefileWriter {
  private readonly type: number;
  private readonly bounds: Bounds = emptyBounds();
  private readonly z: Range = [Infinity, -Infinity];
  private readonly m: Range = [Infinity, -Infinity];
  private records = 0;

  constructor(
    private readonly set: TargetSet,
    private readonly shp: BufferedSink,
    private readonly shx: BufferedSink,
    private readonly dbf: DbfWriter,
  ) {
    this.type = shapeTypeOf(set);
    for (const file of [shp, shx]) {
      file.reserve(HEADER_BYTES);
      file.at = HEADER_BYTES;
    }
  }

  async append(batch: FeatureBatch, rows: Uint32Array, n: number): Promise<void> {
    const row = this.set.kind === 'none';
    // records of several places make multipoints of all of the set: a file has one shape type
    const point = (this.set.kind === 'point' || this.set.kind === 'text') && !this.set.several;
    for (let k = 0; k < n; k++) {
      const i = rows[k]!;
      if (row) this.begin(4);
      else if (point) this.point(batch, i);
      else this.parts(batch, i);
      if (this.shp.full) await this.shp.flush();
      if (this.shx.full) await this.shx.flush();
    }
    await this.dbf.append(batch, rows, n);
  }

  /** How many of the records from the `from`-th on have room in files of so many bytes; at least one in an empty file. */
  fitting(batch: FeatureBatch, rows: Uint32Array, from: number, n: number, most: number): number {
    let bytes = this.shp.length;
    const rowBytes = 1 + this.set.fields.reduce((sum, f) => sum + f.width, 0);
    const rowsLeft = Math.floor((most - 1024 - 32 * this.set.fields.length) / rowBytes) - this.records;
    for (let k = from; k < n; k++) {
      const [start, end] = vertexRange(batch, rows[k]!);
      bytes += RECORD_HEADER_BYTES + 44 + 64 + 4 * partCount(batch, rows[k]!) + vertexBytes(this.set) * (end - start);
      if ((bytes > most || k - from >= rowsLeft) && !(k === from && this.records === 0)) return k - from;
    }
    return n - from;
  }

  async close(): Promise<void> {
    await this.shp.close(this.header(this.shp.length));
    await this.shx.close(this.header(this.shx.length));
    await this.dbf.close();
  }

  /** Record header and index entry; returns where the content begins. */
  private begin(contentBytes: number): number {
    const { shp, shx } = this;
    shp.reserve(RECORD_HEADER_BYTES + contentBytes);
    shx.reserve(8);
    const words = contentBytes / 2;
    shx.view.setInt32(shx.at, shp.length / 2);
    shx.view.setInt32(shx.at + 4, words);
    shx.at += 8;
    shp.view.setInt32(shp.at, ++this.records);
    shp.view.setInt32(shp.at + 4, words);
    const content = shp.at + RECORD_HEADER_BYTES;
    shp.view.setInt32(content, this.type, true);
    shp.at = content + contentBytes;
    return content;
  }

  private point(batch: FeatureBatch, i: number): void {
    const [v] = vertexRange(batch, i);
    const { heights, measures } = this.set;
    const x = batch.coords[3 * v]!,
      y = batch.coords[3 * v + 1]!;
    const at = this.begin(heights ? 36 : measures ? 28 : 20);
    const { view } = this.shp;
    view.setFloat64(at + 4, x, true);
    view.setFloat64(at + 12, y, true);
    if (heights) view.setFloat64(at + 20, this.height(batch.coords[3 * v + 2]!), true);
    if (heights || measures) view.setFloat64(at + (heights ? 28 : 20), this.measure(batch, v), true);
    grow(this.bounds, x, y);
  }

  private parts(batch: FeatureBatch, i: number): void {
    const [start, end] = vertexRange(batch, i);
    const count = end - start;
    const ranges = partRanges(batch, i);
    const { heights, measures, kind } = this.set;
    // a multipoint knows no parts
    const places = kind !== 'line' && kind !== 'polygon';
    const xy = places ? 40 : 44 + 4 * ranges.length;
    const blocks = (heights ? 1 : 0) + (heights || measures ? 1 : 0);
    const bytes = xy + 16 * count + blocks * (16 + 8 * count);
    const at = this.begin(bytes);
    const { view } = this.shp;
    if (!places) view.setInt32(at + 36, ranges.length, true);
    view.setInt32(at + (places ? 36 : 40), count, true);
    const { coords } = batch;
    const box: Bounds = emptyBounds();
    const z: Range = [Infinity, -Infinity];
    const m: Range = [Infinity, -Infinity];
    const zAt = at + xy + 16 * count;
    const mAt = heights ? zAt + 16 + 8 * count : zAt;
    let k = 0;
    const depths = kind === 'polygon' ? ringDepths(coords, ranges) : [];
    ranges.forEach(([s, e], p) => {
      if (!places) view.setInt32(at + 44 + 4 * p, k, true);
      // clockwise outside, counter-clockwise inside
      const turned = kind === 'polygon' && ringArea2(coords, s, e) > 0 === (depths[p]! % 2 === 0);
      for (let j = s; j < e; j++, k++) {
        const v = turned ? s + e - 1 - j : j;
        const x = coords[3 * v]!,
          y = coords[3 * v + 1]!;
        view.setFloat64(at + xy + 16 * k, x, true);
        view.setFloat64(at + xy + 16 * k + 8, y, true);
        grow(box, x, y);
        if (heights) {
          const h = this.height(coords[3 * v + 2]!);
          view.setFloat64(zAt + 16 + 8 * k, h, true);
          widen(z, h);
        }
        if (heights || measures) {
          const measure = this.measure(batch, v);
          view.setFloat64(mAt + 16 + 8 * k, measure, true);
          if (measure !== NOT_MEASURED) widen(m, measure);
        }
      }
    });
    for (let b = 0; b < 4; b++) view.setFloat64(at + 4 + 8 * b, box[b]!, true);
    if (heights) z.forEach((b, n) => view.setFloat64(zAt + 8 * n, b, true));
    if (heights || measures) m.forEach((b, n) => view.setFloat64(mAt + 8 * n, Number.isFinite(b) ? b : NOT_MEASURED, true));
    grow(this.bounds, box[0], box[1]);
    grow(this.bounds, box[2], box[3]);
  }

  /** A vertex without a height is written at zero; the bounds of the file follow. */
  private height(z: number): number {
    const h = Number.isNaN(z) ? 0 : z;
    widen(this.z, h);
    return h;
  }

  /** A vertex without a measure says so; the range of the file follows the others. */
  private measure(batch: FeatureBatch, v: number): number {
    const m = batch.measures?.[v] ?? NaN;
    if (Number.isNaN(m)) return NOT_MEASURED;
    widen(this.m, m);
    return m;
  }

  private header(bytes: number): Uint8Array {
    const out = new Uint8Array(HEADER_BYTES);
    const view = new DataView(out.buffer);
    view.setInt32(0, FILE_CODE);
    view.setInt32(24, bytes / 2);
    view.setInt32(28, FILE_VERSION, true);
    view.setInt32(32, this.type, true);
    if (!isEmpty(this.bounds)) this.bounds.forEach((b, k) => view.setFloat64(36 + 8 * k, b, true));
    if (this.z[0] <= this.z[1]) this.z.forEach((b, k) => view.setFloat64(68 + 8 * k, b, true));
    if (this.m[0] <= this.m[1]) this.m.forEach((b, k) => view.setFloat64(84 + 8 * k, b, true));
    return out;
  }
}

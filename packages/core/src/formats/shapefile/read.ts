import type { ByteSource, Watch } from '../../io/bytes';
import { ByteQueue } from '../../io/byte-queue';
import { watched } from '../../io/watched';
import { type FeatureBatch, LINE, POINT, POLYGON, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import { filterRecords } from '../../model/select-records';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { tellClosedRings } from '../closed-rings';
import type { OpenSource } from '../format';
import { symbolKey } from '../../symbology/library';
import { lengthUnit } from '../../symbology/sizes';
import { saysStyle } from '../../symbology/layer-style';
import { looksBy, type ReadSheet, readSld, withLooks } from '../../symbology/sld-read';
import { prjBeside, textOf } from '../prj';
import { STYLE } from '../styles';
import { DbfReader } from './dbf-read';
import { readSidecar, SIDECAR, withSidecar } from './sidecar';
import { FILE_CODE, HEADER_BYTES, NO_MEASURE, PATCH, RECORD_HEADER_BYTES, SHAPE } from './shapes';

/** How the content of a record is laid out, by shape type. */
const LAYOUTS: Record<number, { entity: string; kind: number; form: 'point' | 'points' | 'parts' | 'patch'; z: boolean; m?: true }> = {
  [SHAPE.point]: { entity: 'Point', kind: POINT, form: 'point', z: false },
  [SHAPE.pointZ]: { entity: 'PointZ', kind: POINT, form: 'point', z: true },
  [SHAPE.pointM]: { entity: 'PointM', kind: POINT, form: 'point', z: false, m: true },
  [SHAPE.multipoint]: { entity: 'MultiPoint', kind: POINT, form: 'points', z: false },
  [SHAPE.multipointZ]: { entity: 'MultiPointZ', kind: POINT, form: 'points', z: true },
  [SHAPE.multipointM]: { entity: 'MultiPointM', kind: POINT, form: 'points', z: false, m: true },
  [SHAPE.polyline]: { entity: 'PolyLine', kind: LINE, form: 'parts', z: false },
  [SHAPE.polylineZ]: { entity: 'PolyLineZ', kind: LINE, form: 'parts', z: true },
  [SHAPE.polylineM]: { entity: 'PolyLineM', kind: LINE, form: 'parts', z: false, m: true },
  [SHAPE.polygon]: { entity: 'Polygon', kind: POLYGON, form: 'parts', z: false },
  [SHAPE.polygonZ]: { entity: 'PolygonZ', kind: POLYGON, form: 'parts', z: true },
  [SHAPE.polygonM]: { entity: 'PolygonM', kind: POLYGON, form: 'parts', z: false, m: true },
  [SHAPE.multipatch]: { entity: 'MultiPatch', kind: POLYGON, form: 'patch', z: true },
};

/**
 * Opens a shapefile by its .shp; its companions are found beside it.
 * @param how without the sidecar; in a code page that was chosen; whether it is known to have measures
 */
export async function openShapefile(
  source: ByteSource,
  { bare = false, codePage, measures }: { bare?: boolean; codePage?: string | undefined; measures?: boolean } = {},
): Promise<OpenSource> {
  const cpg = await textOf(await source.sibling('.cpg'));
  const prj = await prjBeside(source);
  const table = await source.sibling('.dbf');
  const dbf = table ? await DbfReader.open(table, codePage ?? cpg) : null;
  const found = bare ? null : await readSidecar(await source.sibling(SIDECAR));
  const style = await styleBeside(source, prj.crs ? lengthUnit(prj.crs) : 1);
  // one of another state of the files would put wrong names to records
  const stale =
    found !== null && typeof found !== 'string' && dbf !== null && found.records !== dbf.count
      ? `${source.name}: its sidecar was written for ${found.records} records, the table has ${dbf.count}`
      : null;
  const sidecar = found === null || typeof found === 'string' || stale !== null ? null : found;
  const layers = new Set<string>();
  return {
    library() {
      const sheet = style?.sheet;
      if (!sheet) return sidecar?.library ?? null;
      // its records may have been on several layers, of which the style knows nothing
      const { label } = sheet.style;
      const told = { ...sheet.style, label: label && { ...label, field: sidecar?.fields.get(label.field) ?? label.field } };
      const styles = saysStyle(told) ? new Map([...layers].map((name) => [symbolKey(name), told])) : sheet.library.styles;
      return {
        ...(sidecar?.library ?? sheet.library),
        styles,
        lines: new Map([...sheet.library.lines, ...(sidecar?.library.lines ?? [])]),
      };
    },
    facts: () => ({ crs: prj.crs, crsText: prj.text, unit: null, version: null }),
    async *read(findings, watch) {
      if (prj.text === null)
        findings.add({
          code: 'shp-no-prj',
          severity: 'caution',
          message: `${source.name} has no .prj beside it: its coordinate system is not stated. Choose it in Place.`,
          count: 1,
        });
      if (prj.error !== null) findings.add({ code: 'shp-prj-unread', severity: 'caution', message: prj.error, count: 1 });
      if (!dbf)
        findings.add({
          code: 'shp-no-dbf',
          severity: 'caution',
          message: `${source.name} has no .dbf beside it: its records have no attributes.`,
          count: 1,
        });
      if (typeof found === 'string' || stale !== null)
        findings.add({
          code: 'shp-sidecar-unread',
          severity: 'caution',
          message: `${stale ?? String(found)}: long names, layers and symbols are not taken from it.`,
          count: 1,
        });
      if (style?.error) findings.add({ code: 'shp-style-unread', severity: 'caution', message: style.error, count: 1 });
      for (const what of style?.sheet?.left ?? [])
        findings.add({
          code: 'sld-left',
          severity: 'caution',
          message: `The style beside it has ${what}, which ${/s$/.test(what) ? 'are' : 'is'} not carried.`,
          count: 1,
        });
      for await (const plain of readShapes(source, dbf, measures ?? sidecar?.measures ?? false, findings, watch)) {
        const batch = !style?.sheet ? plain : bare ? { ...plain, symbology: looksBy(plain, style.sheet) } : withLooks(plain, style.sheet);
        for (const own of sidecar ? withSidecar(batch, sidecar) : [batch]) {
          layers.add(own.layer);
          yield own;
        }
      }
    },
  };
}

/** Larger styles are no help. */
const MOST_STYLE = 1 << 22;

/** The style beside a shapefile, or why it cannot be read. */
async function styleBeside(source: ByteSource, unit_m: number): Promise<{ sheet: ReadSheet | null; error: string | null } | null> {
  const beside = await source.sibling(STYLE);
  if (!beside || beside.size > MOST_STYLE) return null;
  try {
    return { sheet: readSld(beside.name, new TextDecoder().decode(await beside.read(0, beside.size)), unit_m), error: null };
  } catch (error) {
    if (error instanceof Problem) return { sheet: null, error: error.message };
    throw error;
  }
}

async function* readShapes(
  source: ByteSource,
  dbf: DbfReader | null,
  measured: boolean,
  findings: Findings,
  watch: Watch,
): AsyncGenerator<FeatureBatch> {
  const layer = source.name.replace(/\.shp$/i, '');
  const builder = new BatchBuilder(layer);
  if (dbf) builder.declare(dbf.declared());
  let first = 0; // record number of the batch's first record, among those of the table
  let record = 0;
  /** The row of each record of the batch, from its first: a multipatch is as many records as it has faces. */
  let rowOf: number[] = [];

  const finish = async (): Promise<FeatureBatch> => {
    const batch = builder.take();
    const rows = record - first;
    const { columns, deleted } = dbf
      ? await dbf.rows(first, Math.min(rows, Math.max(0, dbf.count - first)))
      : { columns: new Map<string, never[]>(), deleted: null };
    const plain = rowOf.length === rows;
    for (const [name, values] of columns)
      batch.columns.set(name, plain && values.length === rows ? values : rowOf.map((r) => values[r] ?? null));
    // a shape whose row is marked as deleted is deleted with it
    const kept = deleted ? filterRecords(batch, (i) => !deleted[rowOf[i]!]) : batch;
    if (deleted)
      findings.add({
        code: 'shp-deleted',
        severity: 'info',
        message: 'A shape has a row that is marked as deleted, and is left out.',
        count: deleted.filter(Boolean).length,
        location: layer,
        left: true,
      });
    first = record;
    rowOf = [];
    return kept;
  };

  const queue = new ByteQueue();
  let header = false;
  let noughts = measured;
  for await (const chunk of watched(source, watch)) {
    queue.push(chunk);
    const { bytes } = queue;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    let at = 0;
    if (!header) {
      if (bytes.length < HEADER_BYTES) continue;
      if (view.getInt32(0) !== FILE_CODE)
        throw new Problem('shp-not', `${source.name} is not a shapefile: it does not begin with the number 9994.`, { file: source.name });
      header = true;
      // a program that goes by the header sees fewer shapes, or none
      if (view.getInt32(24) * 2 !== source.size)
        findings.add({
          code: 'shp-length',
          severity: 'caution',
          message: `Its header says that it has ${view.getInt32(24) * 2} bytes, and it has ${source.size}: it is read to its end. Other programs may see fewer shapes.`,
          count: 1,
          location: layer,
        });
      noughts ||= [84, 92].some((offset) => view.getFloat64(offset, true) !== 0);
      at = HEADER_BYTES;
    }
    while (at + RECORD_HEADER_BYTES <= bytes.length) {
      const length = view.getInt32(at + 4) * 2;
      if (length < 4)
        throw new Problem(
          'shp-broken',
          `${source.name}: record ${record + 1} states a length of ${length} bytes. The file is damaged there.`,
          { file: source.name, record: record + 1 },
        );
      if (at + RECORD_HEADER_BYTES + length > bytes.length) break;
      const before = builder.count;
      shape(source.name, view, at + RECORD_HEADER_BYTES, length, noughts, builder, record, findings);
      for (let n = builder.count - before; n > 0; n--) rowOf.push(record - first);
      record++;
      at += RECORD_HEADER_BYTES + length;
      if (builder.full) yield* some(await finish());
    }
    queue.drop(at);
  }
  if (!header || queue.length > 0)
    throw new Problem('shp-cut', `${source.name} breaks off inside record ${record + 1}. Ask for the file again.`, {
      file: source.name,
      record: record + 1,
    });
  if (builder.count > 0) yield* some(await finish());
  tellClosedRings(builder, findings);
  for (const finding of dbf?.findings() ?? []) findings.add(finding);
  if (dbf && dbf.count !== record) {
    findings.add({
      code: 'shp-dbf-count',
      severity: 'wrong',
      message: `${source.name} has ${record} shapes but its table has ${dbf.count} rows.`,
      count: Math.abs(dbf.count - record),
    });
  }
}

/** A batch, where it has a record. */
const some = (batch: FeatureBatch): FeatureBatch[] => (batch.count > 0 ? [batch] : []);

/** Bytes of a record's content up to its vertices, by its form. */
const FIXED_BYTES = { point: 20, points: 40, parts: 44, patch: 44 } as const;

/**
 * The measure of each vertex of a record by its number, NaN where it has none. A shape with heights has room for measures, which most
 * programs fill with noughts when they have none: common practice, no source.
 * @param from where the measures begin, from the record's content on; they may be left out. Source: "Shapefile Technical Description", 1998, page 13
 * @param noughts whether the file tells of measures, so that noughts are some
 */
function measuresOf(view: DataView, at: number, length: number, from: number, n: number, noughts: boolean): (i: number) => number {
  const none = (): number => NaN;
  if (from + 8 * n > length) return none;
  const measure = (i: number): number => {
    const m = view.getFloat64(at + from + 8 * i, true);
    return m < NO_MEASURE ? NaN : m;
  };
  if (noughts) return measure;
  for (let i = 0; i < n; i++) if (measure(i) !== 0 && !Number.isNaN(measure(i))) return measure;
  return none;
}

/**
 * Takes one record's content into the builder.
 * @param noughts see {@link measuresOf}
 * @throws Problem `shp-broken`
 */
function shape(
  file: string,
  view: DataView,
  at: number,
  length: number,
  noughts: boolean,
  out: BatchBuilder,
  record: number,
  findings: Findings,
): void {
  const type = view.getInt32(at, true);
  const layout = LAYOUTS[type];
  if (!layout) {
    findings.add(
      type === SHAPE.null
        ? {
            code: 'shp-null',
            severity: 'info',
            message: 'A record has no geometry (null shape): it is a record without a place.',
            count: 1,
          }
        : {
            code: 'shp-type',
            severity: 'caution',
            message: `A shape of type ${type}, which there is not, is a record without a place.`,
            count: 1,
          },
    );
    out.endFeature(NO_GEOMETRY, 'Null', record + 1);
    return;
  }
  const broken = (): Problem =>
    new Problem(
      'shp-broken',
      `${file}: record ${record + 1} says that it holds more than its ${length} bytes have room for. The file is damaged there.`,
      { file, record: record + 1 },
    );
  if (length < FIXED_BYTES[layout.form] + (layout.form === 'point' && layout.z ? 8 : 0)) throw broken();
  const real = (offset: number): number => view.getFloat64(at + offset, true);
  const measures = (from: number, n: number): ((i: number) => number) =>
    layout.z || layout.m ? measuresOf(view, at, length, from, n, noughts || layout.m === true) : () => NaN;
  const end = (): void => out.endFeature(layout.kind, layout.entity, record + 1);
  if (layout.form === 'point') {
    out.vertex(real(4), real(12), layout.z ? real(20) : NaN, 0, measures(layout.z ? 28 : 20, 1)(0));
    out.endPart();
    end();
    return;
  }
  if (layout.form === 'points') {
    const n = view.getInt32(at + 36, true);
    const z = 40 + 16 * n + 16;
    if (n < 0 || (layout.z ? z + 8 * n : z - 16) > length) throw broken();
    const m = measures(layout.z ? z + 8 * n + 16 : z, n);
    for (let i = 0; i < n; i++) {
      out.vertex(real(40 + 16 * i), real(48 + 16 * i), layout.z ? real(z + 8 * i) : NaN, 0, m(i));
      out.endPart();
    }
    end();
    return;
  }
  const parts = view.getInt32(at + 36, true);
  const n = view.getInt32(at + 40, true);
  const patch = layout.form === 'patch';
  const xy = 44 + (patch ? 8 : 4) * parts;
  const z = xy + 16 * n + 16;
  if (parts < 0 || n < 0 || (layout.z ? z + 8 * n : xy + 16 * n) > length) throw broken();
  const m = measures(layout.z ? z + 8 * n + 16 : z, n);
  const put = (i: number): void => out.vertex(real(xy + 16 * i), real(xy + 16 * i + 8), layout.z ? real(z + 8 * i) : NaN, 0, m(i));
  const range = (p: number): [number, number] => {
    const stop = p + 1 < parts ? view.getInt32(at + 44 + 4 * (p + 1), true) : n;
    const begin = view.getInt32(at + 44 + 4 * p, true);
    if (begin < 0 || stop > n || begin > stop) throw broken();
    return [begin, stop];
  };
  if (!patch) {
    for (let p = 0; p < parts; p++) {
      const [begin, stop] = range(p);
      for (let i = begin; i < stop; i++) put(i);
      out.endPart();
    }
    end();
    return;
  }
  let faces = 0;
  let open = false;
  const close = (): void => {
    if (!open) return;
    end();
    faces++;
    open = false;
  };
  for (let p = 0; p < parts; p++) {
    const [begin, stop] = range(p);
    const what = view.getInt32(at + 44 + 4 * parts + 4 * p, true);
    if (what === PATCH.strip || what === PATCH.fan) {
      for (let i = begin; i + 2 < stop; i++) {
        close();
        for (const v of [what === PATCH.fan ? begin : i, i + 1, i + 2, what === PATCH.fan ? begin : i]) put(v);
        out.endPart();
        open = true;
      }
    } else {
      // a hole belongs to the ring before it, and so does a ring that does not say what it is after a first one
      if (what !== PATCH.inner && !(what === PATCH.ring && open)) close();
      for (let i = begin; i < stop; i++) put(i);
      out.endPart();
      open = stop > begin || open;
    }
  }
  close();
  if (faces === 0) out.endFeature(NO_GEOMETRY, 'Null', record + 1);
  else if (faces > 1)
    findings.add({
      code: 'shp-multipatch',
      severity: 'info',
      message: 'A multipatch is as many records as it has faces, each with its data.',
      count: 1,
    });
}

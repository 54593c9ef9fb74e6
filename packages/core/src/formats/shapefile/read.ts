import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type FeatureBatch, LINE, POINT, POLYGON } from '../../model/batch';
import { BATCH_RECORDS, BATCH_VERTICES, BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { OpenSource } from '../format';
import { prjBeside, textOf } from '../prj';
import { DbfReader } from './dbf-read';
import { readSidecar, SIDECAR, withSidecar } from './sidecar';
import { FILE_CODE, HEADER_BYTES, RECORD_HEADER_BYTES, SHAPE } from './shapes';

/** How the content of a record is laid out, by shape type. */
const LAYOUTS: Record<number, { entity: string; kind: number; form: 'point' | 'points' | 'parts'; z: boolean }> = {
  [SHAPE.point]: { entity: 'Point', kind: POINT, form: 'point', z: false },
  [SHAPE.pointZ]: { entity: 'PointZ', kind: POINT, form: 'point', z: true },
  [SHAPE.pointM]: { entity: 'PointM', kind: POINT, form: 'point', z: false },
  [SHAPE.multipoint]: { entity: 'MultiPoint', kind: POINT, form: 'points', z: false },
  [SHAPE.multipointZ]: { entity: 'MultiPointZ', kind: POINT, form: 'points', z: true },
  [SHAPE.multipointM]: { entity: 'MultiPointM', kind: POINT, form: 'points', z: false },
  [SHAPE.polyline]: { entity: 'PolyLine', kind: LINE, form: 'parts', z: false },
  [SHAPE.polylineZ]: { entity: 'PolyLineZ', kind: LINE, form: 'parts', z: true },
  [SHAPE.polylineM]: { entity: 'PolyLineM', kind: LINE, form: 'parts', z: false },
  [SHAPE.polygon]: { entity: 'Polygon', kind: POLYGON, form: 'parts', z: false },
  [SHAPE.polygonZ]: { entity: 'PolygonZ', kind: POLYGON, form: 'parts', z: true },
  [SHAPE.polygonM]: { entity: 'PolygonM', kind: POLYGON, form: 'parts', z: false },
};

/** Opens a shapefile by its .shp; its companions are found beside it. @param bare without the sidecar */
export async function openShapefile(source: ByteSource, bare = false): Promise<OpenSource> {
  const cpg = await textOf(await source.sibling('.cpg'));
  const prj = await prjBeside(source);
  const table = await source.sibling('.dbf');
  const dbf = table ? await DbfReader.open(table, cpg) : null;
  const found = bare ? null : await readSidecar(await source.sibling(SIDECAR));
  // one of another state of the files would put wrong names to records
  const stale = found !== null && typeof found !== 'string' && dbf !== null && found.records !== dbf.count ? `${source.name}: its sidecar was written for ${found.records} records, the table has ${dbf.count}` : null;
  const sidecar = found === null || typeof found === 'string' || stale !== null ? null : found;
  return {
    library: () => sidecar?.library ?? null,
    facts: () => ({ crs: prj.crs, crsText: prj.text, unit: null, version: null }),
    async *read(findings, watch) {
      if (prj.text === null) findings.add({ code: 'shp-no-prj', severity: 'caution', message: `${source.name} has no .prj beside it: its coordinate system is not stated. Choose it in Place.`, count: 1 });
      if (prj.error !== null) findings.add({ code: 'shp-prj-unread', severity: 'caution', message: prj.error, count: 1 });
      if (!dbf) findings.add({ code: 'shp-no-dbf', severity: 'caution', message: `${source.name} has no .dbf beside it: its records have no attributes.`, count: 1 });
      if (typeof found === 'string' || stale !== null) findings.add({ code: 'shp-sidecar-unread', severity: 'caution', message: `${stale ?? String(found)}: long names, layers and symbols are not taken from it.`, count: 1 });
      for await (const batch of readShapes(source, dbf, findings, watch)) {
        if (sidecar) yield* withSidecar(batch, sidecar);
        else yield batch;
      }
    },
  };
}

async function* readShapes(source: ByteSource, dbf: DbfReader | null, findings: Findings, watch: Watch): AsyncGenerator<FeatureBatch> {
  const layer = source.name.replace(/\.shp$/i, '');
  const builder = new BatchBuilder(layer);
  let first = 0; // record number of the batch's first record, among those of the table
  let record = 0;
  const skipped: number[] = [];

  const finish = async (): Promise<FeatureBatch> => {
    const batch = builder.take();
    const rows = record - first;
    const columns = dbf ? await dbf.rows(first, Math.min(rows, Math.max(0, dbf.count - first))) : new Map<string, never[]>();
    for (const [name, values] of columns) {
      for (let k = skipped.length - 1; k >= 0; k--) values.splice(skipped[k]! - first, 1);
      while (values.length < batch.count) values.push(null);
      batch.columns.set(name, values);
    }
    first = record;
    skipped.length = 0;
    return batch;
  };

  let rest = new Uint8Array(0);
  let header = false;
  for await (const chunk of watched(source, watch)) {
    const bytes = new Uint8Array(rest.length + chunk.length);
    bytes.set(rest);
    bytes.set(chunk, rest.length);
    const view = new DataView(bytes.buffer);
    let at = 0;
    if (!header) {
      if (bytes.length < HEADER_BYTES) { rest = bytes; continue; }
      if (view.getInt32(0) !== FILE_CODE) throw new Problem('shp-not', `${source.name} is not a shapefile: it does not begin with the number 9994.`, { file: source.name });
      header = true;
      at = HEADER_BYTES;
    }
    while (at + RECORD_HEADER_BYTES <= bytes.length) {
      const length = view.getInt32(at + 4) * 2;
      if (length < 4) throw new Problem('shp-broken', `${source.name}: record ${record + 1} states a length of ${length} bytes. The file is damaged there.`, { file: source.name, record: record + 1 });
      if (at + RECORD_HEADER_BYTES + length > bytes.length) break;
      if (!shape(source.name, view, at + RECORD_HEADER_BYTES, length, builder, record, findings)) skipped.push(record);
      record++;
      at += RECORD_HEADER_BYTES + length;
      if (builder.count >= BATCH_RECORDS || builder.vertices >= BATCH_VERTICES) yield await finish();
    }
    rest = bytes.slice(at);
  }
  if (!header || rest.length > 0) throw new Problem('shp-cut', `${source.name} breaks off inside record ${record + 1}. Ask for the file again.`, { file: source.name, record: record + 1 });
  if (builder.count > 0) yield await finish();
  if (dbf && dbf.count !== record) {
    findings.add({ code: 'shp-dbf-count', severity: 'wrong', message: `${source.name} has ${record} shapes but its table has ${dbf.count} rows.`, count: Math.abs(dbf.count - record) });
  }
}

/** Bytes of a record's content up to its vertices, by its form. */
const FIXED_BYTES = { point: 20, points: 40, parts: 44 } as const;

/** Takes one record's content into the builder; false when it has no geometry that is read. @throws Problem `shp-broken` */
function shape(file: string, view: DataView, at: number, length: number, out: BatchBuilder, record: number, findings: Findings): boolean {
  const type = view.getInt32(at, true);
  const layout = LAYOUTS[type];
  if (!layout) {
    findings.add(type === SHAPE.null
      ? { code: 'shp-null', severity: 'info', message: 'A record without geometry (null shape) is left out.', count: 1 }
      : { code: 'shp-type', severity: 'caution', message: `A shape of type ${type} is not read and stays behind.`, count: 1 });
    return false;
  }
  const broken = (): Problem => new Problem('shp-broken', `${file}: record ${record + 1} says that it holds more than its ${length} bytes have room for. The file is damaged there.`, { file, record: record + 1 });
  if (length < FIXED_BYTES[layout.form] + (layout.form === 'point' && layout.z ? 8 : 0)) throw broken();
  const real = (offset: number): number => view.getFloat64(at + offset, true);
  if (layout.form === 'point') {
    out.vertex(real(4), real(12), layout.z ? real(20) : NaN);
    out.endPart();
  } else if (layout.form === 'points') {
    const n = view.getInt32(at + 36, true);
    if (n < 0 || 40 + 16 * n + (layout.z ? 16 + 8 * n : 0) > length) throw broken();
    for (let i = 0; i < n; i++) {
      out.vertex(real(40 + 16 * i), real(48 + 16 * i), layout.z ? real(40 + 16 * n + 16 + 8 * i) : NaN);
      out.endPart();
    }
  } else {
    const parts = view.getInt32(at + 36, true);
    const n = view.getInt32(at + 40, true);
    const xy = 44 + 4 * parts;
    const z = xy + 16 * n + 16;
    if (parts < 0 || n < 0 || (layout.z ? z + 8 * n : xy + 16 * n) > length) throw broken();
    for (let p = 0; p < parts; p++) {
      const end = p + 1 < parts ? view.getInt32(at + 44 + 4 * (p + 1), true) : n;
      const begin = view.getInt32(at + 44 + 4 * p, true);
      if (begin < 0 || end > n || begin > end) throw broken();
      for (let i = begin; i < end; i++) {
        out.vertex(real(xy + 16 * i), real(xy + 16 * i + 8), layout.z ? real(z + 8 * i) : NaN);
      }
      out.endPart();
    }
  }
  out.endFeature(layout.kind, layout.entity, record + 1);
  return true;
}

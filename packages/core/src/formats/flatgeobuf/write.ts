import type { Value } from '../../model/value';
import { Builder, type Offset } from 'flatbuffers';
import { writeWkt2 } from '../../crs/definitions/wkt2';
import type { Crs } from '../../crs/crs';
import { type Bounds, emptyBounds, featureBounds, isEmpty, join } from '../../geometry/bounds';
import { polygonsOf } from '../../geometry/nesting';
import type { ByteSink, FolderSink } from '../../io/bytes';
import { type FeatureBatch, LINE, partRanges, POINT, POLYGON, NO_GEOMETRY, TEXT } from '../../model/batch';
import type { DeliverableWriter, TargetField, TargetSet, WriteContext } from '../format';
import { ByteWriter } from '../wkb';
import { COLUMN, CRS, FEATURE, GEOMETRY, HEADER, MAGIC, TYPE, VALUE } from './layout';

/** Whole numbers of more digits than 64 bits hold are written as fractions. */
const typeOf = (f: TargetField): number =>
  f.type === 'integer'
    ? f.width > 20
      ? VALUE.double
      : VALUE.long
    : {
        text: VALUE.string,
        decimal: VALUE.double,
        boolean: VALUE.bool,
        date: VALUE.dateTime,
        time: VALUE.string,
        datetime: VALUE.dateTime,
        bytes: VALUE.binary,
      }[f.type];

const SINGLE = {
  point: TYPE.point,
  text: TYPE.point,
  line: TYPE.line,
  polygon: TYPE.polygon,
  mixed: TYPE.unknown,
  none: TYPE.unknown,
} as const;
const SEVERAL: Record<number, number> = {
  [TYPE.point]: TYPE.points,
  [TYPE.line]: TYPE.lines,
  [TYPE.polygon]: TYPE.polygons,
  [TYPE.unknown]: TYPE.unknown,
};

/** The one kind that all geometries of a set have. */
const geometryType = (set: TargetSet): number => (set.several ? SEVERAL[SINGLE[set.kind]]! : SINGLE[set.kind]);

/** One file a set, in the order of its records and so without an index, which would order them anew. Source: FlatGeobuf specification 3. */
export async function createFlatGeobuf(folder: FolderSink, sets: readonly TargetSet[], { crs }: WriteContext): Promise<DeliverableWriter> {
  const files = await Promise.all(sets.map(async (set) => FeatureFile.create(await folder.create(`${set.name}.fgb`), set, crs)));
  return {
    append: (s, batch, rows, n) => files[s]!.append(batch, rows, n),
    async close() {
      for (const file of files) await file.close();
    },
  };
}

const FLUSH_AT = 1 << 20;

class FeatureFile {
  private readonly out = new ByteWriter();
  private readonly builder = new Builder(4096);
  private readonly properties = new ByteWriter();
  private readonly extent: Bounds = emptyBounds();
  private readonly box: Bounds = emptyBounds();
  private readonly encoder = new TextEncoder();
  private records = 0;

  private constructor(
    private readonly sink: ByteSink,
    private readonly set: TargetSet,
    private readonly crs: Crs,
  ) {}

  static async create(sink: ByteSink, set: TargetSet, crs: Crs): Promise<FeatureFile> {
    const file = new FeatureFile(sink, set, crs);
    // the number of features and their extent take their place at the end
    await sink.write(Uint8Array.from([...MAGIC, ...file.header()]));
    return file;
  }

  async append(batch: FeatureBatch, rows: Uint32Array, n: number): Promise<void> {
    const columns = this.set.fields.map((f) => ({ type: typeOf(f), column: batch.columns.get(f.from) }));
    for (let k = 0; k < n; k++) {
      const i = rows[k]!;
      this.records++;
      featureBounds(batch, i, this.box);
      join(this.extent, this.box);
      this.put(this.feature(batch, i, columns));
      if (this.out.at >= FLUSH_AT) await this.flush();
    }
  }

  async close(): Promise<void> {
    await this.flush();
    await this.sink.patch(MAGIC.length, this.header());
    await this.sink.close();
  }

  private put(bytes: Uint8Array): void {
    const { out } = this;
    out.room(bytes.length);
    out.bytes.set(bytes, out.at);
    out.at += bytes.length;
  }

  private async flush(): Promise<void> {
    await this.sink.write(this.out.bytes.slice(0, this.out.at));
    this.out.at = 0;
  }

  private header(): Uint8Array {
    const b = new Builder(1024);
    // every field stands, so that the header always takes the same room
    b.forceDefaults(true);
    const { set, crs } = this;
    const columns = vector(
      b,
      set.fields.map((f) => {
        const name = b.createString(f.to);
        b.startObject(COLUMN.scale + 1);
        b.addFieldOffset(COLUMN.name, name, 0);
        b.addFieldInt8(COLUMN.type, typeOf(f), 0);
        b.addFieldInt32(COLUMN.width, f.type === 'text' ? (f.declared?.width ?? -1) : -1, -1);
        b.addFieldInt32(COLUMN.precision, f.type === 'text' ? -1 : (f.declared?.width ?? -1), -1);
        b.addFieldInt32(COLUMN.scale, f.declared?.decimals ?? -1, -1);
        return b.endObject();
      }),
    );
    const [org, code] = (crs.id ?? '').split(':');
    const system = {
      org: b.createString(org ?? ''),
      name: b.createString(crs.name),
      wkt: b.createString(writeWkt2(crs)),
      code: b.createString(code ?? ''),
    };
    b.startObject(CRS.codeString + 1);
    b.addFieldOffset(CRS.org, system.org, 0);
    b.addFieldInt32(CRS.code, /^\d+$/.test(code ?? '') ? Number(code) : 0, 0);
    b.addFieldOffset(CRS.name, system.name, 0);
    b.addFieldOffset(CRS.wkt, system.wkt, 0);
    b.addFieldOffset(CRS.codeString, system.code, 0);
    const stated = b.endObject();
    const name = b.createString(set.name);
    const envelope = reals(b, isEmpty(this.extent) ? [0, 0, 0, 0] : this.extent);
    b.startObject(HEADER.metadata + 1);
    b.addFieldOffset(HEADER.name, name, 0);
    b.addFieldOffset(HEADER.envelope, envelope, 0);
    b.addFieldInt8(HEADER.geometryType, geometryType(set), 0);
    b.addFieldInt8(HEADER.hasZ, set.heights ? 1 : 0, 0);
    b.addFieldInt8(HEADER.hasM, set.measures ? 1 : 0, 0);
    b.addFieldOffset(HEADER.columns, columns, 0);
    b.addFieldInt64(HEADER.featuresCount, BigInt(this.records), 0n);
    b.addFieldInt16(HEADER.indexNodeSize, 0, 16);
    if (set.kind !== 'none') b.addFieldOffset(HEADER.crs, stated, 0);
    b.finishSizePrefixed(b.endObject());
    return b.asUint8Array();
  }

  private feature(batch: FeatureBatch, i: number, columns: readonly { type: number; column: Value[] | undefined }[]): Uint8Array {
    const { builder: b, properties } = this;
    b.clear();
    properties.at = 0;
    columns.forEach(({ type, column }, k) => {
      const value = column?.[i] ?? null;
      if (value !== null) this.value(k, type, value);
    });
    const geometry = batch.kinds[i] === NO_GEOMETRY ? 0 : this.geometry(batch, i);
    const values = properties.at > 0 ? b.createByteVector(properties.bytes.subarray(0, properties.at)) : 0;
    b.startObject(FEATURE.columns + 1);
    b.addFieldOffset(FEATURE.geometry, geometry, 0);
    b.addFieldOffset(FEATURE.properties, values, 0);
    b.finishSizePrefixed(b.endObject());
    return b.asUint8Array();
  }

  private value(column: number, type: number, value: Exclude<Value, null>): void {
    const { properties: p } = this;
    p.byte(column & 255);
    p.byte(column >> 8);
    if (type === VALUE.bool) p.byte(value === true ? 1 : 0);
    else if (type === VALUE.double) p.real(Number(value));
    else if (type === VALUE.long) {
      p.room(8);
      p.view.setBigInt64(p.at, typeof value === 'bigint' ? value : BigInt(Number(value)), true);
      p.at += 8;
    } else {
      const bytes = value instanceof Uint8Array ? value : this.encoder.encode(String(value));
      p.integer(bytes.length);
      p.room(bytes.length);
      p.bytes.set(bytes, p.at);
      p.at += bytes.length;
    }
  }

  private geometry(batch: FeatureBatch, i: number): Offset {
    const { builder: b, set } = this;
    const { coords } = batch;
    const kind = batch.kinds[i]!;
    const parts = partRanges(batch, i);
    /** A geometry of some runs of vertices, each from its first to one past its last, or the other way round. */
    const simple = (runs: readonly { range: readonly [number, number]; turned: boolean }[], type: number, ends: boolean): Offset => {
      const xy: number[] = [],
        z: number[] = [],
        m: number[] = [],
        stops: number[] = [];
      for (const {
        range: [s, e],
        turned,
      } of runs) {
        for (let k = s; k < e; k++) {
          const v = turned ? s + e - 1 - k : k;
          xy.push(coords[3 * v]!, coords[3 * v + 1]!);
          z.push(coords[3 * v + 2]!);
          m.push(batch.measures?.[v] ?? NaN);
        }
        stops.push(xy.length / 2);
      }
      const at = {
        ends: ends && stops.length > 1 ? counts(b, stops) : 0,
        xy: reals(b, xy),
        z: set.heights ? reals(b, z) : 0,
        m: set.measures ? reals(b, m) : 0,
      };
      b.startObject(GEOMETRY.parts + 1);
      b.addFieldOffset(GEOMETRY.ends, at.ends, 0);
      b.addFieldOffset(GEOMETRY.xy, at.xy, 0);
      b.addFieldOffset(GEOMETRY.z, at.z, 0);
      b.addFieldOffset(GEOMETRY.m, at.m, 0);
      b.addFieldInt8(GEOMETRY.type, type, 0);
      return b.endObject();
    };
    const straight = parts.map((range) => ({ range, turned: false }));
    if (kind === POINT || kind === TEXT) return simple(straight, set.several ? TYPE.points : TYPE.point, false);
    if (kind === LINE) return simple(straight, set.several ? TYPE.lines : TYPE.line, true);
    if (kind !== POLYGON) throw new Error(`A record of kind ${kind} has no geometry.`);
    const polygons = polygonsOf(coords, parts);
    if (!set.several) return simple(polygons[0]!, TYPE.polygon, true);
    const inner = vector(
      b,
      polygons.map((rings) => simple(rings, TYPE.polygon, true)),
    );
    b.startObject(GEOMETRY.parts + 1);
    b.addFieldInt8(GEOMETRY.type, TYPE.polygons, 0);
    b.addFieldOffset(GEOMETRY.parts, inner, 0);
    return b.endObject();
  }
}

function vector(b: Builder, offsets: readonly Offset[]): Offset {
  b.startVector(4, offsets.length, 4);
  for (let k = offsets.length - 1; k >= 0; k--) b.addOffset(offsets[k]!);
  return b.endVector();
}

function reals(b: Builder, values: readonly number[]): Offset {
  b.startVector(8, values.length, 8);
  for (let k = values.length - 1; k >= 0; k--) b.addFloat64(values[k]!);
  return b.endVector();
}

function counts(b: Builder, values: readonly number[]): Offset {
  b.startVector(4, values.length, 4);
  for (let k = values.length - 1; k >= 0; k--) b.addInt32(values[k]!);
  return b.endVector();
}

import type { Declarations, FieldDeclaration, FieldType } from '../../model/field';
import { type Value, wholeValue } from '../../model/value';
import type { Crs } from '../../crs/crs';
import { readPositions } from '../../crs/definitions/read-definition';
import { identifyCrs } from '../../crs/registry/identify';
import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource, Watch } from '../../io/bytes';
import { ByteQueue } from '../../io/byte-queue';
import { watched } from '../../io/watched';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { tellClosedRings } from '../closed-rings';
import type { OpenSource, SourceFacts } from '../format';
import { putGeometry } from './geometry';
import { COLUMN, CRS, FEATURE, GEOMETRY, HEADER, indexBytes, MAGIC, NODE_SIZE, TYPE, VALUE } from './layout';
import { Table } from './table';

/** A header or a feature that is larger is no sound one. */
const MOST_BYTES = 1 << 28;

interface Column {
  name: string;
  type: number;
  /** Characters of a text, digits of a number in all and after the point; -1 where nothing is declared. */
  width: number;
  precision: number;
  scale: number;
}

/** Opens a file of features, with or without an index: the features are read one after the other. */
export function openFlatGeobuf(source: ByteSource): OpenSource {
  let stated: { crs: Crs | null; text: string | null } = { crs: null, text: null };
  return {
    facts: (): SourceFacts => ({ crs: stated.crs, crsText: stated.text, unit: null, version: null }),
    read: (findings, watch) => readFeatures(source, findings, watch, (s) => (stated = s)),
  };
}

async function* readFeatures(
  source: ByteSource,
  findings: Findings,
  watch: Watch,
  state: (stated: { crs: Crs | null; text: string | null }) => void,
): AsyncGenerator<FeatureBatch> {
  const { name: file } = source;
  const broken = (where: string, error: unknown): Problem =>
    new Problem(
      'fgb-broken',
      `${file}: ${where} is damaged${error instanceof RangeError ? ` (${error.message.toLowerCase()})` : ''}. Ask for the file again.`,
      { file },
    );
  const head = await source.read(0, 12);
  if (head.length < 12 || head[0] !== MAGIC[0] || head[1] !== MAGIC[1] || head[2] !== MAGIC[2])
    throw new Problem('fgb-not', `${file} does not begin as a FlatGeobuf file does.`, { file });
  if (head[3] !== MAGIC[3])
    throw new Problem('fgb-version', `${file} is of version ${head[3]} of FlatGeobuf; version ${MAGIC[3]} is read. Export it again.`, {
      file,
    });
  const headerBytes = new DataView(head.buffer, head.byteOffset).getUint32(8, true);
  if (headerBytes < 8 || headerBytes > MOST_BYTES || 12 + headerBytes > source.size) throw broken('its header', null);
  let reader: FeatureReader, begin: number;
  try {
    const header = Table.root(await source.read(12, headerBytes));
    begin = 12 + headerBytes + indexBytes(header.long(HEADER.featuresCount), header.short(HEADER.indexNodeSize, NODE_SIZE));
    reader = new FeatureReader(file, header, findings);
    state(crsOf(header.table(HEADER.crs), file, findings));
  } catch (error) {
    if (error instanceof RangeError) throw broken('its header', error);
    throw error;
  }
  let skip = begin;
  const queue = new ByteQueue();
  for await (const chunk of watched(source, watch)) {
    if (skip >= chunk.length) {
      skip -= chunk.length;
      continue;
    }
    queue.push(chunk.subarray(skip));
    skip = 0;
    const { bytes } = queue;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
    let at = 0;
    while (at + 4 <= bytes.length) {
      const size = view.getUint32(at, true);
      if (size < 4 || size > MOST_BYTES)
        throw broken(`feature ${reader.features + 1}`, new RangeError(`it says that it has ${size} bytes`));
      if (at + 4 + size > bytes.length) break;
      try {
        reader.take(Table.root(bytes.subarray(at + 4, at + 4 + size)));
      } catch (error) {
        if (error instanceof RangeError) throw broken(`feature ${reader.features}`, error);
        throw error;
      }
      at += 4 + size;
      if (reader.builder.full) yield reader.builder.take();
    }
    queue.drop(at);
  }
  if (queue.length > 0 || skip > 0)
    throw new Problem('fgb-cut', `${file} breaks off in feature ${reader.features + 1}. Ask for the file again.`, {
      file,
      record: reader.features + 1,
    });
  if (reader.expected > 0 && reader.expected !== reader.features)
    findings.add({
      code: 'fgb-count',
      severity: 'wrong',
      message: `${file} says that it has ${reader.expected} features, and has ${reader.features}.`,
      count: Math.abs(reader.expected - reader.features),
    });
  if (reader.builder.count > 0) yield reader.builder.take();
  tellClosedRings(reader.builder, findings);
}

function crsOf(table: Table | null, file: string, findings: Findings): { crs: Crs | null; text: string | null } {
  if (!table) return { crs: null, text: null };
  const code = table.integer(CRS.code),
    org = table.text(CRS.org) ?? 'EPSG';
  const registered = code > 0 && /^epsg$/i.test(org) ? lookupCrs(`EPSG:${code}`) : undefined;
  if (registered) return { crs: registered, text: `EPSG:${code}` };
  const text = table.text(CRS.wkt) ?? table.text(CRS.codeString) ?? table.text(CRS.name);
  if (text === null || text === '') return { crs: null, text: null };
  try {
    const read = readPositions(text, 'The system in the header');
    return { crs: identifyCrs(read) ?? read, text };
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    findings.add({
      code: 'fgb-crs-unread',
      severity: 'caution',
      message: `${file} states a system that is not understood. Choose it in Place.`,
      count: 1,
    });
    return { crs: null, text };
  }
}

class FeatureReader {
  readonly builder: BatchBuilder;
  readonly expected: number;
  features = 0;
  private readonly type: number;
  private readonly columns: readonly Column[];
  private readonly layer: string;

  constructor(
    file: string,
    header: Table,
    private readonly findings: Findings,
  ) {
    this.layer = header.text(HEADER.name) || file.replace(/\.[^.]+$/, '');
    this.builder = new BatchBuilder(this.layer);
    this.type = header.byte(HEADER.geometryType);
    this.columns = columnsOf(header.tables(HEADER.columns));
    this.builder.declare(declaredBy(this.columns));
    this.expected = header.long(HEADER.featuresCount);
    if (header.byte(HEADER.hasT) || header.byte(HEADER.hasTm))
      findings.add({
        code: 'fgb-times',
        severity: 'info',
        message: 'Vertices have times of their own, which stay behind.',
        count: 1,
        location: this.layer,
      });
  }

  take(feature: Table): void {
    this.features++;
    const own = feature.tables(FEATURE.columns);
    const columns = own.length > 0 ? columnsOf(own) : this.columns;
    const values = this.values(feature.bytes(FEATURE.properties), columns);
    const geometry = feature.table(FEATURE.geometry);
    let pieces = 0;
    const ended = (kind: number, type: string): void => {
      for (const [name, value] of values) this.builder.set(name, value);
      this.builder.endFeature(kind, type, this.features);
      pieces++;
    };
    if (geometry) putGeometry(geometry, this.type === TYPE.unknown ? geometry.byte(GEOMETRY.type) : this.type, this.builder, ended);
    if (pieces === 0) {
      if (geometry)
        this.findings.add({
          code: 'fgb-no-geometry',
          severity: 'info',
          message: 'A feature has no position: it is a record without a place.',
          count: 1,
          location: this.layer,
        });
      ended(NO_GEOMETRY, 'Feature');
    } else if (pieces > 1)
      this.findings.add({
        code: 'fgb-collection',
        severity: 'info',
        message: 'A collection of geometries is as many records, each with the data of the feature.',
        count: 1,
        location: this.layer,
      });
  }

  private values(bytes: Uint8Array | null, columns: readonly Column[]): [string, Value][] {
    const out: [string, Value][] = [];
    if (!bytes) return out;
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    for (let at = 0; at < bytes.length;) {
      const column = columns[view.getUint16(at, true)];
      if (!column) throw new RangeError(`a value is of column ${view.getUint16(at, true)}, which there is not`);
      const [value, size] = valueAt(view, at + 2, column.type);
      at += 2 + size;
      out.push([column.name, value]);
    }
    return out;
  }
}

const columnsOf = (tables: readonly Table[]): Column[] =>
  tables.map((c, k) => ({
    name: c.text(COLUMN.name) || `column_${k + 1}`,
    type: c.byte(COLUMN.type),
    width: c.integer(COLUMN.width, -1),
    precision: c.integer(COLUMN.precision, -1),
    scale: c.integer(COLUMN.scale, -1),
  }));

/** Types of columns and what they are here. */
const TYPES: Record<number, FieldType> = {
  [VALUE.byte]: 'integer',
  [VALUE.ubyte]: 'integer',
  [VALUE.bool]: 'boolean',
  [VALUE.short]: 'integer',
  [VALUE.ushort]: 'integer',
  [VALUE.int]: 'integer',
  [VALUE.uint]: 'integer',
  [VALUE.long]: 'integer',
  [VALUE.ulong]: 'integer',
  [VALUE.float]: 'decimal',
  [VALUE.double]: 'decimal',
  [VALUE.string]: 'text',
  [VALUE.dateTime]: 'datetime',
  [VALUE.binary]: 'bytes',
};

/** What a header declares of its columns. */
function declaredBy(columns: readonly Column[]): Declarations {
  return new Map(
    columns.flatMap(({ name, type, width, precision, scale }): [string, FieldDeclaration][] => {
      const known = TYPES[type];
      const size = known === 'text' ? width : precision;
      return known ? [[name, { type: known, ...(size > 0 ? { width: size } : {}), ...(scale >= 0 ? { decimals: scale } : {}) }]] : [];
    }),
  );
}

const whole = (v: bigint): Value => wholeValue(v);

/** A value, and how many bytes it takes. */
function valueAt(view: DataView, at: number, type: number): [Value, number] {
  switch (type) {
    case VALUE.byte:
      return [view.getInt8(at), 1];
    case VALUE.ubyte:
      return [view.getUint8(at), 1];
    case VALUE.bool:
      return [view.getUint8(at) !== 0, 1];
    case VALUE.short:
      return [view.getInt16(at, true), 2];
    case VALUE.ushort:
      return [view.getUint16(at, true), 2];
    case VALUE.int:
      return [view.getInt32(at, true), 4];
    case VALUE.uint:
      return [view.getUint32(at, true), 4];
    case VALUE.long:
      return [whole(view.getBigInt64(at, true)), 8];
    case VALUE.ulong:
      return [whole(view.getBigUint64(at, true)), 8];
    // the shortest decimal that is the same to single precision
    case VALUE.float:
      return [Number(view.getFloat32(at, true).toPrecision(7)), 4];
    case VALUE.double:
      return [view.getFloat64(at, true), 8];
    case VALUE.string:
    case VALUE.json:
    case VALUE.dateTime:
    case VALUE.binary: {
      const size = view.getUint32(at, true);
      if (at + 4 + size > view.byteLength) throw new RangeError('a text is longer than its feature');
      const bytes = new Uint8Array(view.buffer, view.byteOffset + at + 4, size);
      return [type === VALUE.binary ? bytes.slice() : new TextDecoder().decode(bytes), 4 + size];
    }
    default:
      throw new RangeError(`a value is of kind ${type}, which there is not`);
  }
}

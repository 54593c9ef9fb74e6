import type { ByteSource, Watch } from '../../io/bytes';
import { LayerBuilders } from '../../model/batch-builder';
import type { FeatureBatch } from '../../model/batch';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { compileTable, type EntityTable, type Loose } from './entity-table';
import { BLOCK_HEAD, ENTITIES, type CommonEntity, type Entity, type EntityName, LAYER_RECORD, type LayerRecord, OTHER } from './entities';
import { DRAW, type Follower } from './draw';
import { type GeoLocation, GeoLocationReader } from './geo-location';
import { type DxfHeader, encodingOf, HeaderReader } from './header';
import { lookOf } from './style';
import { type TagHandler, type Tags, TagStream } from './tags';
import { BinaryTagStream } from './tags-binary';
import { decodeUnicodeEscapes } from './text';

const TABLES = new Map<string, EntityTable>(Object.entries(ENTITIES).map(([name, slots]) => [name, compileTable(slots)]));
const OTHER_TABLE = compileTable(OTHER);
const LAYER_TABLE = compileTable(LAYER_RECORD);
const BLOCK_TABLE = compileTable(BLOCK_HEAD);

/** Group codes of extended data. */
const XDATA_FIRST = 1000;
const XDATA_APPLICATION = 1001;
const XDATA_NUMBERS = 1010;

type Section = '' | 'HEADER' | 'TABLES' | 'BLOCKS' | 'ENTITIES' | 'OBJECTS' | 'skip';

/** Reads one drawing: fed with groups, collects batches and findings. */
class DrawingReader {
  readonly builders = new LayerBuilders();
  readonly headerReader = new HeaderReader();
  readonly layers = new Map<string, LayerRecord>();
  readonly blocks = new Map<string, number>();
  ended = false;

  geo: GeoLocation | null = null;

  private section: Section = '';
  private geoReader: GeoLocationReader | null = null;
  private sectionComing = false;
  private started = false;
  private type = '';
  private entity: Loose | null = null;
  private table: EntityTable | null = null;
  private entityLine = 0;
  private xdata: [number, string | number][] = [];
  private block = '';
  private head: { type: EntityName; entity: Loose; line: number; xdata: [number, string | number][] } | null = null;
  private follower: Follower = { vertices: [], attributes: [] };

  constructor(private readonly file: string, private readonly findings: Findings, private readonly tags: () => Tags) {}

  take(code: number, text: string, number: number, line: number): void {
    if (code === 0) this.begin(text.trim(), line);
    else if (this.sectionComing) {
      if (code === 2) this.open(text.trim());
    } else if (this.section === 'HEADER') this.headerReader.take(code, text, number);
    else if (this.geoReader) this.geoReader.take(code, text, number);
    else if (this.entity) {
      if (code >= XDATA_FIRST) this.xdata.push([code, code < XDATA_NUMBERS ? text : number]);
      else this.table!.take(this.entity, code, text, number);
    } else if (!this.started && code !== 999) {
      throw new Problem('dxf-not-a-drawing', `${this.file} is not a DXF drawing: it does not begin with a SECTION. Check that the file has the right name, or export it again as DXF.`, { file: this.file, line });
    }
  }

  private begin(type: string, line: number): void {
    this.finish();
    this.started = true;
    this.sectionComing = false;
    if (type === 'SECTION') {
      this.sectionComing = true;
      return;
    }
    if (type === 'ENDSEC') {
      this.flushHead();
      if (this.section === 'HEADER') this.tags().setEncoding(encodingOf(this.headerReader.header));
      this.section = '';
      return;
    }
    if (type === 'EOF') {
      this.flushHead();
      this.ended = true;
      return;
    }
    if (this.section === 'OBJECTS' && type === 'GEODATA') this.geoReader = new GeoLocationReader();
    this.type = type;
    this.entityLine = line;
    this.table = this.tableFor(type);
    this.entity = this.table ? this.table.fresh() : null;
    if (this.xdata.length > 0) this.xdata = [];
  }

  private tableFor(type: string): EntityTable | null {
    if (this.section === 'ENTITIES') return TABLES.get(type) ?? OTHER_TABLE;
    if (this.section === 'TABLES' && type === 'LAYER') return LAYER_TABLE;
    return this.section === 'BLOCKS' && type === 'BLOCK' ? BLOCK_TABLE : null;
  }

  private open(name: string): void {
    this.sectionComing = false;
    this.section = name === 'HEADER' || name === 'TABLES' || name === 'BLOCKS' || name === 'ENTITIES' || name === 'OBJECTS' ? name : 'skip';
  }

  /** The groups of one object are complete. */
  private finish(): void {
    if (this.geoReader) {
      this.geo = this.geoReader.location;
      this.geoReader = null;
    }
    const { entity, type } = this;
    if (this.section === 'BLOCKS' && type !== '') {
      if (type === 'BLOCK') this.blocks.set((this.block = String(entity!.name)), 0);
      else if (type !== 'ENDBLK') this.blocks.set(this.block, (this.blocks.get(this.block) ?? 0) + 1);
    }
    this.entity = null;
    this.type = '';
    if (!entity) return;
    if (this.section === 'TABLES') {
      const layer = entity as unknown as LayerRecord;
      this.layers.set(layerKey(layer.name), layer);
    } else if (this.section === 'ENTITIES') this.entityRead(type, entity);
  }

  private entityRead(type: string, entity: Loose): void {
    const xdata = this.xdata;
    this.xdata = [];
    if (this.head) {
      if (type === 'VERTEX') return void this.follower.vertices.push(entity as unknown as Entity<'VERTEX'>);
      if (type === 'ATTRIB') return void this.follower.attributes.push(entity as unknown as Entity<'ATTRIB'>);
      this.flushHead();
    }
    if (type === 'SEQEND') return;
    const sequence = type === 'POLYLINE' || (type === 'INSERT' && entity.attributesFollow === 1);
    if (sequence) {
      this.head = { type: type as EntityName, entity, line: this.entityLine, xdata };
      this.follower = { vertices: [], attributes: [] };
    } else this.emitAll(type, entity, this.entityLine, xdata, NO_FOLLOWER);
  }

  private flushHead(): void {
    const { head } = this;
    if (!head) return;
    this.head = null;
    this.emitAll(head.type, head.entity, head.line, head.xdata, this.follower);
  }

  /** An array of blocks stands for as many of them; its rows and columns turn with it. */
  private emitAll(type: string, entity: Loose, line: number, xdata: [number, string | number][], follower: Follower): void {
    const [columns, rows] = type === 'INSERT' ? [Math.max(1, Number(entity.columns)), Math.max(1, Number(entity.rows))] : [1, 1];
    if (columns * rows === 1) return this.emit(type, entity, line, xdata, follower);
    if (columns * rows > MOST_COPIES) {
      this.findings.add({ code: 'dxf-array-too-large', severity: 'caution', message: `INSERT as an array of more than ${MOST_COPIES} is read as one.`, count: 1, place: decodeUnicodeEscapes(String(entity.layer)) });
      return this.emit(type, entity, line, xdata, follower);
    }
    const turn = (Number(entity.rotation) * Math.PI) / 180, cos = Math.cos(turn), sin = Math.sin(turn);
    for (let row = 0; row < rows; row++) {
      for (let column = 0; column < columns; column++) {
        const dx = column * Number(entity.columnGap), dy = row * Number(entity.rowGap);
        this.emit(type, { ...entity, x: Number(entity.x) + dx * cos - dy * sin, y: Number(entity.y) + dx * sin + dy * cos }, line, xdata, follower);
      }
    }
  }

  private emit(type: string, loose: Loose, line: number, xdata: [number, string | number][], follower: Follower): void {
    const entity = loose as unknown as CommonEntity;
    const layer = decodeUnicodeEscapes(entity.layer);
    if (entity.paper === 1) {
      this.findings.add({ code: 'dxf-sheet-object', severity: 'info', message: `${type} on a sheet layout is not read: only the model crosses.`, count: 1, place: layer });
      return;
    }
    const draw = DRAW[type as EntityName] as ((e: unknown, out: unknown, follower: Follower) => number | string) | undefined;
    if (!draw) {
      this.findings.add({ code: 'dxf-entity-not-read', severity: 'caution', message: `${type} is not read and stays behind.`, count: 1, place: layer });
      return;
    }
    const builder = this.builders.for(layer);
    const kind = draw(loose, builder, follower);
    if (typeof kind === 'string') {
      this.findings.add({ code: 'dxf-entity-empty', severity: 'caution', message: `${type} with ${kind} is not read and stays behind.`, count: 1, place: layer });
      return;
    }
    const look = lookOf(entity, this.layers.get(layerKey(entity.layer)));
    builder.set('layer', layer);
    builder.set('entity', type);
    builder.set('handle', entity.handle);
    builder.set('color', look.color);
    builder.set('linetype', look.linetype);
    builder.set('lineweight_mm', look.lineweight_mm);
    if (xdata.length > 0) builder.set('xdata', xdataText(xdata));
    builder.endFeature(kind, type, line);
    this.builders.ended(builder);
  }
}

/** Copies of a block in one array; more is a damaged number. */
const MOST_COPIES = 10_000;

const NO_FOLLOWER: Follower = { vertices: [], attributes: [] };

/** Layer names are compared without regard to case. */
const layerKey = (name: string): string => name.toLowerCase();

/** Extended data as JSON: application name to its values in order. */
function xdataText(xdata: [number, string | number][]): string {
  const out: Record<string, (string | number)[]> = {};
  let application = '';
  for (const [code, v] of xdata) {
    if (code === XDATA_APPLICATION) out[(application = String(v))] ??= [];
    else (out[application] ??= []).push(v);
  }
  return JSON.stringify(out);
}

/** What a drawing says of itself, known once it is read. */
export interface DrawingFacts {
  header: DxfHeader;
  /** Objects in each block definition. */
  blocks: Map<string, number>;
  /** How it is tied to the earth; null when it does not say. */
  geo: GeoLocation | null;
}

/**
 * Streams the records of the model, a batch of one layer at a time.
 * @throws Problem with file and line when the drawing is damaged, cut or none at all
 */
export async function* readDxf(source: ByteSource, findings: Findings, watch: Watch, facts?: (f: DrawingFacts) => void): AsyncGenerator<FeatureBatch> {
  await refuseOtherKinds(source);
  // the two know each other: groups go to the reader, and the reader tells the encoding
  const handle: TagHandler = (code, text, number, line) => {
    if (!reader.ended) reader.take(code, text, number, line);
  };
  const tags: Tags = BINARY.test(await headOf(source)) ? new BinaryTagStream(source.name, handle) : new TagStream(source.name, handle);
  const reader: DrawingReader = new DrawingReader(source.name, findings, () => tags);
  let done = 0;
  for await (const chunk of source.stream()) {
    watch.check();
    tags.push(chunk);
    done += chunk.length;
    watch.progress(done, source.size);
    yield* reader.builders.takeFull();
  }
  tags.end();
  if (!reader.ended) {
    throw new Problem('dxf-cut', `${source.name} breaks off at line ${tags.line}: the drawing has no end mark, so part of it is missing. Ask for it again, or export it again.`, { file: source.name, line: tags.line });
  }
  yield* reader.builders.takeAll();
  facts?.({ header: reader.headerReader.header, blocks: reader.blocks, geo: reader.geo });
}

const BINARY = /^\S+ Binary DXF/;

async function headOf(source: ByteSource): Promise<string> {
  return new TextDecoder('latin1').decode(await source.read(0, 64));
}

/** Kinds of file that are taken for a DXF but are none, by their first bytes. @throws Problem */
export async function refuseOtherKinds(source: ByteSource): Promise<void> {
  const text = await headOf(source);
  if (source.size === 0) throw new Problem('file-empty', `${source.name} is empty.`, { file: source.name, line: 1 });
  if (isDwg(text)) throw dwgProblem(source.name);
}

/** DWG files begin with a version mark such as AC1032. Common practice, no source. */
function isDwg(head: string): boolean {
  return /^AC(10|1\.|2\.)\d{1,2}/.test(head);
}

function dwgProblem(file: string): Problem {
  return new Problem('dwg', `${file} is a DWG drawing (line 1 begins with a DWG version mark). DWG is not a published format, so it is not read here: save the drawing as DXF in the program that made it, any version from R12 to R2018, and drop that.`, { file, line: 1 });
}

import { type Bounds, emptyBounds, grow, isEmpty } from '../../geometry/bounds';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type BatchBuilder, LayerBuilders } from '../../model/batch-builder';
import { type FeatureBatch, LINE } from '../../model/batch';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { emptyLibrary, type SymbolLibrary, symbolKey } from '../../symbology/library';
import { BlockTable, copiesOf, type Item } from './blocks';
import { type Around, clippingCorners, DRAW, type Follower } from './draw';
import { cutEndless } from './endless';
import {
  BLOCK_HEAD,
  type BlockHead,
  ENTITIES,
  type CommonEntity,
  type Entity,
  type EntityName,
  IMAGE_DEFINITION,
  LAYER_RECORD,
  type LayerRecord,
  LTYPE_RECORD,
  type LtypeRecord,
  OTHER,
} from './entities';
import { compileTable, type EntityTable, type Loose } from './entity-table';
import type { ClippingLine, External, ShownPicture } from '../format';
import { type GeoLocation, GeoLocationReader } from './geo-location';
import { BINARY, headOf } from './head';
import { type ObjectsAhead, readObjectsAhead } from './objects-ahead';
import { type DxfHeader, encodingOf, HeaderReader, statedEncoding } from './header';
import { layerLook, lookOf, transparencyOf } from './style';
import { type TagHandler, type Tags, TagStream } from './tags';
import { BinaryTagStream } from './tags-binary';
import { decodeUnicodeEscapes } from './text';
import { ownMark, takeXdata, XDATA } from './xdata';

const TABLES = new Map<string, EntityTable>(Object.entries(ENTITIES).map(([name, slots]) => [name, compileTable(slots)]));
const OTHER_TABLE = compileTable(OTHER);
const LAYER_TABLE = compileTable(LAYER_RECORD);
const BLOCK_TABLE = compileTable(BLOCK_HEAD);
const LTYPE_TABLE = compileTable(LTYPE_RECORD);
const IMAGE_DEFINITION_TABLE = compileTable(IMAGE_DEFINITION);

/** Group codes of extended data: texts first, numbers from the second on. */
const XDATA_FIRST = 1000;
const XDATA_NUMBERS = 1010;
/** Marks an object within an object. Source: DXF Reference, ATTRIB (R2018), "Embedded Object". */
const EMBEDDED = 101;

type Section = '' | 'HEADER' | 'TABLES' | 'BLOCKS' | 'ENTITIES' | 'OBJECTS' | 'skip';

type Xdata = [number, string | number][];

/** An object waiting for what follows it, or for what stands in a later section. */
interface Waiting {
  type: string;
  entity: Loose;
  line: number;
  xdata: Xdata;
}

/** Objects whose vertices or attributes follow them. */
const isSequence = (type: string, entity: Loose): boolean => type === 'POLYLINE' || (type === 'INSERT' && entity.attributesFollow === 1);

/** Objects that are drawn when all others are known: lines without end, and pictures, whose files are named at the end of the drawing. */
const LATE = new Set(['RAY', 'XLINE', 'IMAGE', 'WIPEOUT']);
/** So many may wait; beyond, lines without end are cut at what is known by then. */
const MOST_LATE = 100_000;
/** Copies of a block in one array, and of all arrays with their attributes in a drawing; more is a damaged number. */
const MOST_COPIES = 10_000;
const MOST_COPIED = 200_000;
/** Objects beside the drawn ones, and what it means where they could not be read before. */
const OBJECT_FINDINGS: Record<string, string> = {
  GROUP: 'A group, a selection under a name, stands too far from its objects in this file to be told of them; the objects are read.',
  SORTENTSTABLE: 'An order of drawing stands too far from its objects in this file to be told of them: they keep the order of the file.',
};
/** Flag of a block that stands for another drawing. Source: DXF Reference, BLOCK. */
const EXTERNAL = 4;

/** Reads one drawing: fed with groups, collects batches and findings. */
class DrawingReader {
  readonly builders = new LayerBuilders();
  readonly headerReader = new HeaderReader();
  readonly layers = new Map<string, LayerRecord>();
  readonly lines = new Map<string, LtypeRecord>();
  readonly blocks = new BlockTable((name) => this.layers.get(symbolKey(name)));
  readonly applications = new Set<string>();
  /** Of the vertices drawn so far, kept by the one who takes the batches. */
  readonly extent: Bounds = emptyBounds();
  /** Other drawings that this one shows, where it shows them. */
  readonly externals: External[] = [];
  /** Pictures that it shows. */
  readonly shown: ShownPicture[] = [];
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
  private xdata: Xdata = [];
  private embedded = false;
  private blockItems: Item[] | null = null;
  private head: Waiting | null = null;
  private follower: Follower = { vertices: [], attributes: [] };
  /** A record of which further parts are to come. */
  private unfinished: { builder: BatchBuilder; kind: number; type: string; line: number; left: number } | null = null;
  private readonly late: Waiting[] = [];
  private copied = 0;
  private readonly pictures = new Map<string, string>();
  private readonly around: Around = { vertices: [], attributes: [], block: (name) => this.blocks.symbol(name) };

  constructor(
    private readonly file: string,
    private readonly findings: Findings,
    private readonly tags: () => Tags,
    private readonly options: ReadOptions,
    private readonly ahead: ObjectsAhead | null,
  ) {}

  take(code: number, text: string, number: number, line: number): void {
    if (code === 0) this.begin(text.trim(), line);
    else if (this.sectionComing) {
      if (code === 2) this.open(text.trim());
    } else if (this.section === 'HEADER') this.headerReader.take(code, text, number);
    else if (this.geoReader) this.geoReader.take(code, text, number);
    else if (this.entity) {
      if (code >= XDATA_FIRST) {
        if (code === XDATA.application && !this.blockItems) this.applications.add(text);
        this.xdata.push([code, code < XDATA_NUMBERS ? text : number]);
      } else if (code === EMBEDDED) this.embedded = true;
      else if (!this.embedded) this.table!.take(this.entity, code, text, number);
    } else if (!this.started && code !== 999) {
      throw new Problem(
        'dxf-not-a-drawing',
        `${this.file} is not a DXF drawing: it does not begin with a SECTION. Check that the file has the right name, or export it again as DXF.`,
        { file: this.file, line },
      );
    }
  }

  private begin(type: string, line: number): void {
    this.finish();
    this.started = true;
    this.sectionComing = false;
    this.embedded = false;
    if (type === 'SECTION') {
      this.sectionComing = true;
      return;
    }
    if (type === 'ENDSEC') {
      this.flushHead();
      if (this.section === 'HEADER') this.settleEncoding(this.headerReader.header);
      this.section = '';
      return;
    }
    if (type === 'EOF') {
      this.flushHead();
      this.finishRecord();
      this.ended = true;
      return;
    }
    if (this.section === 'OBJECTS') {
      if (type === 'GEODATA') this.geoReader = new GeoLocationReader();
      const told = OBJECT_FINDINGS[type];
      if (told !== undefined && !this.ahead)
        this.findings.add({ code: `dxf-${type.toLowerCase()}`, severity: 'info', message: told, count: 1 });
    }
    this.type = type;
    this.entityLine = line;
    this.table = this.tableFor(type);
    this.entity = this.table ? this.table.fresh() : null;
    if (this.xdata.length > 0) this.xdata = [];
  }

  private tableFor(type: string): EntityTable | null {
    switch (this.section) {
      case 'ENTITIES':
        return TABLES.get(type) ?? OTHER_TABLE;
      case 'BLOCKS':
        return type === 'BLOCK' ? BLOCK_TABLE : type === 'ENDBLK' ? null : (TABLES.get(type) ?? OTHER_TABLE);
      case 'TABLES':
        return type === 'LAYER' ? LAYER_TABLE : type === 'LTYPE' ? LTYPE_TABLE : null;
      case 'OBJECTS':
        return type === 'IMAGEDEF' ? IMAGE_DEFINITION_TABLE : null;
      default:
        return null;
    }
  }

  /** What the header says of texts holds for all that follows; a code page that is not read here is told. */
  private settleEncoding(header: DxfHeader): void {
    this.tags().setEncoding(encodingOf(header));
    if (statedEncoding(header) !== null) return;
    this.findings.add({
      code: 'dxf-code-page',
      severity: 'caution',
      message: `Its texts are in the code page ${header.codePage.slice(0, 20)}, which is not read here: letters beyond those of ASCII are taken as windows-1252 and may be others.`,
      count: 1,
    });
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
    this.entity = null;
    this.type = '';
    if (this.section === 'BLOCKS' && type === 'ENDBLK') {
      this.flushHead();
      this.blockItems = null;
    }
    if (!entity) return;
    if (this.section === 'TABLES') {
      if (type === 'LAYER') this.layers.set(symbolKey(String(entity.name)), entity as unknown as LayerRecord);
      else this.lines.set(symbolKey(String(entity.name)), entity as unknown as LtypeRecord);
    } else if (this.section === 'OBJECTS') this.pictures.set(String(entity.handle), String(entity.path));
    else if (type === 'BLOCK') this.openBlock(entity as unknown as BlockHead);
    else if (this.section === 'ENTITIES' || this.blockItems) this.objectRead(type, entity);
  }

  private openBlock(head: BlockHead): void {
    this.flushHead();
    this.blockItems = [];
    this.blocks.definitions.set(symbolKey(head.name), { head, items: this.blockItems });
    if (head.flags & EXTERNAL) {
      this.findings.add({
        code: 'dxf-external-reference',
        severity: 'caution',
        message: `The drawing shows another drawing, ${decodeUnicodeEscapes(head.path)}, which is a file of its own. Gather it too where it is wanted: it is then put in its place.`,
        count: 1,
        location: head.name,
      });
    }
  }

  private objectRead(type: string, entity: Loose): void {
    const xdata = this.xdata;
    this.xdata = [];
    if (this.head) {
      if (type === 'VERTEX') return void this.follower.vertices.push(entity as unknown as Entity<'VERTEX'>);
      if (type === 'ATTRIB') return void this.follower.attributes.push(entity as unknown as Entity<'ATTRIB'>);
      this.flushHead();
    }
    if (type === 'SEQEND') return;
    const waiting = { type, entity, line: this.entityLine, xdata };
    if (isSequence(type, entity)) {
      this.head = waiting;
      this.follower = { vertices: [], attributes: [] };
    } else this.complete(waiting, this.around);
  }

  private flushHead(): void {
    const { head } = this;
    if (!head) return;
    this.head = null;
    this.complete(head, this.follower);
  }

  private complete(waiting: Waiting, follower: Follower): void {
    if (this.blockItems) this.blockItems.push({ type: waiting.type, entity: waiting.entity, line: waiting.line, follower });
    else if (LATE.has(waiting.type) && this.late.length < MOST_LATE) this.late.push(waiting);
    else this.emitAll(waiting, follower === this.around ? this.around : { ...follower, block: this.around.block });
  }

  /** To be called when the drawing has ended and its other objects are taken. */
  emitLate(): void {
    for (const waiting of this.late) this.emitAll(waiting, this.around);
  }

  /** An array of blocks stands for as many of them. */
  private emitAll(waiting: Waiting, around: Around): void {
    const { type, entity } = waiting;
    const [columns, rows] = type === 'INSERT' ? [Math.max(1, Number(entity.columns)), Math.max(1, Number(entity.rows))] : [1, 1];
    if (columns * rows === 1) return this.emit(waiting, around);
    const copied = columns * rows * (1 + around.attributes.length);
    if (columns * rows > MOST_COPIES || this.copied + copied > MOST_COPIED) {
      this.findings.add({
        code: 'dxf-array-too-large',
        severity: 'caution',
        message:
          columns * rows > MOST_COPIES
            ? `INSERT as an array of more than ${MOST_COPIES} is read as one.`
            : `INSERT as an array is read as one, since the arrays before it have ${MOST_COPIED} copies and attributes already.`,
        count: 1,
        location: String(entity.layer),
      });
      return this.emit(waiting, around);
    }
    this.copied += copied;
    for (const [x, y] of copiesOf(entity as unknown as Entity<'INSERT'>)) this.emit({ ...waiting, entity: { ...entity, x, y } }, around);
  }

  private emit({ type, entity: loose, line, xdata }: Waiting, around: Around): void {
    const entity = loose as unknown as CommonEntity;
    const layer = entity.layer;
    if (entity.paper === 1) {
      this.findings.add({
        code: 'dxf-sheet-object',
        severity: 'info',
        message: `${type} on a sheet layout is not read: only the model crosses.`,
        count: 1,
        left: true,
        location: layer,
      });
      return;
    }
    const draw = DRAW[type as EntityName] as ((e: unknown, out: BatchBuilder, around: Around) => number | string) | undefined;
    const endless = type === 'RAY' || type === 'XLINE';
    if (!draw && !endless) {
      this.findings.add({
        code: 'dxf-entity-not-read',
        severity: 'caution',
        message: `${type} is not read and stays behind.`,
        count: 1,
        left: true,
        location: layer,
      });
      return;
    }
    if (type === 'INSERT' && !this.blocks.definitions.has(symbolKey(String(loose.name))))
      this.findings.add({
        code: 'dxf-block-undefined',
        severity: 'caution',
        message: `INSERT names the block ${String(loose.name)}, which the drawing does not define: it is a point with its data, and nothing is drawn for it.`,
        count: 1,
        location: layer,
      });
    const own = xdata.length > 0 ? ownMark(xdata) : null;
    if (own?.mark === 'drawn' && this.options.recordsOnly) {
      if (type === 'IMAGE') this.noteShown(loose as unknown as Entity<'IMAGE'>);
      return;
    }
    const builder = this.builders.for(this.options.oneLayer ?? layer);
    if (own?.mark === 'part' && this.unfinished?.builder === builder) {
      draw?.(loose, builder, around);
      if (--this.unfinished.left === 0) this.finishRecord();
      return;
    }
    this.finishRecord();
    const kind = draw ? draw(loose, builder, around) : this.endless(loose as unknown as Entity<'RAY'>, type === 'XLINE', builder);
    if (typeof kind === 'string') {
      builder.abandon();
      this.findings.add({
        code: 'dxf-entity-empty',
        severity: 'caution',
        message: `${type} with ${kind} is not read and stays behind.`,
        count: 1,
        left: true,
        location: layer,
      });
      return;
    }
    const look = lookOf(entity, this.layers.get(symbolKey(entity.layer)));
    builder.set('layer', layer);
    builder.set('entity', type);
    builder.set('handle', entity.handle);
    builder.set('color', look.color);
    builder.set('linetype', look.linetype);
    builder.set('lineweight_mm', look.lineweight_mm);
    if (entity.patternScale !== 1 && entity.patternScale > 0) builder.set('linetype_scale', entity.patternScale);
    if (entity.transparency !== 0) builder.set('transparency', transparencyOf(entity));
    if (entity.thickness !== 0) builder.set('thickness', entity.thickness);
    if (this.options.recordsOnly)
      builder.drawnWith({
        color: look.color,
        linetype: look.linetype,
        linetype_scale: entity.patternScale,
        lineweight_mm: look.lineweight_mm,
        ...(entity.transparency !== 0 ? { transparency: transparencyOf(entity) } : {}),
        ...(type === 'INSERT' ? { block: (loose as unknown as Entity<'INSERT'>).name } : {}),
      });
    if (type === 'INSERT') this.noteExternal(loose as unknown as Entity<'INSERT'>);
    if (type === 'IMAGE') this.nameFile(loose as unknown as Entity<'IMAGE'>, builder, layer);
    if (this.ahead) this.tellAhead(entity.handle, this.ahead, builder);
    if (xdata.length > 0) takeXdata(xdata, builder);
    if (own && own.parts > 1) {
      this.unfinished = { builder, kind, type, line, left: own.parts - 1 };
      return;
    }
    builder.endFeature(kind, type, line);
    this.builders.ended(builder);
  }

  private tellAhead(handle: string, { groups, order }: ObjectsAhead, builder: BatchBuilder): void {
    const names = groups.get(handle);
    if (names) builder.set('group', names.join(', '));
    const rank = order.get(handle);
    if (rank !== undefined) builder.set('draw_order', rank);
  }

  /** Ends a record whose parts have all come, or of which some are not there any more. */
  private finishRecord(): void {
    const record = this.unfinished;
    if (!record) return;
    this.unfinished = null;
    record.builder.endFeature(record.kind, record.type, record.line);
    this.builders.ended(record.builder);
  }

  private endless(e: Entity<'RAY'>, both: boolean, out: BatchBuilder): number | string {
    const { min, max } = this.headerReader.header;
    const box: Bounds = isEmpty(this.extent) && min && max ? [min[0], min[1], max[0], max[1]] : this.extent;
    const piece = isEmpty(box) ? null : cutEndless(e, both, box);
    if (!piece) return 'no part within the extent of the drawing';
    for (const p of piece) out.vertex(...p);
    out.endPart();
    return LINE;
  }

  private noteExternal(e: Entity<'INSERT'>): void {
    const head = this.blocks.definitions.get(symbolKey(e.name))?.head;
    // on a plane of its own it has no place on a map
    if (!head || !(head.flags & EXTERNAL) || e.nx !== 0 || e.ny !== 0) return;
    const turned = e.nz < 0 ? -1 : 1;
    this.externals.push({
      file: decodeUnicodeEscapes(head.path).replace(/^.*[\\/]/, ''),
      at: [turned * e.x, e.y],
      angle: turned * e.rotation,
      scale: [turned * e.sx, e.sy],
    });
  }

  /** Keeps the place of a picture. @returns the path of its file as the drawing says it; undefined where it says none */
  private noteShown(e: Entity<'IMAGE'>): string | undefined {
    const said = this.pictures.get(String(e.picture));
    if (said === undefined) return undefined;
    const path = decodeUnicodeEscapes(said);
    // the steps of a pixel go to the right and upwards, from the lower left corner
    const map = [e.x + e.height * e.vx, e.ux, -e.vx, e.y + e.height * e.vy, e.uy, -e.vy] as const;
    if (map.every(Number.isFinite) && this.shown.length < MOST_SHOWN)
      this.shown.push({ file: path.replace(/^.*[\\/]/, ''), width: e.width, height: e.height, map, ...clippedBy(e) });
    return path;
  }

  private nameFile(e: Entity<'IMAGE'>, builder: BatchBuilder, layer: string): void {
    const path = this.noteShown(e);
    if (path === undefined) return;
    builder.set('image', path);
    this.findings.add({
      code: 'dxf-picture',
      severity: 'info',
      message: `A picture crosses as its frame only; its file is ${path}. Handed in by itself, it lies where the drawing shows it.`,
      count: 1,
      location: layer,
    });
  }
}

/** The clipping line of a picture, where it is in use and cuts something. Source: DXF Reference 2010, IMAGE, groups 280, 290, 71, 14 and 24. */
function clippedBy(e: Entity<'IMAGE'>): { clip?: ClippingLine } {
  if (e.clipped !== 1) return {};
  // (-0.5, -0.5) is the upper left corner there
  const ring = clippingCorners(e).flatMap(([x, y]) => [x + 0.5, y + 0.5]);
  const keeps = e.keepsOutside === 1 ? 'outside' : 'inside';
  const whole = ring.every((v, k) => v === 0 || v === (k % 2 === 0 ? e.width : e.height));
  return (whole && keeps === 'inside' && ring.length === 8) || !ring.every(Number.isFinite) ? {} : { clip: { ring, keeps } };
}

/** Pictures of a drawing that are kept with their places. */
const MOST_SHOWN = 2000;

/** What a drawing says of itself, known once it is read. */
export interface DrawingFacts {
  header: DxfHeader;
  /** How it is tied to the earth; null when it does not say. */
  geo: GeoLocation | null;
  externals: External[];
  pictures: ShownPicture[];
  library: SymbolLibrary;
}

/** What reading a drawing hands to others beside its records. */
export interface ReadOptions {
  /** Gets what the drawing says of itself when it has been read. */
  facts?: (f: DrawingFacts) => void;
  /** Hands all records out as of one layer of this name, in the order of the file. */
  oneLayer?: string;
  /** Passes over what this program drew for a record besides the record itself: labels, fills. */
  recordsOnly?: boolean;
}

/**
 * Streams the records of the model, a batch of one layer at a time.
 * @throws Problem with file and line when the drawing is damaged, cut or none at all
 */
export async function* readDxf(
  source: ByteSource,
  findings: Findings,
  watch: Watch,
  options: ReadOptions = {},
): AsyncGenerator<FeatureBatch> {
  await refuseOtherKinds(source);
  // the two know each other: groups go to the reader, and the reader tells the encoding
  const handle: TagHandler = (code, text, number, line) => {
    if (!reader.ended) reader.take(code, text, number, line);
  };
  const tags: Tags = BINARY.test(await headOf(source)) ? new BinaryTagStream(source.name, handle) : new TagStream(source.name, handle);
  const reader: DrawingReader = new DrawingReader(source.name, findings, () => tags, options, await readObjectsAhead(source));
  const seen = (batch: FeatureBatch): FeatureBatch => {
    for (let k = 0; k < batch.coords.length; k += 3) grow(reader.extent, batch.coords[k]!, batch.coords[k + 1]!);
    return batch;
  };
  for await (const chunk of watched(source, watch)) {
    tags.push(chunk);
    for (const batch of reader.builders.takeFull()) yield seen(batch);
  }
  tags.end();
  if (!reader.ended) {
    throw new Problem(
      'dxf-cut',
      `${source.name} breaks off at line ${tags.line}: the drawing has no end mark, so part of it is missing. Ask for it again, or export it again.`,
      { file: source.name, line: tags.line },
    );
  }
  if (tags.damaged > 0)
    findings.add({
      code: 'dxf-code-page-letters',
      severity: 'caution',
      message: `Texts of ${source.name} hold bytes that are no letters in the code page that it states (${reader.headerReader.header.codePage}, version ${reader.headerReader.header.version}): they are shown as \ufffd. Ask which page it was saved in.`,
      count: tags.damaged,
    });
  for (const batch of reader.builders.takeAll()) yield seen(batch);
  reader.emitLate();
  yield* reader.builders.takeAll();
  options.facts?.({
    header: reader.headerReader.header,
    geo: reader.geo,
    externals: reader.externals,
    pictures: reader.shown,
    library: libraryOf(reader),
  });
}

/** Blocks that no map would draw: the spaces themselves. Source: DXF Reference, BLOCKS section. */
const SPACES = /^[*$](model|paper)_space/i;

function libraryOf(reader: DrawingReader): SymbolLibrary {
  const library = { ...emptyLibrary(), applications: reader.applications };
  for (const [key, record] of reader.layers) library.layers.set(key, layerLook(record));
  const { patternScale: scale } = reader.headerReader.header;
  for (const [key, record] of reader.lines)
    library.lines.set(key, { description: decodeUnicodeEscapes(record.description), dashes: record.dashes.map((d) => d * scale) });
  for (const [key, { head }] of reader.blocks.definitions) {
    if (SPACES.test(head.name) || head.flags & EXTERNAL) continue;
    const symbol = reader.blocks.symbol(head.name);
    if (typeof symbol !== 'string') library.blocks.set(key, symbol);
  }
  return library;
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
  return new Problem(
    'dwg',
    `${file} is a DWG drawing (line 1 begins with a DWG version mark). DWG is not a published format, so it is not read here: save the drawing as DXF in the program that made it, any version from R12 to R2018, and drop that.`,
    { file, line: 1 },
  );
}

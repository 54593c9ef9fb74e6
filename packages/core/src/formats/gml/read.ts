import { bytesOfBase64, parseInteger, type Value } from '../../model/value';
import { compileTransform, label, type Transform } from '../../crs/transform';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { type BatchBuilder, LayerBuilders } from '../../model/batch-builder';
import type { Declarations, FieldType } from '../../model/field';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { tellClosedRings } from '../closed-rings';
import type { OpenSource, SourceFacts } from '../format';
import { plainValue } from '../../model/plain-value';
import { XmlReader, type XmlNode } from '../../io/xml';
import { type Axes, isGeometry, NotGml, piecesOf, putPiece } from './geometry';
import { type GmlTypes, typesBeside } from './schema';
import { firstSrs, readSrsName, type SrsName } from './srs-name';

/** Opens a file of features. The schema beside it says the types of its fields. */
export async function openGml(source: ByteSource): Promise<OpenSource> {
  const types = await typesBeside(source);
  let first: SrsName | null = null;
  return {
    facts: (): SourceFacts => ({ crs: first?.crs ?? null, crsText: first?.text ?? null, unit: null, version: null }),
    read: (findings, watch) => readFeatures(source, types, findings, watch, (srs) => (first = srs)),
  };
}

async function* readFeatures(
  source: ByteSource,
  types: GmlTypes,
  findings: Findings,
  watch: Watch,
  state: (srs: SrsName | null) => void,
): AsyncGenerator<FeatureBatch> {
  const reader = new FeatureReader(source.name, types, findings);
  const xml = new XmlReader(source.name, reader);
  for await (const chunk of watched(source, watch)) {
    xml.push(chunk);
    yield* reader.builders.takeFull();
  }
  xml.end();
  xml.tell(findings);
  if (reader.features === 0 && !reader.collection)
    throw new Problem('gml-not', `${source.name} is XML, but no GML: there is no feature in it.`, { file: source.name });
  yield* reader.builders.takeAll();
  for (const builder of reader.builders.list()) tellClosedRings(builder, findings);
  state(reader.first);
}

/** Elements of a collection, or of a feature, that say something of it as a whole. */
const ABOUT = new Set(['boundedBy', 'metaDataProperty', 'additionalObjects', 'truncatedResponse', 'tuple']);
const NAMED = new Set(['name', 'description', 'identifier', 'descriptionReference', 'location']);

class FeatureReader {
  readonly builders = new LayerBuilders();
  features = 0;
  collection = false;
  first: SrsName | null = null;
  private readonly path: string[] = [];
  private readonly known = new Map<string, SrsName>();
  private readonly moves = new Map<string, Transform | null>();
  /** What the bounds of the collection say for geometries that say nothing. */
  private around: { srs: string | undefined; dimension: number } = { srs: undefined, dimension: 2 };

  constructor(
    private readonly file: string,
    private readonly types: GmlTypes,
    private readonly findings: Findings,
  ) {}

  open(name: string): boolean {
    const deep = this.path.length;
    // a collection, what its features lie in, and the features; a feature may be a collection again
    const container = deep % 2 === 1 ? !ABOUT.has(name) && !NAMED.has(name) : deep === 0 || /Collection$/.test(name);
    if (deep === 0) this.collection = /Collection$|^Features$/.test(name);
    if (!container) return true;
    this.path.push(name);
    return false;
  }

  close(): void {
    this.path.pop();
  }

  text(): void {}

  whole(node: XmlNode): void {
    if (this.path.length % 2 === 0) return this.feature(node);
    if (node.name !== 'boundedBy') return;
    const [envelope] = node.children;
    if (envelope)
      this.around = { srs: envelope.attributes.srsName, dimension: Number(envelope.attributes.srsDimension ?? 2) === 3 ? 3 : 2 };
  }

  private feature(node: XmlNode): void {
    this.features++;
    const builder = this.builders.for(node.name);
    const typesOf = this.types.get(node.name);
    if (typesOf) builder.declare(declaredBy(typesOf));
    const values: [string, Value][] = [];
    const geometries: XmlNode[] = [];
    const types = this.types.get(node.name);
    const id = node.attributes['gml:id'] ?? node.attributes.fid;
    // one that only numbers the records says nothing of them
    if (id !== undefined && !/^(\w*?[-._]?)?\d+$/.test(id.replace(new RegExp(`^${node.name.replace(/[^\w]/g, '.')}`), '')))
      values.push(['gml_id', id]);
    for (const child of node.children) {
      const [inner] = child.children;
      if (ABOUT.has(child.name)) continue;
      if (inner && isGeometry(inner.name)) geometries.push(inner);
      else this.values(child, '', types, values);
    }
    const [geometry, ...others] = geometries;
    if (others.length > 0)
      this.findings.add({
        code: 'gml-second-geometry',
        severity: 'caution',
        message: 'A feature has more than one geometry: the first is read, the others stay behind.',
        count: others.length,
        location: node.name,
      });
    try {
      const pieces = geometry ? this.geometry(geometry, builder, node.name, values) : 0;
      if (pieces === 0) {
        this.findings.add({
          code: 'gml-no-geometry',
          severity: 'info',
          message: 'A feature has no geometry: it is a record without a place.',
          count: 1,
          location: node.name,
        });
        this.end(builder, NO_GEOMETRY, 'Feature', values);
      } else if (pieces > 1)
        this.findings.add({
          code: 'gml-collection',
          severity: 'info',
          message: 'A feature of several kinds of geometry is as many records, each with its data.',
          count: 1,
          location: node.name,
        });
    } catch (error) {
      if (!(error instanceof NotGml)) throw error;
      throw new Problem(
        'gml-geometry',
        `${this.file}: feature ${this.features} (${node.name}${id === undefined ? '' : ` ${id}`}): ${error.message}. Export it again.`,
        { file: this.file, record: this.features },
      );
    }
  }

  private end(builder: BatchBuilder, kind: number, entity: string, values: readonly [string, Value][]): void {
    for (const [name, value] of values) builder.set(name, value);
    builder.endFeature(kind, entity, this.features);
    this.builders.ended(builder);
  }

  /** Puts a geometry, as one record for each run of pieces of a kind; returns how many. */
  private geometry(node: XmlNode, builder: BatchBuilder, place: string, values: readonly [string, Value][]): number {
    const told = node.attributes.srsName ?? firstSrs(node) ?? this.around.srs;
    const srs = told === undefined ? null : this.system(told);
    const axes: Axes = {
      northFirst: srs?.northFirst ?? false,
      dimension: Number(node.attributes.srsDimension) === 3 ? 3 : this.around.dimension,
    };
    const before = builder.vertices;
    let records = 0,
      kind = -1;
    for (const piece of piecesOf(node, (name) =>
      this.findings.add({
        code: 'gml-not-read',
        severity: 'caution',
        message: `A geometry of the kind ${name} is not read and stays behind.`,
        count: 1,
        location: place,
      }),
    )) {
      if (piece.kind !== kind && kind >= 0) {
        this.end(builder, kind, node.name, values);
        records++;
        kind = -1;
      }
      if (putPiece(piece, builder, axes)) kind = piece.kind;
    }
    const move = srs && told !== undefined ? this.into(srs, place) : null;
    // every record of this geometry is among those that are still being collected
    move?.apply(builder.coordsFrom(before), 0, builder.vertices - before, 3);
    if (kind < 0) return records;
    this.end(builder, kind, node.name, values);
    return records + 1;
  }

  private system(text: string): SrsName {
    let srs = this.known.get(text);
    if (!srs) this.known.set(text, (srs = readSrsName(text)));
    if (!this.first) {
      this.first = srs;
      if (!srs.crs)
        this.findings.add({
          code: 'gml-crs-unread',
          severity: 'caution',
          message: `${this.file} states a system that is not understood (${text.slice(0, 80)}). Choose it in Place.`,
          count: 1,
        });
    }
    return srs;
  }

  /** How positions in another system than the file's first get into that one. */
  private into(srs: SrsName, place: string): Transform | null {
    const { first } = this;
    if (!first?.crs || !srs.crs || srs.crs.id === first.crs.id) return null;
    let move = this.moves.get(srs.text);
    if (move === undefined) this.moves.set(srs.text, (move = compileTransform(srs.crs, first.crs)));
    this.findings.add({
      code: 'gml-second-system',
      severity: 'caution',
      message: `Positions in ${label(srs.crs)} were carried over into ${label(first.crs)}, the first system of the file.`,
      count: 1,
      location: place,
    });
    return move;
  }

  private values(node: XmlNode, within: string, types: ReadonlyMap<string, FieldType> | undefined, out: [string, Value][]): void {
    const name = within === '' ? node.name : `${within}.${node.name}`;
    if (node.attributes['xsi:nil'] === 'true' || node.attributes['xsi:nil'] === '1') return;
    if (node.children.length > 0) {
      for (const child of node.children) this.values(child, name, undefined, out);
      return;
    }
    const text = node.text.trim() === '' ? node.attributes['xlink:href'] : node.text;
    if (text !== undefined) out.push([name, typed(text, types?.get(name))]);
  }
}

const declaredBy = (types: ReadonlyMap<string, FieldType>): Declarations => new Map([...types].map(([name, type]) => [name, { type }]));

function typed(text: string, type: FieldType | undefined): Value {
  // where no schema says that it is a text, lines and indents around a value are how the file is set, not what it says
  if (type === undefined) return plainValue(text.replace(/^\s*\n\s*|\s*\n\s*$/g, ''));
  const trimmed = text.trim();
  if (type === 'text') return text;
  if (trimmed === '') return null;
  if (type === 'boolean') return trimmed === 'true' || trimmed === '1';
  if (type === 'date' || type === 'time' || type === 'datetime') return trimmed;
  if (type === 'bytes') return bytesOfBase64(trimmed.replace(/\s+/g, '')) ?? trimmed;
  const whole = parseInteger(trimmed);
  if (whole !== null) return whole;
  const number = Number(trimmed);
  return Number.isNaN(number) ? trimmed : number;
}

import { cornersOfBox, latLonBox } from './lat-lon-box';
import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type FeatureBatch, POLYGON, NO_GEOMETRY } from '../../model/batch';
import { type BatchBuilder, LayerBuilders } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { OpenSource, SourceFacts } from '../format';
import { WGS84 } from '../globe';
import { childOf, childrenOf, childText, XmlReader, type XmlNode } from '../../io/xml';
import { entrySource, zipEntries } from '../zip/read';
import { idOf, type KmlSymbology, lookOf, StyleTable } from './symbology';
import { heightsOf, NotKml, piecesOf, putPiece, valuesOf } from './placemark';

/** Opens a KML file, or the one in a KMZ archive. */
export async function openKml(source: ByteSource): Promise<OpenSource> {
  // Source: OGC 07-147r2, section 7.3
  const crs = lookupCrs(WGS84)!;
  const head = await source.read(0, 4);
  const zipped = head[0] === 0x50 && head[1] === 0x4b;
  return {
    facts: (): SourceFacts => ({ crs, crsText: WGS84, unit: null, version: zipped ? 'KMZ' : null }),
    async *read(findings, watch) {
      const file = zipped ? await fileIn(source, findings) : source;
      yield* readFeatures(source.name, file, findings, watch);
    },
  };
}

const PICTURES = /\.(png|jpe?g|gif|tiff?|bmp|svg|dae)$/i;

/** The first KML file of an archive, at its root where there is one. Source: OGC 07-147r2, annex C. */
async function fileIn(source: ByteSource, findings: Findings): Promise<ByteSource> {
  const entries = await zipEntries(source);
  const files = entries.filter((e) => /\.kml$/i.test(e.name));
  const file = files.find((e) => e.name.toLowerCase() === 'doc.kml') ?? files.find((e) => !e.name.includes('/')) ?? files[0];
  if (!file) throw new Problem('kmz-empty', `${source.name} holds no KML file.`, { file: source.name });
  const pictures = entries.filter((e) => PICTURES.test(e.name)).length;
  if (pictures > 0)
    findings.add({
      code: 'kmz-pictures',
      severity: 'info',
      message: 'Pictures in the archive stay behind; the fields icon and image name them.',
      count: pictures,
    });
  if (files.length > 1)
    findings.add({
      code: 'kmz-more-files',
      severity: 'caution',
      message: `Only ${file.name} of the archive is read; its other KML files stay behind.`,
      count: files.length - 1,
    });
  return entrySource(source, file);
}

async function* readFeatures(name: string, file: ByteSource, findings: Findings, watch: Watch): AsyncGenerator<FeatureBatch> {
  const reader = new FeatureReader(name, findings);
  const xml = new XmlReader(name, reader);
  for await (const chunk of watched(file, watch)) {
    xml.push(chunk);
    yield* reader.builders.takeFull();
  }
  xml.end();
  xml.tell(findings);
  if (!reader.seen) throw new Problem('kml-not', `${name} is XML, but no KML: its outermost element is not kml.`, { file: name });
  yield* reader.builders.takeAll();
}

const CONTAINERS = new Set(['Document', 'Folder']);
/** Read as a whole, and what each is to the reader. */
const WHOLE = new Set([
  'Placemark',
  'GroundOverlay',
  'NetworkLink',
  'PhotoOverlay',
  'ScreenOverlay',
  'Tour',
  'Style',
  'StyleMap',
  'Schema',
  'name',
  'description',
  'ExtendedData',
  'Region',
  'LookAt',
  'Camera',
  'Snippet',
  'TimeStamp',
  'TimeSpan',
  'NetworkLinkControl',
]);

class FeatureReader {
  readonly builders = new LayerBuilders();
  readonly styles = new StyleTable();
  seen = false;
  private readonly schemas = new Map<string, Map<string, string>>();
  private readonly containers: { name: string; folder: boolean }[] = [];
  private features = 0;
  /** What is told of features with coordinates that are none: the same of all, so that they are counted. */
  private firstBroken: string | null = null;
  private readonly stem: string;

  constructor(
    file: string,
    private readonly findings: Findings,
  ) {
    this.stem = file.replace(/\.[^.]+$/, '');
  }

  open(name: string): boolean {
    if (name === 'kml') this.seen = true;
    if (CONTAINERS.has(name)) this.containers.push({ name: '', folder: name === 'Folder' });
    return WHOLE.has(name);
  }

  close(name: string): void {
    if (CONTAINERS.has(name)) this.containers.pop();
  }

  text(): void {}

  whole(node: XmlNode): void {
    switch (node.name) {
      case 'Placemark':
        return this.placemark(node);
      case 'GroundOverlay':
        return this.overlay(node);
      case 'Style':
      case 'StyleMap':
        return this.styles.take(node);
      case 'Schema':
        return this.schema(node);
      case 'name': {
        const top = this.containers.at(-1);
        if (top) top.name = node.text.trim();
        return;
      }
      case 'NetworkLink':
        return this.findings.add({
          code: 'kml-network-link',
          severity: 'caution',
          message: `A link to ${childText(childOf(node, 'Link') ?? childOf(node, 'Url'), 'href') ?? 'nowhere'} is not followed: what it shows stays behind.`,
          count: 1,
        });
      case 'PhotoOverlay':
      case 'ScreenOverlay':
      case 'Tour':
        return this.findings.add({
          code: 'kml-not-carried',
          severity: 'caution',
          message: `A ${node.name} has no place on a map, and stays behind.`,
          count: 1,
          location: this.layer,
          left: true,
        });
      case 'Region':
        return this.findings.add({
          code: 'kml-region',
          severity: 'info',
          message: 'Regions, which say from how far something is shown, are not carried.',
          count: 1,
        });
      default:
    }
  }

  /** Folders within folders, the outermost first; what lies in none belongs to the file. */
  private get layer(): string {
    const folders = this.containers.filter((c) => c.folder).map((c) => c.name || 'unnamed');
    return folders.length > 0 ? folders.join(' / ') : (this.containers.find((c) => c.name !== '')?.name ?? this.stem);
  }

  private schema(node: XmlNode): void {
    const fields = new Map(childrenOf(node, 'SimpleField').map((f) => [f.attributes.name ?? '', f.attributes.type ?? 'string']));
    for (const id of [node.attributes.id, node.attributes.name]) if (id !== undefined) this.schemas.set(id, fields);
  }

  private placemark(node: XmlNode): void {
    this.features++;
    const { findings } = this;
    const builder = this.builders.for(this.layer);
    const look = this.look(node);
    let pieces = 0;
    try {
      // pieces of one kind that follow one another are one record
      let kind = -1;
      let extra: [string, string | boolean][] = [];
      const end = (): void => {
        if (kind < 0) return;
        this.values(node, builder, kind, look, extra);
        builder.endFeature(kind, 'Placemark', this.features);
        this.builders.ended(builder);
        pieces++;
      };
      for (const piece of piecesOf(node, (name) =>
        findings.add({
          code: 'kml-model',
          severity: 'caution',
          message: `A ${name} in a feature is not read and stays behind.`,
          count: 1,
          location: this.layer,
        }),
      )) {
        if (piece.kind !== kind || piece.node.name === 'Track') {
          end();
          kind = -1;
          extra = [...heightsOf(piece)];
        }
        if (putPiece(piece, builder)) kind = piece.kind;
      }
      end();
    } catch (error) {
      if (!(error instanceof NotKml)) throw error;
      builder.abandon();
      findings.add({
        code: 'kml-coordinates',
        severity: 'wrong',
        message:
          (this.firstBroken ??= `A feature has coordinates that are none; the first is feature ${this.features}${childText(node, 'name') === null ? '' : ` (${childText(node, 'name')})`}, where ${error.message}.`),
        count: 1,
        location: this.layer,
        ...(pieces === 0 ? { left: true } : {}),
      });
      return;
    }
    if (pieces === 0) {
      findings.add({
        code: 'kml-no-geometry',
        severity: 'info',
        message: 'A feature has no geometry: it is a record without a place.',
        count: 1,
        location: this.layer,
      });
      this.values(node, builder, NO_GEOMETRY, look, []);
      builder.endFeature(NO_GEOMETRY, 'Placemark', this.features);
      this.builders.ended(builder);
    }
    if (pieces > 1)
      findings.add({
        code: 'kml-collection',
        severity: 'info',
        message: 'A feature of several kinds of geometry is as many records, each with its data.',
        count: 1,
        location: this.layer,
      });
  }

  private values(
    node: XmlNode,
    builder: BatchBuilder,
    kind: number,
    look: KmlSymbology,
    extra: readonly [string, string | boolean][],
  ): void {
    const transparency = kind === POLYGON ? (look.fillTransparency ?? look.transparency) : look.transparency;
    const told: [string, string | number | undefined][] = [
      ['color', look.color],
      ['transparency', transparency],
      ['line_width_px', look.width],
      ['line_width_m', look.groundWidth],
      ['fill', kind === POLYGON ? look.fill : undefined],
      ['icon', look.icon],
    ];
    // where its schema has a field of the name, the data say it, or say that there is none
    const schemas = childrenOf(childOf(node, 'ExtendedData'), 'SchemaData').map((d) =>
      this.schemas.get(idOf(d.attributes.schemaUrl ?? '')),
    );
    builder.drawnWith(Object.fromEntries(told.filter(([name, value]) => value !== undefined && name !== 'icon')));
    for (const [name, value] of told) if (value !== undefined && !schemas.some((s) => s?.has(name))) builder.set(name, value);
    for (const [name, value] of extra) builder.set(name, value);
    for (const [name, value] of valuesOf(node, (schema, field) => this.schemas.get(schema)?.get(field))) builder.set(name, value);
  }

  private look(node: XmlNode): KmlSymbology {
    const url = childText(node, 'styleUrl');
    const shared = url === null ? {} : this.styles.find(url);
    if (shared === null)
      this.findings.add({
        code: 'kml-style-ring',
        severity: 'caution',
        message: `The style ${url} names itself by way of others: features that use it have no looks.`,
        count: 1,
      });
    else if (shared === undefined)
      this.findings.add({
        code: 'kml-style-missing',
        severity: 'info',
        message: `The style ${url} is not defined before its features in this file: they have no looks.`,
        count: 1,
      });
    const own = childOf(node, 'Style');
    return { ...(shared ?? {}), ...(own ? lookOf(own) : {}) };
  }

  /** The frame of a picture on the ground. Source: OGC 07-147r2, sections 11.2 and 11.3. */
  private overlay(node: XmlNode): void {
    this.features++;
    const quad = childText(childOf(node, 'LatLonQuad'), 'coordinates');
    const corners =
      quad === null
        ? cornersOfBox(latLonBox(node))
        : quad.split(/\s+/).map((p) => p.split(',').map(Number).slice(0, 2) as [number, number]);
    if (corners.length !== 4 || corners.some((c) => !c.every(Number.isFinite))) {
      this.findings.add({
        code: 'kml-overlay-unplaced',
        severity: 'caution',
        message: 'A picture on the ground does not say where it lies, and stays behind.',
        count: 1,
        left: true,
        location: this.layer,
      });
      return;
    }
    const builder = this.builders.for(this.layer);
    for (const [x, y] of [...corners, corners[0]!]) builder.vertex(x, y, NaN);
    builder.endPart();
    const href = childText(childOf(node, 'Icon'), 'href');
    this.values(node, builder, POLYGON, {}, href === null ? [] : [['image', href]]);
    builder.endFeature(POLYGON, 'GroundOverlay', this.features);
    this.builders.ended(builder);
    this.findings.add({
      code: 'kml-picture',
      severity: 'info',
      message: `A picture on the ground crosses as its frame only; its file is ${href ?? 'not named'}.`,
      count: 1,
      location: this.layer,
    });
  }
}

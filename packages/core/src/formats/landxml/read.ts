import { type Crs, type LinearUnit } from '../../crs/crs';
import { readPositions } from '../../crs/definitions/read-definition';
import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { childOf, childrenOf, XmlReader, type XmlNode } from '../../io/xml';
import { type FeatureBatch, LINE, NO_GEOMETRY, POINT, POLYGON } from '../../model/batch';
import { type BatchBuilder, LayerBuilders } from '../../model/batch-builder';
import { Doubles } from '../../model/doubles';
import type { Findings } from '../../model/finding';
import { messageOf, Problem } from '../../model/problem';
import type { Value } from '../../model/value';
import type { OpenSource, SourceFacts } from '../format';
import { listed, numbersOf, pointOf, runOf } from './coord-geom';
import { NUMBERS, PLACES, TEXT_ATTRIBUTES, TEXTS } from './element-values';
import { layerOf, UNNAMED } from './layer-names';
import { SIZES, sizeIn } from './sizes';
import { linearUnit } from './units';

/** Elements that are read as a whole, each of which is small. */
const WHOLE = new Set([
  ...['Metric', 'Imperial', 'CoordinateSystem', 'CgPoint', 'P', 'F', 'Breakline', 'Contour'],
  ...['Struct', 'Pipe', 'Parcel', 'Alignment', 'PlanFeature'],
]);

/** Parts of a file that hold what is not read. Source: LandXML-1.2.xsd, LandXML; from memory. */
const UNREAD = new Set([
  'Roadways',
  'GradeModel',
  'Survey',
  'Monuments',
  'Amendment',
  'CrossSects',
  'Profile',
  'Watersheds',
  'DataPoints',
  'PointFiles',
]);

/** Opens a file of points, surfaces, parcels, alignments and pipe networks. */
export function openLandXml(source: ByteSource): OpenSource {
  const stated: { crs: Crs | null; crsText: string | null; unit: LinearUnit | null; version: string | null } = {
    crs: null,
    crsText: null,
    unit: null,
    version: null,
  };
  return {
    facts: (): SourceFacts => ({ ...stated }),
    read: (findings, watch) => new LandXmlReader(source, findings, stated).read(watch),
  };
}

type Stated = { crs: Crs | null; crsText: string | null; unit: LinearUnit | null; version: string | null };

class LandXmlReader {
  private readonly builders = new LayerBuilders();
  private record = 0;
  private seen = false;
  private units = false;
  private diameter_m = 0.001;
  /** Points by name: northing, easting, elevation as they are written. */
  private readonly points = new Map<string, number[]>();
  /** Elements that refer to points which have not come yet. */
  private readonly waiting: XmlNode[] = [];
  /** Names of the groups that are open, by their element; of points there may be groups within groups. */
  private readonly named: { element: string; name: string }[] = [];
  /** Places of a point that are still to come, and the layer that it is in. */
  private places = 0;
  private pointOpen: BatchBuilder | null = null;
  private surface: { name: string; ids: Map<string, number>; xyz: Doubles } | null = null;
  private network: {
    name: string;
    structs: Map<string, { at: [number, number, number]; inverts: Map<string, number> }>;
    pipes: XmlNode[];
  } | null = null;
  private readonly unread = new Map<string, number>();
  private readonly odd = { spirals: 0, curves: 0, hidden: 0 };

  constructor(
    private readonly source: ByteSource,
    private readonly findings: Findings,
    private readonly stated: Stated,
  ) {}

  async *read(watch: Watch): AsyncGenerator<FeatureBatch> {
    const xml = new XmlReader(this.source.name, {
      open: (name, attributes) => this.open(name, attributes),
      close: (name) => this.close(name),
      text() {},
      whole: (node) => this.whole(node),
    });
    for await (const chunk of watched(this.source, watch)) {
      xml.push(chunk);
      yield* this.builders.takeFull();
    }
    xml.end();
    xml.tell(this.findings);
    const file = this.source.name;
    if (!this.seen) throw new Problem('landxml-not', `${file} is XML, but no LandXML: its outermost element is not LandXML.`, { file });
    this.endPoint();
    for (const node of this.waiting) this.line(node, true);
    this.tell();
    yield* this.builders.takeAll();
  }

  private open(name: string, attributes: Record<string, string>): boolean {
    if (name === 'LandXML') {
      this.seen = true;
      this.stated.version = attributes.version ?? null;
    }
    if (name === 'Surface') this.surface = { name: attributes.name ?? UNNAMED.Surface, ids: new Map(), xyz: new Doubles() };
    if (name === 'PipeNetwork') this.network = { name: attributes.name ?? UNNAMED.PipeNetwork, structs: new Map(), pipes: [] };
    if (name === 'CgPoints') this.endPoint();
    if (isGroup(name)) this.named.push({ element: name, name: attributes.name ?? UNNAMED[name] });
    if (UNREAD.has(name)) this.unread.set(name, (this.unread.get(name) ?? 0) + 1);
    return WHOLE.has(name);
  }

  private close(name: string): void {
    if (name === 'CgPoints') this.endPoint();
    if (isGroup(name)) this.named.pop();
    if (name === 'Surface') this.surface = null;
    if (name === 'PipeNetwork') {
      for (const pipe of this.network!.pipes) this.pipe(pipe);
      this.network = null;
    }
  }

  private whole(node: XmlNode): void {
    switch (node.name) {
      case 'Metric':
      case 'Imperial':
        this.units = true;
        this.stated.unit = linearUnit(node.attributes.linearUnit);
        this.diameter_m = (linearUnit(node.attributes.diameterUnit) ?? this.stated.unit ?? { metres: 0.001 }).metres;
        return;
      case 'CoordinateSystem':
        return this.system(node);
      case 'CgPoint':
        return this.point(node);
      case 'P':
        return this.corner(node);
      case 'F':
        return this.face(node);
      case 'Breakline':
      case 'Contour':
        return this.drawn(node);
      case 'Struct':
        return this.struct(node);
      case 'Pipe':
        if (this.network) this.network.pipes.push(node);
        return;
      default:
        return this.line(node, false);
    }
  }

  private system({ attributes }: XmlNode): void {
    const code = attributes.epsgCode?.trim();
    const wkt = attributes.ogcWktCode?.trim();
    this.stated.crsText = code ? `EPSG:${code}` : (wkt ?? attributes.name ?? attributes.desc ?? null);
    this.stated.crs = (code ? lookupCrs(`EPSG:${code}`) : wkt ? this.definition(wkt) : undefined) ?? null;
  }

  private definition(wkt: string): Crs | undefined {
    try {
      return readPositions(wkt);
    } catch (error) {
      this.findings.add({
        code: 'landxml-definition',
        severity: 'caution',
        message: `The definition of its system cannot be read: ${messageOf(error)}`,
        count: 1,
      });
      return undefined;
    }
  }

  /** The layer of what lies in the group that is open. */
  private layer(element: Group): string {
    return this.named.findLast((g) => g.element === element)?.name ?? UNNAMED[element];
  }

  private end(builder: BatchBuilder, kind: number, entity: string): void {
    builder.endFeature(kind, entity, ++this.record);
    this.builders.ended(builder);
  }

  private lost(code: string, message: string, location: string): void {
    this.record++;
    this.findings.add({ code, severity: 'wrong', message, count: 1, location, left: true });
  }

  private point(node: XmlNode): void {
    const { name, code, desc, oID } = node.attributes;
    const own = numbersOf(node.text);
    if (name !== undefined && own.length >= 2) this.points.set(name, own);
    const at = pointOf(node, (ref) => this.points.get(ref));
    const layer = this.layer('CgPoints');
    const builder = this.builders.for(layer);
    if (!at) {
      // one that is not the first of its record is a place of that
      this.endPoint();
      return this.lost('landxml-point', 'A point has no northing and easting that are numbers, and stays behind.', layer);
    }
    builder.vertex(...at);
    builder.endPart();
    if (this.places > 0) {
      if (--this.places === 0) this.end(builder, POINT, 'CgPoint');
      return;
    }
    builder.set('name', name ?? null);
    builder.set('code', code ?? null);
    builder.set('desc', desc ?? null);
    builder.set('oID', oID ?? null);
    properties(node, builder);
    this.places = placesOf(node) - 1;
    if (this.places === 0) this.end(builder, POINT, 'CgPoint');
    else this.pointOpen = builder;
  }

  /** Ends a point that is to have more places where no more come. */
  private endPoint(): void {
    if (this.places === 0) return;
    this.findings.add({
      code: 'landxml-places',
      severity: 'wrong',
      message: 'A point is to have more places than follow it: it has those that there are.',
      count: 1,
      location: this.pointOpen!.layer,
    });
    this.end(this.pointOpen!, POINT, 'CgPoint');
    this.places = 0;
  }

  private corner({ attributes, text }: XmlNode): void {
    const [n, e, z] = numbersOf(text);
    if (!this.surface || attributes.id === undefined || n === undefined || e === undefined) return;
    this.surface.ids.set(attributes.id, this.surface.xyz.length / 3);
    for (const v of [e, n, z ?? NaN]) this.surface.xyz.push(v);
  }

  private face({ attributes, text }: XmlNode): void {
    if (!this.surface) return;
    const { name, ids, xyz } = this.surface;
    // a face that is marked so is not part of the surface
    if (attributes.i === '1') {
      this.odd.hidden++;
      return;
    }
    const corners = text
      .trim()
      .split(/\s+/)
      .map((id) => ids.get(id));
    if (corners.length < 3 || corners.some((c) => c === undefined))
      return this.lost('landxml-face', 'A face has a corner that is no point of its surface, and stays behind.', name);
    const builder = this.builders.for(name);
    for (const c of [...corners, corners[0]]) builder.vertex(xyz.data[3 * c!]!, xyz.data[3 * c! + 1]!, xyz.data[3 * c! + 2]!);
    builder.endPart();
    this.end(builder, POLYGON, 'Face');
  }

  /** A breakline or a contour that a surface was made of. */
  private drawn(node: XmlNode): void {
    const layer = layerOf(this.surface?.name ?? UNNAMED.Surface, node.name === 'Contour' ? 'contours' : 'breaklines');
    const points = listed(node);
    if (points.length < 2) return this.lost('landxml-line', `${node.name}: it has fewer than two points, and stays behind.`, layer);
    const builder = this.builders.for(layer);
    const elev = node.attributes.elev === undefined ? NaN : Number(node.attributes.elev);
    for (const [x, y, z] of points) builder.vertex(x, y, Number.isNaN(z) ? elev : z);
    builder.endPart();
    this.attributes(node, builder);
    properties(node, builder);
    this.end(builder, LINE, node.name);
  }

  private struct(node: XmlNode): void {
    if (!this.network) return;
    const { name: network, structs } = this.network;
    const layer = layerOf(network, 'structures');
    const { name, desc, elevRim, elevSump, material } = node.attributes;
    const at = pointOf(childOf(node, 'Center'), (ref) => this.points.get(ref));
    if (!at) return this.lost('landxml-struct', 'A structure has no centre, and stays behind.', layer);
    const inverts = new Map<string, number>();
    for (const { attributes } of childrenOf(node, 'Invert'))
      if (attributes.refPipe !== undefined) inverts.set(attributes.refPipe, Number(attributes.elev));
    if (name) structs.set(name, { at, inverts });
    const builder = this.builders.for(layer);
    const rim = elevRim === undefined ? NaN : Number(elevRim);
    builder.vertex(at[0], at[1], Number.isNaN(at[2]) ? rim : at[2]);
    builder.endPart();
    const shape = node.children.find((c) => c.name.endsWith('Struct'));
    builder.set('id', name || null);
    builder.set('desc', desc ?? null);
    builder.set('rim', Number.isNaN(rim) ? null : rim);
    builder.set('sump', elevSump === undefined ? null : Number(elevSump));
    builder.set('shape', shape?.name.replace(/Struct$/, '') ?? null);
    for (const [field, value] of Object.entries(shape?.attributes ?? {})) builder.set(field, this.sized(field, value));
    if (material !== undefined) builder.set('material', material);
    properties(node, builder);
    this.end(builder, POINT, 'Struct');
  }

  private pipe(node: XmlNode): void {
    const { name: network, structs } = this.network!;
    const layer = layerOf(network, 'pipes');
    const { name, refStart, refEnd, length, slope, desc, material } = node.attributes;
    const [from, to] = [structs.get(refStart ?? ''), structs.get(refEnd ?? '')];
    const builder = this.builders.for(layer);
    const [start, end] = [from?.inverts.get(name ?? '') ?? NaN, to?.inverts.get(name ?? '') ?? NaN];
    // a course of its own says where it lies; without one it is straight between its structures
    const runs = childrenOf(node, 'CoordGeom').flatMap((geom) => runOf(geom, (ref) => this.points.get(ref)) ?? []);
    const isPlaced = runs.length > 0 || (from !== undefined && to !== undefined);
    for (const [k, { vertices, spirals, odd }] of runs.entries()) {
      const [first, last] = [k === 0 ? 0 : -1, k === runs.length - 1 ? vertices.length - 1 : -1];
      for (const [v, [x, y, z, bulge]] of vertices.entries())
        builder.vertex(x, y, !Number.isNaN(z) ? z : v === first ? start : v === last ? end : NaN, bulge);
      builder.endPart();
      this.odd.spirals += spirals;
      this.odd.curves += odd;
    }
    if (runs.length === 0 && from && to) {
      builder.vertex(from.at[0], from.at[1], start);
      builder.vertex(to.at[0], to.at[1], end);
      builder.endPart();
    }
    if (!isPlaced)
      this.findings.add({
        code: 'landxml-pipe-loose',
        severity: 'wrong',
        message: 'A pipe begins or ends at a structure that is not there: it has its data and no place.',
        count: 1,
        location: layer,
      });
    const shape = node.children.find((c) => c.name.endsWith('Pipe'));
    builder.set('id', name || null);
    builder.set('from_id', refStart || null);
    builder.set('to_id', refEnd || null);
    builder.set('inv_start', Number.isNaN(start) ? null : start);
    builder.set('inv_end', Number.isNaN(end) ? null : end);
    builder.set('length', length === undefined ? null : Number(length));
    builder.set('slope', slope === undefined ? null : Number(slope));
    builder.set('desc', desc ?? null);
    builder.set('shape', shape?.name.replace(/Pipe$/, '') ?? null);
    for (const [field, value] of Object.entries(shape?.attributes ?? {})) builder.set(field, this.sized(field, value));
    if (material !== undefined) builder.set('material', material);
    properties(node, builder);
    this.end(builder, isPlaced ? LINE : NO_GEOMETRY, 'Pipe');
  }

  /** A size of a cross section, millimetres whatever its unit in the file. */
  private sized(field: string, value: string): string | number {
    return SIZES.has(field) && Number.isFinite(Number(value)) ? sizeIn(Number(value), this.diameter_m) : valueOf(value);
  }

  /** A parcel, an alignment or a plan feature. @param last whether no more points will come */
  private line(node: XmlNode, last: boolean): void {
    const layer = this.layer(GROUPS[node.name]!);
    const runs = childrenOf(node, 'CoordGeom').map((geom) => runOf(geom, (ref) => this.points.get(ref)));
    if (runs.some((r) => r === null) || runs.length === 0) {
      if (!last) this.waiting.push(node);
      else this.lost('landxml-line', `${node.name}: it refers to a point that is not there, or has no course, and stays behind.`, layer);
      return;
    }
    for (const { name } of node.children) if (UNREAD.has(name)) this.unread.set(name, (this.unread.get(name) ?? 0) + 1);
    const builder = this.builders.for(layer);
    for (const run of runs) {
      for (const v of run!.vertices) builder.vertex(...v);
      builder.endPart();
      this.odd.spirals += run!.spirals;
      this.odd.curves += run!.odd;
    }
    this.attributes(node, builder);
    properties(node, builder);
    this.end(builder, node.name === 'Parcel' ? POLYGON : LINE, node.name);
  }

  private attributes({ attributes }: XmlNode, builder: BatchBuilder): void {
    for (const [field, value] of Object.entries(attributes))
      builder.set(field, !TEXT_ATTRIBUTES.has(field) ? valueOf(value) : value === '' ? null : value);
  }

  private tell(): void {
    const add = (code: string, severity: 'info' | 'caution' | 'wrong', message: string, count: number): void => {
      if (count > 0) this.findings.add({ code, severity, message, count });
    };
    if (!this.units)
      add(
        'landxml-no-units',
        'wrong',
        'The file states no units: say in Place which one its numbers are in. Sizes of pipes are taken for millimetres.',
        1,
      );
    else if (this.stated.unit === null)
      add('landxml-unit', 'wrong', 'The file names a unit that is not known: say in Place which one its numbers are in.', 1);
    if (this.stated.crsText !== null && this.stated.crs === null)
      add('landxml-crs', 'caution', `The file calls its system “${this.stated.crsText}”, which is no code: choose the system in Place.`, 1);
    add('landxml-spiral', 'caution', 'Spirals come as chords.', this.odd.spirals);
    add(
      'landxml-curve',
      'wrong',
      'Curves have a centre that is not as far from their start as from their end: they come as straight lines.',
      this.odd.curves,
    );
    add('landxml-hidden', 'info', 'Faces are marked as no part of their surface, and are left out.', this.odd.hidden);
    for (const [name, count] of this.unread) add('landxml-unread', 'caution', `${name}: this part of the file is not read.`, count);
  }
}

/** Elements that hold others and have a name. */
type Group = 'CgPoints' | 'Parcels' | 'Alignments' | 'PlanFeatures';

const GROUPS: Readonly<Record<string, Group>> = {
  CgPoint: 'CgPoints',
  Parcel: 'Parcels',
  Alignment: 'Alignments',
  PlanFeature: 'PlanFeatures',
};

const isGroup = (element: string): element is Group => Object.values<string>(GROUPS).includes(element);

/** A number where the text is one, and would be written the same. */
const valueOf = (text: string): string | number => (text.trim() !== '' && String(Number(text)) === text.trim() ? Number(text) : text);

/** A whole number of more digits than a fraction holds, exactly. */
const numberOf = (text: string): Value =>
  /^-?\d+$/.test(text) && !Number.isSafeInteger(Number(text)) ? BigInt(text) : Number.isFinite(Number(text)) ? Number(text) : text;

/** What a Feature says of an element, label by label. Source: LandXML-1.2.xsd, Feature and Property; from memory. */
function properties(node: XmlNode, builder: BatchBuilder): void {
  for (const feature of childrenOf(node, 'Feature')) {
    // what was written here says of itself what is text
    const read = feature.attributes.name === TEXTS ? (t: string) => t : feature.attributes.name === NUMBERS ? numberOf : valueOf;
    for (const { attributes } of childrenOf(feature, 'Property'))
      if (attributes.label !== undefined) builder.set(attributes.label, read(attributes.value ?? ''));
  }
}

/** How many points a record is that was written here. */
function placesOf(node: XmlNode): number {
  const told = childrenOf(node, 'Feature').find((f) => f.attributes.name === PLACES);
  return Math.max(1, Math.trunc(Number(told?.attributes.code ?? 1)) || 1);
}

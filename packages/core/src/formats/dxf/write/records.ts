import type { Value } from '../../../model/value';
import { eachPart, type FeatureBatch, LINE, partRanges, POLYGON, TEXT, vertexRange } from '../../../model/batch';
import type { Findings } from '../../../model/finding';
import { ocs } from '../../../geometry/ocs';
import { ringDepths } from '../../../geometry/nesting';
import type { TargetSet } from '../../format';
import type { OptionValues } from '../../format-option';
import { labelText } from '../../label-text';
import { parseTemplate, type Template } from '../../../filter/template';
import { CSS_PIXEL_MM, PLAIN_MARK_MM, SHEET_MM_PER_M } from '../../../symbology/symbolizer';
import { ATTACHED, textAlignment } from '../alignment';
import { plainMtext, plainText } from '../text';
import { linkOf, OWN_APPLICATION, OWN_MARKS, parseXdata, writeFields, XDATA } from '../xdata';
import { type ExtendedData, type EntityWriter, isLevel, lineCoded, paragraphCoded } from './geometry';
import type { GroupWriter } from './groups';
import { anchorOf, labelPlace } from './labels';
import { nearestWeight, type Pen, seenColor, seenTransparency } from './symbology';
import type { SymbolTables } from './symbol-tables';

/** Bytes of extended data that one object may carry. Source: DXF Reference, "Extended data": 16 kilobytes. */
export const MOST_XDATA = 16_383;
/** Characters of a text in one line; longer ones are paragraphs. */
const LONGEST_LINE = 255;

/** What the records of a drawing are written with. */
export interface RecordsOptions {
  options: OptionValues;
  /** Drawing units in a metre. */
  perMetre: number;
  /** Drawing units in a unit of the records' own lengths: 1, but in a drawing in degrees, whose lengths are metres. */
  perLength: number;
  tables: SymbolTables;
  findings: Findings;
}

/** How a block is placed. */
interface Insertion {
  angle: number;
  scale: [number, number, number];
  extrusion: [number, number, number] | null;
}

/** What a set is drawn with. */
interface SetPen {
  set: TargetSet;
  layer: string;
  color: string;
}

/** Draws records as objects, with all data that the objects cannot show behind them. */
export class RecordDrawer {
  /** Handles of the objects in each group, by its name. */
  readonly groups = new Map<string, string[]>();
  private groupOf: Value = null;
  private readonly label: Template | null;
  private readonly out: GroupWriter;

  constructor(
    private readonly hand: EntityWriter,
    private readonly opts: RecordsOptions,
  ) {
    this.out = hand.out;
    hand.drawn = (handle, type) => this.gather(handle, type);
    const template = String(opts.options.label ?? '').trim() === '' ? null : parseTemplate(String(opts.options.label));
    this.label = typeof template === 'string' ? null : template;
  }

  /** @param source whose record it is */
  draw(pen: SetPen, batch: FeatureBatch, i: number, source: string): void {
    const at = (name: string): Value => batch.columns.get(name)?.[i] ?? null;
    const seen = new Map<string, Value>([['layer', pen.layer]]);
    const look = this.penOf(pen, at, seen);
    this.groupOf = at('group');
    const [start, end] = vertexRange(batch, i);
    if (end === start) return;
    const x: [number, number, number] = [batch.coords[3 * start]!, batch.coords[3 * start + 1]!, batch.coords[3 * start + 2]! || 0];
    const kind = batch.kinds[i];
    let parts = 0;
    eachPart(batch, i, () => parts++);
    // a point of several places is as many objects
    if (kind !== LINE && kind !== POLYGON) parts = end - start;
    const behind = (): ExtendedData => this.behind(pen, batch, i, seen, parts);
    const thickness = typeof at('thickness') === 'number' ? (at('thickness') as number) : 0;
    if (kind === TEXT && parts === 1 && typeof at('text') === 'string') this.text(pen, look, at, x, seen, behind);
    else if (kind === LINE || kind === POLYGON) {
      this.shape(pen, look, batch, i, kind === POLYGON, thickness, seen, behind);
    } else this.place(pen, look, batch, i, source, x, at, seen, behind);
    this.drawLabel(pen, batch, i, x, at);
  }

  /** What is drawn for a record is in the groups that the record is in; attributes belong to their block. */
  private gather(handle: string, type: string): void {
    if (typeof this.groupOf !== 'string' || type === 'ATTRIB' || type === 'SEQEND' || type === 'VERTEX') return;
    for (const name of this.groupOf.split(', ')) {
      let members = this.groups.get(name);
      if (!members) this.groups.set(name, (members = []));
      members.push(handle);
    }
  }

  /** Line, colour and weight; what of it a reader will see goes into `seen`. */
  private penOf(pen: SetPen, at: (name: string) => Value, seen: Map<string, Value>): Pen {
    const { version } = this.out;
    const look: Pen = {};
    const color = at('color');
    if (typeof color === 'string' && /^#[0-9a-f]{6}$/.test(color)) {
      if (color !== pen.color) look.color = color;
      seen.set('color', seenColor(color, version.trueColor));
    } else seen.set('color', seenColor(pen.color, version.trueColor));
    const plain = version.modern ? 'Continuous' : 'CONTINUOUS';
    const linetype = at('linetype'),
      patternScale = at('linetype_scale');
    const scaled = typeof patternScale === 'number' && patternScale > 0 && patternScale !== 1;
    if (scaled && version.modern) {
      look.patternScale = patternScale;
      seen.set('linetype_scale', patternScale);
    }
    if (typeof linetype === 'string' && linetype !== plain) {
      const known = linetype.toLowerCase() === 'continuous' || this.opts.tables.hasLine(linetype);
      if (known && version.modern) look.linetype = linetype;
      else if (known) look.linetype = (scaled ? this.opts.tables.scaledLine(linetype, patternScale) : undefined) ?? linetype.toUpperCase();
      else
        this.opts.findings.add({
          code: 'dxf-line-type-unknown',
          severity: 'caution',
          message: `The line type ${linetype} has no pattern in the sources: drawn solid, its name kept with the data.`,
          count: 1,
          location: pen.layer,
        });
      seen.set('linetype', look.linetype ?? plain);
    } else seen.set('linetype', plain);
    const told = at('lineweight_mm'),
      pixels = at('line_width_px');
    const weight = typeof told === 'number' ? told : typeof pixels === 'number' ? pixels * CSS_PIXEL_MM : null;
    if (weight !== null && weight >= 0 && version.modern) {
      look.lineweight_mm = weight;
      seen.set('lineweight_mm', nearestWeight(weight) / 100);
    }
    const transparency = at('transparency');
    if (typeof transparency === 'number' && transparency >= 0 && transparency <= 1 && version.trueColor) {
      look.transparency = transparency;
      seen.set('transparency', seenTransparency(transparency));
    }
    return look;
  }

  private shape(
    pen: SetPen,
    look: Pen,
    batch: FeatureBatch,
    i: number,
    polygon: boolean,
    thickness: number,
    seen: Map<string, Value>,
    behind: () => ExtendedData,
  ): void {
    const { hand, out } = this;
    const { coords } = batch;
    const rings = partRanges(batch, i);
    const first = coords[3 * rings[0]![0] + 2]!;
    const fillable =
      polygon &&
      out.version.modern &&
      rings.every(([s, e]) => {
        if (e - s < 4) return false;
        for (let v = s; v < e; v++)
          if (coords[3 * v + 2]! !== first && !(Number.isNaN(first) && Number.isNaN(coords[3 * v + 2]!))) return false;
        return true;
      });
    const was = String(batch.columns.get('entity')?.[i] ?? batch.entities[i]);
    const areas = this.opts.options.areas;
    if (polygon && (areas === 'faces' || (areas === 'as drawn' && was === '3DFACE')) && isFace(coords, rings)) {
      hand.face(pen.layer, look, coords, ...rings[0]!, behind());
      return;
    }
    const filled =
      fillable &&
      (areas === 'fill' || areas === 'both' || (areas === 'as drawn' && (was === 'HATCH' || was === 'MPOLYGON' || was === 'SOLID')));
    if (filled && areas !== 'both') {
      seen.set('pattern', 'SOLID');
      seen.set('fill', 'solid');
      hand.fill(pen.layer, look, coords, rings, behind());
      return;
    }
    // a polyline in space has no thickness
    const [s0, e0] = rings[0]!;
    if (thickness !== 0 && (isLevel(coords, s0, e0) || (e0 - s0 === 2 && !polygon))) seen.set('thickness', thickness);
    const own = behind();
    let k = 0;
    for (const [s, e] of rings) {
      const closed = polygon && e - s > 2;
      if (e - s === 1)
        hand.point(pen.layer, look, coords[3 * s]!, coords[3 * s + 1]!, coords[3 * s + 2]! || 0, thickness, k === 0 ? own : PART);
      else hand.run(pen.layer, look, coords, null, s, e, closed, thickness, k === 0 ? own : PART);
      k++;
    }
    if (filled) {
      // a fill has one outer ring first; those of a second outer ring are fills of their own
      const depths = ringDepths(coords, rings);
      const order = rings
        .map((r, n) => ({ r, d: depths[n]! }))
        .sort((a, b) => a.d - b.d)
        .map((o) => o.r);
      hand.fill(pen.layer, look, coords, order, markDrawn);
    }
  }

  private text(
    pen: SetPen,
    look: Pen,
    at: (name: string) => Value,
    x: [number, number, number],
    seen: Map<string, Value>,
    behind: () => ExtendedData,
  ): void {
    const text = at('text') as string;
    const given = at('text_height'),
      turned = at('text_angle'),
      align = at('text_align');
    const height = typeof given === 'number' && given > 0 ? given * this.opts.perLength : this.textHeight();
    const angle = typeof turned === 'number' ? turned : 0;
    seen.set('text_height', height);
    seen.set('text_angle', angle);
    const many = text.includes('\n') || text.length > LONGEST_LINE || String(at('entity') ?? '') === 'MTEXT';
    if (many && this.out.version.modern) {
      const attached = Math.max(0, ATTACHED.indexOf(String(align ?? 'top left')));
      seen.set('text', plainMtext(paragraphCoded(text)));
      seen.set('text_align', ATTACHED[attached]!);
      this.hand.paragraph(pen.layer, look, text, x, height, angle, attached + 1, behind());
      return;
    }
    const set = typeof align === 'string' ? textAlignment(align) : null;
    if (set) seen.set('text_align', align);
    const lines = text.split(/\r?\n/);
    seen.set('text', plainText(lineCoded(lines[0]!)));
    this.hand.text(pen.layer, look, lines[0]!, x, height, angle, set ?? [0, 0], behind());
    // the old form has no paragraphs: the other lines stand below
    const a = (angle * Math.PI) / 180;
    lines.slice(1).forEach((line, k) => {
      const down = 1.6 * height * (k + 1);
      this.hand.text(
        pen.layer,
        look,
        line,
        [x[0] + down * Math.sin(a), x[1] - down * Math.cos(a), x[2]],
        height,
        angle,
        set ?? [0, 0],
        markDrawn,
      );
    });
  }

  /** A point: as the block it was, as the block that draws its mark, as the block for all points, as a text, or as a point. */
  private place(
    pen: SetPen,
    look: Pen,
    batch: FeatureBatch,
    i: number,
    source: string,
    x: [number, number, number],
    at: (name: string) => Value,
    seen: Map<string, Value>,
    behind: () => ExtendedData,
  ): void {
    const { tables, options } = this.opts;
    const block = at('block');
    const kept = typeof block === 'string' ? tables.blockName(source, block) : undefined;
    const mark = at('marker'),
      marked = kept === undefined && typeof mark === 'string' ? tables.markName(mark) : undefined;
    const name = kept ?? marked ?? tables.own;
    if (name !== null && name !== undefined) {
      const told = at('marker_size_mm');
      const size =
        (marked === undefined
          ? Number(options.symbol_size ?? 1)
          : (typeof told === 'number' && told > 0 ? told : PLAIN_MARK_MM) / SHEET_MM_PER_M) * this.opts.perMetre;
      const number = (field: string, otherwise: number): number =>
        kept !== undefined && typeof at(field) === 'number' ? (at(field) as number) : otherwise;
      const scale = kept === undefined ? size : 1,
        own = kept === undefined ? 1 : this.opts.perLength;
      const how: Insertion = {
        angle: number('block_angle', 0),
        scale: [number('scale_x', scale) * own, number('scale_y', scale) * own, number('scale_z', scale) * own],
        extrusion: kept === undefined ? null : normalOf(at('extrusion')),
      };
      this.insert(pen, look, at, name, x, how, seen, behind);
      // its other places are drawn alike, and belong to it
      const [start, end] = vertexRange(batch, i);
      for (let v = start + 1; v < end; v++)
        this.insertion(pen, look, name, [batch.coords[3 * v]!, batch.coords[3 * v + 1]!, batch.coords[3 * v + 2]! || 0], how, PART);
      return;
    }
    const label = options.points === 'text' && vertexCount(batch, i) === 1 ? this.label?.of(batch, i) : null;
    if (label) {
      const height = this.textHeight();
      seen.set('text', plainText(lineCoded(label.replaceAll('\n', ' '))));
      seen.set('text_height', height);
      seen.set('text_angle', 0);
      this.hand.text(pen.layer, look, label.replaceAll('\n', ' '), x, height, 0, [0, 0], behind());
      return;
    }
    let first = true;
    const thickness = typeof at('thickness') === 'number' ? (at('thickness') as number) : 0;
    if (thickness !== 0) seen.set('thickness', thickness);
    const own = behind();
    eachPart(batch, i, (s, e) => {
      for (let v = s; v < e; v++) {
        this.hand.point(
          pen.layer,
          look,
          batch.coords[3 * v]!,
          batch.coords[3 * v + 1]!,
          batch.coords[3 * v + 2]! || 0,
          thickness,
          first ? own : PART,
        );
        first = false;
      }
    });
  }

  private insertion(
    pen: SetPen,
    look: Pen,
    name: string,
    x: [number, number, number],
    { angle, scale, extrusion }: Insertion,
    behind: ExtendedData,
    attributes = false,
  ): void {
    const { hand, out } = this;
    hand.begin('INSERT', pen.layer, look, 'AcDbBlockReference');
    if (attributes) out.put(66, 1);
    out.words(2, name);
    // a block on a plane of its own is placed in that plane's frame
    out.point(10, ...(extrusion ? ocs(...extrusion).fromWorld(...x) : x));
    out.put(41, scale[0]);
    out.put(42, scale[1]);
    out.put(43, scale[2]);
    out.put(50, angle);
    if (extrusion) out.point(210, ...extrusion);
    behind(out);
  }

  private insert(
    pen: SetPen,
    look: Pen,
    at: (name: string) => Value,
    name: string,
    x: [number, number, number],
    how: Insertion,
    seen: Map<string, Value>,
    behind: () => ExtendedData,
  ): void {
    const { hand, out } = this;
    const symbol = this.opts.tables.symbolOf(name)!;
    const constants = new Map(symbol.attributes.filter((a) => a.constant).map((a) => [a.tag, a.value]));
    for (const [tag, value] of constants) seen.set(tag, value);
    const asked = symbol.attributes.filter((a) => !a.constant && typeof at(a.tag) === 'string' && !String(at(a.tag)).includes('\n'));
    for (const a of asked) seen.set(a.tag, plainText(lineCoded(String(at(a.tag)))));
    const hidden =
      this.opts.options.data === 'attributes'
        ? hiddenFields(pen.set, new Set([...asked.map((a) => a.tag), ...constants.keys(), ...seen.keys(), ...DRAWN_FIELDS]), at)
        : [];
    for (const [tag, value] of hidden) seen.set(tag, plainText(lineCoded(value)));
    for (const [field, value] of [
      ['block', name],
      ['block_angle', how.angle],
      ['scale_x', how.scale[0]],
      ['scale_y', how.scale[1]],
      ['scale_z', how.scale[2]],
      ['extrusion', how.extrusion ? how.extrusion.join(' ') : null],
    ] as const)
      if (value !== null) seen.set(field, value);
    this.insertion(pen, look, name, x, how, behind(), asked.length + hidden.length > 0);
    if (asked.length + hidden.length === 0) return;
    const turn = (how.angle * Math.PI) / 180,
      c = Math.cos(turn),
      s = Math.sin(turn);
    for (const a of asked) {
      const [dx, dy] = [(a.at[0] - symbol.base[0]) * how.scale[0], (a.at[1] - symbol.base[1]) * how.scale[1]];
      hand.begin('ATTRIB', pen.layer, {}, 'AcDbText');
      out.point(10, x[0] + dx * c - dy * s, x[1] + dx * s + dy * c, x[2]);
      out.put(40, a.height > 0 ? a.height * Math.abs(how.scale[1]) || a.height : this.textHeight());
      out.words(1, lineCoded(String(at(a.tag))));
      out.put(50, a.angle + how.angle);
      hand.mark('AcDbAttribute');
      out.words(2, a.tag);
      out.put(70, a.invisible ? 1 : 0);
    }
    for (const [tag, value] of hidden) {
      hand.begin('ATTRIB', pen.layer, {}, 'AcDbText');
      out.point(10, ...x);
      out.put(40, this.textHeight());
      out.words(1, lineCoded(value));
      hand.mark('AcDbAttribute');
      out.words(2, tag);
      out.put(70, INVISIBLE);
    }
    hand.begin('SEQEND', pen.layer, {}, null);
  }

  private drawLabel(pen: SetPen, batch: FeatureBatch, i: number, x: [number, number, number], at: (name: string) => Value): void {
    const { options } = this.opts;
    const styled = this.label ? null : pen.set.style.label;
    if (
      (!this.label && !styled) ||
      batch.kinds[i] === TEXT ||
      (options.points === 'text' && batch.kinds[i] !== LINE && batch.kinds[i] !== POLYGON)
    )
      return;
    const text = this.label ? this.label.of(batch, i) : labelText(pen.set, at);
    if (text === null || text === '') return;
    const height = this.textHeight();
    const turned = options.label_angle ? at(String(options.label_angle)) : null;
    const angle = typeof turned === 'number' ? turned : 0;
    const wanted = String(options.label_color || (styled?.color ?? ''));
    const color = /^#[0-9a-f]{6}$/i.test(wanted) ? { color: wanted.toLowerCase() } : {};
    const [lx, ly] = anchorOf(batch, i, x);
    const point = batch.kinds[i] !== LINE && batch.kinds[i] !== POLYGON;
    const place = labelPlace(String(options.label_place), point);
    const off = Number(options.label_gap ?? 0) * this.opts.perMetre;
    const a = (angle * Math.PI) / 180;
    const at3: [number, number, number] = [
      lx + off * (place.move[0] * Math.cos(a) - place.move[1] * Math.sin(a)),
      ly + off * (place.move[0] * Math.sin(a) + place.move[1] * Math.cos(a)),
      x[2],
    ];
    if (text.includes('\n') && this.out.version.modern)
      this.hand.paragraph(pen.layer, color, text, at3, height, angle, place.paragraph, markDrawn);
    else this.hand.text(pen.layer, color, text.replaceAll('\n', ' '), at3, height, angle, place.line, markDrawn);
  }

  private textHeight(): number {
    return Number(this.opts.options.label_height ?? 1) * this.opts.perMetre;
  }

  /** The fields that the object itself does not show as they are; and other programs' data as it came. */
  private behind(pen: SetPen, batch: FeatureBatch, i: number, seen: ReadonlyMap<string, Value>, parts: number): ExtendedData {
    const { out } = this;
    const known = new Map(seen);
    const foreign = batch.columns.get('xdata')?.[i];
    const theirs = typeof foreign === 'string' ? parseXdata(foreign) : null;
    const theirsKept = theirs !== null && theirs.every(([application]) => this.opts.tables.applications.has(application));
    if (theirsKept) {
      known.set('xdata', foreign as string);
      const link = linkOf(theirs);
      if (link !== null) known.set('hyperlink', link);
    }
    const rest: [string, Value][] = [];
    for (const field of pen.set.fields) {
      const value = batch.columns.get(field.from)?.[i] ?? null;
      // the entity's own words change with what it is drawn as
      const shown = known.get(field.to) ?? null;
      if (value !== shown || field.to === 'entity' || field.to === 'handle') rest.push([field.to, value]);
    }
    const own = this.fitting(rest, pen.layer);
    return () => {
      if (theirsKept) {
        for (const [application, groups] of theirs) {
          out.words(XDATA.application, application);
          for (const [code, value] of groups) put(out, code, value);
        }
      }
      out.put(XDATA.application, OWN_APPLICATION);
      if (parts > 1) {
        out.put(XDATA.text, OWN_MARKS.parts);
        out.put(XDATA.long, parts);
      }
      for (const [code, value] of own) put(out, code, value);
    };
  }

  /** The groups of as many fields as have room on one object, short values first where not all do. */
  private fitting(fields: [string, Value][], layer: string): [number, string | number][] {
    const size = ([name, value]: [string, Value]): number =>
      FIELD_BYTES + this.out.bytesOf(name) + (typeof value === 'string' ? Math.ceil(this.out.bytesOf(value) * 1.02) : 10);
    let total = fields.reduce((n, f) => n + size(f), 0);
    let kept = fields;
    if (total > MOST_XDATA) {
      const dropped = new Set<[string, Value]>();
      for (const field of [...fields].sort((a, b) => size(b) - size(a))) {
        if (total <= MOST_XDATA) break;
        dropped.add(field);
        total -= size(field);
      }
      kept = fields.filter((f) => !dropped.has(f));
      this.opts.findings.add({
        code: 'dxf-data-too-large',
        severity: 'wrong',
        message: `Fields stay behind on objects whose data takes more than ${MOST_XDATA} bytes: ${[...dropped].map(([name]) => name).join(', ')}.`,
        count: 1,
        location: layer,
      });
    }
    return writeFields(kept, this.out.bytesOf);
  }
}

/** Bytes of a field's groups besides its name and value. */
const FIELD_BYTES = 20;

function put(out: GroupWriter, code: number, value: string | number): void {
  if (typeof value === 'string') out.words(code, value);
  else out.put(code, value);
}

/** Behind a further part of the record before. */
const PART: ExtendedData = (out) => {
  out.put(XDATA.application, OWN_APPLICATION);
  out.put(XDATA.text, OWN_MARKS.part);
};

/** Behind what is drawn for records that stand elsewhere: a label, a fill, a picture below them. */
export const markDrawn: ExtendedData = (out) => {
  out.put(XDATA.application, OWN_APPLICATION);
  out.put(XDATA.text, OWN_MARKS.drawn);
};

/** Flag of an attribute that is not drawn. Source: DXF Reference, ATTRIB. */
const INVISIBLE = 1;

/** Fields that a placed block shows by itself. */
const DRAWN_FIELDS = [
  'entity',
  'handle',
  'layer',
  'color',
  'linetype',
  'linetype_scale',
  'lineweight_mm',
  'transparency',
  'thickness',
  'xdata',
  'hyperlink',
  'block',
  'block_angle',
  'scale_x',
  'scale_y',
  'scale_z',
  'extrusion',
  'text',
  'text_height',
  'text_angle',
  'text_align',
  'text_style',
];

/** The fields of a record as tags and texts: a tag holds no blanks, and a text one line. */
function hiddenFields(set: TargetSet, taken: ReadonlySet<string>, at: (name: string) => Value): [string, string][] {
  return set.fields.flatMap(({ from, to }): [string, string][] => {
    const value = at(from);
    return value === null || taken.has(to) || String(value).includes('\n') ? [] : [[to.replaceAll(' ', '_'), String(value)]];
  });
}

function vertexCount(batch: FeatureBatch, i: number): number {
  const [start, end] = vertexRange(batch, i);
  return end - start;
}

function normalOf(text: Value): [number, number, number] | null {
  const n = typeof text === 'string' ? text.split(' ').map(Number) : [];
  return n.length === 3 && n.every(Number.isFinite) ? [n[0]!, n[1]!, n[2]!] : null;
}

/** Whether an area is a triangle or a quadrangle with heights whose corners lie apart: what a face in space can be. */
function isFace(coords: Float64Array, [ring, ...others]: readonly (readonly [number, number])[]): boolean {
  const [start, end] = ring!;
  if (others.length > 0 || end - start < 4 || end - start > 5) return false;
  for (let v = start; v < end; v++) {
    if (Number.isNaN(coords[3 * v + 2]!)) return false;
    if (v + 1 < end && [0, 1, 2].every((k) => coords[3 * v + k] === coords[3 * v + 3 + k])) return false;
  }
  return true;
}

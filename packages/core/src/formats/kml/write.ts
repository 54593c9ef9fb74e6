import type { Value } from '../../model/value';
import { METRES_PER_DEGREE } from '../../crs/crs';
import { type Bounds, emptyBounds, featureBounds, join } from '../../geometry/bounds';
import { polygonsOf } from '../../geometry/nesting';
import type { FolderSink, Scratch } from '../../io/bytes';
import { type FeatureBatch, LINE, POLYGON, NO_GEOMETRY, TEXT, partRanges } from '../../model/batch';
import { drawnSymbol } from '../../symbology/drawn-symbols';
import { symbolPng } from '../../symbology/symbol-png';
import { parseTemplate, type Template } from '../../filter/template';
import { labelText } from '../label-text';
import type { DeliverableWriter, TargetField, TargetSet, WriteContext } from '../format';
import type { OptionValues } from '../format-option';
import type { Scales } from '../../symbology/layer-style';
import { CSS_PIXEL_MM, SE_PIXEL_MM } from '../../symbology/symbolizer';
import { DEGREE_DECIMALS, HEIGHT_DECIMALS } from '../globe';
import { plainDecimal } from '../../io/plain-decimal';
import { TextSink } from '../../io/text-sink';
import { escaped } from '../../io/xml';
import { ZipWriter } from '../zip/write';
import { folderSteps, WITHIN } from './folders';
import { colorText } from './symbology';

/** The file of a deliverable. */
export const fileNameOf = (stem: string, options: OptionValues): string => `${stem}.${String(options.container)}`;

const MODES: Record<string, string> = { above: 'relativeToGround', absolute: 'absolute' };

/** The name of the elements beyond the standard that widths in metres stand in. */
const EXTENSION = 'http://www.google.com/kml/ext/2.2';

/** Pixels of the icon in its picture, and where it lies in the archive. */
const ICON_PIXELS = 64;
const iconName = (symbol: string): string => `icons/${symbol.toLowerCase()}.png`;

/** Where a set's folder begins in the file, so that it can be found again. */
export const folderMark = (set: number): string => `\n<Folder id="L${set + 1}">\n`;
/** The end of the folder of a set. */
export const folderEnd = (set: number): string => `</Folder><!-- end of L${set + 1} -->\n`;
/** Where the folders begin. */
export const FOLDERS = '\n<!-- folders -->\n';
/** How a document ends. */
export const DOCUMENT_END = '</Document>\n</kml>\n';

/**
 * Writes one file with a folder a set. Elements stand in the order that the schema wants.
 * Source: OGC 07-147r2, sections 9 to 12 and annex B.
 */
export async function createKml(
  folder: FolderSink,
  sets: readonly TargetSet[],
  { stem, options, crs }: WriteContext,
): Promise<DeliverableWriter> {
  const styles = new Styles(options);
  const templates = { name: template(options.name), text: options.balloon === 'text' ? template(options.text) : null };
  const files: { set: TargetSet; scratch: Scratch; sink: TextSink; id: number; extent: Bounds }[] = [];
  const pictures = { missing: 0, beside: 0 };
  for (const [k, set] of sets.entries()) {
    const scratch = await folder.scratch();
    files.push({ set, scratch, sink: new TextSink(scratch), id: k, extent: emptyBounds() });
  }
  return {
    async append(s, batch, rows, n) {
      const { set, sink, id, extent } = files[s]!;
      const box = emptyBounds();
      for (let k = 0; k < n; k++) {
        featureBounds(batch, rows[k]!, box);
        join(extent, box);
        sink.put(placemark(set, id, batch, rows[k]!, options, templates, styles, pictures));
        if (sink.full) await sink.flush();
      }
    },
    async close(findings) {
      if (pictures.missing > 0)
        findings.add({
          code: 'kml-picture-missing',
          severity: 'caution',
          message: `Records name no picture in ${String(options.image)}: their balloons have none.`,
          count: pictures.missing,
        });
      if (pictures.beside > 0)
        findings.add({
          code: 'kml-picture-beside',
          severity: 'info',
          message: `Pictures are named by ${String(options.image)} and do not travel in the file: lay them beside it.`,
          count: pictures.beside,
        });
      for (const { sink } of files) await sink.close();
      const content = documentOf(stem, files, styles, options, crs.name);
      const file = await folder.create(fileNameOf(stem, options));
      if (options.container === 'kmz') {
        const zip = new ZipWriter(file);
        await zip.add('doc.kml', content);
        if (hasIcon(options))
          await zip.store(iconName(String(options.symbol)), symbolPng(drawnSymbol(String(options.symbol)), ICON_PIXELS));
        await zip.close();
      } else {
        for await (const piece of content) await file.write(piece);
        await file.close();
      }
      for (const { scratch } of files) await scratch.remove();
    },
  };
}

const hasIcon = (options: OptionValues): boolean => options.container === 'kmz' && options.points === 'symbol';

function template(text: string | number | undefined): Template | null {
  const parsed = String(text ?? '').trim() === '' ? null : parseTemplate(String(text));
  return typeof parsed === 'string' ? null : parsed;
}

async function* documentOf(
  stem: string,
  files: readonly { set: TargetSet; scratch: Scratch; id: number; extent: Bounds }[],
  styles: Styles,
  options: OptionValues,
  system: string,
): AsyncGenerator<Uint8Array> {
  const encoder = new TextEncoder();
  const told = String(options.description ?? '').trim();
  const link = String(options.link ?? '').trim();
  yield encoder.encode(`<?xml version="1.0" encoding="UTF-8"?>
<kml xmlns="http://www.opengis.net/kml/2.2"${styles.extended ? ` xmlns:gx="${EXTENSION}"` : ''} xmlns:atom="http://www.w3.org/2005/Atom">
<Document>
<name>${escaped(stem)}</name>
${link === '' ? '' : `<atom:link href="${escaped(link)}"/>\n`}${told === '' ? '' : `<description>${escaped(told)}</description>\n`}<!-- positions in ${escaped(system).replaceAll('--', '-')} -->
${styles.text()}${files.map(({ set, id }) => schemaText(set, id)).join('')}`);
  yield encoder.encode(FOLDERS);
  for (const step of folderSteps(files.map((f) => f.set.name))) {
    if ('open' in step) yield encoder.encode(`<Folder><name>${escaped(step.open)}</name>\n`);
    else if ('close' in step) yield encoder.encode('</Folder>\n');
    else {
      const { set, scratch, id, extent } = files[step.set]!;
      yield encoder.encode(
        `${folderMark(id)}<name>${escaped(set.name.split(WITHIN).at(-1)!)}</name>\n${regionText(extent, set.style.scales, options)}`,
      );
      yield* (await scratch.source()).stream();
      yield encoder.encode(folderEnd(id));
    }
  }
  yield encoder.encode(DOCUMENT_END);
}

/** Types of fields; whole numbers of more digits are written as fractions, which hold them. Source: section 9.6. */
function typeOf({ type, width }: TargetField): string {
  return type === 'boolean'
    ? 'bool'
    : type === 'decimal' || (type === 'integer' && width > 9)
      ? 'double'
      : type === 'integer'
        ? 'int'
        : 'string';
}

function schemaText({ name, fields }: TargetSet, id: number): string {
  return `<Schema name="${escaped(name)}" id="S${id + 1}">${fields.map((f) => `<SimpleField type="${typeOf(f)}" name="${escaped(f.to)}"/>`).join('')}</Schema>\n`;
}

function placemark(
  set: TargetSet,
  id: number,
  batch: FeatureBatch,
  i: number,
  options: OptionValues,
  templates: { name: Template | null; text: Template | null },
  styles: Styles,
  pictures: { missing: number; beside: number },
): string {
  const at = (name: string): Value => batch.columns.get(name)?.[i] ?? null;
  const name = templates.name?.of(batch, i) ?? (set.style.label ? labelText(set, at) : nameOf(at));
  const style = styles.of(batch.kinds[i]!, at);
  const values = set.fields.map((f): [TargetField, Value] => [f, at(f.from)]).filter(([, v]) => v !== null && v !== '');
  const data = values
    .map(([f, v]) => `<SimpleData name="${escaped(f.to)}">${escaped(typeof v === 'number' ? plainDecimal(v) : String(v))}</SimpleData>`)
    .join('');
  const told = `${pictureText(at, String(options.image ?? ''), pictures)}${templates.text ? paragraphText(templates.text.of(batch, i)) : options.balloon === 'table' && values.length > 0 ? tableText(values) : ''}`;
  const table = told === '' ? '' : `<description>${escaped(told)}</description>`;
  return `<Placemark>${name === null ? '' : `<name>${escaped(name)}</name>`}${table}${style === null ? '' : `<styleUrl>#${style}</styleUrl>`}${set.fields.length === 0 ? '' : `<ExtendedData><SchemaData schemaUrl="#S${id + 1}">${data}</SchemaData></ExtendedData>`}${geometryText(batch, i, set.heights, options)}</Placemark>\n`;
}

/** Fields that name a record, where no template does. Common practice, no source. */
const NAMES = ['text', 'name', 'NAME', 'Name', 'title', 'id', 'ID', 'block'];

function nameOf(at: (name: string) => Value): string | null {
  for (const name of NAMES) {
    const value = at(name);
    if (value !== null && value !== '') return String(value);
  }
  return null;
}

/** The picture that a field names, for the balloon. */
function pictureText(at: (name: string) => Value, field: string, pictures: { missing: number; beside: number }): string {
  if (field.trim() === '') return '';
  const named = at(field.trim());
  if (typeof named !== 'string' || named.trim() === '') {
    pictures.missing++;
    return '';
  }
  if (!/^https?:/i.test(named)) pictures.beside++;
  return `<p><img src="${escaped(named.trim())}" style="max-width:480px"></p>`;
}

/** Pixels that a folder has to fill on the screen before it is shown. Source: OGC 07-147r2, section 9.14 (Region), 9.16 (Lod). */
const SHOWN_FROM = 128;

/** Metres of a pixel on a sheet of 1 to 1. Source: OGC 05-077r4, clause 11.1.3. */
const PIXEL_M = SE_PIXEL_MM / 1000;

/** Metres that a region has on either side at the least: what has no area is never large enough to be shown. */
const LEAST_REGION_M = 100;

function widened(from: number, to: number, least: number): [number, number] {
  const more = Math.max(0, least - (to - from)) / 2;
  return [from - more, to + more];
}

/** Where a folder is shown: from near only, or at the scales that are said of it, by the pixels that its box then takes. */
function regionText(extent: Bounds, scales: Scales | null, options: OptionValues): string {
  if (!(extent[0] <= extent[2]) || (scales === null && options.shown !== 'near')) return '';
  const flat = Math.cos((((extent[1] + extent[3]) / 2) * Math.PI) / 180);
  const [west, east] = widened(extent[0], extent[2], LEAST_REGION_M / METRES_PER_DEGREE / Math.max(flat, 0.01)),
    [south, north] = widened(extent[1], extent[3], LEAST_REGION_M / METRES_PER_DEGREE);
  const side_m = Math.sqrt((east - west) * flat * (north - south)) * METRES_PER_DEGREE;
  const pixelsAt = (denominator: number): number => Math.max(1, Math.round(side_m / (denominator * PIXEL_M)));
  const least = scales ? (scales.max === null ? null : pixelsAt(scales.max)) : SHOWN_FROM,
    most = scales?.min ? pixelsAt(scales.min) : null;
  const [n, s, e, w] = [north, south, east, west].map((v) => plainDecimal(v, DEGREE_DECIMALS));
  return `<Region><LatLonAltBox><north>${n}</north><south>${s}</south><east>${e}</east><west>${w}</west></LatLonAltBox><Lod>${least === null ? '' : `<minLodPixels>${least}</minLodPixels>`}${most === null ? '' : `<maxLodPixels>${most}</maxLodPixels>`}</Lod></Region>\n`;
}

/** A text of fields for the balloon; nothing where a record has none of them. */
const paragraphText = (text: string | null): string =>
  text === null || text.trim() === '' ? '' : `<p>${escaped(text).replaceAll('\n', '<br>')}</p>`;

function tableText(values: readonly [TargetField, Value][]): string {
  return `<table>${values.map(([f, v]) => `<tr><th align="left">${escaped(f.to)}</th><td>${escaped(String(v)).replaceAll('\n', '<br>')}</td></tr>`).join('')}</table>`;
}

function geometryText(batch: FeatureBatch, i: number, heights: boolean, options: OptionValues): string {
  if (batch.kinds[i] === NO_GEOMETRY) return '';
  const { coords } = batch;
  const parts = partRanges(batch, i);
  const lift = liftOf(options);
  const kind = batch.kinds[i];
  const raised = options.heights !== 'ground';
  const line = kind === LINE || kind === POLYGON;
  const head = `${raised && options.extrude === 'yes' ? '<extrude>1</extrude>' : ''}${!raised && line ? '<tessellate>1</tessellate>' : ''}${raised ? `<altitudeMode>${MODES[String(options.heights)]}</altitudeMode>` : ''}`;
  const position = (v: number): string => {
    const z = coords[3 * v + 2]!;
    const xy = `${plainDecimal(coords[3 * v]!, DEGREE_DECIMALS)},${plainDecimal(coords[3 * v + 1]!, DEGREE_DECIMALS)}`;
    return (heights && !Number.isNaN(z)) || lift > 0 ? `${xy},${plainDecimal((Number.isNaN(z) ? 0 : z) + lift, HEIGHT_DECIMALS)}` : xy;
  };
  const run = (s: number, e: number, turned = false): string => {
    let text = '';
    for (let k = s; k < e; k++) text += `${k > s ? ' ' : ''}${position(turned ? s + e - 1 - k : k)}`;
    return `<coordinates>${text}</coordinates>`;
  };
  let pieces: string[];
  if (kind === POLYGON) {
    pieces = polygonsOf(coords, parts).map(
      (rings) =>
        `<Polygon>${head}${rings
          .map(({ range, turned }, k) => {
            const side = k === 0 ? 'outerBoundaryIs' : 'innerBoundaryIs';
            return `<${side}><LinearRing>${run(...range, turned)}</LinearRing></${side}>`;
          })
          .join('')}</Polygon>`,
    );
  } else if (kind === LINE) pieces = parts.map(([s, e]) => `<LineString>${head}${run(s, e)}</LineString>`);
  else pieces = parts.flatMap(([s, e]) => Array.from({ length: e - s }, (_, k) => `<Point>${head}${run(s + k, s + k + 1)}</Point>`));
  return pieces.length === 1 ? pieces[0]! : `<MultiGeometry>${pieces.join('')}</MultiGeometry>`;
}

/** Metres by which everything is raised. */
export const liftOf = (options: OptionValues): number => (options.heights === 'ground' ? 0 : Number(options.raise));

/** Of a line without a weight. */
const PLAIN_WIDTH = 1.5;
/** Solidity of the fill of an area that says nothing of it. */
const FILL_TRANSPARENCY = 0.6;

/** The shared styles of a file: one for each look that comes. */
class Styles {
  private readonly ids = new Map<string, string>();
  /** Whether some style needs what stands beyond the standard. */
  extended = false;

  constructor(private readonly options: OptionValues) {}

  /** The name of the style of a record. */
  of(kind: number, at: (name: string) => Value): string | null {
    if (kind === NO_GEOMETRY) return null;
    const told = at('color');
    const color = typeof told === 'string' && /^#[0-9a-f]{6}$/.test(told) ? told : null;
    const own = at('transparency');
    const transparency = typeof own === 'number' && own >= 0 && own <= 1 ? own : null;
    const body =
      kind === TEXT ? this.label(color) : kind === LINE || kind === POLYGON ? this.line(kind, color, transparency, at) : this.icon(color);
    if (body === '') return null;
    let id = this.ids.get(body);
    if (id === undefined) this.ids.set(body, (id = `look${this.ids.size + 1}`));
    return id;
  }

  /** Lettering, without a symbol unless that is wanted. */
  private label(color: string | null): string {
    return `${this.options.texts === 'marks' ? (color === null ? '' : `<IconStyle><color>${colorText(color, 0)}</color></IconStyle>`) : '<IconStyle><scale>0</scale></IconStyle>'}${color === null ? '' : `<LabelStyle><color>${colorText(color, 0)}</color></LabelStyle>`}`;
  }

  private line(kind: number, color: string | null, transparency: number | null, at: (name: string) => Value): string {
    const weight = at('lineweight_mm'),
      pixels = at('line_width_px');
    const px =
      typeof pixels === 'number'
        ? pixels
        : typeof weight === 'number' && weight > 0
          ? Number((weight / CSS_PIXEL_MM).toFixed(2))
          : PLAIN_WIDTH;
    const ground = at('line_width_m'),
      own = typeof ground === 'number' && ground > 0 ? ground : this.options.widths === 'metres' ? Number(this.options.width_m) : null;
    const metres = own === null ? '' : `<gx:physicalWidth>${plainDecimal(own)}</gx:physicalWidth>`;
    if (own !== null) this.extended = true;
    const ink = color === null ? '' : `<color>${colorText(color, kind === LINE ? (transparency ?? 0) : 0)}</color>`;
    const line = `<LineStyle>${ink}<width>${px}</width>${metres}</LineStyle>`;
    const told = at('fill');
    const fill = typeof told === 'string' && /^#[0-9a-f]{6}$/.test(told) ? told : color;
    return kind === LINE || fill === null
      ? line
      : `${line}<PolyStyle><color>${colorText(fill, transparency ?? FILL_TRANSPARENCY)}</color></PolyStyle>`;
  }

  private icon(color: string | null): string {
    const ink = color === null ? '' : `<color>${colorText(color, 0)}</color>`;
    const picture = hasIcon(this.options) ? `<Icon><href>${iconName(String(this.options.symbol))}</href></Icon>` : '';
    return ink + picture === '' ? '' : `<IconStyle>${ink}${picture}</IconStyle>`;
  }

  text(): string {
    return [...this.ids].map(([body, id]) => `<Style id="${id}">${body}</Style>\n`).join('');
  }
}

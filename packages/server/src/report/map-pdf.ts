import PDFDocument from 'pdfkit';
import { DAY } from '@pontrel/contract/palette';
import type { MapScale } from '@pontrel/core/content/map/map-scale';
import { mapBlocked, mapRecords } from '@pontrel/core/crossing/map-image';
import { withChosenLayers } from '@pontrel/core/crossing/chosen-layers';
import { EM_PER_CAPITAL } from '@pontrel/host-node/fonts';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { isPlane, metresPerUnit, northUp, unitSymbol } from '@pontrel/core/crs/crs';
import { label } from '@pontrel/core/crs/transform';
import { gridOver } from '@pontrel/core/raster/pixel-grid';
import { niceStep } from '@pontrel/core/geometry/nice-step';
import type { Canvas, Fill, Lettering, Pen } from '@pontrel/core/io/canvas';
import { Problem } from '@pontrel/core/model/problem';
import { crsOf } from '@pontrel/core/placement/route';
import { type ImageTileSource, picturesOnPaper } from '../tiles/image-tile';
import { type StoredSource, withSources } from '../work/stored-source';
import { bytesOf, PdfText } from './pdf-text';

/** A map that is to be printed. */
export interface PrintRequest {
  recipe: Recipe;
  sources: StoredSource[];
  title: string;
  /** In the frame, what lies in the middle of the map. */
  middle: [number, number];
  /** 1 to so much. */
  scale: number;
  paper: Paper;
  upright: boolean;
  /** Layers that are not printed, by source. */
  without: NonNullable<Deliverable['without']>;
  legend: LegendRow[];
  /** What is shown of images below the records, from the top. */
  pictures: ImageTileSource[];
  /** When it is made, for people. */
  made: string;
}

/** A layer as a legend shows it: its kinds, each in its colour. */
export interface LegendRow {
  name: string;
  count: number;
  kinds: { kind: string; color: string }[];
}

/** Sizes of paper, points: the short side and the long one. Source: ISO 216 */
const PAPERS = { a4: [595.28, 841.89], a3: [841.89, 1190.55] } as const;
/** A size of paper. */
export type Paper = keyof typeof PAPERS;

/** Points: around the sheet, between the two lines of the neatline, of the legend, of the title below. */
const MARGIN = 28,
  RIM = 15,
  LEGEND = 148,
  TITLE = 58;
const POINTS_AN_INCH = 72;
/** Dots an inch of images: what a printer's screen shows of a photograph. Common practice, no source. */
const PICTURE_DPI = 150;
/** Records whose colour says nothing. */
const PLAIN = DAY.ink;

/** Where the map lies on its sheet, points, and where that is on the ground. */
interface MapFrame {
  x: number;
  y: number;
  width: number;
  height: number;
  /** West and north edge in the frame, and units of it in a point. */
  west: number;
  north: number;
  unit: number;
}

/**
 * A map of a crossing on one sheet, its records drawn as lines and letters over its images: with neatline, ticks in the frame, scale, north
 * arrow and legend.
 * @throws Problem `map-system` where the frame cannot be drawn north up
 */
export async function mapPdf(request: PrintRequest): Promise<Buffer> {
  const { paper, upright, scale, middle, sources, without } = request;
  const frame = crsOf(request.recipe.frame!.crs)!;
  const blocked = mapBlocked(frame);
  if (blocked !== null) throw new Problem('map-system', blocked);
  const recipe = withChosenLayers(request.recipe, { without }, sources);
  const [short, long] = PAPERS[paper];
  const [across, down] = upright ? [short, long] : [long, short];
  const unit = (scale * 0.0254) / POINTS_AN_INCH / metresPerUnit(frame, null);
  const [width, height] = [Math.floor(across - 2 * MARGIN - 2 * RIM - LEGEND), Math.floor(down - 2 * MARGIN - 2 * RIM - TITLE)];
  const map: MapFrame = {
    x: MARGIN + RIM,
    y: MARGIN + RIM,
    width,
    height,
    west: middle[0] - (width / 2) * unit,
    north: middle[1] + (height / 2) * unit,
    unit,
  };
  const doc = new PDFDocument({
    size: [across, down],
    margin: 0,
    font: '',
    info: { Title: request.title, Creator: 'Pontrel' },
  } as PDFKit.PDFDocumentOptions);
  const done = bytesOf(doc);
  const text = new PdfText(doc);
  doc.save();
  doc.rect(map.x, map.y, width, height).fill('#ffffff');
  doc.rect(map.x, map.y, width, height).clip();
  doc.translate(map.x, map.y);
  if (request.pictures.length > 0) {
    const pixel = (unit * POINTS_AN_INCH) / PICTURE_DPI;
    const grid = gridOver([map.west, map.north - height * unit, map.west + width * unit, map.north], [pixel, pixel]);
    const across = grid.width * (POINTS_AN_INCH / PICTURE_DPI);
    doc.image(await picturesOnPaper(request.pictures, northUp(frame), grid), 0, 0, { width: across });
  }
  const drawn: MapScale = { scale, dpi: POINTS_AN_INCH };
  await withSources(sources, async (opened) => {
    const records = await mapRecords(recipe, drawn, frame, null, opened, () => {}, true);
    await records.over({ map: [map.west, unit, 0, map.north, 0, -unit], width, height }).onto(new PdfCanvas(doc, text));
  });
  doc.restore();
  neatline(doc, text, map, isPlane(frame) ? '' : '°');
  northArrow(doc, text, map);
  legend(doc, text, request.legend, map.x + width + RIM + 14, MARGIN);
  titleBlock(doc, text, request, {
    across,
    top: map.y + height + RIM + 12,
    lines: [
      `${frame.name}${frame.id === null ? '' : ` (${label(frame)})`}, in ${unitSymbol(frame)}`,
      `1 : ${grouped(scale)} on ${paper.toUpperCase()}, ${request.made}`,
      ...(request.pictures.length > 0
        ? [fitted(text, `Below the records: ${request.pictures.map((p) => p.name).join(', ')}`, across - 2 * MARGIN - 200)]
        : []),
    ],
    scaleBar: scaleBarOf(
      scale,
      isPlane(frame) ? frame.unit.metres : 1,
      isPlane(frame) && frame.unit.metres !== 1 ? unitSymbol(frame) : null,
    ),
  });
  doc.end();
  return done;
}

/** Draws lines, areas and letters into a PDF. */
class PdfCanvas implements Omit<Canvas, 'over' | 'pixels'> {
  constructor(
    private readonly doc: PDFKit.PDFDocument,
    private readonly text: PdfText,
  ) {}

  line(points: readonly number[], { color, opacity, width, dash }: Pen, closed: boolean): void {
    const { doc } = this;
    this.trace(points, closed);
    doc
      .lineWidth(width)
      .lineJoin('round')
      .lineCap(dash ? 'butt' : 'round');
    if (dash) (doc as unknown as { dash(lengths: number[], options: object): void }).dash([...dash], {});
    else doc.undash();
    doc.strokeColor(color, opacity).stroke();
  }

  area(rings: readonly (readonly number[])[], { color, opacity }: Fill): void {
    for (const ring of rings) this.trace(ring, true);
    this.doc.fillColor(color, opacity).fill('even-odd');
  }

  letters({ text, x, y, at, size, angle, color, rim }: Lettering): void {
    const { doc } = this;
    const em = size * EM_PER_CAPITAL;
    doc.save().translate(x, y).rotate(-angle);
    const [left, base] = at === 'start' ? [0, 0] : [-this.text.width(text, 'plain', em) / 2, size / 2];
    doc.fillOpacity(1).strokeOpacity(1);
    if (rim > 0) {
      doc.undash().lineJoin('round').lineWidth(rim).strokeColor('#ffffff');
      this.text.line(text, 'plain', em, color, left, base, { stroke: true, fill: false, baseline: 'alphabetic' });
    }
    this.text.line(text, 'plain', em, color, left, base, { baseline: 'alphabetic' });
    doc.restore();
  }

  private trace(points: readonly number[], closed: boolean): void {
    const { doc } = this;
    for (let k = 0; k + 1 < points.length; k += 2)
      if (k === 0) doc.moveTo(points[0]!, points[1]!);
      else doc.lineTo(points[k]!, points[k + 1]!);
    // a line of no length is a dot all the same
    if (points.length === 2) doc.lineTo(points[0]!, points[1]!);
    if (closed) doc.closePath();
  }
}

/** A number with its thousands apart. */
function grouped(value: number, decimals = 0): string {
  const [whole, fraction] = Math.abs(value).toFixed(decimals).split('.');
  return `${value < 0 ? '\u2212' : ''}${whole!.replace(/\B(?=(\d{3})+$)/g, '\u00a0')}${fraction ? `.${fraction}` : ''}`;
}

/** Points between ticks at the least. */
const LEAST_APART = 56;

function neatline(doc: PDFKit.PDFDocument, text: PdfText, { x, y, width, height, west, north, unit }: MapFrame, sign: string): void {
  doc.undash().strokeOpacity(1).fillOpacity(1).lineCap('butt').lineJoin('miter').strokeColor(DAY.ink);
  doc.rect(x, y, width, height).lineWidth(0.7).stroke();
  doc
    .rect(x - RIM, y - RIM, width + 2 * RIM, height + 2 * RIM)
    .lineWidth(1.1)
    .stroke();
  const step = niceStep(LEAST_APART * unit);
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const said = (value: number): string => `${grouped(value, decimals)}${sign}`;
  doc.lineWidth(0.6);
  for (let k = Math.ceil(west / step); k * step <= west + width * unit; k++) {
    const at = x + (k * step - west) / unit;
    doc
      .moveTo(at, y)
      .lineTo(at, y - 4)
      .moveTo(at, y + height)
      .lineTo(at, y + height + 4)
      .stroke();
    if (k % 2 !== 0) continue;
    const name = said(k * step);
    const half = text.width(name, 'code', 6.5) / 2;
    for (const top of [y - RIM + 2.5, y + height + RIM - 9]) text.line(name, 'code', 6.5, DAY.ink, at - half, top);
  }
  const south = north - height * unit;
  for (let k = Math.ceil(south / step); k * step <= north; k++) {
    const at = y + (north - k * step) / unit;
    doc
      .moveTo(x, at)
      .lineTo(x - 4, at)
      .moveTo(x + width, at)
      .lineTo(x + width + 4, at)
      .stroke();
    if (k % 2 !== 0) continue;
    const name = said(k * step);
    const half = text.width(name, 'code', 6.5) / 2;
    for (const left of [x - RIM + 2.5, x + width + RIM - 9]) {
      doc.save().translate(left, at).rotate(-90);
      text.line(name, 'code', 6.5, DAY.ink, -half, 0);
      doc.restore();
    }
  }
}

function northArrow(doc: PDFKit.PDFDocument, text: PdfText, { x, y, width }: MapFrame): void {
  const [cx, top] = [x + width - 20, y + 18];
  doc
    .rect(cx - 12, top - 13, 24, 42)
    .fillColor('#ffffff', 0.85)
    .fill();
  doc.fillOpacity(1).strokeColor(DAY.ink).lineWidth(0.8).lineJoin('miter');
  doc
    .moveTo(cx, top)
    .lineTo(cx - 6, top + 24)
    .lineTo(cx, top + 18)
    .closePath()
    .stroke();
  doc
    .moveTo(cx, top)
    .lineTo(cx + 6, top + 24)
    .lineTo(cx, top + 18)
    .closePath()
    .fillAndStroke(DAY.ink, DAY.ink);
  text.line('N', 'bold', 8, DAY.ink, cx - text.width('N', 'bold', 8) / 2, top - 11);
}

/** Points of a row of the legend. */
const ROW = 14;

function legend(doc: PDFKit.PDFDocument, text: PdfText, rows: readonly LegendRow[], x: number, y: number): void {
  text.line('Legend', 'bold', 9.5, DAY.ink, x, y);
  const room = Math.floor((doc.page.height - 2 * MARGIN - 20) / ROW);
  const shown = rows.length > room ? rows.slice(0, room - 1) : rows;
  shown.forEach(({ name, count, kinds }, k) => {
    const top = y + 17 + k * ROW;
    for (const { kind, color } of kinds) swatch(doc, text, kind, color || PLAIN, x, top);
    text.line(fitted(text, name, LEGEND - 66), 'plain', 8, DAY.ink, x + 24, top);
    const figure = grouped(count);
    text.line(figure, 'code', 7, DAY.muted, x + LEGEND - 18 - text.width(figure, 'code', 7), top + 0.6);
  });
  if (shown.length < rows.length)
    text.line(`and ${rows.length - shown.length} more layers`, 'plain', 8, DAY.muted, x, y + 17 + shown.length * ROW);
}

function fitted(text: PdfText, name: string, most: number): string {
  if (text.width(name, 'plain', 8) <= most) return name;
  let cut = name;
  while (cut.length > 1 && text.width(`${cut}…`, 'plain', 8) > most) cut = cut.slice(0, -1);
  return `${cut}…`;
}

function swatch(doc: PDFKit.PDFDocument, text: PdfText, kind: string, color: string, x: number, y: number): void {
  doc.undash().lineCap('butt').lineJoin('miter').lineWidth(0.9).strokeColor(color, 1);
  if (kind === 'polygon') {
    doc
      .rect(x + 1, y + 1, 16, 8)
      .fillColor(color, 0.14)
      .fill();
    doc
      .rect(x + 1, y + 1, 16, 8)
      .strokeColor(color, 1)
      .stroke();
  } else if (kind === 'line')
    doc
      .moveTo(x + 1, y + 8)
      .lineTo(x + 7, y + 3)
      .lineTo(x + 12, y + 7)
      .lineTo(x + 17, y + 2)
      .stroke();
  else if (kind === 'point') doc.circle(x + 9, y + 5, 2.4).stroke();
  else if (kind === 'text') text.line('A', 'bold', 8, color, x + 6, y);
  doc.fillOpacity(1);
}

interface ScaleBar {
  /** Points across, and what it says. */
  length: number;
  name: string;
}

/** Points that a bar of the scale is to have at the least. */
const LEAST_BAR = 70;

function scaleBarOf(scale: number, unit_m: number, symbol: string | null): ScaleBar {
  const perPoint = (scale * 0.0254) / POINTS_AN_INCH / unit_m;
  const bar = niceStep(LEAST_BAR * perPoint);
  const name =
    symbol !== null ? `${grouped(bar)} ${symbol}` : bar >= 1000 ? `${grouped(bar / 1000)} km` : `${bar >= 1 ? grouped(bar) : bar} m`;
  return { length: bar / perPoint, name };
}

function titleBlock(
  doc: PDFKit.PDFDocument,
  text: PdfText,
  { title }: PrintRequest,
  { across, top, lines, scaleBar }: { across: number; top: number; lines: readonly string[]; scaleBar: ScaleBar },
): void {
  text.line(title, 'bold', 14, DAY.ink, MARGIN, top);
  lines.forEach((line, k) => text.line(line, 'plain', 8, DAY.muted, MARGIN, top + 19 + 10.5 * k));
  const right = across - MARGIN - scaleBar.length;
  const quarter = scaleBar.length / 4;
  doc
    .strokeColor(DAY.ink, 1)
    .lineWidth(0.7)
    .rect(right, top + 16, scaleBar.length, 4)
    .stroke();
  doc
    .fillColor(DAY.ink, 1)
    .rect(right, top + 16, quarter, 4)
    .rect(right + 2 * quarter, top + 16, quarter, 4)
    .fill();
  text.line('0', 'code', 7, DAY.ink, right - 2, top + 23);
  text.line(scaleBar.name, 'code', 7, DAY.ink, right + scaleBar.length - text.width(scaleBar.name, 'code', 7), top + 23);
  text.line('Pontrel', 'plain', 7, DAY.muted, right + scaleBar.length - text.width('Pontrel', 'plain', 7), top + 36);
}

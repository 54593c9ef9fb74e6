import type { Fill, Lettering, Pen } from '../../io/canvas';
import { type FeatureBatch, LINE, NO_GEOMETRY, partsOf, POINT, POLYGON, TEXT } from '../../model/batch';
import { FILL_HINTED, FILL_SHOWN, MARK_SHAPES, markCorners, PLAIN } from '../../symbology/drawn-as';
import type { SymbolLibrary } from '../../symbology/library';
import { lookOf, PLAIN_MARK_MM, SHEET_MM_PER_M, type Symbolizer } from '../../symbology/symbolizer';
import { dotOnGround, type MapScale, pixelsPerMm } from './map-scale';

/** What a record is broken down to before it is drawn. Positions are pixels of the picture, y downwards. */
export type Shape =
  | { kind: 'line'; points: readonly number[]; pen: Pen; closed: boolean }
  | { kind: 'area'; rings: readonly (readonly number[])[]; fill: Fill }
  | { kind: 'letters'; lettering: Lettering };

/** What shapes are made with: the scale, the library of their source, and the sizes of its lettering. */
export interface ShapeContext {
  map: MapScale;
  library: SymbolLibrary | null;
  /** Metres in one unit of the lengths of the source's line patterns. */
  unit_m: number;
  /** Pixels in one unit of the heights of its lettering. */
  letterPixels: number;
}

/** What a drawing leaves to the ground it is drawn on: black on a sheet. */
const FOREGROUND: ReadonlySet<string | null> = new Set([null, '#ffffff', '#000000']);
const SHEET = '#ffffff';
/** What black and white of a drawing become on a sheet. */
export const INK = '#000000';

/** Pixels below which no line gets: it would be too faint to be seen. */
const THINNEST = 0.7;
/** Pixels that a pattern of dashes has at the least before it is drawn. */
const LEAST_PATTERN = 5;
/** Corners of a circle. */
const ROUND = 24;
/** Letters of a line that are drawn: more than a sheet has room for. */
export const LONGEST = 2000;
/** Capitals of 1 are lines of 1.6: common practice, no source. */
const LINE_SPACING = 1.6;

const circle = (x: number, y: number, radius: number): number[] => moved(markCorners({ points: ROUND }, radius), x, y);

const moved = (corners: readonly number[], x: number, y: number): number[] => corners.map((v, k) => v + (k % 2 === 0 ? x : y));

function penOf(look: Symbolizer, { map }: ShapeContext): Pen {
  const ground = dotOnGround(map);
  const width = look.width_m !== null ? look.width_m / ground : (look.width_mm ?? PLAIN.line_mm) * pixelsPerMm(map);
  const dash = look.dash_mm?.map((mm) => mm / SHEET_MM_PER_M / ground);
  const seen = dash && dash.reduce((n, d) => n + d, 0) >= LEAST_PATTERN;
  return {
    color: inked(look.color),
    opacity: look.opacity ?? 1,
    width: Math.max(THINNEST, width),
    ...(seen ? { dash } : {}),
  };
}

const inked = (color: string | null): string => (FOREGROUND.has(color) ? INK : color!);

/**
 * What a record draws by itself, from below; a block that draws something is drawn by the parts of that instead.
 * @param batch coordinates are pixels of the picture
 */
export function shapesOf(batch: FeatureBatch, i: number, context: ShapeContext): Shape[] {
  const kind = batch.kinds[i]!;
  if (kind === NO_GEOMETRY) return [];
  const parts = partsOf(batch, i);
  const look = lookOf(batch, i, context.library, context.unit_m);
  if (kind === LINE || kind === POLYGON) return strokesOf(parts, look, context, kind === POLYGON);
  if (kind === TEXT) return lettersOf(batch, i, parts[0]!, inked(look.color), context);
  return kind === POINT ? parts.flatMap(([x, y]) => markAt(x!, y!, look, context)) : [];
}

function strokesOf(parts: number[][], look: Symbolizer, context: ShapeContext, area: boolean): Shape[] {
  const pen = penOf(look, context);
  const lines = parts.map((points): Shape => ({ kind: 'line', points, pen, closed: area }));
  if (!area) return lines;
  const stated = (look.fill !== null && look.fill !== look.color) || look.opacity !== null;
  const fill = {
    color: inked(look.fill ?? look.color),
    opacity: stated ? FILL_SHOWN * (look.opacity ?? 1) : FILL_HINTED,
  };
  return [{ kind: 'area', rings: parts, fill }, ...lines];
}

function markAt(x: number, y: number, look: Symbolizer, { map }: ShapeContext): Shape[] {
  const mm = pixelsPerMm(map);
  const shape = look.marker === null ? undefined : MARK_SHAPES[look.marker];
  const radius = shape ? ((look.marker_mm ?? PLAIN_MARK_MM) / 2) * mm : (look.marker_mm === null ? PLAIN.ring_mm : look.marker_mm / 2) * mm;
  const outline = shape ? moved(markCorners(shape, radius), x, y) : circle(x, y, radius);
  const opacity = look.opacity ?? 1;
  const pen: Pen = { color: inked(look.color), opacity, width: Math.max(THINNEST, PLAIN.ringLine_mm * mm) };
  const inside: Shape[] = shape?.open ? [] : [{ kind: 'area', rings: [outline], fill: { color: SHEET, opacity } }];
  return [...inside, { kind: 'line', points: outline, pen, closed: true }];
}

function lettersOf(batch: FeatureBatch, i: number, [x, y]: number[], color: string, { map, letterPixels }: ShapeContext): Shape[] {
  const text = String(batch.columns.get('text')?.[i] ?? '');
  const size = Number(batch.columns.get('text_height')?.[i] ?? 0) * letterPixels || PLAIN.label_mm * pixelsPerMm(map);
  const angle = Number(batch.columns.get('text_angle')?.[i] ?? 0);
  const down = (angle * Math.PI) / 180;
  return text.split('\n').flatMap((line, k): Shape[] =>
    line.trim() === ''
      ? []
      : [
          {
            kind: 'letters',
            lettering: {
              text: line.slice(0, LONGEST),
              x: x! + Math.sin(down) * k * LINE_SPACING * size,
              y: y! + Math.cos(down) * k * LINE_SPACING * size,
              at: 'start',
              size,
              angle,
              color,
              rim: size / 4,
            },
          },
        ],
  );
}

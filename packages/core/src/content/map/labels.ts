import { type Bounds, emptyBounds, growAlong, overlapping } from '../../geometry/bounds';
import { lineMiddle } from '../../geometry/line-middle';
import type { Lettering } from '../../io/canvas';
import { type FeatureBatch, LINE, partsOf, POLYGON } from '../../model/batch';
import { shownValue } from '../../model/value';
import { PLAIN } from '../../symbology/drawn-as';
import type { Label } from '../../symbology/layer-style';
import { type MapScale, pixelsPerMm } from './map-scale';
import { recordsOf, type RecordsToDraw } from './records';
import { letterCorners } from './shape-box';
import { INK, LONGEST } from './shapes';

/** The labels of a map: those that found room, in the order of their records, and how many did not. */
export interface Labels {
  placed: Lettering[];
  noRoom: number;
}

/** Pixels of a cell in which labels are looked for that may be in the way. */
const CELL = 128;

/** Boxes that are taken. */
class Room {
  private readonly cells = new Map<string, Bounds[]>();

  /** Takes a box, where it is free. */
  take(box: Bounds): boolean {
    const keys: string[] = [];
    for (let r = Math.floor(box[1] / CELL); r <= Math.floor(box[3] / CELL); r++)
      for (let c = Math.floor(box[0] / CELL); c <= Math.floor(box[2] / CELL); c++) keys.push(`${c} ${r}`);
    if (keys.some((key) => this.cells.get(key)?.some((other) => overlapping(other, box)))) return false;
    for (const key of keys) this.cells.set(key, [...(this.cells.get(key) ?? []), box]);
    return true;
  }
}

/** Finds room for the labels of all records, in their order: the first that comes to a place has it. Labels lie within the picture. */
export async function placeLabels(records: RecordsToDraw): Promise<Labels> {
  const { width, height } = records.grid;
  const room = new Room();
  const labels: Labels = { placed: [], noRoom: 0 };
  for (const source of records.sources) {
    for await (const drawn of recordsOf(source, records)) {
      const label = drawn.length === 0 ? null : source.label(drawn[0]!.batch.layer);
      if (!label) continue;
      for (const { batch, inPixels, i, lost } of drawn) {
        const value = shownValue(batch.columns.get(label.field)?.[i] ?? null);
        if (value === null || value === '' || lost) continue;
        const lettering = letteringOf(String(value).slice(0, LONGEST), inPixels, i, label, records.map, [0, 0, width, height]);
        if (!lettering) continue;
        const box = emptyBounds();
        growAlong(box, letterCorners(lettering));
        const inside = box[0] >= 0 && box[1] >= 0 && box[2] <= width && box[3] <= height;
        if (inside && room.take(box)) labels.placed.push(lettering);
        else labels.noRoom++;
      }
    }
  }
  return labels;
}

/** Where the label of a record stands: right of a point, along the middle of a line, inside an area. Null where it lies off the picture. */
function letteringOf(text: string, batch: FeatureBatch, i: number, label: Label, map: MapScale, picture: Bounds): Lettering | null {
  const mm = pixelsPerMm(map);
  const parts = partsOf(batch, i);
  const style = {
    text,
    size: (label.height_mm ?? PLAIN.label_mm) * mm,
    color: label.color ?? INK,
    rim: PLAIN.rim_mm * mm,
  };
  const holds = (x: number, y: number): boolean => x >= picture[0] && y >= picture[1] && x <= picture[2] && y <= picture[3];
  const kind = batch.kinds[i];
  if (kind === LINE) {
    const at = middleOf(parts[0] ?? []);
    return at && holds(at.x, at.y) ? { ...style, ...at, at: 'middle' } : null;
  }
  if (kind === POLYGON) {
    const at = insideOf(parts);
    return at && holds(at[0], at[1]) ? { ...style, x: at[0], y: at[1], at: 'middle', angle: 0 } : null;
  }
  const [x, y] = parts[0] ?? [];
  if (x === undefined || y === undefined || !holds(x, y)) return null;
  return { ...style, x: x + PLAIN.labelOff_mm * mm, y: y + style.size / 2, at: 'start', angle: 0 };
}

/** The middle of a line by its length, and how it runs there so that it is read from below. */
function middleOf(line: readonly number[]): { x: number; y: number; angle: number } | null {
  const middle = lineMiddle(line, 0, line.length / 2, 2);
  if (!middle) return null;
  const { x, y, side } = middle;
  const [x1, y1, x2, y2] = line.slice(2 * side, 2 * side + 4) as [number, number, number, number];
  const angle = (Math.atan2(y1 - y2, x2 - x1) * 180) / Math.PI;
  return { x, y, angle: angle > 90 ? angle - 180 : angle <= -90 ? angle + 180 : angle };
}

/** The middle of the widest stretch of an area at half its height; where rings of no area leave none, nothing. */
function insideOf(rings: readonly (readonly number[])[]): [number, number] | null {
  const box = emptyBounds();
  for (const ring of rings) growAlong(box, ring);
  const y = (box[1] + box[3]) / 2;
  const crossings = rings
    .flatMap((ring) => {
      const xs: number[] = [];
      for (let k = 0; k + 3 < ring.length; k += 2) {
        const [x1, y1, x2, y2] = [ring[k]!, ring[k + 1]!, ring[k + 2]!, ring[k + 3]!];
        if (y1 > y !== y2 > y) xs.push(x1 + ((y - y1) / (y2 - y1)) * (x2 - x1));
      }
      return xs;
    })
    .sort((a, b) => a - b);
  let best: [number, number] | null = null;
  let widest = 0;
  for (let k = 0; k + 1 < crossings.length; k += 2) {
    const [a, b] = [crossings[k]!, crossings[k + 1]!];
    if (b - a > widest) {
      widest = b - a;
      best = [(a + b) / 2, y];
    }
  }
  return best;
}

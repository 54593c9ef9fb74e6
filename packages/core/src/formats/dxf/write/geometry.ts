import { arcOf } from '../../../geometry/arc';
import type { GroupWriter } from './groups';
import { type Pen, putPen } from './symbology';

/** Extended data behind an object. */
export type ExtendedData = (out: GroupWriter) => void;
const NOTHING: ExtendedData = () => {};

/** Whether all vertices lie at one height; those without one lie at none. */
export function isLevel(coords: Float64Array, start: number, end: number): boolean {
  const z = coords[3 * start + 2]! || 0;
  for (let v = start + 1; v < end; v++) if ((coords[3 * v + 2]! || 0) !== z) return false;
  return true;
}

/** Writes single objects of a drawing into one space: the model, or a block. */
export class EntityWriter {
  /** Gets the handle and type of every object that is begun. */
  drawn: ((handle: string, type: string) => void) | null = null;

  /** @param owner handle of the space's record; null in versions without */
  constructor(
    readonly out: GroupWriter,
    private readonly owner: string | null,
    private readonly inBlock = false,
  ) {}

  /** The groups that every object begins with. */
  begin(type: string, layer: string, pen: Pen, subclass: string | null): void {
    const { out } = this;
    const handle = out.handle();
    this.drawn?.(handle, type);
    out.put(0, type);
    out.put(5, handle);
    if (out.version.modern) {
      out.put(330, this.owner!);
      out.put(100, 'AcDbEntity');
    }
    out.words(8, layer);
    putPen(out, pen);
    if (subclass) this.mark(subclass);
  }

  mark(subclass: string): void {
    if (this.out.version.modern) this.out.put(100, subclass);
  }

  point(layer: string, pen: Pen, x: number, y: number, z: number, thickness: number, behind = NOTHING): void {
    this.begin('POINT', layer, pen, 'AcDbPoint');
    this.thick(thickness);
    this.out.point(10, x, y, z);
    behind(this.out);
  }

  private thick(thickness: number): void {
    if (thickness !== 0) this.out.put(39, thickness);
  }

  /**
   * A run of vertices: a LINE where it is one, a flat polyline where it lies level, else one in space.
   * @param coords x, y, z triples; a closed run repeats its first vertex
   */
  run(
    layer: string,
    pen: Pen,
    coords: Float64Array,
    bulges: Float64Array | null,
    start: number,
    end: number,
    closed: boolean,
    thickness: number,
    behind = NOTHING,
  ): void {
    const z = (v: number): number => (Number.isNaN(coords[3 * v + 2]!) ? 0 : coords[3 * v + 2]!);
    const level = isLevel(coords, start, end);
    let bent = false;
    if (bulges) for (let v = start; v < end; v++) if (bulges[v] !== 0) bent = true;
    const last = closed ? end - 1 : end;
    const { out } = this;
    if (
      closed &&
      bulges &&
      last - start === 2 &&
      level &&
      Math.abs(bulges[start]! - bulges[start + 1]!) < 1e-12 &&
      Math.abs(Math.abs(bulges[start]!) - 1) < 1e-12
    ) {
      this.begin('CIRCLE', layer, pen, 'AcDbCircle');
      this.thick(thickness);
      out.point(10, (coords[3 * start]! + coords[3 * start + 3]!) / 2, (coords[3 * start + 1]! + coords[3 * start + 4]!) / 2, z(start));
      out.put(40, Math.hypot(coords[3 * start + 3]! - coords[3 * start]!, coords[3 * start + 4]! - coords[3 * start + 1]!) / 2);
      behind(out);
      return;
    }
    if (this.inBlock && !out.version.modern) {
      for (let v = start; v + 1 < end; v++) this.piece(layer, pen, coords, v, bulges?.[v] ?? 0);
      return;
    }
    if (!closed && last - start === 2 && !bent) {
      this.begin('LINE', layer, pen, 'AcDbLine');
      this.thick(thickness);
      out.point(10, coords[3 * start]!, coords[3 * start + 1]!, z(start));
      out.point(11, coords[3 * start + 3]!, coords[3 * start + 4]!, z(start + 1));
      behind(out);
      return;
    }
    if (level && out.version.modern) {
      this.begin('LWPOLYLINE', layer, pen, 'AcDbPolyline');
      out.put(90, last - start);
      out.put(70, closed ? 1 : 0);
      if (z(start) !== 0) out.put(38, z(start));
      this.thick(thickness);
      for (let v = start; v < last; v++) {
        out.put(10, coords[3 * v]!);
        out.put(20, coords[3 * v + 1]!);
        if (bulges && bulges[v] !== 0) out.put(42, bulges[v]!);
      }
      behind(out);
      return;
    }
    this.begin('POLYLINE', layer, pen, level ? 'AcDb2dPolyline' : 'AcDb3dPolyline');
    out.put(66, 1);
    out.point(10, 0, 0, level ? z(start) : 0);
    this.thick(level ? thickness : 0);
    out.put(70, (closed ? 1 : 0) + (level ? 0 : 8));
    behind(out);
    for (let v = start; v < last; v++) {
      this.begin('VERTEX', layer, {}, 'AcDbVertex');
      this.mark(level ? 'AcDb2dVertex' : 'AcDb3dPolylineVertex');
      out.point(10, coords[3 * v]!, coords[3 * v + 1]!, z(v));
      if (bulges && bulges[v] !== 0) out.put(42, bulges[v]!);
      if (!level) out.put(70, 32);
    }
    this.begin('SEQEND', layer, {}, null);
  }

  /** A triangle or a quadrangle in space; of a triangle, the third corner stands for the fourth as well. Source: DXF Reference, 3DFACE. */
  face(layer: string, pen: Pen, coords: Float64Array, start: number, end: number, behind = NOTHING): void {
    const { out } = this;
    this.begin('3DFACE', layer, pen, 'AcDbFace');
    for (let k = 0; k < 4; k++) {
      const v = Math.min(start + k, end - 2);
      out.point(10 + k, coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!);
    }
    behind(out);
  }

  /** One segment as a line or an arc: sequences within blocks are not taken well by all readers of the old form. */
  private piece(layer: string, pen: Pen, coords: Float64Array, v: number, bulge: number): void {
    const { out } = this;
    const [x1, y1, z1, x2, y2, z2] = coords.subarray(3 * v, 3 * v + 6);
    if (bulge === 0) {
      this.begin('LINE', layer, pen, null);
      out.point(10, x1!, y1!, z1! || 0);
      out.point(11, x2!, y2!, z2! || 0);
      return;
    }
    const arc = arcOf(x1!, y1!, x2!, y2!, bulge);
    const degrees = (a: number): number => ((((a * 180) / Math.PI) % 360) + 360) % 360;
    const [from, to] = arc.sweep > 0 ? [arc.start, arc.start + arc.sweep] : [arc.start + arc.sweep, arc.start];
    this.begin('ARC', layer, pen, null);
    out.point(10, arc.cx, arc.cy, z1! || 0);
    out.put(40, arc.radius);
    out.put(50, degrees(from));
    out.put(51, degrees(to));
  }

  /** Filled area within rings that lie level. */
  fill(layer: string, pen: Pen, coords: Float64Array, rings: readonly (readonly [number, number])[], behind = NOTHING): void {
    const { out } = this;
    const z = coords[3 * rings[0]![0] + 2]!;
    this.begin('HATCH', layer, pen, 'AcDbHatch');
    out.point(10, 0, 0, Number.isNaN(z) ? 0 : z);
    out.point(210, 0, 0, 1);
    out.put(2, 'SOLID');
    out.put(70, 1);
    out.put(71, 0);
    out.put(91, rings.length);
    rings.forEach(([start, end], k) => {
      // a polyline; the first ring is the outer one
      out.put(92, k === 0 ? 3 : 2);
      out.put(72, 0);
      out.put(73, 1);
      out.put(93, end - start - 1);
      for (let v = start; v < end - 1; v++) {
        out.put(10, coords[3 * v]!);
        out.put(20, coords[3 * v + 1]!);
      }
      out.put(97, 0);
    });
    out.put(75, 0);
    out.put(76, 1);
    out.put(98, 0);
    behind(out);
  }

  /** One line of lettering. */
  text(
    layer: string,
    pen: Pen,
    text: string,
    at: readonly [number, number, number],
    height: number,
    angle: number,
    align: readonly [number, number] = [0, 0],
    behind = NOTHING,
  ): void {
    const { out } = this;
    this.begin('TEXT', layer, pen, 'AcDbText');
    out.point(10, ...at);
    out.put(40, height);
    out.words(1, lineCoded(text));
    if (angle !== 0) out.put(50, angle);
    if (align[0] !== 0) out.put(72, align[0]);
    if (align[0] !== 0 || align[1] !== 0) out.point(11, ...at);
    this.mark('AcDbText');
    if (align[1] !== 0) out.put(73, align[1]);
    behind(out);
  }

  /** Lettering of several lines. Only in versions that have it. @param attached 1 top left to 9 bottom right */
  paragraph(
    layer: string,
    pen: Pen,
    text: string,
    at: readonly [number, number, number],
    height: number,
    angle: number,
    attached: number,
    behind = NOTHING,
  ): void {
    const { out } = this;
    this.begin('MTEXT', layer, pen, 'AcDbMText');
    out.point(10, ...at);
    out.put(40, height);
    out.put(41, 0);
    out.put(71, attached);
    out.put(72, 1);
    const coded = [...out.encoded(paragraphCoded(text))];
    // up to 250 characters a group, the last one under its own code
    while (coded.length > 250) out.put(3, coded.splice(0, 250).join(''));
    out.put(1, coded.join(''));
    if (angle !== 0) out.put(50, angle);
    behind(out);
  }
}

/** What would be taken for a code is written so that it is read as itself. */
export const lineCoded = (text: string): string =>
  text.replaceAll('^', '^ ').replaceAll('\n', '^J').replaceAll('\t', '^I').replaceAll('%%', '%%%%%%');

/** A text as MTEXT has it: signs that mean something are escaped. Source: DXF Reference 2010, MTEXT. */
export const paragraphCoded = (text: string): string =>
  text
    .replace(/[\\{}]/g, (c) => `\\${c}`)
    .replaceAll('^', '^ ')
    .replaceAll('\n', '\\P')
    .replaceAll('\t', '^I')
    .replaceAll('%%', '%%%%%%');

import { CurveRun, type Position } from '../geometry/curve-run';
import { polygonsOf } from '../geometry/nesting';
import { type FeatureBatch, LINE, POINT, POLYGON, partRanges } from '../model/batch';
import type { BatchBuilder } from '../model/batch-builder';

/** Codes of geometries; 1000 more with heights, 2000 with measures, 3000 with both. Source: OGC 06-103r4, section 8.2.3. */
const TYPE = { point: 1, line: 2, polygon: 3, points: 4, lines: 5, polygons: 6, collection: 7 } as const;
const CURVE = { circular: 8, compound: 9, polygon: 10, curves: 11, surfaces: 12 } as const;
const HEIGHTS = 1000;
const MEASURES = 2000;

/** Name of each simple geometry, by its code. */
export const TYPE_NAMES: Record<number, string> = {
  1: 'Point',
  2: 'LineString',
  3: 'Polygon',
  4: 'MultiPoint',
  5: 'MultiLineString',
  6: 'MultiPolygon',
  7: 'GeometryCollection',
  8: 'CircularString',
  9: 'CompoundCurve',
  10: 'CurvePolygon',
  11: 'MultiCurve',
  12: 'MultiSurface',
};

/** Bytes that are written one after the other, with room made as it is needed. */
export class ByteWriter {
  bytes = new Uint8Array(4096);
  view = new DataView(this.bytes.buffer);
  at = 0;

  room(n: number): void {
    if (this.at + n <= this.bytes.length) return;
    const bigger = new Uint8Array(Math.max(2 * this.bytes.length, this.at + n));
    bigger.set(this.bytes.subarray(0, this.at));
    this.bytes = bigger;
    this.view = new DataView(bigger.buffer);
  }

  byte(v: number): void {
    this.room(1);
    this.bytes[this.at++] = v;
  }

  integer(v: number): void {
    this.room(4);
    this.view.setUint32(this.at, v, true);
    this.at += 4;
  }

  real(v: number): void {
    this.room(8);
    this.view.setFloat64(this.at, v, true);
    this.at += 8;
  }
}

/**
 * Writes a record as well-known binary, least byte first: outer rings counter-clockwise, holes clockwise.
 * @param heights whether its vertices have heights, and measures
 * @param several whether it is written as one of several parts even when it has one
 */
export function writeWkb(out: ByteWriter, batch: FeatureBatch, i: number, heights: boolean, measured: boolean, several: boolean): void {
  const { coords } = batch;
  const parts = partRanges(batch, i);
  const dimensions = (heights ? HEIGHTS : 0) + (measured ? MEASURES : 0);
  const begin = (type: number): void => {
    out.byte(1);
    out.integer(type + dimensions);
  };
  const vertex = (v: number): void => {
    out.real(coords[3 * v]!);
    out.real(coords[3 * v + 1]!);
    if (heights) out.real(Number.isNaN(coords[3 * v + 2]!) ? 0 : coords[3 * v + 2]!);
    if (measured) out.real(batch.measures![v]!);
  };
  const run = ([s, e]: readonly [number, number], turned = false): void => {
    out.integer(e - s);
    for (let k = s; k < e; k++) vertex(turned ? s + e - 1 - k : k);
  };
  const kind = batch.kinds[i];
  if (kind === POLYGON) {
    const polygons = polygonsOf(coords, parts);
    if (several) {
      begin(TYPE.polygons);
      out.integer(polygons.length);
    }
    for (const rings of polygons) {
      begin(TYPE.polygon);
      out.integer(rings.length);
      for (const { range, turned } of rings) run(range, turned);
    }
  } else if (kind === LINE) {
    if (several) {
      begin(TYPE.lines);
      out.integer(parts.length);
    }
    for (const part of parts) {
      begin(TYPE.line);
      run(part);
    }
  } else {
    const [start] = parts[0] ?? [0],
      end = parts.at(-1)?.[1] ?? 0;
    if (several) {
      begin(TYPE.points);
      out.integer(end - start);
    }
    for (let v = start; v < end; v++) {
      begin(TYPE.point);
      vertex(v);
    }
  }
}

/** Thrown for bytes that are no geometry; the message says what is wrong. */
export class NotWkb extends Error {}

/** What stands at the beginning of a geometry: `width` numbers a position, heights and measures among them where it has such. */
interface Begun {
  type: number;
  name: string;
  little: boolean;
  width: number;
  z: boolean;
  m: boolean;
}

/** Reads well-known binary, of either byte order, with heights and measures. */
export class WkbReader {
  private view: DataView = new DataView(new ArrayBuffer(0));
  private at = 0;

  /**
   * Puts the geometry that begins at `offset` into as many records as it has kinds; `ended` is called after each with its
   * kind and the name of its type.
   * @throws NotWkb
   */
  read(bytes: Uint8Array, offset: number, out: BatchBuilder, ended: (kind: number, type: string) => void): void {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    this.at = offset;
    this.geometry(out, ended, 0);
  }

  private geometry(out: BatchBuilder, ended: (kind: number, type: string) => void, depth: number): void {
    const begun = this.begin();
    const { type, name, little, width } = begun;
    const before = out.vertices;
    const parts = (n: number, wanted: number, kind: number): void => {
      for (let k = 0; k < n; k++) {
        const inner = this.begin();
        if (inner.type !== wanted) throw new NotWkb(`a ${inner.name} lies in a ${name}`);
        if (wanted === TYPE.polygon) this.rings(out, inner);
        else {
          this.run(wanted === TYPE.point ? 1 : this.count(inner.little), out, inner);
          out.endPart();
        }
      }
      if (out.vertices > before) ended(kind, name);
    };
    switch (type) {
      case TYPE.point: {
        // an empty point is written as one that is no number
        const empty = this.remaining >= 8 && Number.isNaN(this.view.getFloat64(this.at, little));
        if (empty) {
          this.at += 8 * width;
          return;
        }
        this.run(1, out, begun);
        out.endPart();
        return ended(POINT, name);
      }
      case TYPE.line: {
        const n = this.count(little);
        this.run(n, out, begun);
        if (n === 0) return;
        out.endPart();
        return ended(LINE, name);
      }
      case TYPE.polygon:
        this.rings(out, begun);
        if (out.vertices > before) ended(POLYGON, name);
        return;
      case TYPE.points:
        return parts(this.count(little), TYPE.point, POINT);
      case TYPE.lines:
        return parts(this.count(little), TYPE.line, LINE);
      case TYPE.polygons:
        return parts(this.count(little), TYPE.polygon, POLYGON);
      case TYPE.collection: {
        if (depth > 16) throw new NotWkb('collections lie in collections more than 16 deep');
        for (let n = this.count(little); n > 0; n--) this.geometry(out, ended, depth + 1);
        return;
      }
      case CURVE.circular:
      case CURVE.compound: {
        const run = new CurveRun();
        this.curve(run, begun, depth);
        run.put(out);
        if (out.vertices > before) ended(LINE, name);
        return;
      }
      case CURVE.polygon:
        this.curvePolygon(out, little, depth);
        if (out.vertices > before) ended(POLYGON, name);
        return;
      case CURVE.curves:
      case CURVE.surfaces:
        for (let n = this.count(little); n > 0; n--) {
          const inner = this.begin();
          if (type === CURVE.curves) {
            const run = new CurveRun();
            this.curve(run, inner, depth);
            run.put(out);
          } else if (inner.type === TYPE.polygon) this.rings(out, inner);
          else if (inner.type === CURVE.polygon) this.curvePolygon(out, inner.little, depth);
          else throw new NotWkb(`a ${inner.name} lies in a ${name}`);
        }
        if (out.vertices > before) ended(type === CURVE.curves ? LINE : POLYGON, name);
        return;
      default:
        throw new NotWkb(`a ${name} is not read`);
    }
  }

  private curvePolygon(out: BatchBuilder, little: boolean, depth: number): void {
    for (let n = this.count(little); n > 0; n--) {
      const ring = new CurveRun();
      this.curve(ring, this.begin(), depth);
      ring.put(out);
    }
  }

  /** Adds a line, arcs, or a curve made of them. */
  private curve(run: CurveRun, begun: Begun, depth: number): void {
    const { type, name, little, width } = begun;
    if (depth > 16) throw new NotWkb('curves lie in curves more than 16 deep');
    if (type === CURVE.compound) {
      for (let n = this.count(little); n > 0; n--) this.curve(run, this.begin(), depth + 1);
      return;
    }
    if (type !== TYPE.line && type !== CURVE.circular) throw new NotWkb(`a ${name} lies where a curve should`);
    const n = this.count(little);
    if (8 * width * n > this.remaining) throw new NotWkb('it breaks off');
    const positions = Array.from({ length: n }, (_, k): Position => {
      const { view } = this;
      const at = this.at + 8 * width * k;
      const z = begun.z ? view.getFloat64(at + 16, little) : NaN;
      return [view.getFloat64(at, little), view.getFloat64(at + 8, little), z, begun.m ? view.getFloat64(at + 8 * width - 8, little) : NaN];
    });
    this.at += 8 * width * n;
    if (n === 0) return;
    if (type === TYPE.line) return run.straight(positions);
    try {
      run.arcs(positions);
    } catch (error) {
      if (error instanceof RangeError) throw new NotWkb(error.message);
      throw error;
    }
  }

  private get remaining(): number {
    return this.view.byteLength - this.at;
  }

  private begin(): Begun {
    if (this.remaining < 5) throw new NotWkb('it breaks off');
    const order = this.view.getUint8(this.at);
    if (order > 1) throw new NotWkb(`its byte order is ${order}`);
    const little = order === 1;
    const code = this.view.getUint32(this.at + 1, little);
    this.at += 5;
    const type = code % 1000,
      dimensions = Math.floor(code / 1000);
    if (dimensions > 3) throw new NotWkb(`its type is ${code}`);
    return {
      type,
      name: TYPE_NAMES[type] ?? `geometry of type ${code}`,
      little,
      width: dimensions === 0 ? 2 : dimensions === 3 ? 4 : 3,
      z: dimensions === 1 || dimensions === 3,
      m: dimensions >= 2,
    };
  }

  private count(little: boolean): number {
    if (this.remaining < 4) throw new NotWkb('it breaks off');
    const n = this.view.getUint32(this.at, little);
    this.at += 4;
    // the least that any part takes
    if (n > this.remaining / 4) throw new NotWkb(`it says that it has ${n} parts, which have no room`);
    return n;
  }

  private rings(out: BatchBuilder, begun: Begun): void {
    const { little } = begun;
    for (let n = this.count(little); n > 0; n--) {
      const vertices = this.count(little);
      this.run(vertices, out, begun);
      if (vertices > 0) out.endPart();
    }
  }

  private run(n: number, out: BatchBuilder, { little, width, z, m }: Begun): void {
    const { view } = this;
    if (8 * width * n > this.remaining) throw new NotWkb('it breaks off');
    for (let k = 0; k < n; k++, this.at += 8 * width) {
      out.vertex(
        view.getFloat64(this.at, little),
        view.getFloat64(this.at + 8, little),
        z ? view.getFloat64(this.at + 16, little) : NaN,
        0,
        m ? view.getFloat64(this.at + 8 * width - 8, little) : NaN,
      );
    }
  }
}

import { polygonsOf } from '../geometry/nesting';
import { type FeatureBatch, hasHeight, hasMeasure, LINE, POINT, POLYGON, partRanges } from '../model/batch';
import type { BatchBuilder } from '../model/batch-builder';
import { plainDecimal } from '../io/plain-decimal';

/** Stands where a vertex has no measure though others of its record have one. */
const NO_MEASURE = 'NaN';

/** A record as well-known text. Source: OGC 06-103r4, section 7.2. @param heights whether its set has heights, and measures */
export function writeWkt(batch: FeatureBatch, i: number, heights: boolean, measures: boolean): string {
  const { coords } = batch;
  const parts = partRanges(batch, i);
  const z = heights && hasHeight(batch, i);
  const m = measures && hasMeasure(batch, i);
  const vertex = (v: number): string => {
    const xy = `${plainDecimal(coords[3 * v]!)} ${plainDecimal(coords[3 * v + 1]!)}`;
    const withHeight = z ? `${xy} ${plainDecimal(coords[3 * v + 2]! || 0)}` : xy;
    return m ? `${withHeight} ${Number.isNaN(batch.measures![v]!) ? NO_MEASURE : plainDecimal(batch.measures![v]!)}` : withHeight;
  };
  const run = ([s, e]: readonly [number, number], turned = false): string =>
    `(${Array.from({ length: e - s }, (_, k) => vertex(turned ? e - 1 - k : s + k)).join(', ')})`;
  const tagged = (name: string, bodies: string[], several: boolean): string =>
    `${several ? 'MULTI' : ''}${name}${dimensions} ${several ? `(${bodies.join(', ')})` : bodies[0]!}`;
  const dimensions = z && m ? ' ZM' : z ? ' Z' : m ? ' M' : '';
  const kind = batch.kinds[i];
  if (kind === POLYGON) {
    const polygons = polygonsOf(coords, parts).map((rings) => `(${rings.map(({ range, turned }) => run(range, turned)).join(', ')})`);
    return tagged('POLYGON', polygons, polygons.length > 1);
  }
  if (kind === LINE)
    return tagged(
      'LINESTRING',
      parts.map((p) => run(p)),
      parts.length > 1,
    );
  const points = parts.flatMap(([s, e]) => Array.from({ length: e - s }, (_, k) => `(${vertex(s + k)})`));
  return tagged('POINT', points, points.length > 1);
}

/** Thrown for a text that is no geometry; the message says what is wrong. */
export class NotWkt extends Error {}

const KINDS: Record<string, { kind: number; depth: number; several: boolean }> = {
  POINT: { kind: POINT, depth: 1, several: false },
  LINESTRING: { kind: LINE, depth: 1, several: false },
  POLYGON: { kind: POLYGON, depth: 2, several: false },
  MULTIPOINT: { kind: POINT, depth: 2, several: true },
  MULTILINESTRING: { kind: LINE, depth: 2, several: true },
  MULTIPOLYGON: { kind: POLYGON, depth: 3, several: true },
};

const HEAD = /^\s*(?:SRID=\d+;)?\s*([A-Z]+?)\s*(ZM|Z|M)?\s*(EMPTY|\()/i;

/** Whether a text begins as a geometry does. */
export const looksLikeWkt = (text: string): boolean => {
  const name = HEAD.exec(text)?.[1]?.toUpperCase();
  return name !== undefined && (name in KINDS || name === 'GEOMETRYCOLLECTION');
};

/**
 * Puts a simple geometry into the record at hand.
 * @returns its kind and type; null for an empty one
 * @throws NotWkt
 */
export function readWkt(text: string, out: BatchBuilder): { kind: number; type: string } | null {
  const [head, word, dimensions, begin] = HEAD.exec(text) ?? [];
  const type = word?.toUpperCase() ?? '';
  const shape = KINDS[type];
  if (!shape) throw new NotWkt(type === '' ? `"${text.slice(0, 40)}" is no geometry` : `a ${type} is not read`);
  if (begin!.toUpperCase() === 'EMPTY') return null;
  let at = head!.length;
  let depth = 1;
  let number = 0;
  const values: number[] = [];
  const z = dimensions === undefined ? null : dimensions.toUpperCase().startsWith('Z');
  // four numbers a position are x, y, z and m even where the head does not say so
  const measured = dimensions === undefined || dimensions.toUpperCase().endsWith('M');
  const vertex = (): void => {
    if (values.length < 2) throw new NotWkt(`a position at character ${at} has fewer than two numbers`);
    const [x, y] = values;
    const m = measured ? values[z === false ? 2 : 3] : undefined;
    out.vertex(x!, y!, values.length > 2 && z !== false ? values[2]! : NaN, 0, m ?? NaN);
    values.length = 0;
    // each point of several is a part of its own
    if (type === 'MULTIPOINT') out.endPart();
  };
  while (depth > 0) {
    const c = text[at];
    if (c === undefined) throw new NotWkt('its brackets are left open');
    if (c === '(') {
      if (++depth > shape.depth) throw new NotWkt(`brackets lie too deep at character ${at + 1}`);
    } else if (c === ')') {
      if (values.length > 0) {
        vertex();
        if (type !== 'MULTIPOINT') out.endPart();
      }
      depth--;
    } else if (c === ',') {
      if (values.length > 0) vertex();
    } else if (!/\s/.test(c)) {
      const token = /^[^\s,()]+/.exec(text.slice(at, at + 64))![0];
      number = Number(token);
      if (Number.isNaN(number) && !(token === NO_MEASURE && measured && values.length >= 2)) throw new NotWkt(`"${token}" is no number`);
      values.push(number);
      at += token.length;
      continue;
    }
    at++;
  }
  if (text.slice(at).trim() !== '') throw new NotWkt(`something stands behind its end, at character ${at + 1}`);
  return { kind: shape.kind, type };
}

import { CurveRun, type Position } from '../../geometry/curve-run';
import { LINE, POINT, POLYGON } from '../../model/batch';
import type { BatchBuilder } from '../../model/batch-builder';
import { GEOMETRY, TYPE } from './layout';
import type { Table } from './table';

const NAMES = Object.fromEntries(Object.entries(TYPE).map(([name, code]) => [code, name]));

/**
 * Puts a geometry into records: one, or as many as a collection has.
 * @param ended is called when the vertices of a record are in
 * @throws RangeError for one that is not whole, or of a kind that there is not
 */
export function putGeometry(g: Table, type: number, out: BatchBuilder, ended: (kind: number, type: string) => void, deep = 0): void {
  if (deep > 16) throw new RangeError('geometries lie in geometries more than 16 deep');
  const before = out.vertices;
  const done = (kind: number): void => {
    if (out.vertices > before) ended(kind, `${NAMES[type]![0]!.toUpperCase()}${NAMES[type]!.slice(1)}`);
  };
  switch (type) {
    case TYPE.point:
    case TYPE.points:
      for (const p of positionsOf(g)) {
        put(p, out);
        out.endPart();
      }
      return done(POINT);
    case TYPE.line:
    case TYPE.lines:
      runs(g, out);
      return done(LINE);
    case TYPE.polygon:
    case TYPE.triangle:
      runs(g, out);
      return done(POLYGON);
    case TYPE.polygons:
    case TYPE.tin:
    case TYPE.polyhedral:
    case TYPE.surfaces:
      for (const part of g.tables(GEOMETRY.parts)) {
        if (part.byte(GEOMETRY.type) === TYPE.curvePolygon) rings(part, out, deep);
        else runs(part, out);
      }
      return done(POLYGON);
    case TYPE.circular:
    case TYPE.compound:
    case TYPE.curve: {
      const run = new CurveRun();
      curve(g, type, run, deep);
      run.put(out);
      return done(LINE);
    }
    case TYPE.curves:
      rings(g, out, deep);
      return done(LINE);
    case TYPE.curvePolygon:
    case TYPE.surface:
      rings(g, out, deep);
      return done(POLYGON);
    case TYPE.collection:
      for (const part of g.tables(GEOMETRY.parts)) putGeometry(part, part.byte(GEOMETRY.type), out, ended, deep + 1);
      return;
    default:
      throw new RangeError(`its geometry is of kind ${type}, which there is not`);
  }
}

const put = ([x, y, z, m]: Position, out: BatchBuilder): void => out.vertex(x, y, z, 0, m);

function positionsOf(g: Table): Position[] {
  const xy = g.reals(GEOMETRY.xy);
  const n = xy ? Math.floor(xy.length / 2) : 0;
  const beside = (field: number, word: string): ((k: number) => number) => {
    const own = g.reals(field);
    if (!own || own.length === 0) return () => NaN;
    if (own.length < n) throw new RangeError(`it has fewer ${word} than positions`);
    return (k) => own.of(k);
  };
  const z = beside(GEOMETRY.z, 'heights'),
    m = beside(GEOMETRY.m, 'measures');
  return Array.from({ length: n }, (_, k) => [xy!.of(2 * k), xy!.of(2 * k + 1), z(k), m(k)]);
}

/** Lines or rings, cut by their ends. */
function runs(g: Table, out: BatchBuilder): void {
  const positions = positionsOf(g);
  const told = g.counts(GEOMETRY.ends);
  let at = 0;
  for (const end of told.length > 0 ? told : [positions.length]) {
    if (end > positions.length || end < at) throw new RangeError('a part ends where there is no position');
    if (end === at) continue;
    for (; at < end; at++) put(positions[at]!, out);
    out.endPart();
  }
}

function rings(g: Table, out: BatchBuilder, deep: number): void {
  const parts = g.tables(GEOMETRY.parts);
  if (parts.length === 0) return runs(g, out);
  for (const part of parts) {
    const run = new CurveRun();
    curve(part, part.byte(GEOMETRY.type), run, deep + 1);
    run.put(out);
  }
}

function curve(g: Table, type: number, run: CurveRun, deep: number): void {
  if (deep > 16) throw new RangeError('curves lie in curves more than 16 deep');
  if (type === TYPE.circular) return run.arcs(positionsOf(g));
  const parts = g.tables(GEOMETRY.parts);
  if (parts.length === 0) return run.straight(positionsOf(g));
  for (const part of parts) curve(part, part.byte(GEOMETRY.type), run, deep + 1);
}

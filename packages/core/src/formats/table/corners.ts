import type { Value } from '../../model/value';
import { LINE, POLYGON, NO_GEOMETRY } from '../../model/batch';
import type { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';

/** How corners become lines or outlines. */
interface Making {
  file: string;
  layer: string;
  make: 'line' | 'outline';
  group: string | null;
  order: string | null;
}

interface Corner {
  at: [number, number, number];
  values: [string, Value][];
  order: Value;
  line: number;
}

/** Corners are kept until all rows have come, as those of an outline may stand anywhere; more than these are refused. */
const MOST_CORNERS = 2_000_000;

/** Gathers the rows of a table of corner points, and makes a line or a closed outline of each group. */
export class Corners {
  private readonly groups = new Map<Value, Corner[]>();
  private count = 0;

  constructor(private readonly making: Making) {}

  add(at: [number, number, number], values: [string, Value][], line: number): void {
    const { file, group, order } = this.making;
    if (++this.count > MOST_CORNERS)
      throw new Problem('table-too-many-corners', `${file} has more than ${MOST_CORNERS} corners. Cut it into several tables.`, {
        file,
        line,
      });
    const valueOf = (name: string | null): Value => (name === null ? null : (values.find(([n]) => n === name)?.[1] ?? null));
    const key = valueOf(group);
    const corner = { at, values, order: valueOf(order), line };
    const known = this.groups.get(key);
    if (known) known.push(corner);
    else this.groups.set(key, [corner]);
  }

  /**
   * Puts every group as one record, by turns, with what its rows have in common, the number of its corners, and of an outline
   * its perimeter, its area and how far its last corner lies from its first (0 where it was left to be closed), in the unit of
   * the coordinates and its square.
   */
  *put(out: BatchBuilder, findings: Findings): Generator<void> {
    const { make, order, layer } = this.making;
    const differing = new Map<string, number>();
    let closed = 0;
    for (const corners of this.groups.values()) {
      if (order !== null) corners.sort((a, b) => compare(a.order, b.order));
      const first = corners[0]!,
        last = corners.at(-1)!;
      const least = make === 'outline' ? 3 : 2;
      for (const [name] of first.values) {
        const value = corners.find((c) => valueIn(c, name) !== null);
        const common = value ? valueIn(value, name) : null;
        const same = corners.every((c) => valueIn(c, name) === common);
        if (same) out.set(name, common);
        else if (name !== order) differing.set(name, (differing.get(name) ?? 0) + corners.length);
      }
      out.set('corners', corners.length);
      if (corners.length < least) {
        findings.add({
          code: 'table-few-corners',
          severity: 'caution',
          message: `A group has fewer than ${least} corners: it is a record without a place.`,
          count: 1,
          location: layer,
        });
        out.endFeature(NO_GEOMETRY, 'row', first.line);
        yield;
        continue;
      }
      const gap = Math.hypot(last.at[0] - first.at[0], last.at[1] - first.at[1]);
      const ring =
        make === 'outline'
          ? [...corners.map((c) => c.at), ...(gap === 0 && corners.length > 3 ? [] : [first.at])]
          : corners.map((c) => c.at);
      for (const at of ring) out.vertex(...at);
      out.endPart();
      if (make === 'outline') {
        const repeats = repeatsFirst(corners);
        if (gap > 0) closed++;
        out.set('perimeter', rounded(lengthOf(ring)));
        out.set('area', rounded(Math.abs(areaOf(ring))));
        out.set('closing_error', repeats ? rounded(gap) : 0);
        if (repeats && gap > 0)
          findings.add({
            code: 'table-closing-error',
            severity: 'caution',
            message: `The last corner of an outline (line ${last.line}) is ${rounded(gap)} from its first, which it seems to repeat: check the measurements.`,
            count: 1,
            location: layer,
          });
      } else out.set('length', rounded(lengthOf(ring)));
      out.endFeature(make === 'outline' ? POLYGON : LINE, make, first.line);
      yield;
    }
    if (closed > 0)
      findings.add({
        code: 'table-closed',
        severity: 'info',
        message: 'An outline whose first corner is not repeated was closed.',
        count: closed,
        location: layer,
      });
    for (const [name, n] of differing)
      findings.add({
        code: 'table-corner-values',
        severity: 'caution',
        message: `Values of ${name} differ from corner to corner, and have no place on the whole: they stay behind. Make points of the table to keep them.`,
        count: n,
        location: layer,
      });
  }
}

const valueIn = (corner: Corner, name: string): Value => corner.values.find(([n]) => n === name)?.[1] ?? null;

/** A last corner much nearer to the first than corners are to each other is the first one measured again. Common practice, no source. */
function repeatsFirst(corners: readonly Corner[]): boolean {
  if (corners.length < 4) return false;
  const gap = distance(corners.at(-1)!, corners[0]!);
  let sum = 0;
  for (let k = 1; k < corners.length; k++) sum += distance(corners[k]!, corners[k - 1]!);
  return gap < (0.02 * sum) / (corners.length - 1);
}

const distance = (a: Corner, b: Corner): number => Math.hypot(a.at[0] - b.at[0], a.at[1] - b.at[1]);

function compare(a: Value, b: Value): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return String(a ?? '').localeCompare(String(b ?? ''), 'en', { numeric: true });
}

type Run = readonly (readonly [number, number, number])[];

const lengthOf = (run: Run): number => run.slice(1).reduce((n, p, k) => n + Math.hypot(p[0] - run[k]![0], p[1] - run[k]![1]), 0);

function areaOf(ring: Run): number {
  const [x0, y0] = ring[0]!;
  return ring.slice(1).reduce((n, p, k) => n + (ring[k]![0] - x0) * (p[1] - y0) - (p[0] - x0) * (ring[k]![1] - y0), 0) / 2;
}

/** To a tenth of a millimetre where numbers are metres. */
const rounded = (v: number): number => Number(v.toFixed(4));

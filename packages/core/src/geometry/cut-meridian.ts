import { type FeatureBatch, LINE, partRanges, POLYGON } from '../model/batch';
import { BatchBuilder } from '../model/batch-builder';
import { polygonsOf } from './nesting';

type Vertex = [number, number, number];

/** Degrees of a step that is taken for the short way round. */
const HALF = 180;

/** Whether a line or ring goes over the antimeridian: some step of it is longer than half the way round. */
function crosses(batch: FeatureBatch, i: number): boolean {
  const { coords } = batch;
  return partRanges(batch, i).some(([s, e]) => {
    for (let v = s + 1; v < e; v++) if (Math.abs(coords[3 * v]! - coords[3 * v - 3]!) > HALF) return true;
    return false;
  });
}

/**
 * Cuts lines and areas that go over the antimeridian into parts on either side of it, in degrees with the longitude first. Areas
 * around a pole stay as they are.
 * Source: RFC 7946, section 3.1.9.
 * @param lost records that have no position, which nobody writes and whose numbers may lie any number of turns round the earth
 * @returns the batch itself where nothing is cut; arcs must be chords before
 */
export function cutAtAntimeridian(batch: FeatureBatch, lost: ReadonlySet<number>): FeatureBatch {
  const isCut = (i: number): boolean => (batch.kinds[i] === LINE || batch.kinds[i] === POLYGON) && !lost.has(i) && crosses(batch, i);
  let any = false;
  for (let i = 0; i < batch.count && !any; i++) any = isCut(i);
  if (!any) return batch;
  const out = new BatchBuilder(batch.layer, batch.to);
  for (let i = 0; i < batch.count; i++) {
    const kind = batch.kinds[i]!;
    const cut = isCut(i) ? (kind === LINE ? cutLine(batch, i) : cutArea(batch, i)) : null;
    for (const part of cut ?? partRanges(batch, i).map((range) => verticesOf(batch, range))) {
      for (const [x, y, z] of part) out.vertex(x, y, z);
      out.endPart();
    }
    out.endFeature(kind, batch.entities[i]!, batch.locations[i]!, batch.items?.[i]);
  }
  return { ...out.take(), columns: batch.columns };
}

const verticesOf = ({ coords }: FeatureBatch, [s, e]: readonly [number, number]): Vertex[] =>
  Array.from({ length: e - s }, (_, k) => [coords[3 * (s + k)]!, coords[3 * (s + k) + 1]!, coords[3 * (s + k) + 2]!]);

/** A run with its longitudes going on beyond 180° where it crosses; null where it does not come back to where it began though it is a ring. */
function unwound(run: readonly Vertex[], ring: boolean): Vertex[] | null {
  const out: Vertex[] = [];
  let turn = 0;
  run.forEach(([x, y, z], k) => {
    if (k > 0) {
      const step = x - run[k - 1]![0];
      if (step > HALF) turn -= 360;
      else if (step < -HALF) turn += 360;
    }
    out.push([x + turn, y, z]);
  });
  return ring && turn !== 0 ? null : out;
}

/** The strip of 360° that a longitude lies in, 0 for −180° to 180°. */
const stripOf = (x: number): number => Math.floor((x + 180) / 360);

/** Where a step meets a meridian. */
function at(a: Vertex, b: Vertex, x: number): Vertex {
  const t = (x - a[0]) / (b[0] - a[0]);
  return [x, a[1] + t * (b[1] - a[1]), Number.isNaN(a[2]) || Number.isNaN(b[2]) ? NaN : a[2] + t * (b[2] - a[2])];
}

function cutLine(batch: FeatureBatch, i: number): Vertex[][] {
  const out: Vertex[][] = [];
  for (const range of partRanges(batch, i)) {
    const run = unwound(verticesOf(batch, range), false)!;
    let part: Vertex[] = [];
    let strip = stripOf(Math.min(run[0]![0], run[1]?.[0] ?? run[0]![0]));
    const end = (): void => {
      if (part.length > 1) out.push(part.map(([x, y, z]) => [x - 360 * strip, y, z]));
    };
    run.forEach((v, k) => {
      if (k > 0) {
        const before = run[k - 1]!;
        const meridian = v[0] > before[0] ? 180 + 360 * strip : -180 + 360 * strip;
        if (
          (v[0] > meridian && before[0] < meridian && v[0] > before[0]) ||
          (v[0] < meridian && before[0] > meridian && v[0] < before[0]) ||
          (before[0] === meridian && v[0] !== meridian && stripOf((before[0] + v[0]) / 2) !== strip)
        ) {
          const met = before[0] === meridian ? before : at(before, v, meridian);
          if (met !== before) part.push(met);
          end();
          strip = stripOf((met[0] + v[0]) / 2);
          part = [met];
        }
      }
      part.push(v);
    });
    end();
  }
  return out;
}

/** Rings of an area on either side; null for one around a pole. */
function cutArea(batch: FeatureBatch, i: number): Vertex[][] | null {
  const out: Vertex[][] = [];
  for (const rings of polygonsOf(batch.coords, partRanges(batch, i))) {
    const runs = rings.map(({ range }) => unwound(verticesOf(batch, range), true));
    if (runs.some((r) => r === null)) return null;
    // holes lie where their area does
    const [outer] = runs as Vertex[][];
    const middle = (r: readonly Vertex[]): number => (Math.min(...r.map((v) => v[0])) + Math.max(...r.map((v) => v[0]))) / 2;
    const placed = (runs as Vertex[][]).map((r) => {
      const off = Math.round((middle(outer!) - middle(r)) / 360) * 360;
      return r.map(([x, y, z]): Vertex => [x + off, y, z]);
    });
    const low = Math.min(...outer!.map((v) => v[0])),
      high = Math.max(...outer!.map((v) => v[0]));
    const first = stripOf(low),
      last = stripOf(high - 1e-12);
    let left = placed;
    for (let strip = first; strip <= last; strip++) {
      const [here, beyond] = strip < last ? split(left, 180 + 360 * strip) : [left, []];
      for (const ring of here) out.push(ring.map(([x, y, z]) => [x - 360 * strip, y, z]));
      left = beyond;
    }
  }
  return out;
}

/**
 * Cuts an area by a meridian into its rings west and east of it. The places where its rings meet the meridian, in order of
 * latitude, bound by turns what lies inside; along those stretches the pieces are closed.
 */
function split(rings: readonly (readonly Vertex[])[], meridian: number): [Vertex[][], Vertex[][]] {
  const sides: [Vertex[][], Vertex[][]] = [[], []];
  interface Chain {
    side: 0 | 1;
    run: Vertex[];
  }
  const chains: Chain[] = [];
  for (const ring of rings) {
    // a vertex on the meridian counts as east of it
    const sideOf = (v: Vertex): 0 | 1 => (v[0] >= meridian ? 1 : 0);
    const open = ring.slice(0, -1);
    const turns = open.map((_, k) => k).filter((k) => sideOf(open[k]!) !== sideOf(open[(k + 1) % open.length]!));
    if (turns.length === 0) {
      sides[sideOf(open.find((v) => v[0] !== meridian) ?? open[0]!)].push([...ring]);
      continue;
    }
    turns.forEach((from, t) => {
      const to = turns[(t + 1) % turns.length]!;
      const run: Vertex[] = [at(open[from]!, open[(from + 1) % open.length]!, meridian)];
      for (let k = (from + 1) % open.length; ; k = (k + 1) % open.length) {
        run.push(open[k]!);
        if (k === to) break;
      }
      run.push(at(open[to]!, open[(to + 1) % open.length]!, meridian));
      chains.push({
        side: sideOf(open[(from + 1) % open.length]!),
        run: run.filter((v, k) => k === 0 || v[0] !== run[k - 1]![0] || v[1] !== run[k - 1]![1]),
      });
    });
  }
  const ends = chains.flatMap((chain) => [
    { chain, start: true, y: chain.run[0]![1] },
    { chain, start: false, y: chain.run.at(-1)![1] },
  ]);
  for (const side of [0, 1] as const) {
    const own = ends.filter((e) => e.chain.side === side).sort((a, b) => a.y - b.y);
    const partner = new Map(own.map((e, k) => [e, own[k ^ 1]!]));
    const used = new Set<Chain>();
    for (const chain of chains) {
      if (chain.side !== side || used.has(chain)) continue;
      const ring: Vertex[] = [];
      for (let next: Chain | undefined = chain; next && !used.has(next);) {
        used.add(next);
        ring.push(...next.run);
        const end = own.find((e) => e.chain === next && !e.start)!;
        next = partner.get(end)?.chain;
      }
      ring.push([...ring[0]!]);
      if (ring.length > 3) sides[side].push(ring);
    }
  }
  return sides;
}

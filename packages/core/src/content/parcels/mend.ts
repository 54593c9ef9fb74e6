import { type FeatureBatch, POLYGON, vertexRange } from '../../model/batch';
import { BatchBuilder, copyRecord, copyValues } from '../../model/batch-builder';
import { ringsHold } from '../../geometry/ring-holds';
import { Problem } from '../../model/problem';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { namedBy } from '../derived/record-name';
import { readAreas, type ReadArea } from './areas-read';
import { CHOSEN, type ChosenFault, chosenFaults, isOfOutline, isOfPiece } from './chosen-faults';
import { coverageOf, coveredBy, type Piece } from './coverage';
import { dissolve, eachSide, sideKey } from './dissolve';
import type { Face } from './faces';

/** Areas that are made to hold together, as an operation. */
export const MEND: Derivation = {
  id: 'mend',
  title: 'Areas mended',
  says: 'Areas whose outlines meet: corners snapped, narrow gaps given to the neighbour with the longest border, overlaps to one area.',
  roles: [{ id: 'areas', title: 'Areas', kinds: ['polygon'] }],
  settings: [
    { id: 'snap', label: 'Outlines meet within', kind: 'length', initial_m: 0.01, orNone: true },
    { id: 'gaps', label: 'Fill gaps narrower than', kind: 'length', initial_m: 0.5, orNone: true },
    {
      id: 'overlaps',
      label: 'Overlaps go to',
      kind: 'choice',
      choices: [
        { value: 'first', label: 'the first' },
        { value: 'larger', label: 'the larger' },
        { value: 'smaller', label: 'the smaller' },
        { value: 'stay', label: 'both, as they are' },
      ],
    },
    namedBy('Areas are called by'),
    CHOSEN,
  ],
  run: mend,
};

async function mend({ records, settings, name, unit_m }: DerivationInput): Promise<Derived> {
  const kept: { batch: FeatureBatch; own: Int32Array }[] = [];
  const { areas, findings } = await readAreas(records('areas'), { names: String(settings.names), reach: 0, unit_m }, (batch, own) =>
    kept.push({ batch, own }),
  );
  if (areas.length === 0) throw new Problem('no-areas', 'There is no area to mend. Choose a layer that has areas.');
  const chosen = chosenFaults(String(settings.only ?? ''));
  const { pieces, noded, tooNarrow } = coverageOf(areas, chosen ? 0 : lengthOf(settings, 'snap', unit_m));
  const faults: Fault[] = [];
  const owners = ownersOf(
    pieces,
    areas,
    { narrowest: lengthOf(settings, 'gaps', unit_m), overlaps: String(settings.overlaps), unit_m, chosen },
    faults,
  );
  const faces: Face[][] = areas.map(() => []);
  pieces.forEach(({ face }, k) => {
    for (const n of owners[k]!) faces[n]!.push(face);
  });
  const mended = faces.map(dissolve);
  mended.forEach((own, n) => {
    if (own.length === 0)
      faults.push({ kind: 'area-gone', at: [areas[n]!.rings[0]![0]!, areas[n]!.rings[0]![1]!], size: null, about: areas[n]!.name });
  });
  const touched = chosen && touchedBy(chosen, pieces, owners, areas);
  const same = mended.map((own, n) => (touched !== null && !touched.has(n)) || isSame(areas[n]!.rings, own));
  const total = (kind: Fault['kind']): number => faults.reduce((n, f) => n + (f.kind === kind ? (f.size ?? 0) : 0), 0);
  const count = (kind: Fault['kind']): number => faults.filter((f) => f.kind === kind).length;
  const corners = (rings: readonly ArrayLike<number>[]): number => rings.reduce((n, ring) => n + ring.length / 2 - 1, 0);
  // heights stay where corners do
  const told = findings.filter((f) => f.code !== 'heights-left');
  const flattened = { count: 0 };
  const out = kept.flatMap(({ batch, own }) => rebuilt(name, batch, own, mended, same, flattened));
  if (flattened.count > 0)
    told.push({
      code: 'heights-left',
      severity: 'caution',
      message: 'Corners that are new, or were moved, have no height.',
      count: flattened.count,
    });
  if (tooNarrow > 0)
    told.push({
      code: 'too-narrow',
      severity: 'caution',
      message: 'Pieces between outlines are too narrow to be told: they go to nobody.',
      count: tooNarrow,
    });
  return {
    records: () => out,
    figures: {
      areas: areas.length,
      changed: same.filter((s) => !s).length,
      gapsFilled: count('gap-filled'),
      gapsFilled_m2: total('gap-filled'),
      overlapsSettled: count('overlap-settled'),
      overlapsSettled_m2: total('overlap-settled'),
      gone: count('area-gone'),
      largestMove_m: noded.largestMove * unit_m,
      cornersBefore: areas.reduce((n, a) => n + corners(a.rings), 0),
      cornersAfter: mended.reduce((n, own) => n + own.reduce((m, f) => m + corners([f.shell, ...f.holes]), 0), 0),
    },
    faults: faults.sort((a, b) => (b.size ?? 0) - (a.size ?? 0)),
    findings: told,
  };
}

/** The areas that each piece is to belong to. */
function ownersOf(
  pieces: readonly Piece[],
  areas: readonly ReadArea[],
  { narrowest, overlaps, unit_m, chosen }: { narrowest: number; overlaps: string; unit_m: number; chosen: readonly ChosenFault[] | null },
  faults: Fault[],
): number[][] {
  const own = coveredBy(pieces, areas.length);
  const sizes: Record<string, (covers: readonly number[]) => number> = {
    first: (covers) => covers[0]!,
    larger: (covers) => covers.reduce((a, b) => (own[b]! > own[a]! ? b : a)),
    smaller: (covers) => covers.reduce((a, b) => (own[b]! < own[a]! ? b : a)),
  };
  const settle = sizes[overlaps];
  // of those that were chosen one by one, a gap is filled however wide it is
  const isTaken = (p: Piece, narrow: boolean): boolean =>
    chosen === null ? narrow : chosen.some((c) => isOfPiece(c) && holds(p.face, c.at));
  const gaps = pieces.flatMap((p, k) => (p.covers.length === 0 && isTaken(p, p.width < narrowest) ? [k] : []));
  const owners = pieces.map((piece): number[] => {
    const { covers, inside, area } = piece;
    if (covers.length < 2 || !settle || !isTaken(piece, true)) return covers;
    const to = settle(covers);
    const others = covers.filter((k) => k !== to).map((k) => areas[k]!.name);
    faults.push({
      kind: 'overlap-settled',
      at: inside,
      size: area * unit_m ** 2,
      about: `to ${areas[to]!.name}, from ${others.join(' and ')}`,
    });
    return [to];
  });
  const neighbours = longestNeighbours(pieces, gaps, owners);
  for (const k of gaps) {
    const to = neighbours.get(k);
    if (to === undefined) continue;
    owners[k] = [to];
    faults.push({ kind: 'gap-filled', at: pieces[k]!.inside, size: pieces[k]!.area * unit_m ** 2, about: `to ${areas[to]!.name}` });
  }
  return owners;
}

const holds = ({ shell, holes }: Face, [x, y]: readonly [number, number]): boolean => ringsHold([shell, ...holes], x, y);

/** The areas that chosen faults are about; all others stay as they are. */
function touchedBy(
  chosen: readonly ChosenFault[],
  pieces: readonly Piece[],
  owners: readonly (readonly number[])[],
  areas: readonly ReadArea[],
): Set<number> {
  const touched = new Set<number>();
  pieces.forEach(({ covers }, k) => {
    const own = owners[k]!;
    if (own.length !== covers.length || own.some((n, i) => n !== covers[i])) for (const n of [...covers, ...own]) touched.add(n);
  });
  for (const { about } of chosen.filter(isOfOutline)) areas.forEach(({ name }, n) => name === about && touched.add(n));
  return touched;
}

/** The area that shares the longest border with each gap. */
function longestNeighbours(pieces: readonly Piece[], gaps: readonly number[], owners: readonly number[][]): Map<number, number> {
  const beyond = new Map<string, number>();
  for (const k of gaps) eachSide(pieces[k]!.face, (x1, y1, x2, y2) => beyond.set(sideKey(x2, y2, x1, y1), k));
  const shared = new Map<number, Map<number, number>>();
  if (gaps.length > 0)
    pieces.forEach(({ face }, k) => {
      if (owners[k]!.length === 0) return;
      eachSide(face, (x1, y1, x2, y2) => {
        const gap = beyond.get(sideKey(x1, y1, x2, y2));
        if (gap === undefined) return;
        const own = shared.get(gap) ?? new Map<number, number>();
        for (const n of owners[k]!) own.set(n, (own.get(n) ?? 0) + Math.hypot(x2 - x1, y2 - y1));
        shared.set(gap, own);
      });
    });
  return new Map(
    [...shared].map(([gap, own]) => [gap, [...own].reduce((a, b) => (b[1] > a[1] || (b[1] === a[1] && b[0] < a[0]) ? b : a))[0]]),
  );
}

/** A ring that begins at its lowest corner and goes counter-clockwise or not as it does; what is the same ring is the same text. */
function turned(ring: ArrayLike<number>): string {
  const corners: string[] = [];
  for (let k = 0; k + 3 < ring.length; k += 2) corners.push(`${ring[k]} ${ring[k + 1]}`);
  const lowest = corners.reduce((least, c, k) => (c < corners[least]! ? k : least), 0);
  const forward = [...corners.slice(lowest), ...corners.slice(0, lowest)];
  const back = [forward[0], ...forward.slice(1).reverse()];
  return [forward.join(), back.join()].sort()[0]!;
}

/** Whether an area has the outlines that it had. */
function isSame(rings: readonly ArrayLike<number>[], faces: readonly Face[]): boolean {
  const after = faces.flatMap((f) => [f.shell, ...f.holes]);
  if (after.length !== rings.length) return false;
  const texts = after.map(turned).sort();
  return rings
    .map(turned)
    .sort()
    .every((text, k) => text === texts[k]);
}

/** The records of a batch with their new outlines; those that are as they were stay as they are. @param flat counts corners without the height that others have */
function rebuilt(
  layer: string,
  batch: FeatureBatch,
  own: Int32Array,
  mended: readonly Face[][],
  same: readonly boolean[],
  flat: { count: number },
): FeatureBatch[] {
  const out = new BatchBuilder(layer);
  if (batch.declared) out.declare(batch.declared);
  for (let i = 0; i < batch.count; i++) {
    const n = own[i]!;
    if (n < 0 || mended[n]!.length === 0) continue;
    if (same[n]) {
      copyRecord(batch, i, out);
      continue;
    }
    const heights = heightsOf(batch, i);
    for (const face of mended[n]!)
      for (const ring of [face.shell, ...face.holes]) {
        for (let v = 0; v < ring.length; v += 2) {
          const z = heights.get(`${ring[v]} ${ring[v + 1]}`) ?? NaN;
          if (heights.size > 0 && Number.isNaN(z)) flat.count++;
          out.vertex(ring[v]!, ring[v + 1]!, z);
        }
        out.endPart();
      }
    copyValues(batch, i, out);
    out.endFeature(POLYGON, batch.entities[i]!, batch.locations[i]!);
  }
  return out.count > 0 ? [out.take()] : [];
}

/** The height of each corner of a record that has one. */
function heightsOf(batch: FeatureBatch, i: number): Map<string, number> {
  const { coords } = batch;
  const heights = new Map<string, number>();
  const [start, end] = vertexRange(batch, i);
  for (let v = start; v < end; v++) {
    const z = coords[3 * v + 2]!;
    if (!Number.isNaN(z)) heights.set(`${coords[3 * v]} ${coords[3 * v + 1]}`, z);
  }
  return heights;
}

import { POINT, POLYGON } from '../../model/batch';
import { inBatches } from '../../model/batch-builder';
import type { FeatureBatch } from '../../model/batch';
import { Problem } from '../../model/problem';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import { type Fault, faultKind } from '../derived/fault';
import { namedBy } from '../derived/record-name';
import { type ReadArea, readAreas } from './areas-read';
import { coveredBy, type Coverage, coverageOf, lengthAround, type Piece } from './coverage';
import type { Face } from './faces';
import { NOISE } from './node-linework';
import { nearCorners } from './near-corners';
import { ringFaults } from './ring-faults';

/** Two areas are one there twice where what they share is all of both but for this share. */
const SAME_AREA = 1e-9;

/** A fault with what it looks like on a map: a place where it has no area. */
interface DrawnFault extends Fault {
  face?: Face;
  width_m?: number;
}

/** Whether areas hold together, as an operation: its records are the faults. */
export const TOPOLOGY: Derivation = {
  id: 'topology',
  title: 'Faults of areas',
  says: 'Gaps, overlaps, slivers, outlines that cross themselves, repeated vertices and corners that neighbours nearly meet, each a record.',
  roles: [{ id: 'areas', title: 'Areas', kinds: ['polygon'] }],
  settings: [
    { id: 'near', label: 'Corners nearly meet within', kind: 'length', initial_m: 0.05 },
    { id: 'sliver', label: 'Sliver narrower than', kind: 'length', initial_m: 0.5 },
    namedBy('Areas are called by'),
  ],
  run: topology,
};

async function topology({ records, settings, name, unit_m }: DerivationInput): Promise<Derived> {
  const reach = lengthOf(settings, 'near', unit_m);
  const { areas, unclosed, findings } = await readAreas(records('areas'), { names: String(settings.names), reach, unit_m });
  if (areas.length === 0) throw new Problem('no-areas', 'There is no area to look at. Choose a layer that has areas.');
  const coverage = coverageOf(areas, 0);
  const own = coveredBy(coverage.pieces, areas.length);
  const faults: DrawnFault[] = [
    ...piecesAtFault(coverage, areas, own, unit_m),
    ...slivers(areas, own, lengthOf(settings, 'sliver', unit_m), unit_m),
    ...areas.flatMap((area) =>
      ringFaults(area.rings).map(({ kind, at, length }): Fault => ({
        kind,
        at,
        size: length === null ? null : length * unit_m,
        about: area.name,
      })),
    ),
    ...nearCorners(areas, reach, noiseOf(areas)).map(({ at, apart, areas: [own, other] }): Fault => ({
      kind: 'corner-near',
      at,
      size: apart * unit_m,
      about: `${areas[own]!.name} by ${areas[other]!.name}`,
    })),
    ...unclosed,
  ];
  const count = (kind: Fault['kind']): number => faults.reduce((n, f) => n + (f.kind === kind ? 1 : 0), 0);
  const sum = (pieces: readonly Piece[]): number => pieces.reduce((n, p) => n + p.area, 0) * unit_m ** 2;
  const order = ORDER.map(String);
  faults.sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind) || (b.size ?? 0) - (a.size ?? 0));
  if (coverage.tooNarrow > 0)
    findings.push({
      code: 'too-narrow',
      severity: 'caution',
      message: 'Pieces between outlines are narrower than numbers of this size can tell: whether they are gaps or overlaps is not known.',
      count: coverage.tooNarrow,
    });
  return {
    records: () => faultRecords(name, faults),
    figures: {
      areas: areas.length,
      covered_m2: sum(coverage.pieces.filter((p) => p.covers.length > 0)),
      gaps: count('gap'),
      gaps_m2: sum(coverage.pieces.filter((p) => p.covers.length === 0)),
      overlaps: count('overlap'),
      overlaps_m2: sum(coverage.pieces.filter((p) => p.covers.length > 1)),
      duplicates: count('duplicate'),
      slivers: count('sliver'),
      selfCrossings: count('self-crossing'),
      selfTouches: count('self-touch'),
      spikes: count('spike'),
      repeatedVertices: count('repeated-vertex'),
      unclosed: count('unclosed'),
      nearCorners: count('corner-near'),
    },
    faults,
    findings,
  };
}

/** The worst first. */
const ORDER = [
  'duplicate',
  'overlap',
  'gap',
  'self-crossing',
  'collapsed',
  'unclosed',
  'sliver',
  'corner-near',
  'spike',
  'self-touch',
  'repeated-vertex',
] as const satisfies readonly Fault['kind'][];

const noiseOf = (areas: readonly ReadArea[]): number =>
  NOISE * areas.reduce((most, { rings }) => rings.reduce((m, ring) => ring.reduce((n, v) => Math.max(n, Math.abs(v)), m), most), 0);

/** Gaps, and pieces that several areas cover. */
function piecesAtFault({ pieces }: Coverage, areas: readonly ReadArea[], own: Float64Array, unit_m: number): DrawnFault[] {
  const twice = sharedWhole(pieces, own);
  return pieces.flatMap(({ face, covers, inside, area, width }): DrawnFault[] => {
    if (covers.length === 1) return [];
    const kind = covers.length === 0 ? 'gap' : covers.every((k, n) => n === 0 || twice(covers[0]!, k)) ? 'duplicate' : 'overlap';
    const about = covers.map((k) => areas[k]!.name).join(' and ');
    return [{ kind, at: inside, size: area * unit_m ** 2, about, face, width_m: width * unit_m }];
  });
}

/** Whether two areas share all of both. */
function sharedWhole(pieces: readonly Piece[], own: Float64Array): (a: number, b: number) => boolean {
  const shared = new Map<string, number>();
  for (const { covers, area } of pieces)
    covers.forEach((a, n) => {
      for (const b of covers.slice(n + 1)) shared.set(`${a} ${b}`, (shared.get(`${a} ${b}`) ?? 0) + area);
    });
  return (a, b) => (shared.get(`${a} ${b}`) ?? 0) >= (1 - SAME_AREA) * Math.max(own[a]!, own[b]!);
}

function slivers(areas: readonly ReadArea[], own: Float64Array, narrowest: number, unit_m: number): DrawnFault[] {
  return areas.flatMap(({ rings, name }, k): DrawnFault[] => {
    // what crosses itself has areas that a sum of triangles takes away from each other
    const width = (2 * own[k]!) / lengthAround(rings);
    const [x, y] = rings[0]!;
    return width < narrowest ? [{ kind: 'sliver', at: [x!, y!], size: width * unit_m, about: name }] : [];
  });
}

/** Faults as records: areas where they have one, places where they have none. */
const faultRecords = (layer: string, faults: readonly DrawnFault[]): Generator<FeatureBatch> =>
  inBatches(layer, faults, (builder, { kind, at, size, about, face, width_m }, n) => {
    const { title, of } = faultKind(kind);
    for (const ring of face ? [face.shell, ...face.holes] : [at]) {
      for (let v = 0; v < ring.length; v += 2) builder.vertex(ring[v]!, ring[v + 1]!, NaN);
      builder.endPart();
    }
    builder.set('fault', title);
    builder.set('about', about);
    if (of === 'm2') builder.set('area_m2', size);
    if (of === 'm') builder.set('length_m', size);
    builder.set('width_m', width_m ?? null);
    builder.endFeature(face ? POLYGON : POINT, face ? 'Polygon' : 'Point', n + 1);
  });

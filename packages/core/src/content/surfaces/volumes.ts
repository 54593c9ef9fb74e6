import { POLYGON } from '../../model/batch';
import { inBatches } from '../../model/batch-builder';
import { Problem } from '../../model/problem';
import type { Derivation, DerivationInput, Derived } from '../derived/derivation';
import type { Fault } from '../derived/fault';
import { namedBy } from '../derived/record-name';
import { readAreas } from '../parcels/areas-read';
import { outlineTin } from './outline-tin';
import { OF_SURFACES, SURFACE, surfaceOf } from './surface-role';
import { Ground, nextSide, type Tin, twinsOf } from './tin';
import { type Against, volumesBetween } from './volume';

/** Volumes between two surfaces, or a surface and a height, within outlines. */
export const VOLUME: Derivation = {
  id: 'volume',
  title: 'Volumes',
  says: 'Cut (where the surface lies above the other one) and fill (where it lies below), within each outline.',
  heights: true,
  roles: [
    SURFACE,
    { id: 'against', title: 'The other surface', kinds: [], optional: true, elevation: true },
    { id: 'outline', title: 'Outlines', kinds: [], optional: true },
  ],
  settings: [
    { id: 'level', label: 'Or against the height, m', kind: 'number', initial: 0, least: -1e5, most: 1e5 },
    namedBy('Outlines are called by'),
    ...OF_SURFACES,
  ],
  run: volume,
};

async function volume(input: DerivationInput): Promise<Derived> {
  const { records, settings, name, unit_m } = input;
  const first = await surfaceOf(input, 'surface');
  const second = input.has('against') ? await surfaceOf(input, 'against') : null;
  const ground = new Ground(first.tin);
  const against: Against = second ? new Ground(second.tin) : Number(settings.level) / unit_m;
  const read = input.has('outline') ? await readAreas(records('outline'), { names: String(settings.names), reach: 0, unit_m }) : null;
  if (read && read.areas.length === 0) throw new Problem('no-areas', 'The outlines are no areas. Choose a layer that has areas.');
  const outlines = read?.areas ?? [{ rings: borderOf(first.tin), name: 'all' }];
  const rows = outlines.map((outline) => {
    const over = read ? outlineTin(outline.rings) : null;
    const v = volumesBetween(ground, against, over);
    return {
      outline,
      wanted: over ? areaOf(over) * unit_m ** 2 : 0,
      cut_m3: v.cut * unit_m ** 3,
      fill_m3: v.fill * unit_m ** 3,
      area_m2: v.area * unit_m ** 2,
      cutArea_m2: v.cutArea * unit_m ** 2,
      fillArea_m2: v.fillArea * unit_m ** 2,
    };
  });
  const sum = (of: (row: (typeof rows)[number]) => number): number => rows.reduce((n, row) => n + of(row), 0);
  // what lies beyond a surface has no volume: said, not passed over
  const short = rows.filter((r) => read && r.wanted - r.area_m2 > SHORT * r.wanted);
  return {
    records: () =>
      inBatches(name, rows, (builder, { outline, wanted: _wanted, ...figures }, n) => {
        for (const ring of outline.rings) {
          for (let k = 0; k < ring.length; k += 2) builder.vertex(ring[k]!, ring[k + 1]!, NaN);
          builder.endPart();
        }
        builder.set('name', outline.name);
        for (const [field, value] of Object.entries(figures)) builder.set(field, value);
        builder.set('net_m3', figures.cut_m3 - figures.fill_m3);
        builder.endFeature(POLYGON, 'Polygon', n + 1);
      }),
    figures: {
      outlines: rows.length,
      cut_m3: sum((r) => r.cut_m3),
      fill_m3: sum((r) => r.fill_m3),
      net_m3: sum((r) => r.cut_m3 - r.fill_m3),
      area_m2: sum((r) => r.area_m2),
      cutArea_m2: sum((r) => r.cutArea_m2),
      fillArea_m2: sum((r) => r.fillArea_m2),
    },
    faults: [
      ...short.map(({ outline, wanted, area_m2 }): Fault => ({
        kind: 'outline-beyond',
        at: [outline.rings[0]![0]!, outline.rings[0]![1]!],
        size: wanted - area_m2,
        about: outline.name,
      })),
      ...first.faults,
      ...(second?.faults ?? []),
    ],
    findings: [...first.findings, ...(second?.findings ?? []), ...(read?.findings ?? [])],
  };
}

/** A share of an outline that may lie beyond a surface by what numbers lose. */
const SHORT = 1e-9;

const areaOf = ({ xyz, triangles }: Tin): number => {
  let area = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [3 * triangles[t]!, 3 * triangles[t + 1]!, 3 * triangles[t + 2]!];
    area += ((xyz[b]! - xyz[a]!) * (xyz[c + 1]! - xyz[a + 1]!) - (xyz[b + 1]! - xyz[a + 1]!) * (xyz[c]! - xyz[a]!)) / 2;
  }
  return area;
};

/** The outlines of a surface as rings. */
function borderOf(tin: Tin): number[][] {
  const { xyz, triangles } = tin;
  const twins = twinsOf(tin);
  const from = new Map<number, number[]>();
  for (let s = 0; s < triangles.length; s++)
    if (twins[s] === -1) {
      const own = from.get(triangles[s]!);
      if (own) own.push(triangles[nextSide(s)]!);
      else from.set(triangles[s]!, [triangles[nextSide(s)]!]);
    }
  const rings: number[][] = [];
  for (const [start, ways] of from)
    while (ways.length > 0) {
      const ring: number[] = [];
      let n = start;
      do {
        ring.push(xyz[3 * n]!, xyz[3 * n + 1]!);
        n = from.get(n)!.pop()!;
      } while (n !== start);
      rings.push([...ring, ring[0]!, ring[1]!]);
    }
  return rings;
}

import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import {
  type AreaOfUse,
  type CompoundCrs,
  type EarthCrs,
  datumOf,
  type GeocentricCrs,
  type GeographicCrs,
  type ProjectedCrs,
  type VerticalCrs,
} from '@pontrel/core/crs/crs';
import { readDefinition } from '@pontrel/core/crs/definitions/read-definition';
import { gridShift } from '@pontrel/core/crs/datum/grid-shift';
import { shiftGrid } from '@pontrel/core/crs/datum/grid-registry';
import { atEpoch, type Helmert, helmertShift } from '@pontrel/core/crs/datum/helmert';
import { readNtv2, type ShiftGrid } from '@pontrel/core/crs/datum/ntv2';
import { invert } from '@pontrel/core/crs/datum/inverse';
import { transformByPart } from '@pontrel/core/crs/by-part';
import { OperationSet } from '@pontrel/core/crs/operation-set';
import { type DatumPath, datumPaths, nameOf } from '@pontrel/core/crs/operations';
import { type DatumOperation, datumOperations } from '@pontrel/core/crs/registry/datum-operations';
import { allCrs, isDeprecated, lookup, lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform, expanded } from '@pontrel/core/crs/transform';
import { registerReferenceGrids } from './grids';
import { python } from './python';

const METRES = 111_195;
const turn = (d: number): number => ((d + 540) % 360) - 180;
const apart = (a: readonly number[], b: readonly number[]): number =>
  Math.hypot(turn(a[0]! - b[0]!) * Math.cos((b[1]! * Math.PI) / 180), a[1]! - b[1]!) * METRES;
const widthOf = ({ west, east }: AreaOfUse): number => (east >= west ? east - west : east - west + 360);
const live = [...allCrs()].filter((c) => !isDeprecated(c.id!));
let shipped: string[] = [];
beforeAll(() => {
  shipped = registerReferenceGrids();
});

describe('geographic systems, against PROJ live', () => {
  it('each is on the figure, the meridian and in the unit that PROJ has: within 1 mm of its X, Y, Z, and back within 1e-9 degree', () => {
    const systems = live.filter((c): c is GeographicCrs => c.kind === 'geographic');
    const jobs = systems.map((crs) => {
      const { west, south, north } = crs.area!;
      return {
        crs: crs.id!,
        points: [
          [0.1, 0.2],
          [0.5, 0.5],
          [0.9, 0.8],
        ].map(([s, t]) => [
          (turn(west + s! * widthOf(crs.area!)) - crs.datum.primeMeridian) / crs.degreesPerUnit,
          (south + t! * (north - south)) / crs.degreesPerUnit,
        ]),
      };
    });
    const reference = python<([number, number, number][] | string)[]>('geocentric.py', jobs);
    const wrong: string[] = [];
    systems.forEach((crs, k) => {
      const answer = reference[k]!;
      if (typeof answer === 'string') return void wrong.push(`${crs.id}: ${answer}`);
      const to: GeocentricCrs = { kind: 'geocentric', id: null, name: 'X, Y, Z', area: null, datum: crs.datum };
      const way = compileTransform({ ...crs, dimension: 3 }, to);
      const back = way.inverse();
      jobs[k]!.points.forEach(([x, y], i) => {
        const p = Float64Array.of(x!, y!, 0);
        way.apply(p, 0, 1, 3);
        const off = Math.hypot(p[0]! - answer[i]![0], p[1]! - answer[i]![1], p[2]! - answer[i]![2]);
        if (!(off < 1e-3)) wrong.push(`${crs.id} ${crs.name}: ${off} m`);
        back.apply(p, 0, 1, 3);
        if (!(Math.max(Math.abs(turn(p[0]! - x!)), Math.abs(p[1]! - y!)) < 1e-9)) wrong.push(`${crs.id} comes back off`);
      });
    });
    console.log(`${systems.length} geographic systems, ${wrong.length} apart`);
    expect(wrong).toEqual([]);
  });
});

describe("registered datum operations, against PROJ's own Helmert step live", () => {
  it('all by three and seven parameters, about a point as well: within 0.1 mm, and back to a micrometre', () => {
    const jobs = [...datumOperations()].flatMap((o) => {
      if (o.content.kind !== 'helmert' || !o.area) return [];
      const [from, to] = [lookup(o.source), lookup(o.target)] as GeographicCrs[];
      const { west, south, north } = o.area;
      const points = [
        [0.1, 0.2],
        [0.5, 0.5],
        [0.9, 0.8],
      ].map(([s, t]): [number, number] => [turn(west + s! * widthOf(o.area!)), south + t! * (north - south)]);
      const [a, b] = [from!.datum.ellipsoid, to!.datum.ellipsoid];
      const ellipsoid = (e: typeof a): string => (e.invF === 0 ? `+a=${e.a} +b=${e.a}` : `+a=${e.a} +rf=${e.invF}`);
      const {
        helmert: { tx, ty, tz, rx, ry, rz, ds },
        pivot,
      } = o.content;
      const turns = rx || ry || rz || ds ? `+rx=${rx} +ry=${ry} +rz=${rz} +s=${ds} +convention=position_vector` : '';
      const about = pivot ? `+proj=molobadekas +px=${pivot[0]} +py=${pivot[1]} +pz=${pivot[2]}` : '+proj=helmert';
      const pipeline =
        `+proj=pipeline +step +proj=unitconvert +xy_in=deg +xy_out=rad +step +proj=cart ${ellipsoid(a)} ` +
        `+step ${about} +x=${tx} +y=${ty} +z=${tz} ${pivot && !turns ? '+convention=position_vector' : turns} +step +inv +proj=cart ${ellipsoid(b)} +step +proj=unitconvert +xy_in=rad +xy_out=deg`;
      return [{ o, step: { helmert: o.content.helmert, pivot, from: a, to: b, inverse: false, heights: false }, points, pipeline }];
    });
    const reference = python<[number, number][][]>(
      'shift.py',
      jobs.map(({ pipeline, points }) => ({ pipeline, points })),
    );
    const wrong: string[] = [];
    jobs.forEach(({ o, step, points }, k) => {
      const shift = helmertShift(step);
      const there = Float64Array.from(points.flat());
      shift(there, 0, points.length, 2);
      const back = Float64Array.from(there);
      invert(shift, false)(back, 0, points.length, 2);
      points.forEach((p, i) => {
        const off = apart([there[2 * i]!, there[2 * i + 1]!], reference[k]![i]!);
        if (!(off < 1e-4)) wrong.push(`${o.id} ${o.name}: ${off} m`);
        const round = apart([back[2 * i]!, back[2 * i + 1]!], p);
        if (!(round < 1e-6)) wrong.push(`${o.id} ${o.name}: comes back ${round} m off`);
      });
    });
    console.log(`${jobs.length} datum operations compared with PROJ, ${wrong.length} apart`);
    expect(wrong.slice(0, 20)).toEqual([]);
  });
});

describe('parameters that move with time, against PROJ live', () => {
  it('carry points at an epoch far from their own within 0.1 mm', () => {
    const moving = [...datumOperations()].filter(
      (o) => o.content.kind === 'helmert' && o.content.rates && lookup(o.source)?.kind !== undefined,
    );
    const epoch = 2031.5;
    const jobs = moving.map((o) => {
      const c = o.content as Extract<typeof o.content, { kind: 'helmert' }>;
      const { helmert: h, rates: r } = c as { helmert: Helmert; rates: Helmert };
      const [a, b] = [o.source, o.target].map((id) => (lookup(id) as GeographicCrs).datum.ellipsoid);
      const figure = (e: { a: number; invF: number }): string => `+a=${e.a} +rf=${e.invF}`;
      const pipeline =
        `+proj=pipeline +step +proj=unitconvert +xy_in=deg +xy_out=rad +step +proj=cart ${figure(a!)} +step +proj=helmert +x=${h.tx} +y=${h.ty} +z=${h.tz} +rx=${h.rx} +ry=${h.ry} +rz=${h.rz} +s=${h.ds} ` +
        `+dx=${r.tx} +dy=${r.ty} +dz=${r.tz} +drx=${r.rx} +dry=${r.ry} +drz=${r.rz} +ds=${r.ds} +t_epoch=${c.epoch} +convention=position_vector +step +inv +proj=cart ${figure(b!)} +step +proj=unitconvert +xy_in=rad +xy_out=deg`;
      return {
        o,
        c,
        a: a!,
        b: b!,
        pipeline,
        points: [
          [171.3, -44.2],
          [8.5, 47.1],
          [-100.2, 40.3],
        ] as [number, number][],
        epoch,
      };
    });
    const reference = python<[number, number][][]>(
      'shift.py',
      jobs.map(({ pipeline, points }) => ({ pipeline, points, epoch })),
    );
    const wrong: string[] = [];
    jobs.forEach(({ o, c, a, b, points }, k) => {
      const p = Float64Array.from(points.flat());
      helmertShift({
        helmert: atEpoch(c.helmert, c.rates!, epoch - c.epoch!),
        pivot: c.pivot,
        from: a,
        to: b,
        inverse: false,
        heights: false,
      })(p, 0, points.length, 2);
      points.forEach((_, i) => {
        const off = apart([p[2 * i]!, p[2 * i + 1]!], reference[k]![i]!);
        if (!(off < 1e-4)) wrong.push(`${o.id} ${o.name}: ${off} m`);
      });
    });
    console.log(`${jobs.length} operations with rates at ${epoch}, ${wrong.length} apart`);
    expect(jobs.length).toBeGreaterThan(50);
    expect(wrong.slice(0, 10)).toEqual([]);
  });
});

describe('grids, against PROJ live', () => {
  /** Seeded points within the bounds, but for a rim where the way back leaves the grid and PROJ stops at its first guess. */
  const RIM = 0.001;
  const pointsIn = ([west, south, east, north]: ShiftGrid['bounds'], count: number): [number, number][] =>
    fc.sample(
      fc.tuple(
        fc.double({ min: west + RIM, max: east - RIM, noNaN: true }),
        fc.double({ min: south + RIM, max: north - RIM, noNaN: true }),
      ),
      { numRuns: count, seed: 7 },
    );

  function compare(grid: ShiftGrid, file: string): number {
    const points = pointsIn(grid.bounds, 500);
    const pipeline = (way: string): string =>
      `+proj=pipeline +step +proj=unitconvert +xy_in=deg +xy_out=rad +step ${way} +proj=hgridshift +grids=${file} +step +proj=unitconvert +xy_in=rad +xy_out=deg`;
    const [there, back] = python<[number, number][][]>(
      'shift.py',
      ['', '+inv'].map((way) => ({ pipeline: pipeline(way), points })),
    );
    let worst = 0,
      held = 0;
    for (const [reference, inverse] of [
      [there!, false],
      [back!, true],
    ] as const) {
      const p = Float64Array.from(points.flat());
      gridShift(grid, inverse)(p, 0, points.length, 2);
      reference.forEach((r, i) => {
        if (!Number.isFinite(r[0]) || !Number.isFinite(p[2 * i])) return;
        held++;
        worst = Math.max(worst, apart([p[2 * i]!, p[2 * i + 1]!], r));
      });
    }
    expect(held).toBeGreaterThan(900);
    return worst;
  }

  it('every shipped one, both ways, is within 1 mm', () => {
    expect(shipped.length).toBe(3);
    for (const name of [...shipped, 'CHENYX06a.gsb']) {
      const worst = compare(shiftGrid(name), name);
      console.log(`${name}: ${worst} m at most`);
      expect(worst).toBeLessThan(1e-3);
    }
  });

  it('one with a part within another takes the finer part, as PROJ does; cut short it is refused', () => {
    const file = path.join(mkdtempSync(path.join(tmpdir(), 'grid-')), 'parts.gsb');
    expect(spawnSync('/usr/bin/python3', [fileURLToPath(new URL('grid_file.py', import.meta.url)), file]).status).toBe(0);
    const bytes = readFileSync(file);
    const grid = readNtv2(bytes, 'parts.gsb');
    expect(grid.parts).toBe(2);
    expect(compare(grid, file)).toBeLessThan(1e-3);
    expect(() => readNtv2(bytes.subarray(0, bytes.length - 1000), 'parts.gsb')).toThrow(
      /parts\.gsb cannot be used: it is cut short: part INNER needs/,
    );
    expect(() => readNtv2(bytes.subarray(0, 300), 'parts.gsb')).toThrow(/ends within the header/);
  });
});

describe('heights, against PROJ live', () => {
  /** A point of an area, and a little beside it. */
  const pointsIn = ({ west, south, east, north }: AreaOfUse): [number, number, number][] =>
    [0.4, 0.6].map((t): [number, number, number] => [
      turn(west + t * widthOf({ name: '', west, south, east, north })),
      south + t * (north - south),
      12.5,
    ]);

  it('constant changes between vertical systems, on a datum that both hold on', () => {
    const wgs84 = lookupCrs('EPSG:4326')!;
    const pairs = [...datumOperations()]
      .filter((o) => o.content.kind === 'vertical-offset' && o.method === 9616 && o.area)
      .map((o) => ({ o, from: lookup(o.source), to: lookup(o.target) }))
      .filter(
        (p): p is { o: DatumOperation; from: VerticalCrs; to: VerticalCrs } => p.from?.kind === 'vertical' && p.to?.kind === 'vertical',
      );
    const jobs = pairs.map(({ o }) => ({
      from: `EPSG:4326+${o.source.slice(5)}`,
      to: `EPSG:4326+${o.target.slice(5)}`,
      points: pointsIn(o.area!),
    }));
    const reference = python<([number, number, number][] | string)[]>('heights.py', jobs);
    let agree = 0;
    const wrong: string[] = [];
    pairs.forEach(({ o, from, to }, k) => {
      const compound = (vertical: VerticalCrs): CompoundCrs => ({
        kind: 'compound',
        id: null,
        name: vertical.name,
        area: null,
        horizontal: wgs84,
        vertical,
      });
      const way = compileTransform(compound(from), compound(to));
      const p = Float64Array.from(jobs[k]!.points.flat());
      way.apply(p, 0, 2, 3);
      const theirs = reference[k]!;
      if (typeof theirs !== 'string' && theirs.every((q, i) => Math.abs(q[2] - p[3 * i + 2]!) < 1e-3)) agree++;
      else wrong.push(`${o.id} ${o.name}: ${typeof theirs === 'string' ? theirs : theirs.map((q) => q[2])} here ${p[2]}`);
    });
    console.log(`${pairs.length} constant changes of heights, ${agree} as PROJ has them; otherwise: ${wrong.join('; ')}`);
    expect(wrong).toEqual([]);
  });

  it('ellipsoidal heights to those of a geoid grid that is at hand, and a note where none is', () => {
    const [from, to] = [lookup('EPSG:4979')!, lookup('EPSG:9707')!];
    const points: [number, number, number][] = [
      [171.3, -44.2, 30],
      [2.3, 48.9, 100],
      [-120.1, 35.4, 0],
      [179.9, 10.1, -5],
    ];
    const [theirs] = python<[number, number, number][][]>('heights.py', [{ from: 'EPSG:4979', to: 'EPSG:9707', points }]);
    const way = compileTransform(from, to);
    const p = Float64Array.from(points.flat());
    way.apply(p, 0, points.length, 3);
    theirs!.forEach((q, i) => expect(Math.abs(p[3 * i + 2]! - q[2])).toBeLessThan(1e-3));
    way.inverse().apply(p, 0, points.length, 3);
    points.forEach((q, i) => expect(p[3 * i + 2]).toBeCloseTo(q[2], 6));
    expect(way.heightNote).toBeNull();
    expect(compileTransform(lookup('EPSG:4959')!, lookup('EPSG:9527') ?? readDefinition('EPSG:4167+7839')).heightNote).toMatch(
      /Heights are passed on as they are: the geoid grid .* is not at hand/,
    );
  });
});

/** Systems with which PROJ 9.1 goes another way, and why; by the id of either system of a pair. */
const OTHERWISE: Record<string, string> = {
  'EPSG:4149': 'the grid is CHENYx06_ETRS.gsb in the registry and CHENYX06_etrs.gsb on disk: found here, not by PROJ',
  'EPSG:4801': 'the same',
  'EPSG:5515': 'Krovak Modified, which PROJ 9.1 does not have',
  'EPSG:9311': 'the spherical azimuthal, which PROJ 9.1 takes on the ellipsoid',
  'EPSG:3995': 'PROJ compares with rectangles in the plane of the source, which say little around a pole',
};

const NO_CHOICE = 'PROJ takes the numbers over, where there is an operation';

/** A pair of systems with positions to be carried from one into the other. */
interface Pair {
  from: EarthCrs;
  to: EarthCrs;
  /** Longitude and latitude, degrees, on the datum of the first. */
  at: [number, number][];
}

/** What PROJ and we do with one position. */
interface Compared {
  line: string;
  /** PROJ names the same operations, or comes out within a centimetre. */
  same: boolean;
  reason: string | null;
  off_m: number;
}

/** The operations that PROJ names, without the conversions at either end. */
function operationsIn(name: string, { from, to }: Pair): string {
  const steps = name.split(' + ').filter((s) => !/axis order change|^Conversion from|Null geographic/.test(s));
  return steps.slice(from.kind === 'projected' ? 1 : 0, to.kind === 'projected' ? -1 : undefined).join(' + ');
}

function numbersOf(crs: EarthCrs, [lon, lat]: readonly [number, number]): [number, number] {
  const base = crs.kind === 'projected' ? crs.base : crs;
  const p = Float64Array.of((lon - datumOf(crs).primeMeridian) / base.degreesPerUnit, lat / base.degreesPerUnit);
  if (crs.kind === 'projected') compileTransform(crs.base, crs).apply(p, 0, 1, 2);
  return [p[0]!, p[1]!];
}

/** PROJ compares with the rectangle around an area in the plane of the source, which is larger than the area itself. */
function insideArea(path: DatumPath, [lon, lat]: readonly [number, number], degrees: number): boolean {
  return (path.area ?? []).some(([w, s, e, n]) => lon > w + degrees && lon < e - degrees && lat > s + degrees && lat < n - degrees);
}

/** Carries every position by PROJ, which is not told where it lies, and by the operation that we choose for it. */
function comparedWithProj(pairs: readonly Pair[]): Compared[] {
  const jobs = pairs.map((pair) => ({ from: pair.from.id!, to: pair.to.id!, points: pair.at.map((at) => numbersOf(pair.from, at)) }));
  const answers = python<({ name: string; accuracy: number; point: [number, number] | null } | string)[][]>('run_time.py', jobs);
  return pairs.flatMap((pair, k) => {
    const { from, to, at } = pair;
    const operations = new OperationSet(from, to);
    const paths = operations.paths.filter((p) => p.missing.length === 0);
    return at.flatMap((position, i): Compared[] => {
      const theirs = answers[k]![i]!;
      // some systems hold no positions for PROJ, such as the grid of all UTM zones, and some have none here
      if (typeof theirs === 'string' || !theirs.point) return [];
      const path = operations.at(position);
      const point = Float64Array.from(jobs[k]!.points[i]!);
      compileTransform(from, to, { path, acceptBallpark: true }).apply(point, 0, 1, 2);
      const off_m =
        to.kind === 'projected'
          ? Math.hypot(point[0]! - theirs.point[0], point[1]! - theirs.point[1]) * to.unit.metres
          : apart(
              [point[0]! * to.degreesPerUnit, point[1]! * to.degreesPerUnit],
              [theirs.point[0] * to.degreesPerUnit, theirs.point[1] * to.degreesPerUnit],
            );
      const ours = path.steps
        .flatMap(expanded)
        .map((s) => `${s.inverse ? 'Inverse of ' : ''}${s.operation.name}`)
        .join(' + ');
      const better = theirs.accuracy >= 0 && path.accuracy_m !== null && theirs.accuracy < path.accuracy_m;
      const reason =
        OTHERWISE[from.id!] ??
        OTHERWISE[to.id!] ??
        (/Ballpark/.test(theirs.name) && !path.ballpark
          ? NO_CHOICE
          : better && !paths.some((p) => p.accuracy_m === theirs.accuracy && insideArea(p, position, 0))
            ? 'it lies outside the area of what PROJ takes'
            : theirs.accuracy === path.accuracy_m
              ? 'equally accurate'
              : null);
      const same = off_m < 0.01 || (path.ballpark ? /Ballpark/.test(theirs.name) : operationsIn(theirs.name, pair) === ours);
      const line = `${from.id} ${to.id} at ${position.map((v) => v.toFixed(2)).join(' ')}: PROJ ${theirs.name} (${theirs.accuracy}); here ${nameOf(path)} (${path.accuracy_m}), ${off_m.toFixed(3)} m apart`;
      return [{ line, same, reason, off_m }];
    });
  });
}

/** Where PROJ takes another operation; where it takes none, there is nothing to compare with. */
const chosenOtherwise = (all: readonly Compared[]): Compared[] => all.filter((c) => c.reason !== NO_CHOICE);

const listed = (all: readonly Compared[]): string => all.map((c) => `\n  ${c.line}; ${c.reason ?? 'UNEXPECTED'}`).join('');

describe('the choice of an operation, against PROJ live at run time', () => {
  it('from each geographic system into those of its continent, and from each fifteenth projected one: the same, or another for a reason', () => {
    const middle = (area: AreaOfUse): [number, number] => [turn(area.west + widthOf(area) / 2), (area.south + area.north) / 2];
    const targets = ['EPSG:4326', 'EPSG:4258', 'EPSG:4269', 'EPSG:4167', 'EPSG:7844'].map((id) => lookupCrs(id)!);
    const pairs: Pair[] = [];
    for (const from of live) {
      if (from.kind !== 'geographic' || !from.area) continue;
      for (const to of targets)
        if (from.id !== to.id && (to.id === 'EPSG:4326' || touch(from.area, to.area!))) pairs.push({ from, to, at: [middle(from.area)] });
    }
    const web = lookupCrs('EPSG:3857')!;
    live
      .filter((c): c is ProjectedCrs => c.kind === 'projected' && c.area !== null && datumOf(c).id !== 'EPSG:6326')
      .forEach((from, k) => {
        if (k % 15 === 0) pairs.push({ from, to: web, at: [middle(from.area!)] });
      });
    const compared = comparedWithProj(pairs.filter((p) => numbersOf(p.from, p.at[0]!).every(Number.isFinite)));
    const others = compared.filter((c) => !c.same);
    console.log(`${compared.length} pairs, ${others.length} otherwise:${listed(others)}`);
    expect(others.filter((c) => c.reason === null).map((c) => c.line)).toEqual([]);
    expect(compared.length).toBeGreaterThan(1000);
    expect(chosenOtherwise(others).length).toBeLessThan(compared.length / 100);
  });

  it('for a thousand random pairs with several regional operations, at positions in the areas of these: the same for 99 of 100', () => {
    const usable = live.filter((c): c is EarthCrs => (c.kind === 'geographic' || c.kind === 'projected') && c.area !== null);
    const anyTwo = fc.sample(fc.tuple(fc.constantFrom(...usable), fc.constantFrom(...usable)), { numRuns: 300_000, seed: 11 });
    const pairs = new Map<string, Pair>();
    for (const [from, to] of anyTwo) {
      if (pairs.size >= 1000) break;
      if (!touch(from.area!, to.area!) || datumOf(from).id === datumOf(to).id) continue;
      const paths = datumPaths(from, to).filter((p) => p.missing.length === 0);
      if (new Set(paths.map((p) => JSON.stringify(p.area))).size < 2) continue;
      const [west, south, east, north] = [
        Math.max(from.area!.west, to.area!.west),
        Math.max(from.area!.south, to.area!.south),
        Math.min(from.area!.east, to.area!.east),
        Math.min(from.area!.north, to.area!.north),
      ];
      const at = [
        [0.5, 0.5],
        [0.2, 0.3],
        [0.8, 0.7],
        [0.3, 0.9],
      ]
        .map(([u, v]): [number, number] => [west + u! * (east - west), south + v! * (north - south)])
        .filter((p) => paths.some((path) => insideArea(path, p, 0)) && numbersOf(from, p).every(Number.isFinite));
      if (at.length > 0) pairs.set(`${from.id} ${to.id}`, { from, to, at });
    }
    const compared = comparedWithProj([...pairs.values()]);
    const others = compared.filter((c) => !c.same);
    console.log(`${pairs.size} pairs, ${compared.length} positions, ${others.length} otherwise:${listed(others)}`);
    expect(pairs.size).toBe(1000);
    expect(chosenOtherwise(others).length).toBeLessThan(compared.length / 100);
    expect(others.filter((c) => c.reason === null).map((c) => c.line)).toEqual([]);
  });

  it('where no direct operation can be used there is one through a common datum, named with the grid that would do better, before any ballpark', () => {
    const [nad83, csrs] = [lookupCrs('EPSG:4269')!, lookupCrs('EPSG:2951')!];
    const operations = new OperationSet(nad83, csrs);
    const path = operations.at([-76.5, 46]);
    expect([nameOf(path), path.accuracy_m]).toEqual(['NAD83 to WGS 84 (1) + Inverse of NAD83(CSRS) to WGS 84 (2)', 5]);
    const better = operations.betterWithGrid(path, { name: '', west: -76.6, south: 46, east: -76.4, north: 46.1 })!;
    expect([better.missing, better.accuracy_m]).toEqual([['NA83SCRS.GSB'], 2.5]);
  });

  it('data that spans several areas takes the operation for all of it, or each position its own, there and back', () => {
    const [accra, wgs84] = [lookupCrs('EPSG:4168')!, lookupCrs('EPSG:4326')!];
    const operations = new OperationSet(accra, wgs84);
    const [town, coast] = [
      { name: '', west: -1.6, south: 6.4, east: -1.4, north: 6.6 },
      { name: '', west: -1.6, south: 3, east: -1.4, north: 6.6 },
    ];
    expect(nameOf(operations.forArea(town))).toBe('Accra to WGS 84 (4)');
    const common = operations.forArea(coast);
    expect(nameOf(common)).toBe('Accra to WGS 84 (1)');
    expect(operations.betterParts(common, coast).map((p) => nameOf(p.path))).toEqual(['Accra to WGS 84 (4)']);
    expect(operations.betterParts(operations.forArea(town), town)).toEqual([]);
    const positions = fc.sample(fc.tuple(fc.double({ min: -3, max: 1, noNaN: true }), fc.double({ min: 1.5, max: 11, noNaN: true })), {
      numRuns: 200,
      seed: 3,
    });
    const byPart = transformByPart(accra, wgs84);
    const points = Float64Array.from(positions.flat());
    byPart.apply(points, 0, positions.length, 2);
    const [theirs] = python<{ point: [number, number] }[][]>('run_time.py', [{ from: accra.id, to: wgs84.id, points: positions }]);
    const off = positions.map((_, i) => apart([points[2 * i]!, points[2 * i + 1]!], theirs![i]!.point));
    expect(Math.max(...off)).toBeLessThan(1e-3);
    byPart.inverse().apply(points, 0, positions.length, 2);
    const round = positions.map((p, i) => apart([points[2 * i]!, points[2 * i + 1]!], p));
    expect(Math.max(...round)).toBeLessThan(1e-5);
  });
});

const touch = (a: AreaOfUse, b: AreaOfUse): boolean => a.south < b.north && a.north > b.south && a.west < b.east && a.east > b.west;

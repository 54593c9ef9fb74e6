import Database from 'better-sqlite3';
import { writeFileSync } from 'node:fs';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { followed, loopsOf, type Network, partsOfNetwork, planLength, runBetween } from '@pontrel/core/content/networks/network';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

describe('a network', () => {
  /** Structures on a line, pipes between them as pairs. */
  const networkOf = (count: number, pairs: readonly (readonly [number, number])[]): Network => ({
    structures: Array.from({ length: count }, (_, k) => ({ id: `S${k}`, x: k, y: k * k, kind: null, rim: null, sump: null })),
    pipes: pairs.map(([from, to], k) => ({
      id: `P${k}`,
      line: Float64Array.of(from, from * from, to, to * to),
      from,
      to,
      start: null,
      end: null,
      diameter: null,
      material: null,
    })),
  });

  it('is followed to all that can be reached, in parts and loops as a table of what leads where has them', () => {
    fc.assert(
      fc.property(
        fc
          .integer({ min: 2, max: 12 })
          .chain((n) => fc.tuple(fc.constant(n), fc.array(fc.tuple(fc.nat(n - 1), fc.nat(n - 1)), { maxLength: 20 }))),
        ([count, pairs]) => {
          const network = networkOf(count, pairs);
          // Warshall, "A theorem on Boolean matrices", 1962
          const closure = (both: boolean): boolean[][] => {
            const leads = Array.from({ length: count }, (_, a) =>
              Array.from({ length: count }, (_, b) => pairs.some(([f, t]) => (f === a && t === b) || (both && f === b && t === a))),
            );
            for (let k = 0; k < count; k++)
              for (let a = 0; a < count; a++) for (let b = 0; b < count; b++) leads[a]![b] ||= leads[a]![k]! && leads[k]![b]!;
            return leads;
          };
          const [leads, joined] = [closure(false), closure(true)];
          for (let a = 0; a < count; a++) {
            const down = new Set(followed(network, a, 'downstream'));
            const up = new Set(followed(network, a, 'upstream'));
            pairs.forEach(([f, t], k) => {
              expect(down.has(k)).toBe(f === a || leads[a]![f]!);
              expect(up.has(k)).toBe(t === a || leads[t]![a]!);
            });
          }
          const parts = partsOfNetwork(network);
          for (let a = 0; a < count; a++)
            for (let b = 0; b < count; b++) if (a !== b) expect(parts.of[a] === parts.of[b]).toBe(joined[a]![b]);
          const inLoop = new Set(loopsOf(network).flat());
          pairs.forEach(([f, t], k) => expect(inLoop.has(k)).toBe(f === t || leads[t]![f]!));
          for (let a = 0; a < count; a++)
            for (let b = 0; b < count; b++) {
              const run = runBetween(network, a, b);
              expect(run !== null).toBe(a === b || leads[a]![b]!);
              run?.forEach((k, n) => expect(pairs[k]![0]).toBe(n === 0 ? a : pairs[run[n - 1]!]![1]));
              const lengthOf = (of: readonly number[]): number => of.reduce((sum, k) => sum + planLength(network.pipes[k]!), 0);
              // no pipe makes it shorter
              for (const [k, [f, t]] of pairs.entries()) {
                const to = runBetween(network, a, f);
                if (run && to && t === b) expect(lengthOf(run)).toBeLessThanOrEqual(lengthOf([...to, k]) + 1e-9);
              }
            }
        },
      ),
      { numRuns: 200, seed: 20261201 },
    );
  });
});

describe('a sewer from a drawing, on the command line', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const plan = `${folder}/sewer.dxf`;
  beforeAll(() => void python('make_network.py', plan));
  const derived = (output: string, ...more: string[]): ReturnType<typeof pontrel> =>
    pontrel('derive', 'network', plan, `${folder}/${output}`, '--from', 'EPSG:2193', ...more);
  const rows = (file: string, table: string): Record<string, unknown>[] => {
    const db = new Database(`${folder}/${file}`, { readonly: true });
    const found = db.prepare<[], Record<string, unknown>>(`SELECT * FROM "${table}"`).all();
    db.close();
    return found;
  };

  it('is tied together, and what does not hold is told with its size and its pipes', () => {
    const { status, json, stderr } = derived('sewer.gpkg', '--set', 'tolerance=50mm');
    expect([status, stderr]).toEqual([0, '']);
    expect(json.proof).toMatchObject({ status: 'match', records: { in: 19, out: 19 } });
    expect(json.derived).toMatchObject({ structures: 9, pipes: 10, loops: 0, largestMove_m: expect.closeTo(0.032, 6) });
    const told = new Map<string, [number | null, string][]>();
    for (const f of json.derived.faults as { kind: string; size: number | null; about: string }[])
      told.set(f.kind, [...(told.get(f.kind) ?? []), [f.size === null ? null : Number(f.size.toFixed(6)), f.about]]);
    const SEWER = (k: number): string => pipes[k]!.id as string;
    const pipes = rows('sewer.gpkg', 'sewer-pipes');
    expect(told.get('end-moved')).toEqual([[0.032, `${SEWER(1)} to MH2`]]);
    expect(told.get('against-slope')).toEqual(expect.arrayContaining([[0.093, SEWER(2)]]));
    expect(told.get('no-slope')).toEqual([[0, SEWER(3)]]);
    expect(told.get('pipe-twice')).toEqual([[null, `${SEWER(4)} and ${SEWER(5)}`]]);
    expect(told.get('above-rim')).toEqual([[2.8, `${SEWER(6)} at MH6`]]);
    expect(told.get('structure-twice')).toEqual([[0.021, 'MH1 and MH8']]);
    expect(told.get('structure-alone')?.map((f) => f[1])).toEqual(expect.arrayContaining(['MH7', 'MH8']));
    expect(told.get('pipes-cross')).toEqual([[null, `${SEWER(2)} and ${SEWER(7)}`]]);
    expect(told.get('structure-missing')).toEqual([[null, `${SEWER(7)}, ${SEWER(8)}`]]);
    expect(told.get('end-open')?.length).toBe(4);
    expect(told.get('structure-passed')).toEqual([[null, `MH7 by ${SEWER(9)}`]]);
    // nobody named texts: diameters are not known, and none is missed
    expect(told.get('no-diameter')).toBeUndefined();
    const sized = derived('sized.gpkg', '--set', 'texts=PIPE-TEXT').json;
    expect(rows('sized.gpkg', 'sized-pipes').map((p) => p.diameter)).toEqual([225, null, 300, ...Array<null>(7).fill(null)]);
    expect((sized.derived.faults as { kind: string }[]).filter((f) => f.kind === 'no-diameter').length).toBe(8);
    // what came of the pipes: ids that lead to structures, lengths and slopes
    const ids = rows('sewer.gpkg', 'sewer-structures').map((s) => s.id);
    expect(pipes.filter((p) => p.from_id !== null).every((p) => ids.includes(p.from_id as string))).toBe(true);
    expect(pipes[0]).toMatchObject({ from_id: 'MH0', to_id: 'MH1', inv_start: 8, inv_end: 7.5, length_m: 50, slope_pct: 1 });
    expect(pipes[0]!.len3d_m).toBeCloseTo(Math.hypot(50, 0.5), 6);
    expect(pipes[7]).toMatchObject({
      from_id: null,
      to_id: null,
      inv_start: null,
      slope_pct: null,
      length_m: expect.closeTo(Math.hypot(50, 80), 6),
    });
    expect(rows('sewer.gpkg', 'sewer-structures')[3]).toMatchObject({ id: 'MH3', rim: 9.1, sump: 6.5, depth: expect.closeTo(2.6, 9) });
  });

  it('gets the structures that are missing where that is wanted, and holds together in a shapefile', () => {
    const { json } = derived('made', '--format', 'shapefile', '--set', 'missing=make');
    expect(json.proof.status).toBe('match');
    expect(json.derived).toMatchObject({ structures: 10, pipes: 10 });
    const files = (json.outputs as { path: string }[]).map((o) => o.path);
    const read = python<{ count: number; records: { values: Record<string, unknown> }[] }[]>('read_shapefiles.py', { files });
    const of = (field: string): Record<string, unknown>[] => read.flatMap((r) => r.records.map((x) => x.values)).filter((r) => field in r);
    const pipes = of('from_id');
    const ids = new Set(of('rim').map((r) => r.id));
    expect(pipes.length).toBe(10);
    for (const pipe of pipes) for (const end of ['from_id', 'to_id']) if (pipe[end]) expect(ids.has(pipe[end])).toBe(true);
  });

  it('says what is no network, and compares what records say with what they meet', () => {
    expect(derived('x.gpkg', '--layer', 'MANHOLE')).toMatchObject({ status: 1, json: { error: { code: 'role-empty' } } });
    const again = pontrel('derive', 'network', `${folder}/sewer.gpkg`, `${folder}/again.gpkg`);
    expect(again.json.proof.status).toBe('match');
    // what was tied once is tied now
    const kinds = (again.json.derived.faults as { kind: string }[]).map((f) => f.kind);
    expect(kinds).not.toContain('end-moved');
    expect(kinds).not.toContain('reference-differs');
    expect(again.json.derived.length_m).toBeCloseTo(derived('same.gpkg').json.derived.length_m, 6);
  });

  it('is drawn from the side over the ground, station by station, in a plane of its own', () => {
    // 30 m east with a bend, then 40 m north; a ground that rises 1 in 20 to the east and 1 in 50 to the north
    const [e, n] = [1_464_000, 5_101_500];
    const line = (id: string, from: string, to: string, at: number[][], start: number, end: number) =>
      JSON.stringify({
        type: 'Feature',
        geometry: { type: 'LineString', coordinates: at.map(([x, y]) => [e + x!, n + y!]) },
        properties: { id, from_id: from, to_id: to, inv_start: start, inv_end: end, diameter: 300 },
      });
    const point = (id: string, x: number, y: number, rim: number) =>
      JSON.stringify({ type: 'Feature', geometry: { type: 'Point', coordinates: [e + x, n + y] }, properties: { id, rim } });
    const features = (name: string, ...of: string[]): string => {
      const crs = '{"type":"name","properties":{"name":"urn:ogc:def:crs:EPSG::2193"}}';
      writeFileSync(`${folder}/${name}`, `{"type":"FeatureCollection","crs":${crs},"features":[${of.join(',')}]}`);
      return `${folder}/${name}`;
    };
    const pipes = features(
      'run-pipes.geojson',
      line(
        'P1',
        'A',
        'B',
        [
          [0, 0],
          [0, 18],
          [24, 18],
        ],
        8,
        7.58,
      ),
      line(
        'P2',
        'B',
        'C',
        [
          [24, 18],
          [24, 58],
        ],
        7.6,
        7.8,
      ),
    );
    const structures = features('run-structures.geojson', point('A', 0, 0, 10), point('B', 24, 18, 11.6), point('C', 24, 58, 12.4));
    const corners = [-5, 70].flatMap((x) => [-5, 70].map((y) => [e + x, n + y, 10 + x / 20 + y / 50].join(',')));
    writeFileSync(`${folder}/run-ground.csv`, ['x,y,z', ...corners].join('\n'));
    const words = [
      'derive',
      'profile',
      pipes,
      structures,
      `${folder}/run.dxf`,
      '--from',
      'EPSG:2193',
      '--set',
      `surface=${folder}/run-ground.csv`,
    ];
    const { json, stderr } = pontrel(...words, '--set', 'from=A', '--set', 'times=10', '--set', 'scale=200');
    expect([stderr, json.error, json.proof?.status]).toEqual(['', undefined, 'match']);
    // least cover: at B, ground 11.56, invert 7.6, pipe 0.3; and at A 10 - 8 - 0.3
    expect(json.derived).toMatchObject({
      pipes: 2,
      structures: 3,
      length_m: expect.closeTo(82, 6),
      leastCover_m: expect.closeTo(1.7, 6),
      outside: 0,
    });
    const told = python<{
      objects: { type: string; layer: string; vertices: number[][]; text: string | null }[];
      units: number;
      errors: number;
    }>('drawing_facts.py', {
      file: `${folder}/run.dxf`,
    });
    expect([told.errors, told.units]).toEqual([0, 6]);
    const datum = 6;
    const [ground] = told.objects.filter((o) => o.layer === 'run-ground');
    for (const [x, y] of ground!.vertices) {
      // along the run: north for 18 m, east for 24, north again
      const [east, north] = x! <= 18 ? [0, x!] : x! <= 42 ? [x! - 18, 18] : [24, x! - 24];
      expect(y! / 10 + datum).toBeCloseTo(10 + east / 20 + north / 50, 6);
    }
    expect([ground!.vertices[0]![0], ground!.vertices.at(-1)![0]]).toEqual([0, expect.closeTo(82, 6)]);
    const texts = told.objects.filter((o) => o.text !== null).map((o) => o.text);
    for (const text of [
      'A',
      'B',
      'C',
      'DN 300 L 42.00',
      'DN 300 L 40.00',
      '1.00 %',
      '-0.50 %',
      '7.580',
      '11.560',
      '11.600',
      '82.00',
      'Datum 6.0 m',
    ])
      expect(texts).toContain(text);
    const [first] = told.objects.filter((o) => o.layer === 'run-pipes');
    expect(first!.vertices).toEqual([
      [0, 20],
      [42, expect.closeTo(15.8, 6)],
      [42, expect.closeTo(18.8, 6)],
      [0, 23],
    ]);
    for (const [said, code] of [
      [['--set', 'from=Z'], 'no-structure'],
      [['--set', 'from=A', '--set', 'way=upstream'], 'no-run'],
      [['--set', 'from=B', '--set', 'to=A'], 'no-run'],
    ] as const)
      expect(pontrel(...words, ...said).json.error.code).toBe(code);
    // it lies nowhere on earth
    expect(pontrel(...words.slice(0, 4), `${folder}/run.kml`, ...words.slice(5), '--set', 'from=A').status).toBe(1);
  });
});

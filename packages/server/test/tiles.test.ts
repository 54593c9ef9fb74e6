import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import fc from 'fast-check';
import { createCanvas } from '@napi-rs/canvas';
import MVT from 'ol/format/MVT';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { MAX_ZOOM, resolutionAt, TILE_PIXELS, tileBounds } from '@pontrel/contract/tile-grid';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform } from '@pontrel/core/crs/transform';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { LINE, POINT, POLYGON, TEXT } from '@pontrel/core/model/batch';
import { Profiler } from '@pontrel/core/content/features/profile';
import { FeatureStore, FeatureStoreWriter } from '../../host-node/src/store/feature-store';
import { randomOf } from '../../../tests/faults/random';
import { cutTile, type TileSource } from '../src/tiles/cut-tile';
import { encodeTile, MVT_LINE, MVT_POINT, MVT_POLYGON, type TileFeature } from '../src/tiles/mvt';
import { nearestVertex } from '../src/tiles/nearest-vertex';
import { thumbnail } from '../src/tiles/thumbnail';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'pontrel-tiles-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

interface Decoded {
  id: number;
  type: string;
  flat: number[];
  properties: Record<string, unknown>;
}

/** Reads a tile with OpenLayers' own decoder. */
function decode(bytes: Uint8Array): Decoded[] {
  if (bytes.length === 0) return [];
  return new MVT({ layerName: 'tileLayer' }).readFeatures(Uint8Array.from(bytes).buffer).map((f) => ({
    id: Number(f.getId()),
    type: String(f.getType()),
    flat: (f as unknown as { getFlatCoordinates(): number[] }).getFlatCoordinates(),
    properties: f.getProperties() as unknown as Record<string, unknown>,
  }));
}

/** The quay of Port Averil, in NZTM. */
const E = 1_464_000,
  N = 5_101_500;

function store(build: (b: BatchBuilder) => void, layer = 'QUAY'): TileSource {
  const file = path.join(folder, `${Math.random()}.sqlite`);
  const writer = new FeatureStoreWriter(file);
  const builder = new BatchBuilder(layer);
  build(builder);
  writer.add(builder.take());
  writer.close();
  return { file, name: 'quay.dxf', extent: null, placement: { crs: 'EPSG:2193', unit_m: 1 } };
}

function tileAt(z: number, x: number, y: number): { z: number; x: number; y: number } {
  const size = TILE_PIXELS * resolutionAt(z, 1);
  return { z, x: Math.floor(x / size), y: Math.floor(-y / size) };
}

describe('the tile grid', () => {
  it('halves with each zoom, and every place lies in one tile', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: MAX_ZOOM }),
        fc.integer({ min: -5e6, max: 5e6 }),
        fc.integer({ min: -5e6, max: 1e7 }),
        (z, x, y) => {
          const tile = tileAt(z, x, y);
          const [minx, miny, maxx, maxy] = tileBounds(tile.z, tile.x, tile.y, 1);
          expect(x >= minx && x <= maxx && y >= miny && y <= maxy).toBe(true);
          expect(maxx - minx).toBeCloseTo(TILE_PIXELS * resolutionAt(z, 1), 6);
          expect(resolutionAt(z, 1)).toBe(2 * resolutionAt(z + 1, 1));
        },
      ),
    );
  });
});

describe('encoding a tile', () => {
  it('is read back by another decoder as it was', () => {
    const position = fc.tuple(fc.integer({ min: -200, max: 4300 }), fc.integer({ min: -200, max: 4300 }));
    const feature = fc.record({
      id: fc.integer({ min: 1, max: 1e9 }),
      line: fc.uniqueArray(position, { minLength: 2, maxLength: 9, selector: (p) => p.join() }),
      properties: fc.dictionary(
        fc.constantFrom('layer', 'color', 'size'),
        fc.oneof(fc.string(), fc.double({ noNaN: true, noDefaultInfinity: true })),
      ),
    });
    fc.assert(
      fc.property(fc.uniqueArray(feature, { minLength: 1, maxLength: 8, selector: (f) => f.id }), (features) => {
        const given = features.map((f): TileFeature => ({ id: f.id, type: MVT_LINE, parts: [f.line.flat()], properties: f.properties }));
        const back = decode(encodeTile('records', given));
        expect(back.map((f) => f.id)).toEqual(given.map((f) => f.id));
        back.forEach((f, i) => {
          expect(f.flat).toEqual(given[i]!.parts[0]);
          expect(f.properties).toMatchObject(given[i]!.properties);
        });
      }),
      { numRuns: 60 },
    );
  });

  it('knows points and rings', () => {
    const back = decode(
      encodeTile('records', [
        { id: 1, type: MVT_POINT, parts: [[5, 6]], properties: { kind: 'point' } },
        { id: 2, type: MVT_POLYGON, parts: [[0, 0, 100, 0, 100, 100]], properties: {} },
      ]),
    );
    expect(back.map((f) => [f.type, f.flat])).toEqual([
      ['Point', [5, 6]],
      ['Polygon', [0, 0, 100, 0, 100, 100, 0, 0]],
    ]);
  });
});

describe('cutting a tile', () => {
  it('cuts curves into chords fine enough for the pixel, whatever the zoom', () => {
    const source = store((b) => {
      b.vertex(E - 40, N, 0, 1);
      b.vertex(E + 40, N, 0, 1);
      b.vertex(E - 40, N, 0);
      b.endPart();
      b.endFeature(POLYGON, 'CIRCLE', 1);
    });
    for (const z of [12, 14, 16]) {
      const tile = tileAt(z, E, N);
      const [minx, , , maxy] = tileBounds(tile.z, tile.x, tile.y, 1);
      const unit = resolutionAt(z, 1) / 8;
      const [circle] = decode(cutTile({ sources: [source], frame: 'EPSG:2193', ...tile }));
      const { flat } = circle!;
      for (let i = 0; i + 3 < flat.length; i += 2) {
        const x = minx + ((flat[i]! + flat[i + 2]!) / 2) * unit,
          y = maxy - ((flat[i + 1]! + flat[i + 3]!) / 2) * unit;
        const d = Math.hypot(x - E, y - N);
        // chords of what is inside; the edges of the tile's own box are left out
        const [bx0, by0, bx1, by1] = tileBounds(tile.z, tile.x, tile.y, 1);
        const margin = 8 * resolutionAt(z, 1);
        const onEdge =
          Math.min(Math.abs(x - bx0 + margin), Math.abs(x - bx1 - margin), Math.abs(y - by0 + margin), Math.abs(y - by1 - margin)) <
          resolutionAt(z, 1);
        if (!onEdge && d > 20) expect(Math.abs(d - 40)).toBeLessThan(resolutionAt(z, 1));
      }
    }
  });

  it('thins what is smaller than a pixel, but not across layers', () => {
    const many = (b: BatchBuilder): void => {
      for (let i = 0; i < 2000; i++) {
        b.vertex(E + (i % 50) * 0.1, N + Math.floor(i / 50) * 0.1, 0);
        b.endPart();
        b.endFeature(POINT, 'POINT', i + 1);
      }
    };
    const a = store(many, 'A');
    const far = tileAt(11, E, N); // 4 m a pixel: all of them lie in a few pixels
    const seen = decode(cutTile({ sources: [a], frame: 'EPSG:2193', ...far }));
    expect(seen.length).toBeGreaterThan(0);
    expect(seen.length).toBeLessThan(12);
    const both = decode(cutTile({ sources: [a, store(many, 'B')], frame: 'EPSG:2193', ...far }));
    expect(new Set(both.map((f) => f.properties.layer))).toEqual(new Set(['A', 'B']));
    const near = tileAt(20, E, N);
    const close = decode(cutTile({ sources: [a], frame: 'EPSG:2193', ...near }));
    const [minx, miny, maxx, maxy] = tileBounds(near.z, near.x, near.y, 1);
    const margin = 8 * resolutionAt(near.z, 1);
    let inside = 0;
    for (let i = 0; i < 2000; i++) {
      const x = E + (i % 50) * 0.1,
        y = N + Math.floor(i / 50) * 0.1;
      if (x >= minx - margin && x <= maxx + margin && y >= miny - margin && y <= maxy + margin) inside++;
    }
    expect(close.length).toBe(inside);
  });

  it('stays small where a whole county of lines falls into one picture, and long lines are drawn one by one', () => {
    const crowd = store((b) => {
      for (let i = 0; i < 40_000; i++) {
        const x = E + (i % 200) * 20,
          y = N + Math.floor(i / 200) * 20;
        b.vertex(x, y, 0);
        b.vertex(x + 18, y + 11, 0);
        b.endPart();
        b.endFeature(LINE, 'LINE', i + 1);
      }
      b.vertex(E, N, 0);
      b.vertex(E + 3900, N + 3900, 0);
      b.endPart();
      b.endFeature(LINE, 'LWPOLYLINE', 50_000);
    });
    // 8 m a pixel: each of the forty thousand is two pixels long
    const bytes = cutTile({ sources: [crowd], frame: 'EPSG:2193', ...tileAt(10, E + 2000, N + 2000) });
    expect(bytes.length).toBeLessThan(300_000);
    const seen = decode(bytes);
    expect(seen.map((f) => [f.properties.cover ?? null, f.properties.entity])).toEqual([
      [1, ''],
      [null, 'LWPOLYLINE'],
    ]);
  });

  it.each([
    ['areas of 0.7 pixels', 0.7, POLYGON],
    ['areas of 2 pixels', 2, POLYGON],
    ['areas of 3.4 pixels', 3.4, POLYGON],
    ['lines of 1.6 pixels', 1.6, LINE],
    ['points 1.2 pixels apart', 1.2, POINT],
  ] as const)('covers the pixels that a full drawing would cover: %s', (_what, pixels, kind) => {
    const tile = tileAt(10, E + 2000, N + 2000);
    const [minx, miny, maxx, maxy] = tileBounds(tile.z, tile.x, tile.y, 1);
    const resolution = resolutionAt(tile.z, 1);
    const side = pixels * resolution;
    const random = randomOf(7);
    // blocks of touching things with streets between them, and here and there one missing
    const things: [number, number][] = [];
    for (let y = miny; y < maxy - side; y += side)
      for (let x = minx; x < maxx - side; x += side) {
        const street = Math.floor((x - minx) / 150) % 4 === 3 || Math.floor((y - miny) / 150) % 5 === 4;
        if (!street && random() < 0.97) things.push([x, y]);
      }
    expect(things.length).toBeGreaterThan(2500);
    const source = store((b) => {
      things.forEach(([x, y], i) => {
        const corners =
          kind === POINT
            ? [[x, y]]
            : kind === LINE
              ? [
                  [x, y],
                  [x + side, y + side * 0.4],
                ]
              : [
                  [x, y],
                  [x + side, y],
                  [x + side, y + side],
                  [x, y + side],
                  [x, y],
                ];
        for (const [vx, vy] of corners) b.vertex(vx!, vy!, 0);
        b.endPart();
        b.endFeature(kind, 'made', i + 1);
      });
    });
    const full = createCanvas(TILE_PIXELS, TILE_PIXELS).getContext('2d');
    const covered = createCanvas(TILE_PIXELS, TILE_PIXELS).getContext('2d');
    for (const [x, y] of things) {
      const at = (vx: number, vy: number): [number, number] => [(vx - minx) / resolution, (maxy - vy) / resolution];
      full.beginPath();
      if (kind === POINT) full.arc(...at(x, y), 1.5, 0, 2 * Math.PI);
      else {
        full.moveTo(...at(x, y));
        full.lineTo(...at(x + side, kind === LINE ? y + side * 0.4 : y));
        if (kind === POLYGON) {
          full.lineTo(...at(x + side, y + side));
          full.lineTo(...at(x, y + side));
          full.closePath();
        }
      }
      if (kind === POINT) full.fill();
      else full.stroke();
    }
    const seen = decode(cutTile({ sources: [source], frame: 'EPSG:2193', ...tile }));
    expect(seen.map((f) => f.properties.cover)).toEqual([1]);
    for (let k = 0; k < seen[0]!.flat.length; k += 10) {
      const own = seen[0]!.flat.slice(k, k + 10).map((v) => v / 8);
      covered.fillRect(own[0]!, own[1]!, own[4]! - own[0]!, own[5]! - own[1]!);
    }
    const on = (context: typeof full): boolean[] => {
      const { data } = context.getImageData(0, 0, TILE_PIXELS, TILE_PIXELS);
      return Array.from({ length: TILE_PIXELS ** 2 }, (_, k) => data[4 * k + 3]! >= 100);
    };
    const [wanted, drawn] = [on(full), on(covered)];
    const near = (mask: boolean[], k: number): boolean =>
      [-1, 0, 1].some((dy) => [-1, 0, 1].some((dx) => mask[k + dy * TILE_PIXELS + dx] === true));
    // what lies on the edge itself is the next tile's
    const inner = (k: number): boolean => [k % TILE_PIXELS, Math.floor(k / TILE_PIXELS)].every((v) => v > 0 && v < TILE_PIXELS - 1);
    const lost = wanted.filter((is, k) => is && inner(k) && !near(drawn, k)).length,
      made = drawn.filter((is, k) => is && inner(k) && !near(wanted, k)).length;
    expect([lost, made]).toEqual([0, 0]);
    const alike = wanted.filter((is, k) => is === drawn[k]).length / wanted.length;
    expect(alike).toBeGreaterThan(0.85);
  });

  it('sends areas of about a pixel as dots, since a ring of that size is left out by who draws it', () => {
    const town = store((b) => {
      for (const [x, size] of [
        [0, 3],
        [50, 30],
      ] as const) {
        for (const [dx, dy] of [
          [0, 0],
          [0, 1],
          [1, 1],
          [1, 0],
          [0, 0],
        ] as const)
          b.vertex(E + x + dx * size, N + dy * size, 0);
        b.endPart();
        b.endFeature(POLYGON, 'Polygon', x + 1);
      }
    });
    // 4 m a pixel
    const seen = decode(cutTile({ sources: [town], frame: 'EPSG:2193', ...tileAt(11, E, N) }));
    expect(seen.map((f) => [f.type, f.properties.kind, f.properties.dot ?? null])).toEqual([
      ['LineString', 'polygon', 1],
      ['Polygon', 'polygon', null],
    ]);
  });

  it('says of each triangle of a ground how high it lies among the others, whatever unit its source is in', () => {
    for (const unit_m of [1, 0.001]) {
      const source = store((b) => {
        for (let k = 0; k < 11; k++) {
          const [x, y, z] = [(E + 4 * k) / unit_m, N / unit_m, (2 + k) / unit_m];
          for (const [dx, dy] of [
            [0, 0],
            [3, 0],
            [0, 3],
            [0, 0],
          ] as const)
            b.vertex(x + dx / unit_m, y + dy / unit_m, z);
          b.endPart();
          b.endFeature(POLYGON, 'Triangle', k + 1);
        }
      }, 'GROUND');
      const placed = { ...source, placement: { crs: 'EPSG:2193', unit_m }, grounds: { GROUND: [2 / unit_m, 12 / unit_m] as const } };
      const tile = { frame: 'EPSG:2193', ...tileAt(16, E + 20, N + 1) };
      const heights = new Map(decode(cutTile({ sources: [placed], ...tile })).map((f) => [f.id, f.properties.height]));
      expect(heights.size).toBeGreaterThan(2);
      // in 32 steps of a hundred
      for (const [id, height] of heights)
        expect([unit_m, id, height]).toEqual([unit_m, id, Math.round((Math.round(((id - 1) / 10) * 32) / 32) * 100)]);
      const plain = decode(cutTile({ sources: [{ ...placed, grounds: {} }], ...tile }));
      expect(plain.every((f) => f.properties.height === undefined && f.properties.light !== undefined)).toBe(true);
    }
  });

  it('carries lettering with its size on the ground and its angle', () => {
    const source = store((b) => {
      b.vertex(E, N, 0);
      b.endPart();
      b.set('text', 'Lease 4');
      b.set('text_height', 3);
      b.set('text_angle', 30);
      b.endFeature(TEXT, 'MTEXT', 1);
    });
    const [text] = decode(cutTile({ sources: [source], frame: 'EPSG:2193', ...tileAt(16, E, N) }));
    expect(text!.properties).toMatchObject({ kind: 'text', text: 'Lease 4', size: 3, angle: 30, source: 'quay.dxf' });
  });

  it('draws a source in the frame of another system where it belongs', () => {
    // the same line, once in NZTM and once in the local circuit
    const line =
      (x1: number, y1: number, x2: number, y2: number) =>
      (b: BatchBuilder): void => {
        b.vertex(x1, y1, 0);
        b.vertex(x2, y2, 0);
        b.endPart();
        b.endFeature(LINE, 'LINE', 1);
      };
    const nztm = store(line(E, N, E + 30, N + 20));
    const ends = Float64Array.of(E, N, E + 30, N + 20);
    compileTransform(lookupCrs('EPSG:2193')!, lookupCrs('EPSG:2126')!).apply(ends, 0, 2, 2);
    const circuit: TileSource = { ...store(line(ends[0]!, ends[1]!, ends[2]!, ends[3]!)), placement: { crs: 'EPSG:2126', unit_m: 1 } };
    expect(nearestVertex({ sources: [nztm], frame: 'EPSG:2126', x: ends[0]!, y: ends[1]!, reach: 1 })![0]).toBeCloseTo(ends[0]!, 6);
    const tile = tileAt(16, E, N);
    const [a] = decode(cutTile({ sources: [nztm], frame: 'EPSG:2193', ...tile }));
    const [b] = decode(cutTile({ sources: [circuit], frame: 'EPSG:2193', ...tile }));
    expect(a!.flat.length).toBe(4);
    a!.flat.forEach((v, i) => expect(Math.abs(v - b!.flat[i]!)).toBeLessThanOrEqual(1));
  });

  it('finds the nearest vertex to full precision, and none out of reach', () => {
    const source = store((b) => {
      b.vertex(E + 0.123456789, N, 0);
      b.vertex(E + 30, N, 0);
      b.endPart();
      b.endFeature(LINE, 'LINE', 1);
    });
    expect(nearestVertex({ sources: [source], frame: 'EPSG:2193', x: E + 1, y: N + 1, reach: 5 })).toEqual([E + 0.123456789, N]);
    expect(nearestVertex({ sources: [source], frame: 'EPSG:2193', x: E + 15, y: N, reach: 5 })).toBeNull();
  });
});

describe('a small plan', () => {
  it('draws every kind inside its box, however large the layer', () => {
    const file = path.join(folder, 'plan.sqlite');
    const writer = new FeatureStoreWriter(file);
    const profiler = new Profiler();
    const builder = new BatchBuilder('ALL');
    for (let i = 0; i < 20_000; i++) {
      builder.vertex(E + (i % 200), N + i / 100, 0);
      builder.vertex(E + (i % 200) + 3, N + i / 100 + 2, 0);
      builder.endPart();
      builder.set('color', i % 2 ? '#ff0000' : '#0000ff');
      builder.endFeature(LINE, 'LINE', i + 1);
    }
    const batch = builder.take();
    profiler.add(batch);
    writer.add(batch);
    writer.close();
    const reader = new FeatureStore(file);
    const plan = thumbnail(reader, profiler.layers()[0]!);
    reader.close();
    expect(new Set(plan.strokes.map((s) => s.color))).toEqual(new Set(['#ff0000', '#0000ff']));
    const length = plan.strokes.reduce((n, s) => n + s.path.length, 0);
    expect(length).toBeLessThan(26_000);
    for (const stroke of plan.strokes) {
      for (const [, x, y] of stroke.path.matchAll(/[ML]([\d.]+) ([\d.]+)/g)) {
        expect(Number(x)).toBeLessThanOrEqual(plan.width);
        expect(Number(y)).toBeLessThanOrEqual(plan.height);
      }
    }
  });

  it('shows the places of a point as dots, in one part or in several, and joins none of them', () => {
    const file = path.join(folder, 'dots.sqlite');
    const writer = new FeatureStoreWriter(file);
    const profiler = new Profiler();
    const builder = new BatchBuilder('DOTS');
    for (const several of [true, false]) {
      for (const [x, y] of [
        [0, 0],
        [50, 80],
        [90, 10],
      ] as const) {
        builder.vertex(E + x, N + y, NaN);
        if (several) builder.endPart();
      }
      if (!several) builder.endPart();
      builder.endFeature(POINT, 'MultiPoint', 1);
    }
    const batch = builder.take();
    profiler.add(batch);
    writer.add(batch);
    writer.close();
    const reader = new FeatureStore(file);
    const [stroke, ...others] = thumbnail(reader, profiler.layers()[0]!).strokes;
    reader.close();
    expect([stroke!.kind, others]).toEqual(['point', []]);
    expect(stroke!.path).not.toContain('L');
    expect(stroke!.path.match(/M[\d.]+ [\d.]+h0/g)).toHaveLength(6);
  });
});

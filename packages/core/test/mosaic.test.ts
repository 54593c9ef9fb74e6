import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { BandTally } from '../src/content/raster/band-tally';
import { mosaicLayout } from '../src/content/raster/mosaic';
import { type ImageMember, percentile } from '../src/content/raster/profile';
import { chosenImages, imageOrder } from '../src/crossing/chosen-images';
import { EMPTY_RECIPE, type Recipe } from '../src/crossing/recipe';
import { maskOver } from '../src/raster/mask';
import { targetGrid } from '../src/raster/target-grid';
import type { PixelGrid } from '../src/raster/pixel-grid';

const member = (name: string, x: number, y: number, width: number, height: number): ImageMember => ({
  name,
  format: 'geotiff',
  bytes: 1,
  version: '',
  info: {
    width,
    height,
    bands: 3,
    sampleType: 'uint8',
    colour: 'rgb',
    alpha: false,
    nodata: null,
    masked: false,
    palette: null,
  },
  map: [x, 1, 0, y, 0, -1],
  pairs: null,
  bands: [],
  empty: 0,
  unfit: null,
  unpacked: false,
});

describe('tiles of a mosaic', () => {
  it('have their overlaps and the gap between them told', () => {
    const { overlaps, gaps } = mosaicLayout([
      member('a', 0, 200, 100, 100),
      member('b', 90, 200, 100, 100),
      member('c', 0, 105, 100, 105),
      member('d', 112, 105, 78, 105),
    ]);
    expect(overlaps.map((o) => [o.a.name, o.b.name, o.box])).toEqual([
      ['a', 'b', [90, 100, 100, 200]],
      ['a', 'c', [0, 100, 100, 105]],
      ['b', 'c', [90, 100, 100, 105]],
      ['b', 'd', [112, 100, 190, 105]],
    ]);
    expect(gaps).toEqual([[100, 0, 112, 100]]);
  });

  it('that only touch neither overlap nor leave a gap, whatever numbers round', () => {
    const size = 1 / 3;
    const tiles = [0, 1, 2, 3].map((k) => {
      const tile = member(`t${k}`, 0, 0, 300, 300);
      tile.map = [1e6 + (k % 2) * 100, size, 0, 5e6 - Math.floor(k / 2) * 100, 0, -size];
      return tile;
    });
    expect(mosaicLayout(tiles)).toEqual({ overlaps: [], gaps: [] });
  });

  it('lie in the order of the rules; those that a person left out are told', () => {
    const names = ['a', 'b', 'c'].map((name) => ({ source: 'm', name }));
    const recipe: Recipe = {
      ...EMPTY_RECIPE,
      images: ['top', 'm'],
      sources: { m: { placement: null, layers: {}, image: { order: ['c', 'a'], without: ['b'] } } },
    };
    const deliverable = { id: 'd', name: 'd', format: 'geotiff', crs: '', grouping: 'kind' as const };
    const { taken, left } = chosenImages(recipe, deliverable, [...names, { source: 'top', name: 'top' }]);
    expect(taken.map((i) => i.name)).toEqual(['top', 'c', 'a']);
    expect(left.map((i) => i.name)).toEqual(['b']);
    expect(imageOrder(recipe, ['new', 'm', 'top'])).toEqual(['top', 'm', 'new']);
  });
});

describe('the mask of an area', () => {
  /** Whether a point lies within a ring, by the turns around it; another way than the mask goes. */
  function holds(ring: readonly number[], x: number, y: number): boolean {
    let turn = 0;
    for (let k = 0, last = ring.length - 2; k < ring.length; last = k, k += 2) {
      const a = Math.atan2(ring[last + 1]! - y, ring[last]! - x),
        b = Math.atan2(ring[k + 1]! - y, ring[k]! - x);
      let d = b - a;
      if (d > Math.PI) d -= 2 * Math.PI;
      if (d < -Math.PI) d += 2 * Math.PI;
      turn += d;
    }
    return Math.round(turn / (2 * Math.PI)) % 2 !== 0;
  }

  it('holds the pixels whose centre lies within, for any ring and any window', () => {
    const grid: PixelGrid = { map: [1000, 0.5, 0.1, 500, -0.1, -0.5], width: 40, height: 30 };
    const corner = fc.tuple(fc.double({ min: 995, max: 1030, noNaN: true }), fc.double({ min: 478, max: 502, noNaN: true }));
    const window = fc.record({ x: fc.integer({ min: 0, max: 20 }), y: fc.integer({ min: 0, max: 15 }) });
    fc.assert(
      fc.property(fc.array(corner, { minLength: 3, maxLength: 9 }), window, (corners, at) => {
        const ring = corners.flat();
        const own = { ...at, width: 20, height: 15 };
        const mask = maskOver(grid, [ring])(own);
        for (let i = 0; i < mask.length; i++) {
          const [c, r] = [own.x + (i % 20) + 0.5, own.y + Math.floor(i / 20) + 0.5];
          const [x, y] = [1000 + 0.5 * c + 0.1 * r, 500 - 0.1 * c - 0.5 * r];
          if (holds(ring, x, y) !== (mask[i] === 1)) return false;
        }
        return true;
      }),
      { numRuns: 200 },
    );
  });

  it('leaves a hole out, and gives a pixel that two areas share to one of them', () => {
    const grid: PixelGrid = { map: [0, 1, 0, 10, 0, -1], width: 10, height: 10 };
    const all = { x: 0, y: 0, width: 10, height: 10 };
    const square = (a: number, b: number): number[] => [a, a, b, a, b, b, a, b];
    const count = (...rings: number[][]): number => maskOver(grid, rings)(all).reduce((n, v) => n + v, 0);
    expect(count(square(0, 10), square(3, 7))).toBe(84);
    expect(count([0, 0, 4.5, 0, 4.5, 10, 0, 10], [4.5, 0, 10, 0, 10, 10, 4.5, 10])).toBe(100);
  });
});

describe('the grid of an area', () => {
  const tile = (x: number, y: number) => ({
    grid: { map: [x, 0.25, 0, y, 0, -0.25] as const, width: 400, height: 400 },
    toTarget: () => undefined,
  });

  it('lies on the pixels of its sources where it is aligned, and where the area ends otherwise', () => {
    const bounds: [number, number, number, number] = [100.1, 20.3, 120.05, 40.2];
    const of = (aligned: boolean) => targetGrid([tile(0.125, 100)], { same: true, square: true, bounds, aligned })!;
    expect(of(false).map).toEqual([100.1, 0.25, 0, 40.2, 0, -0.25]);
    const { map, width, height } = of(true);
    expect([map[0], map[3]]).toEqual([99.875, 40.25]);
    expect([map[0] + 0.25 * width, map[3] - 0.25 * height]).toEqual([120.125, 20.25]);
  });
});

describe('the values of a picture, summed up', () => {
  it('are its lowest, highest and mean, those without a value apart, and shares by the histogram', () => {
    const tally = new BandTally(1, 1000);
    const data = Float64Array.from({ length: 1000 }, (_, k) => k);
    const valid = Uint8Array.from({ length: 1000 }, (_, k) => Number(k >= 100));
    tally.add({ width: 500, height: 2, bands: 1, data, valid });
    const [band] = tally.profiles();
    expect([band!.lowest, band!.highest, band!.mean, tally.empty]).toEqual([100, 999, 549.5, 100]);
    expect(percentile(band!, 0.5)).toBeCloseTo(549.5, -1);
    expect(percentile(band!, 0.02)).toBeCloseTo(118, -1);
  });
});

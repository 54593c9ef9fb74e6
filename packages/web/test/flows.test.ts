import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { CrossingState, DeliverableForecast } from '@pontrel/contract/crossing';
import { flowsOf } from '../src/span/flows';
import { crossings, untangled } from '../src/span/untangle';

const layer = (name: string, count: number): unknown => ({
  profile: { name, count, extent: null, zRange: null, groups: [] },
  plan: { width: 1, height: 1, strokes: [] },
});
const row = (name: string, unchanged: number, changed: number, left: number): unknown => ({
  source: 'quay.dxf',
  layer: name,
  records: unchanged + changed + left,
  unchanged,
  changed,
  left,
  report: null,
  effects: [
    ...(changed > 0 ? [{ effect: 'changed', code: 'c', count: changed, message: `${changed} with curves` }] : []),
    ...(left > 0 ? [{ effect: 'left', code: 'l', count: left, message: `${left} × 3DSOLID is not read` }] : []),
  ],
});

/** A quay of three layers, one of them left in Gather, for two deliverables. */
const crossing = {
  sources: [{ id: 's', name: 'quay.dxf', layers: [layer('EDGE', 10), layer('COPING', 4), layer('TITLE', 7)] }],
  recipe: {
    sources: { 'quay.dxf': { placement: null, layers: { TITLE: { taken: false } } } },
    deliverables: [
      { id: 'a', name: 'Council' },
      { id: 'b', name: 'Plan' },
    ],
  },
} as unknown as CrossingState;
const forecasts = ['a', 'b'].map((deliverable) => ({
  deliverable,
  forecast: { rows: [row('EDGE', 7, 3, 0), row('COPING', 3, 0, 1)] },
})) as unknown as DeliverableForecast[];

/** The same with two images, of which one lies below the plan and on a map of the layers. */
const withImages = {
  ...crossing,
  sources: [
    ...crossing.sources,
    ...['ortho.tif', 'old.jpg'].map((name) => ({
      id: name,
      name,
      layers: [],
      images: { members: [{ name, unfit: null, info: { width: 2000, height: 1000 } }] },
    })),
  ],
  recipe: {
    ...crossing.recipe,
    sources: { 'quay.dxf': { placement: { crs: 'EPSG:2193' }, layers: { TITLE: { taken: false } } } },
    deliverables: [...crossing.recipe.deliverables, { id: 'm', name: 'Map', image: { drawn: { scale: 500, dpi: 200 } } }],
  },
} as unknown as CrossingState;

describe('the span of images', () => {
  const picture = { sources: [{ source: 'ortho.tif', name: 'ortho.tif' }], samePixels: false };
  const { layers, ends, bands } = flowsOf(withImages, [
    forecasts[0]!,
    { ...forecasts[1]!, picture },
    { deliverable: 'm', picture },
  ] as unknown as DeliverableForecast[]);

  it('has bands of pixels to what is made of them, and says what nothing is made of', () => {
    expect(bands.filter((b) => b.of === 'pixels').map((b) => [layers[b.from]!.source, ends[b.to]!.name, b.fate, b.count])).toEqual([
      ['ortho.tif', 'Plan', 'changed', 2_000_000],
      ['ortho.tif', 'Map', 'changed', 2_000_000],
      ['old.jpg', 'images that no deliverable is made of', 'excluded', 2_000_000],
    ]);
  });

  it('has the records that are drawn on a map', () => {
    const onMap = bands.filter((b) => ends[b.to]!.name === 'Map' && b.of === 'records');
    expect(onMap.map((b) => [layers[b.from]!.name, b.count])).toEqual([
      ['EDGE', 10],
      ['COPING', 4],
    ]);
  });

  it('leaves most of the width to records', () => {
    const width = (of: string): number => bands.filter((b) => b.of === of).reduce((n, b) => n + b.h, 0);
    expect(width('pixels') / width('records')).toBeCloseTo(0.5, 0);
  });
});

describe('the span', () => {
  const { layers, ends, bands } = flowsOf(crossing, forecasts);

  it('has a band for each layer, end and fate, and what stays behind once, by its reason', () => {
    expect(ends.map((e) => [e.name, e.deliverable, e.count])).toEqual([
      ['Council', 'a', 13],
      ['Plan', 'b', 13],
      ['3DSOLID is not read', null, 1],
      ['left in Gather', null, 7],
    ]);
    expect(bands.map((b) => [layers[b.from]!.name, ends[b.to]!.name, b.fate, b.count]).filter(([, to]) => to !== 'Plan')).toEqual([
      ['EDGE', 'Council', 'unchanged', 7],
      ['EDGE', 'Council', 'changed', 3],
      ['COPING', 'Council', 'unchanged', 3],
      ['COPING', '3DSOLID is not read', 'left', 1],
      ['TITLE', 'left in Gather', 'excluded', 7],
    ]);
  });

  it('stacks the bands of a block without gaps or overlaps, and no two blocks overlap', () => {
    for (const [side, top, blocks] of [
      ['from', 'y0', layers],
      ['to', 'y1', ends],
    ] as const) {
      blocks.forEach((block, k) => {
        const own = bands.filter((b) => b[side] === k).sort((p, q) => p[top] - q[top]);
        own.forEach((b, n) => expect(b[top]).toBeCloseTo(n === 0 ? block.y : own[n - 1]![top] + own[n - 1]!.h, 9));
        expect(own.reduce((sum, b) => sum + b.h, 0)).toBeCloseTo(block.h, 9);
        if (k > 0) expect(block.y).toBeGreaterThanOrEqual(blocks[k - 1]!.y + blocks[k - 1]!.h);
      });
    }
  });
});

describe('blocks in an order in which bands cross less', () => {
  const link = fc.record({ from: fc.nat(7), to: fc.nat(5) });

  it('cross no more than they did, each block once and with its group', () => {
    fc.assert(
      fc.property(fc.array(link, { maxLength: 30 }), (links) => {
        const groups = { from: [0, 0, 0, 1, 1, 1, 2, 2], to: ['d', 'd', 'd', 'r', 'r', 'r'] };
        const order = untangled(links, groups);
        const at = (of: readonly number[], k: number): number => of.indexOf(k);
        const after = links.map((l) => ({ from: at(order.from, l.from), to: at(order.to, l.to) }));
        expect(crossings(after)).toBeLessThanOrEqual(crossings(links));
        expect([[...order.from].sort(), [...order.to].sort()]).toEqual([
          [0, 1, 2, 3, 4, 5, 6, 7],
          [0, 1, 2, 3, 4, 5],
        ]);
        expect(order.from.map((k) => groups.from[k])).toEqual(groups.from);
        expect(order.to.map((k) => groups.to[k])).toEqual(groups.to);
      }),
    );
  });

  it('cross not at all where that can be had', () => {
    // what comes in one order at the left and in the other at the right
    const links = [0, 1, 2, 3, 4].map((k) => ({ from: k, to: 4 - k }));
    const groups = { from: [0, 0, 0, 0, 0], to: [0, 0, 0, 0, 0] };
    const order = untangled(links, groups);
    expect(crossings(links)).toBe(10);
    expect(crossings(links.map((l) => ({ from: order.from.indexOf(l.from), to: order.to.indexOf(l.to) })))).toBe(0);
  });
});

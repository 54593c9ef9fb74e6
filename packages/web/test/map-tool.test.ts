import { describe, expect, it, vi } from 'vitest';
import type OlMap from 'ol/Map';
import type BaseLayer from 'ol/layer/Base';
import { measureWith, pickRecord, takePoint, type Taking } from '../src/map/map-tool';
import type { Measure } from '../src/map/Measure';
import { SheetLayers } from '../src/map/sheet-layers';

const settled = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));

describe('what a click on the map means', () => {
  it('takes the vertex that catches a point, or the point itself, and says which', async () => {
    const taken: unknown[] = [];
    const taking = (vertex: [number, number] | null): Taking => ({
      prompt: '',
      snap: vi.fn().mockResolvedValue(vertex),
      take: (...args) => taken.push(args),
      cancel() {},
    });
    takePoint(taking([5, 6])).click([1, 2], [10, 10], 3);
    takePoint(taking(null)).click([1, 2], [10, 10], 3);
    await settled();
    expect(taken).toEqual([
      [5, 6, true],
      [1, 2, false],
    ]);
  });

  it('draws a box only where one is asked for, and tells where the pointer is only to who wants it', () => {
    const plain: Taking = { prompt: '', snap: () => Promise.resolve(null), take() {}, cancel() {} };
    expect(takePoint(plain).drag).toBeUndefined();
    expect(() => takePoint(plain).hover?.([1, 2])).not.toThrow();
    const drag = vi.fn(),
      hover = vi.fn();
    const tool = takePoint({ ...plain, drag, hover });
    tool.drag?.([0, 0], [1, 1], true);
    tool.hover?.([3, 4]);
    expect([drag.mock.calls, hover.mock.calls]).toEqual([[[[0, 0], [1, 1], true]], [[3, 4]]]);
  });

  it('measures from where it is clicked to where the pointer is', () => {
    const measure = { add: vi.fn(), hover: vi.fn() } as unknown as Measure;
    const tool = measureWith(measure);
    tool.click([1, 2], [0, 0], 9);
    tool.hover?.([3, 4]);
    expect([vi.mocked(measure.add).mock.calls, vi.mocked(measure.hover).mock.calls]).toEqual([[[1, 2, 9]], [[3, 4]]]);
  });

  it('picks what lies over the others, among layers that can be picked, and nothing where there is none', () => {
    const [records, picture] = [{}, {}] as [BaseLayer, BaseLayer];
    const at = (kind: string, id: number, layer = records) => ({
      feature: { get: (name: string) => ({ kind, source: 'quay.dxf', layer: 'A' })[name], getId: () => id },
      layer,
    });
    const under = [at('polygon', 1), at('line', 2), at('point', 3, picture), at('text', 4), at('point', 5)];
    const map = (found: typeof under): OlMap =>
      ({
        forEachFeatureAtPixel: (_pixel: number[], call: (f: unknown, l: BaseLayer) => void) =>
          found.forEach((f) => call(f.feature, f.layer)),
      }) as unknown as OlMap;
    const picked: unknown[] = [];
    const click = (found: typeof under): void =>
      pickRecord(
        () => map(found),
        (layer) => layer === records,
        (p) => picked.push(p),
        () => Promise.resolve(null),
      ).click([0, 0], [0, 0], 1);
    click(under);
    click(under.slice(0, 4));
    click([]);
    expect(picked).toEqual([{ source: 'quay.dxf', layer: 'A', id: 5 }, { source: 'quay.dxf', layer: 'A', id: 4 }, null]);
  });

  it('asks which record it is where many cover the pixels together, and only there', async () => {
    const layer = {} as BaseLayer;
    const cover = { get: (name: string) => ({ kind: 'polygon', source: 'lots.shp', layer: 'lots', cover: 1 })[name], getId: () => 0 };
    const line = { get: (name: string) => ({ kind: 'line', source: 'mains.dxf', layer: 'W' })[name], getId: () => 8 };
    const picked: unknown[] = [];
    const asked: unknown[] = [];
    const click = (found: unknown[], answer: number | null): void =>
      pickRecord(
        () =>
          ({
            forEachFeatureAtPixel: (_p: unknown, call: (f: unknown, l: BaseLayer) => void) => found.forEach((f) => call(f, layer)),
          }) as unknown as OlMap,
        () => true,
        (p) => picked.push(p),
        (...question) => {
          asked.push(question);
          return Promise.resolve(answer);
        },
      ).click([1, 2], [0, 0], 3);
    click([cover], 41);
    click([cover], null);
    click([cover, line], 41);
    await settled();
    expect(asked).toEqual([
      [{ source: 'lots.shp', layer: 'lots' }, [1, 2], 3],
      [{ source: 'lots.shp', layer: 'lots' }, [1, 2], 3],
    ]);
    expect(picked).toEqual([{ source: 'mains.dxf', layer: 'W', id: 8 }, { source: 'lots.shp', layer: 'lots', id: 41 }, null]);
  });

  it('tells the vertex that would catch a point before it is set', async () => {
    const taking: Taking = { prompt: '', snap: () => Promise.resolve([5, 6]), take() {}, cancel() {} };
    expect(await takePoint(taking).catches!([1, 2], 3)).toEqual([5, 6]);
    const measure = { nearest: vi.fn().mockResolvedValue(null) } as unknown as Measure;
    expect(await measureWith(measure).catches!([1, 2], 3)).toBeNull();
    expect(vi.mocked(measure.nearest).mock.calls).toEqual([[1, 2, 3]]);
  });

  it('no layer of a map that the sheet did not make can be picked', () => {
    expect(new SheetLayers().isPickable({} as BaseLayer, [])).toBe(false);
  });
});

import type { Value } from '../src/model/value';
import { describe, expect, it } from 'vitest';
import { sourceTransform, placeBatch, resizeBatch } from '../src/content/features/transform-batch';
import type { PlacedIn } from '../src/placement/route';
import { lookupCrs } from '../src/crs/registry/registry';
import { dxf } from '../src/formats/dxf/index';
import { alignmentWords, textAlignment } from '../src/formats/dxf/alignment';
import { formatOptions } from '../src/formats/options';
import { type FeatureBatch, TEXT } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';

const crs = (id: string) => lookupCrs(id)!;

function lettering(x: number, y: number, values: Record<string, Value>): FeatureBatch {
  const b = new BatchBuilder('L');
  b.vertex(x, y, 0);
  b.endPart();
  for (const [name, v] of Object.entries(values)) b.set(name, v);
  b.endFeature(TEXT, 'TEXT', 1);
  return b.take();
}

/** The sizes of a text that crosses. */
function crossed(placed: PlacedIn, target: string, at: [number, number], values: Record<string, Value>): Record<string, Value> {
  const carrier = sourceTransform('s', placed, crs(target));
  const { columns } = resizeBatch(placeBatch(lettering(...at, values), carrier, 0.005), carrier);
  return Object.fromEntries([...columns].map(([name, column]) => [name, column[0]!]));
}

describe('lettering on its way', () => {
  const values = { text_height: 2500, text_angle: 30, thickness: 100, text: 'DN 150' };

  it('stays as it is where nothing changes, to the last digit', () => {
    expect(
      crossed({ crs: crs('EPSG:2193'), parameters: { unit_m: 1 }, extent: null }, 'EPSG:2193', [1_464_000, 5_101_500], values),
    ).toEqual(values);
  });

  it('follows the unit: millimetres become metres, and metres US survey feet', () => {
    expect(
      crossed({ crs: crs('EPSG:2193'), parameters: { unit_m: 0.001 }, extent: null }, 'EPSG:2193', [1_464_000_000, 5_101_500_000], values),
    ).toMatchObject({ text_height: 2.5, text_angle: 30, thickness: 0.1 });
    // EPSG:2229 is California zone 5 in US survey feet of 1200/3937 m
    expect(
      Number(
        crossed({ crs: crs('EPSG:26945'), parameters: { unit_m: null }, extent: null }, 'EPSG:2229', [2_000_000, 500_000], values)
          .text_height,
      ),
    ).toBeCloseTo((2500 * 3937) / 1200, 5);
  });

  it('turns by the difference of meridian convergence, as two places on its base line do', () => {
    // 8 km apart along the base line, far more than the step by which the turn is worked out
    const placed: PlacedIn = { crs: crs('EPSG:2193'), parameters: { unit_m: null }, extent: null };
    const { transform } = sourceTransform('s', placed, crs('EPSG:2126'));
    const [x, y] = [1_464_000, 5_101_500],
      a = Math.PI / 6;
    const p = Float64Array.of(x - 4000 * Math.cos(a), y - 4000 * Math.sin(a), x + 4000 * Math.cos(a), y + 4000 * Math.sin(a));
    transform.apply(p, 0, 2, 2);
    const turned = (Math.atan2(p[3]! - p[1]!, p[2]! - p[0]!) * 180) / Math.PI;
    expect(Math.abs(turned - 30)).toBeGreaterThan(0.1);
    expect(Math.abs(Number(crossed(placed, 'EPSG:2126', [x, y], values).text_angle) - turned)).toBeLessThan(1e-3);
  });

  it('follows a fit that turns and scales, and keeps its angle in a target in degrees', () => {
    // a quarter turn to the left, and a thousandth of the size
    const fit = {
      kind: 'similarity' as const,
      pairs: [
        { from: [0, 0] as const, to: [1_464_000, 5_101_500] as const, name: 'a' },
        { from: [10_000, 0] as const, to: [1_464_000, 5_101_510] as const, name: 'b' },
        { from: [0, 10_000] as const, to: [1_463_990, 5_101_500] as const, name: 'c' },
      ],
    };
    const placed: PlacedIn = { crs: crs('EPSG:2193'), parameters: { unit_m: null, fit }, extent: null };
    expect(crossed(placed, 'EPSG:2193', [5000, 5000], values)).toMatchObject({ text_height: 2.5, text_angle: 120 });
    expect(crossed(placed, 'EPSG:4326', [5000, 5000], values)).toMatchObject({ text_height: 2.5, text_angle: 30 });
  });
});

describe('words and groups', () => {
  it('of how a text stands lead to each other, all that there are', () => {
    for (const across of [0, 1, 2])
      for (const up of [0, 1, 2, 3]) if (across + up > 0) expect(textAlignment(alignmentWords(across, up)!)).toEqual([across, up]);
    expect(textAlignment(alignmentWords(4, 0)!)).toEqual([4, 0]);
    // from the left end on the base line, aligned, and fitted between two points
    expect([alignmentWords(0, 0), alignmentWords(3, 0), alignmentWords(5, 0)]).toEqual([null, null, null]);
    expect(textAlignment('somewhere else')).toBeNull();
  });

  it('of options: what is no value of one is its first choice, and what is no option is nothing', () => {
    const first = formatOptions(dxf);
    expect(first).toMatchObject({ version: 'R2010', points: 'point', label: '', label_height: 1 });
    expect(formatOptions(dxf, { version: 'R14', label_height: -1, label: 7, colour: 'red' })).toEqual(first);
    expect(formatOptions(dxf, { version: 'R12', label_height: 2 })).toEqual({ ...first, version: 'R12', label_height: 2 });
  });
});

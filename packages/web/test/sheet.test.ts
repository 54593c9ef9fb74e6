import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { niceStep } from '@pontrel/core/geometry/nice-step';
import { dms, ticksBetween } from '../src/map/ticks';

describe('ticks on the neatline', () => {
  it('stand at round numbers, far enough apart to be read, every second one with its number', () => {
    fc.assert(
      fc.property(fc.integer({ min: -5e6, max: 8e6 }), fc.integer({ min: 1, max: 6_000_000 }), (from, thousandths) => {
        const perPixel = thousandths / 1000;
        const width = 900 * perPixel;
        const ticks = ticksBetween(from, from + width, perPixel, false);
        const step = niceStep(78 * perPixel);
        expect(step / perPixel).toBeGreaterThanOrEqual(77.9);
        expect(step / perPixel).toBeLessThanOrEqual(78 * 2.5 + 1);
        expect(ticks.length).toBeGreaterThanOrEqual(Math.floor(900 / (step / perPixel)) - 1);
        for (const { value, label } of ticks) {
          expect(value).toBeGreaterThanOrEqual(from - 1e-6);
          expect(value).toBeLessThanOrEqual(from + width + 1e-6);
          expect(Math.abs(value / step - Math.round(value / step))).toBeLessThan(1e-6);
          expect(label !== null).toBe(Math.round(value / step) % 2 === 0);
        }
      }),
    );
  });

  it.each([
    [1, 1],
    [1.2, 2],
    [3, 5],
    [7, 10],
    [0.03, 0.05],
    [780, 1000],
  ])('%d is widened to %d', (least, step) => expect(niceStep(least)).toBeCloseTo(step, 12));

  it('have as many decimals as their step needs', () => {
    const metres = ticksBetween(1_464_299.4, 1_464_299.8, 0.0006, false).filter((t) => t.label);
    expect(metres[0]!.label).toMatch(/^1\s464\s299\.\d{2}$/);
    const degrees = ticksBetween(171.2, 171.4, 0.0002, true).filter((t) => t.label);
    expect(degrees[0]!.label).toMatch(/^171\.\d\d?°$/);
  });
});

describe('degrees, minutes and seconds', () => {
  it.each([
    [-44.2281111, 'NS', '44° 13′ 41.200″ S'],
    [171.2972, 'EW', '171° 17′ 49.920″ E'],
    [0, 'NS', '0° 00′ 00.000″ N'],
    [59.9999999999, 'EW', '60° 00′ 00.000″ E'],
  ])('%d', (degrees, letters, expected) => expect(dms(degrees, letters)).toBe(expected));

  it('say the same as the degrees they come from', () => {
    fc.assert(
      fc.property(fc.double({ min: -180, max: 180, noNaN: true }), (degrees) => {
        const [, d, m, s, letter] = /^(\d+)° (\d\d)′ ([\d.]+)″ ([EW])$/.exec(dms(degrees, 'EW'))!;
        const back = (Number(d) + Number(m) / 60 + Number(s) / 3600) * (letter === 'W' ? -1 : 1);
        expect(Math.abs(back - degrees)).toBeLessThan(0.00051 / 3600);
        expect(Number(m)).toBeLessThan(60);
        expect(Number(s)).toBeLessThan(60);
      }),
    );
  });
});

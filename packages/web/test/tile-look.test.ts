import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { lookText, readLookText } from '@pontrel/contract/tile-look';
import type { Symbolizer } from '@pontrel/core/symbology/symbolizer';

const hex = fc.integer({ min: 0, max: 0xffffff }).map((n) => `#${n.toString(16).padStart(6, '0')}`);
const number = fc.option(fc.double({ min: 0.001, max: 500, noNaN: true }));
const look: fc.Arbitrary<Symbolizer> = fc.record({
  kind: fc.constantFrom('point' as const, 'line' as const, 'polygon' as const),
  color: fc.option(hex),
  fill: fc.option(hex),
  opacity: fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
  width_mm: number,
  width_m: number,
  dash_mm: fc.option(fc.array(fc.double({ min: 0.1, max: 90, noNaN: true }), { minLength: 2, maxLength: 6 })),
  marker: fc.option(fc.string({ minLength: 1 }).filter((s) => !s.includes('\t'))),
  marker_mm: number,
});

describe('what a tile says of a look', () => {
  it('is read as it was told, and nothing is told where nothing is said', () => {
    fc.assert(
      fc.property(look, (given) => {
        const { kind: _kind, color, ...said } = given;
        const text = lookText(given);
        const back =
          text === null
            ? { fill: null, opacity: null, width_mm: null, width_m: null, dash_mm: null, marker: null, marker_mm: null }
            : readLookText(text);
        expect(back).toEqual({ ...said, fill: said.fill === color ? null : said.fill });
      }),
    );
  });
});

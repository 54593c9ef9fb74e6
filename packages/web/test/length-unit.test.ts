import { describe, expect, it } from 'vitest';
import { accuracyText, areaText, lengthText, lengthUnit, typedLength } from '../src/components/length-unit';
import { parseLength } from '@pontrel/core/io/length-text';

const nb = (text: string): string => text.replaceAll('\u00a0', ' ');

describe('lengths in the unit of the frame', () => {
  // Source: NIST Special Publication 811 (2008), B.6: foot, US survey foot, chain, acre
  it.each([
    [1, 0.3048, '3.281 ft'],
    [30.48, 0.3048, '100.0 ft'],
    [1200 / 39.37, 1200 / 3937, '100.0 ftUS'],
    [20.1168, 20.1168, '1.000 ch'],
    [1609.344, 20.1168, '80.00 ch'],
    [0, 0.3048, '0 ft'],
    [0.001, 0.3048, '0.00328 ft'],
    [12.3456, 1, '12.35 m'],
    // degrees have no length of their own, and other units no sign
    [12.3456, null, '12.35 m'],
    [12.3456, 0.9, '12.35 m'],
  ])('%s m in units of %s m', (metres, unit, text) => {
    expect(nb(lengthText(metres, lengthUnit(unit)))).toBe(text);
  });

  it.each([
    [4046.8564224, 0.3048, '1.0000 ac'],
    [4046.873, 1200 / 3937, '1.0000 ac'],
    [0.09290304, 0.3048, '1.00 ft²'],
    [20_000, 1, '2.0000 ha'],
    [1234.56, 1, '1 234.6 m²'],
    [404.68564224, 20.1168, '1.00 ch²'],
  ])('%s square metres in units of %s m', (m2, unit, text) => {
    expect(nb(areaText(m2, lengthUnit(unit)))).toBe(text);
  });

  it('are written into a field so that what is typed back is the same', () => {
    for (const unit of [1, 0.3048, 1200 / 3937, 0.9144, 0.201168, 20.1168])
      for (const metres of [0.0005, 0.005, 0.02, 1, 50, 1234.5]) {
        const text = typedLength(metres, lengthUnit(unit));
        expect(parseLength(text, 'm')! / metres, text).toBeCloseTo(1, 5);
      }
  });

  it('say an accuracy with no more digits than it is worth', () => {
    expect([4.000004605609848, 0.1, 12.34, 1].map(accuracyText)).toEqual(['±4 m', '±0.1 m', '±12 m', '±1 m']);
  });
});

import { describe, expect, it } from 'vitest';
import { parseLength } from '@pontrel/core/io/length-text';
import { bytes, deviation, grouped, length, plural, readScale, shown } from '../src/components/numbers';

/** No-break space, as numbers are grouped with. */
const S = '\u00a0';

describe('numbers as they are shown', () => {
  it.each([
    [0, 0, '0'],
    [999, 0, '999'],
    [1000, 0, `1${S}000`],
    [5_101_500.067, 3, `5${S}101${S}500.067`],
    [-1234.5, 1, `\u22121${S}234.5`],
    [-0.0004, 3, '0.000'],
    [NaN, 2, '–'],
    [Infinity, 0, '–'],
  ])('%d with %d decimals', (value, decimals, expected) => expect(grouped(value, decimals)).toBe(expected));

  it.each([
    [0, '0 B'],
    [999, '999 B'],
    [1000, '1.0 kB'],
    [493_102, '493 kB'],
    [70_931_002, '71 MB'],
    [2_500_000_000, '2.5 GB'],
  ])('%d bytes', (n, expected) => expect(bytes(n)).toBe(expected));

  it.each([
    [0, '0 m'],
    [0.005, '5 mm'],
    [0.0123, '0.012 m'],
    [5.25, '5.250 m'],
    [346.72, '346.7 m'],
    [1234, '1.234 km'],
    [12_340, '12.34 km'],
  ])('%d metres', (m, expected) => expect(length(m)).toBe(expected));

  it('never shows a deviation as nothing when it is something', () => {
    expect(deviation(0)).toBe('0 mm');
    expect(deviation(4e-9)).toBe('< 0.001 mm');
    expect(deviation(0.00002)).toBe('0.020 mm');
    expect(deviation(0.0123)).toBe('12.30 mm');
  });

  it('tells one from many, and nothing from no', () => {
    expect(plural(1, 'record')).toBe('1 record');
    expect(plural(0, 'record')).toBe('0 records');
    expect(plural(2, 'copy', 'copies')).toBe('2 copies');
    expect([shown(null), shown(''), shown(false), shown(0), shown('a\nb')]).toEqual(['–', '–', 'no', '0', 'a ↵ b']);
  });
});

describe('lengths as they are typed', () => {
  // Lengths of the units: NIST Special Publication 811, appendix B; the chain and link by the international foot
  it.each([
    ['5 mm', 0.005],
    ['5', 0.005],
    ['0,02 m', 0.02],
    ['2 ch', 40.2336],
    ['1 link', 0.201168],
    ['100 ft', 30.48],
    ['1 usft', 1200 / 3937],
    ['.5 cm', 0.005],
    [' 1 yd ', 0.9144],
    ['3 IN', 0.0762],
  ])('%s', (text, metres) => expect(parseLength(text, 'mm')).toBeCloseTo(metres, 12));

  it.each(['', 'wide', '0 mm', '-1 mm', '5 parsec', '1.2.3 m', 'mm'])('"%s" is none', (text) => expect(parseLength(text, 'mm')).toBeNull());
});

describe('a scale that is typed', () => {
  it.each([
    ['1:5000', 5000],
    [' 1 : 25 000 ', 25_000],
    ['1:10\u00a0000', 10_000],
    ['500', 500],
  ])('%s', (text, denominator) => expect(readScale(text)).toBe(denominator));
  it.each(['', '1:', '2:5000', '1:0', '1:5.5', 'near', '-500', '1:99999999999999999999'])('"%s" is none', (text) =>
    expect(readScale(text)).toBeNull(),
  );
});

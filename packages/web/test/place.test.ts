import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { frameText, readPlace } from '../src/map/coordinates';
import { dms, ticksBetween } from '../src/map/ticks';
import { readPairs } from '../src/place/read-pairs';

const NZTM = lookupCrs('EPSG:2193')!,
  LO29 = lookupCrs('EPSG:2053')!,
  DEGREES = lookupCrs('EPSG:4326')!;

describe('a place that is typed', () => {
  it.each([
    ['1463700.5 5101400.2', { kind: 'frame', at: [1463700.5, 5101400.2] }],
    ['E 1 463 700.5 N 5 101 400.2', { kind: 'frame', at: [1463700.5, 5101400.2] }],
    ['N 5101400 E 1463700', { kind: 'frame', at: [1463700, 5101400] }],
    ['-44.227, 171.298', { kind: 'degrees', at: [171.298, -44.227] }],
    ['44°13′37.2″S 171°17′52.8″E', { kind: 'degrees', at: [171.298, -44.227] }],
    ['171.298 E, 44.227 S', { kind: 'degrees', at: [171.298, -44.227] }],
  ])('%s', (text, expected) => {
    const read = readPlace(text, false)!;
    expect(read.kind).toBe(expected.kind);
    expected.at.forEach((v, k) => expect(read.at[k]).toBeCloseTo(v, 9));
  });

  it('is what any displayed place reads back as, in the frame and in degrees', () => {
    fc.assert(
      fc.property(fc.double({ min: 1e6, max: 2.1e6, noNaN: true }), fc.double({ min: 4.7e6, max: 6.2e6, noNaN: true }), (x, y) => {
        const read = readPlace(frameText(NZTM, [x, y]), false)!;
        expect(read.kind).toBe('frame');
        expect(Math.hypot(read.at[0] - x, read.at[1] - y)).toBeLessThan(1e-3);
      }),
      { seed: 4, numRuns: 200, endOnFailure: true },
    );
    fc.assert(
      fc.property(fc.double({ min: -179, max: 179, noNaN: true }), fc.double({ min: -89, max: 89, noNaN: true }), (lon, lat) => {
        const read = readPlace(`${dms(lat, 'NS')} ${dms(lon, 'EW')}`, true)!;
        expect(read.kind).toBe('degrees');
        expect(Math.hypot(read.at[0] - lon, read.at[1] - lat)).toBeLessThan(4e-7);
      }),
      { seed: 4, numRuns: 200, endOnFailure: true },
    );
  });

  it('is none when it is not two numbers', () => {
    for (const text of ['', 'quay', '12', '1 2 3', '1463700 north']) expect(readPlace(text, false)).toBeNull();
  });
});

describe('numbers of a frame that counts to the west and south', () => {
  it('stand on the neatline and in the footer with their own signs and letters', () => {
    expect(frameText(LO29, [-71984.49, -2847342.74])).toMatch(/^Y 71\s984\.490 {2}X 2\s847\s342\.740$/);
    expect(frameText(DEGREES, [28.5, -25.25])).toMatch(/25° 15′ 00\.000″ S.*28° 30′ 00\.000″ E/);
    const labels = ticksBetween(-2_847_500, -2_847_000, 1, false, -1).filter((t) => t.label !== null);
    expect(labels.length).toBeGreaterThan(1);
    for (const { value, label } of labels) expect(Number(label!.replace(/\s/g, ''))).toBe(-value);
  });
});

describe('pasted control points', () => {
  it('come with names or without, by blanks, tabs, commas or semicolons, under a line of headings', () => {
    const four = { from: [1000, 2000], to: [1463700.5, 5101400.25] };
    for (const line of [
      '1000 2000 1463700.5 5101400.25',
      'P 1 1000 2000 1463700.5 5101400.25',
      '1000,2000,1463700.5,5101400.25',
      'P 1\t1000\t2000\t1463700,5\t5101400,25',
      'P 1;1000;2000;1463700.5;5101400.25',
    ]) {
      expect(readPairs(`name x y E N\n${line}\n\n# end`)[0]).toMatchObject(four);
    }
    expect(readPairs('P 1;1000;2000;1;2')[0]!.name).toBe('P 1');
  });

  it('that are not four numbers are told by their line', () => {
    expect(() => readPairs('A 1 2 3 4\nB 1 2 3')).toThrow(/Line 2, "B 1 2 3", is not four numbers/);
    expect(() => readPairs('\n')).toThrow(/no pair in what was pasted/);
  });
});

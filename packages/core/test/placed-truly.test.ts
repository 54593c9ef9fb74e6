import { describe, expect, it } from 'vitest';
import { lookupCrs } from '../src/crs/registry/registry';
import type { Bounds } from '../src/geometry/bounds';
import { findCandidates } from '../src/placement/finder';
import { isSevere, systemDoubt } from '../src/placement/stated-system';
import { openUnitQuestion, proposedUnit, unitQuestion, unitSentence } from '../src/placement/unit-question';

const crs = (code: number) => lookupCrs(`EPSG:${code}`)!;
// NIST Special Publication 811, appendix B.6: the US survey foot is 1200/3937 m, the international one 0.3048 m
const FOOT = { name: 'foot', metres: 0.3048 };
const US_FOOT = { name: 'US survey foot', metres: 1200 / 3937 };
const LOTS: Bounds = [6_489_000, 1_842_000, 6_490_000, 1_842_600];

describe('the unit of a source in a system', () => {
  it('is the system’s own where the two feet are taken for each other, and how far apart they lie is told', () => {
    const question = unitQuestion(crs(2229), FOOT, LOTS)!;
    // two feet in a million: 6 489 500 ft × 2.000004e-6, and 1 842 300 ft of northing
    expect(question.shift[0]).toBeCloseTo(-6_489_500 * (1 - 0.3048 / (1200 / 3937)), 6);
    expect(question.distance).toBe('13 US survey feet west and 3.68 US survey feet south');
    expect(proposedUnit(crs(2229), FOOT, LOTS)).toBeNull();
    expect(unitSentence(question, crs(2229), null)).toMatch(/It states feet.*taken as US survey feet.*Taken as feet it would lie 13 US/);
  });

  it('is asked for the other way round, and in metres', () => {
    const metres: Bounds = [1_978_000, 561_400, 1_978_300, 561_700];
    expect(unitQuestion(crs(2913), US_FOOT, [7_640_000, 680_000, 7_641_000, 681_000])!.distance).toMatch(
      /^15.3 feet east and 1.36 feet north$/,
    );
    expect(proposedUnit(crs(26945), { name: 'metre', metres: 1 }, metres)).toBe(1);
  });

  it('stays what the source states where only that puts it into the area of use', () => {
    const quay: Bounds = [1_464_000_000, 5_101_000_000, 1_464_500_000, 5_101_500_000];
    expect(unitQuestion(crs(2193), { name: 'millimetre', metres: 0.001 }, quay)).toBeNull();
    expect(proposedUnit(crs(2193), { name: 'millimetre', metres: 0.001 }, quay)).toBe(0.001);
    // what states millimetres and has metres lies in New Zealand as metres alone
    expect(proposedUnit(crs(2193), { name: 'millimetre', metres: 0.001 }, [1_464_000, 5_101_000, 1_464_500, 5_101_500])).toBeNull();
  });

  it('is no question any more once somebody settled it, until the source states another unit', () => {
    const placement = { crs: 'EPSG:2229', unit_m: null, settled_m: 0.3048 };
    expect(openUnitQuestion(placement, crs(2229), FOOT, LOTS)).toBeNull();
    expect(openUnitQuestion({ ...placement, settled_m: 1 }, crs(2229), FOOT, LOTS)).not.toBeNull();
    expect(openUnitQuestion({ crs: 'EPSG:2229', unit_m: null }, crs(2229), FOOT, LOTS)).not.toBeNull();
  });
});

describe('a system that can hardly be true', () => {
  const doubt = (code: number, extent: Bounds) => systemDoubt(crs(code), { unit_m: null }, extent);
  it('is one whose area of use holds nothing, or little, of the numbers', () => {
    expect(doubt(2193, [6_489_000, 1_842_000, 6_490_000, 1_842_600])).toMatchObject({ code: 'system-outside', inside: 0 });
    expect(doubt(2193, [1_464_000, 5_101_000, 1_464_500, 5_101_500])).toBeNull();
    const partly = doubt(2193, [1_464_000, 5_101_000, 4_464_000, 5_101_500])!;
    expect(partly.inside).toBeGreaterThan(0);
    expect(partly.message).toMatch(/^Only \d+ % of it lies in the area of use of EPSG:2193/);
  });

  it('is one of metres for numbers that are degrees, and one of degrees for numbers that are metres', () => {
    expect(doubt(2193, [171.2, -44.3, 171.3, -44.2])!.code).toBe('system-degrees');
    // at the origin of web Mercator they even lie in its area of use
    expect(doubt(3857, [171.2, -44.3, 171.3, -44.2])!.code).toBe('system-degrees');
    expect(isSevere(doubt(3857, [171.2, -44.3, 171.3, -44.2]))).toBe(true);
    expect(doubt(4326, [1_464_000, 5_101_000, 1_464_500, 5_101_500])!.code).toBe('system-metres');
    expect(doubt(4326, [-180, -90, 180, 90])).toBeNull();
  });
});

describe('the finder', () => {
  const found = (extent: Bounds, known = {}) =>
    findCandidates(extent, null, { systems: new Set(), places: [], ...known }, 12).map(
      (c) => `${c.crs.id}${c.mistake ? ` ${c.mistake}` : ''}`,
    );
  it('takes degrees for degrees first: the world’s system, then that of the place, and latitude first where nothing else fits', () => {
    expect(found([171.2, -44.3, 171.4, -44.1]).slice(0, 2)).toEqual(['EPSG:4326', 'EPSG:4167']);
    expect(found([-118.3, 33.9, -118.1, 34.1]).slice(0, 2)).toEqual(['EPSG:4326', 'EPSG:6318']);
    expect(found([34.1, -118.3, 34.2, -118.1])[0]).toBe('EPSG:4326 if latitude comes first');
  });

  it('puts the present realisation of a datum before its older ones', () => {
    const zones = found([389_000, 3_760_000, 390_000, 3_761_000], { near: [-118, 34] });
    const order = ['EPSG:6340', 'EPSG:26911', 'EPSG:26711'].map((id) => zones.indexOf(id));
    expect(order).toEqual([...order].sort((a, b) => a - b));
    expect(order[0]).toBe(0);
  });

  it('prefers the systems that count in the unit that is stated, or in the one that is taken for it', () => {
    const [first] = findCandidates(LOTS, 0.3048, { systems: new Set(), places: [], near: [-118.2, 34], unit_m: 0.3048 }, 5);
    expect(first!.crs.name).toMatch(/zone 5 \(ftUS\)/);
  });
});

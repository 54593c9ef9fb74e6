import { describe, expect, it } from 'vitest';
import type { AreaOfUse, Crs } from '@pontrel/core/crs/crs';
import { allCrs, isDeprecated, lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform } from '@pontrel/core/crs/transform';
import { writePrj } from '@pontrel/core/crs/wkt1';
import { python } from './python';

/** Points of an area of use: its corners drawn in a little, its middle, and a few between. */
function pointsOf(area: AreaOfUse): [number, number][] {
  const width = area.east >= area.west ? area.east - area.west : area.east - area.west + 360;
  return [0.02, 0.35, 0.5, 0.71, 0.98].flatMap((s) => [0.02, 0.5, 0.98].map((t): [number, number] => [((area.west + s * width + 540) % 360) - 180, area.south + t * (area.north - area.south)]));
}

const registered = [...allCrs()].filter((c) => c.area !== null && !isDeprecated(c.id!));
const projected = registered.filter((c): c is Extract<Crs, { kind: 'projected' }> => c.kind === 'projected');

describe('projected systems, against PROJ live (python3-pyproj)', () => {
  it(`all ${projected.length} of them: forward within 1 mm, inverse within 1e-9 degree`, () => {
    const jobs = projected.map((crs) => ({ crs, points: pointsOf(crs.area!) }));
    const reference = python<([number, number] | null)[][]>('project.py', { jobs: jobs.map(({ crs, points }) => ({ crs: crs.id, points })) });
    const wrong: string[] = [];
    let compared = 0;
    jobs.forEach(({ crs, points }, k) => {
      const { primeMeridian } = crs.base.datum;
      const unit = crs.base.degreesPerUnit;
      const own = points.map(([lon, lat]) => [(lon - primeMeridian) / unit, lat / unit] as const);
      const way = compileTransform(lookupCrs(crs.base.id!)!, crs);
      const there = Float64Array.from(own.flat());
      way.apply(there, 0, points.length, 2);
      const back = Float64Array.from(there);
      way.inverse().apply(back, 0, points.length, 2);
      own.forEach((p, i) => {
        const expected = reference[k]![i];
        if (!expected) return;
        compared++;
        const off = Math.hypot(there[2 * i]! - expected[0], there[2 * i + 1]! - expected[1]) * crs.unit.metres;
        const round = Math.max(Math.abs((((back[2 * i]! - p[0]) * unit + 540) % 360) - 180), Math.abs(back[2 * i + 1]! - p[1]) * unit);
        if (!(off < 1e-3)) wrong.push(`${crs.id} ${crs.name}: ${off} m off at ${p}`);
        else if (!(round < 1e-9)) wrong.push(`${crs.id} ${crs.name}: comes back ${round}° off at ${p}`);
      });
    });
    console.log(`${projected.length} projected systems, ${compared} points compared with PROJ, ${wrong.length} apart`);
    expect(wrong.slice(0, 20)).toEqual([]);
    expect(compared).toBeGreaterThan(14 * projected.length);
  });
});

describe('.prj texts', () => {
  it('are read by PROJ as the systems that they stand for', () => {
    // one in ten of all, and every one of New Zealand
    const items = registered.filter((c, i) => i % 10 === 0 || c.area!.name.startsWith('New Zealand')).map((crs) => {
      const { west, east, south, north } = crs.area!;
      return { id: crs.id!, text: writePrj(crs), at: [(west + (east >= west ? east : east + 360)) / 2, (south + north) / 2] };
    });
    const verdicts = python<(true | string)[]>('same_crs.py', items);
    const wrong = items.map((item, i) => ({ id: item.id, text: item.text, verdict: verdicts[i] })).filter((v) => v.verdict !== true);
    console.log(`${items.length} .prj texts read by PROJ, ${wrong.length} not the same`);
    expect(wrong.slice(0, 10)).toEqual([]);
  });
});

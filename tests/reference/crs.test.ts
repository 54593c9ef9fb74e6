import { describe, expect, it } from 'vitest';
import type { AreaOfUse, ProjectedCrs } from '@pontrel/core/crs/crs';
import { allCrs, isDeprecated, lookup } from '@pontrel/core/crs/registry/registry';
import { projectorOf } from '@pontrel/core/crs/projector';
import { python } from './python';

/** Points of an area of use: its corners drawn in a little, its middle, and a few between. */
function pointsOf(area: AreaOfUse): [number, number][] {
  const width = area.east >= area.west ? area.east - area.west : area.east - area.west + 360;
  return [0.02, 0.35, 0.5, 0.71, 0.98].flatMap((s) =>
    [0.02, 0.5, 0.98].map((t): [number, number] => [
      ((area.west + s * width + 540) % 360) - 180,
      area.south + t * (area.north - area.south),
    ]),
  );
}

const projected = [...allCrs()].filter((c): c is ProjectedCrs => c.kind === 'projected' && !isDeprecated(c.id!));

/** Systems on whose method PROJ differs from the published formula, or has none, with the reason; checked by worked examples instead. */
const EXCEPTIONS: Record<string, string> = {
  'EPSG:29333': 'PROJ rounds the axis of Bessel Namibia to a millimetre; 0.15 mm at 3 300 km from the equator',
  9832: 'PROJ follows the geodesic itself where Guidance Note 7-2 has a series; 0.15 mm apart',
  1028: 'PROJ 9.1 takes a sphere where Guidance Note 7-2 takes the meridian of the ellipsoid',
  1027: 'PROJ 9.1 takes the ellipsoid where Guidance Note 7-2 takes the sphere of the same area',
  9803: 'PROJ leaves out the turn of 29.2985 seconds of this method',
  9813: 'PROJ has another series; they are 2.8 mm apart in the far corners of the area, off the island',
  9816: 'PROJ has no such method',
  1042: 'PROJ 9.1 has no such method',
  1043: 'PROJ 9.1 has no such method',
};

/** Methods that PROJ 9.1 does not make of a code although it has the formula: a PROJ text for its projection, in eastings and northings from the origin. */
const BY_TEXT: Record<number, (p: Record<number, number>, lon: number) => string> = {
  9826: (p) => `+proj=lcc +lat_1=${p[8801]} +lat_0=${p[8801]} +lon_0=${p[8802]} +k_0=${p[8805]} +x_0=${-p[8806]!} +y_0=${p[8807]}`,
  9828: (p) => `+proj=bonne +lat_1=${p[8801]} +lon_0=${p[8802]} +x_0=${-p[8806]!} +y_0=${-p[8807]!}`,
  9817: (p) => `+proj=lcca +lat_0=${p[8801]} +lon_0=${p[8802]} +k_0=${p[8805]} +x_0=${p[8806]} +y_0=${p[8807]}`,
  // variant C counts northings from the true parallel, which a first point there tells
  9830: (p) => `+proj=stere +lat_0=${Math.sign(p[8832]!) * 90} +lat_ts=${p[8832]} +lon_0=${p[8833]} +x_0=${p[8826]} +y_0=0`,
  9824: (p, lon) => {
    const zone = Math.floor((lon - p[8830]!) / p[8831]!) + 1;
    return `+proj=tmerc +lat_0=${p[8801]} +lon_0=${p[8830]! + p[8831]! * (zone - 0.5)} +k_0=${p[8805]} +x_0=${p[8806]! + zone * 1e6} +y_0=${p[8807]}`;
  },
};

describe('projected systems, against PROJ live (python3-pyproj)', () => {
  it(`all ${projected.length} of them: forward within 1 mm, inverse within 1e-9 degree`, () => {
    const jobs = projected.flatMap((crs) => {
      const { base, parameters } = crs;
      const points = pointsOf(crs.area!).map(([lon, lat]): [number, number] => [
        (lon - base.datum.primeMeridian) / base.degreesPerUnit,
        lat / base.degreesPerUnit,
      ]);
      const text = BY_TEXT[crs.method];
      if (!text) return [{ crs, points, proj: undefined as string | undefined }];
      const { a, invF } = base.datum.ellipsoid;
      const full = (lon: number): string => `${text(parameters, lon)} +a=${a} +rf=${invF} +units=m +no_defs`;
      return crs.method === 9824 ? points.map((p) => ({ crs, points: [p], proj: full(p[0]) })) : [{ crs, points, proj: full(0) }];
    });
    const reference = python<(([number, number] | null)[] | string)[]>(
      'project.py',
      jobs.map(({ crs, points, proj }) => ({
        crs: crs.id,
        points: crs.method === 9830 ? [...points, [crs.parameters[8833]!, crs.parameters[8832]!]] : points,
        ...(proj ? { proj } : {}),
      })),
    );
    const apart = new Map<string, string>();
    const agreeing = new Set<string>();
    let compared = 0;
    jobs.forEach(({ crs, points, proj }, k) => {
      const answer = reference[k]!;
      if (typeof answer === 'string' || answer.every((p) => p === null)) {
        apart.set(crs.id!, `${crs.name} (${crs.method}): PROJ has no answer (${answer})`);
        return;
      }
      const projector = projectorOf(crs);
      const unit = crs.base.degreesPerUnit,
        metres = crs.unit.metres;
      // eastings and northings of a text to the signs and the origin of the system
      const [sx, sy] = proj ? [crs.axes.x === 'west' ? -1 : 1, crs.axes.y === 'south' ? -1 : 1] : [metres, metres];
      const fn = crs.method === 9830 ? crs.parameters[8827]! - answer.at(-1)![1] : 0;
      let worst = '';
      points.forEach(([x, y], i) => {
        const expected = answer[i];
        if (!expected) return;
        const [ex, ey] = [expected[0] * sx, expected[1] * sy + fn];
        compared++;
        const there = Float64Array.of(x * unit, y * unit);
        projector.forward(there, 0, 1, 2);
        const off = Math.hypot(there[0]! - ex, there[1]! - ey);
        if (!(off < 1e-3)) worst ||= `${off} m off at ${points[i]}`;
        projector.inverse(there, 0, 1, 2);
        const round = Math.max(turn(there[0]! - x * unit), Math.abs(there[1]! - y * unit));
        if (!(round < 1e-9)) worst ||= `comes back ${round}° off at ${points[i]}`;
        // PROJ's own eastings and northings lead to the point, too: sharper than its own inverse, which for some methods is a short series
        const back = Float64Array.of(ex, ey);
        projector.inverse(back, 0, 1, 2);
        const inverse = Math.max(turn(back[0]! - x * unit), Math.abs(back[1]! - y * unit));
        if (!(inverse < 1e-9)) worst ||= `inverse of PROJ's forward ${inverse}° off at ${points[i]}`;
      });
      if (worst) apart.set(crs.id!, `${crs.name} (${crs.method}): ${worst}`);
      else agreeing.add(crs.id!);
    });
    const reason = (id: string): string | undefined => EXCEPTIONS[id] ?? EXCEPTIONS[(lookup(id) as ProjectedCrs).method];
    const unexpected = [...apart].filter(([id]) => !reason(id));
    console.log(
      `${projected.length} projected systems, ${compared} points: ${agreeing.size} agree with PROJ. Not compared or apart for a reason:${[...apart].map(([id, why]) => `\n  ${id} ${why}; ${reason(id) ?? 'UNEXPECTED'}`).join('')}`,
    );
    expect(unexpected).toEqual([]);
    expect(apart.size).toBeLessThanOrEqual(12);
  });

  it('transverse Mercator has images all over the globe where PROJ has some, and none where PROJ has none', () => {
    const points = Array.from({ length: 52 }, (_, i) =>
      Array.from({ length: 25 }, (_, j): [number, number] => [-180 + 7 * i, -88 + 7.3 * j]),
    ).flat();
    // some of its two poles as well, where eastings go to infinity
    const systems = ['EPSG:2193', 'EPSG:27700', 'EPSG:32601', 'EPSG:2053'].map((id) => lookup(id) as ProjectedCrs);
    const jobs = systems.map((crs) => {
      const lon0 = crs.parameters[8802]!;
      const turned = (lon: number): number => ((lon + 540) % 360) - 180;
      return {
        crs: crs.id,
        points: [
          ...points,
          ...[-90, 90].flatMap((side) => [0, 0.5, 3, 7, 12].map((off): [number, number] => [turned(lon0 + side + off), 0])),
        ],
      };
    });
    const reference = python<([number, number] | null)[][]>('project.py', jobs);
    let none = 0;
    systems.forEach((crs, k) => {
      const projector = projectorOf(crs);
      jobs[k]!.points.forEach(([x, y], i) => {
        const own = Float64Array.of(x, y);
        projector.forward(own, 0, 1, 2);
        const theirs = reference[k]![i]!;
        const what = `${crs.id} at ${x} ${y}`;
        expect(Number.isFinite(own[0]! + own[1]!), what).toBe(theirs !== null);
        if (theirs === null) none++;
        // the series of the two are one, and as far as its middle exact
        else if (Math.abs(theirs[0]) < 9e6) expect(Math.hypot(own[0]! - theirs[0], own[1]! - theirs[1]), what).toBeLessThan(1e-2);
      });
      for (const east of [2e7, -2e7, 1e30, Infinity]) {
        const far = Float64Array.of(east, 1e6);
        projector.inverse(far, 0, 1, 2);
        expect(Number.isNaN(far[0]! + far[1]!)).toBe(true);
      }
    });
    expect(none).toBeGreaterThan(20);
  });
});

function turn(degrees: number): number {
  return Math.abs((((degrees % 360) + 540) % 360) - 180);
}

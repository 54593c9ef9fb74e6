import { describe, expect, it } from 'vitest';
import { datumOf } from '@pontrel/core/crs/crs';
import { undo } from '@pontrel/core/crs/datum/undo';
import { helmertShift } from '@pontrel/core/crs/datum/helmert';
import { datumOperations, lookupCrs } from '@pontrel/core/crs/registry/registry';
import { python } from './python';

describe('registered datum operations, against PROJ\'s own Helmert step live', () => {
  const operations = datumOperations().filter((o) => o.area !== null && lookupCrs(o.source) && lookupCrs(o.target));

  it(`all ${operations.length} by three and seven parameters: within 0.1 mm, and back to a micrometre`, () => {
    const jobs = operations.map((o) => {
      const { west, east, south, north } = o.area!;
      const width = east >= west ? east - west : east - west + 360;
      const points = [[0.1, 0.2], [0.5, 0.5], [0.9, 0.8]].map(([s, t]): [number, number] => [((west + s! * width + 540) % 360) - 180, south + t! * (north - south)]);
      const a = datumOf(lookupCrs(o.source)!).ellipsoid, b = datumOf(lookupCrs(o.target)!).ellipsoid;
      const ellipsoid = (e: typeof a): string => (e.invF === 0 ? `+a=${e.a} +b=${e.a}` : `+a=${e.a} +rf=${e.invF}`);
      const { tx, ty, tz, rx, ry, rz, ds } = o.helmert;
      const turns = rx || ry || rz || ds ? `+rx=${rx} +ry=${ry} +rz=${rz} +s=${ds} +convention=position_vector` : '';
      const pipeline = `+proj=pipeline +step +proj=unitconvert +xy_in=deg +xy_out=rad +step +proj=cart ${ellipsoid(a)} `
        + `+step +proj=helmert +x=${tx} +y=${ty} +z=${tz} ${turns} +step +inv +proj=cart ${ellipsoid(b)} +step +proj=unitconvert +xy_in=rad +xy_out=deg`;
      return { o, a, b, points, pipeline };
    });
    const reference = python<[number, number][][]>('shift.py', jobs.map(({ pipeline, points }) => ({ pipeline, points })));
    const metres = 111_195;
    const wrong: string[] = [];
    jobs.forEach(({ o, a, b, points }, k) => {
      const there = Float64Array.from(points.flat());
      helmertShift(o.helmert, a, b, false)(there, 0, points.length, 2);
      const back = Float64Array.from(there);
      undo(helmertShift(o.helmert, a, b, false))(back, 0, points.length, 2);
      points.forEach((p, i) => {
        const cos = Math.cos((p[1] * Math.PI) / 180);
        const turn = (d: number): number => ((d + 540) % 360) - 180;
        const off = Math.hypot(turn(there[2 * i]! - reference[k]![i]![0]) * cos, there[2 * i + 1]! - reference[k]![i]![1]) * metres;
        if (!(off < 1e-4)) wrong.push(`${o.id} ${o.name}: ${off} m`);
        const round = Math.hypot(turn(back[2 * i]! - p[0]) * cos, back[2 * i + 1]! - p[1]) * metres;
        if (!(round < 1e-6)) wrong.push(`${o.id} ${o.name}: comes back ${round} m off`);
      });
    });
    console.log(`${operations.length} datum operations compared with PROJ, ${wrong.length} apart`);
    expect(wrong.slice(0, 20)).toEqual([]);
  });
});

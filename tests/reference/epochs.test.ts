import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { datumOf } from '@pontrel/core/crs/crs';
import { readDefinition, readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { datumOperations } from '@pontrel/core/crs/registry/datum-operations';
import { datumPaths } from '@pontrel/core/crs/operations';
import { allCrs, isDeprecated, lookup } from '@pontrel/core/crs/registry/registry';
import { compileTransform, onEarth } from '@pontrel/core/crs/transform';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** Coordinates that hold at a date, where parameters move with time, against PROJ. */
const METRES = 111_195;

/** The systems in degrees, without heights, by their datum. */
const inDegrees = new Map(
  [...allCrs()].flatMap((c) =>
    c.kind === 'geographic' && c.dimension === 2 && !isDeprecated(c.id!) && c.datum.id ? [[c.datum.id, c.id!]] : [],
  ),
);

/** The one in degrees on the datum of a system. */
const degreesOf = (id: string): string | undefined => {
  const crs = lookup(id);
  return crs?.kind === 'geographic' || crs?.kind === 'geocentric' ? inDegrees.get(datumOf(crs).id!) : undefined;
};

/** Operations with rates, and the systems in degrees that they lead between. */
const jobs = [...datumOperations()].flatMap((o) => {
  const [from, to] = [degreesOf(o.source), degreesOf(o.target)];
  return o.content.kind === 'helmert' && o.content.rates && from && to && o.area
    ? [{ from, to, id: o.id, operation: o.name, area: o.area }]
    : [];
});

describe('coordinates at a date', () => {
  it.each([1994, 2010.5, 2026.25])('are carried as PROJ carries them at %d, within a micrometre', (epoch) => {
    const asked = jobs.map(({ from, to, operation, area: { west, south, east, north } }) => ({
      from,
      to,
      operation,
      epoch,
      points: [0.2, 0.5, 0.8].map((t) => [west + t * ((east < west ? east + 360 : east) - west), south + t * (north - south)]),
    }));
    const answers = python<([number, number][] | null)[]>('at_date.py', asked);
    let compared = 0;
    const worst = answers.map((answer, k) => {
      const { from, to } = asked[k]!;
      const [a, b] = [readPositions(`${from}@${epoch}`), readPositions(to)];
      const own = datumPaths(onEarth(a), onEarth(b)).find((p) => p.steps.length === 1 && p.steps[0]!.operation.id === jobs[k]!.id);
      if (!answer || !own) return 0;
      compared++;
      const transform = compileTransform(a, b, { path: own });
      expect(transform.steps.map((s) => s.name).join()).toContain(`at ${epoch}`);
      return Math.max(
        ...asked[k]!.points.map((point, n) => {
          const p = Float64Array.from(point);
          transform.apply(p, 0, 1, 2);
          return METRES * Math.hypot((p[0]! - answer[n]![0]) * Math.cos((p[1]! * Math.PI) / 180), p[1]! - answer[n]![1]);
        }),
      );
    });
    console.log(`${compared} operations with rates at ${epoch}; at most ${(1000 * Math.max(...worst)).toExponential(1)} mm off`);
    expect(compared).toBeGreaterThan(8);
    expect(Math.max(...worst)).toBeLessThan(1e-6);
  });

  it('are part of what a recipe calls a system, and come back from it, as a code and as WKT', () => {
    for (const text of ['EPSG:9000@2026.5', 'EPSG:7912@2010', 'EPSG:9990+3855@2020.25']) {
      const crs = readPositions(text);
      expect(readPositions(definitionOf(crs)).epoch).toBe(Number(text.split('@')[1]));
    }
    const { json } = pontrel('crs', 'show', 'EPSG:9000@2026.5', '--as', 'wkt2') as { json: { text?: string } };
    const wkt = JSON.stringify(json)
      .match(/COORDINATEMETADATA.*EPOCH\[2026\.5\]\]/)![0]
      .replaceAll('\\"', '"');
    expect(readDefinition(wkt)).toMatchObject({ id: 'EPSG:9000', epoch: 2026.5 });
  });

  it('of two dates are not taken for one, and no date is one that is none', () => {
    expect(() => compileTransform(readPositions('EPSG:9000@2020'), readPositions('EPSG:9000@2021'))).toThrow(/two dates/);
    for (const text of ['EPSG:9000@3020', 'local@2020', 'EPSG:7839@2020'])
      expect(() => readDefinition(text)).toThrow(/2020|3020|saved name/);
  });

  it('cross with their date on the command line: the records lie where PROJ puts them', () => {
    const { folder, remove } = temporaryFolder();
    const places = [
      [115.8575, -31.9505],
      [149.1281, -35.2809],
    ];
    const file = path.join(folder, 'marks.csv');
    writeFileSync(file, `name,x,y\n${places.map(([x, y], k) => `mark ${k},${x},${y}`).join('\n')}\n`);
    const out = path.join(folder, 'marks.geojson');
    const { json } = pontrel('convert', file, out, '--from', 'EPSG:9000@2030', '--to', 'EPSG:7844', '--option', 'form=named') as {
      json: any;
    };
    expect(json.error?.message ?? json.proof.status).toBe('match');
    // the target has no date of its own, which nothing is lost by
    expect(json.findings.map((f: { code: string }) => f.code)).not.toContain('date-not-stated');
    const [answer] = python<[number, number][][]>('at_date.py', [
      { from: 'EPSG:9000', to: 'EPSG:7844', operation: 'ITRF2014 to GDA2020 (1)', epoch: 2030, points: places },
    ]);
    const { features } = JSON.parse(readFileSync(out, 'utf8')) as { features: { geometry: { coordinates: [number, number] } }[] };
    const moved = features.map(({ geometry: { coordinates: p } }, k) => METRES * Math.hypot(p[0] - places[k]![0]!, p[1] - places[k]![1]!));
    // a plate that moves seven centimetres a year has moved by about seven decimetres in ten years
    for (const m of moved) expect(m).toBeGreaterThan(0.5);
    features.forEach(({ geometry: { coordinates: p } }, k) => {
      expect(Math.abs(p[0] - answer![k]![0])).toBeLessThan(1e-9);
      expect(Math.abs(p[1] - answer![k]![1])).toBeLessThan(1e-9);
    });
    remove();
  });
});

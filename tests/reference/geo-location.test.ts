import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { dxf } from '@pontrel/core/formats/dxf/index';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { Findings } from '@pontrel/core/model/finding';
import { compilePlacement } from '@pontrel/core/placement/placement-transform';
import { fileSource } from '@pontrel/host-node/files';
import { temporaryFolder } from '../server/client';

describe('the geographic location of a drawing, written by ezdxf', () => {
  const { folder, remove } = temporaryFolder();
  beforeAll(() =>
    expect(spawnSync('/usr/bin/python3', [fileURLToPath(new URL('make_geo_located.py', import.meta.url)), folder]).status).toBe(0),
  );
  afterAll(remove);
  const factsOf = async (name: string) => {
    const open = await dxf.features.open(await fileSource(`${folder}/${name}`));
    for await (const batch of open.read(new Findings(), UNWATCHED)) void batch;
    return open.facts();
  };

  it('states the system by its code', async () => {
    const facts = await factsOf('projected.dxf');
    expect(facts.crs?.id).toBe('EPSG:2193');
    expect(facts.fit).toBeUndefined();
    expect(facts.crsText).toContain('NZGD2000/NZTM');
  });

  it('ties a local grid by a point and a north', async () => {
    const { crs, fit, unit } = await factsOf('local.dxf');
    const plane = compilePlacement(crs!, { unit_m: unit!.metres, fit });
    const p = Float64Array.of(100, 200, 100 - 50, 200 + 86.60254037844386);
    plane.forward(p, 0, 2, 2);
    // 100 m along the drawing's north lies 100 m to the north
    expect([...p].map((v) => Number(v.toFixed(6)))).toEqual([1463700, 5101400, 1463700, 5101500]);
  });
});

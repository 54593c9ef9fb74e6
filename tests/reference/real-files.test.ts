import { mkdirSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { writeWkt2 } from '@pontrel/core/crs/definitions/wkt2';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { KINDS } from '@pontrel/core/model/batch';
import { crsOf } from '@pontrel/core/placement/route';
import { temporaryFolder } from '../server/client';
import { crossInto, gather } from './cross-file';
import { openData } from './open-data';
import { python } from './python';

/** Open data of r-cran-sf (Debian), by others: lines with heights and measures, points, counties, buildings, a table without places, GML of a weather service. */
const SF = '/usr/lib/R/site-library/sf';
const FILES = [
  'shape/nc.shp',
  'shape/olinda1.shp',
  'shape/storms_xyz.shp',
  'shape/storms_xyz_feature.shp',
  'shape/storms_xyzm.shp',
  'shape/storms_xyzm_feature.shp',
  'gpkg/nc.gpkg',
  'gpkg/b_pump.gpkg',
  'gpkg/buildings.gpkg',
  'gpkg/nospatial.gpkg',
  'gpkg/tl.gpkg',
  'gml/fmi_test.gml',
];
const WRITTEN = FORMATS.filter((f) => f.features.write);

describe('real files by others', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made = 0;

  it.each(FILES)('%s has as many records as others count, and goes into every format and back', async (name) => {
    const file = `${openData('r-cran-sf')}${SF}/${name}`;
    const source = await gather(file);
    const records = source.batches.reduce((n, b) => n + b.count, 0);
    expect(records).toBe(python<number[]>('count_records.py', [file])[0]);
    expect(records).toBeGreaterThan(0);
    // a file that states nothing is taken for degrees, which all of these are
    const from = source.crs?.id ?? (source.crs ? writeWkt2(source.crs) : 'EPSG:4326');
    for (const format of WRITTEN) {
      // a table without places has nothing to draw
      if (source.batches.every((b) => b.kinds.every((k) => format.features.carries.kinds[KINDS[k]!] === null))) continue;
      const path = `${folder}/${++made}`;
      mkdirSync(path);
      const own = prescribedCrs(format) ?? (format.id === 'gml' && !source.crs?.id ? 'EPSG:4326' : from);
      const placement = { crs: from, unit_m: null, ballpark: true };
      // what holds no degrees says so, and takes a plane
      const isRefused = format.features.write!.crsFindings(crsOf(own)!, {}).some((f) => f.severity === 'wrong');
      if (isRefused)
        await expect(crossInto(path, source, { format: format.id, crs: own, placement })).rejects.toMatchObject({
          code: 'deliverable-blocked',
        });
      const job = { format: format.id, crs: isRefused ? 'EPSG:3857' : own, placement };
      // outlines of states are longer than a cell of a workbook
      if (format.id === 'spreadsheet' && source.profiler.layers().some((l) => l.groups.some((g) => (g.most ?? 0) > 1000))) {
        await expect(crossInto(path, source, job)).rejects.toMatchObject({ code: 'deliverable-blocked' });
        continue;
      }
      const { prepared, proof } = await crossInto(path, source, job);
      expect({ into: format.id, differences: proof.differences.filter((d) => !d.expected) }).toEqual({ into: format.id, differences: [] });
      expect([format.id, proof.status, proof.records.in, proof.records.out]).toEqual([
        format.id,
        'match',
        prepared.forecast.arriving,
        prepared.forecast.arriving,
      ]);
      expect([format.id, prepared.forecast.arriving + prepared.forecast.totals.left]).toEqual([format.id, records]);
    }
  });
});

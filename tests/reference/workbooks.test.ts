import { afterAll, describe, expect, it } from 'vitest';
import { hasGeometry } from '@pontrel/core/content/features/profile';
import { temporaryFolder } from '../server/client';
import { crossInto, gather } from './cross-file';
import { python } from './python';

describe('workbooks that openpyxl wrote', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);

  it('are read sheet by sheet, with places, days, marks and rows that lie nowhere', async () => {
    python('write_book.py', { file: `${folder}/valves.xlsx` });
    const read = await gather(`${folder}/valves.xlsx`);
    expect(read.batches.map((b) => [b.layer, b.count])).toEqual([
      ['Valves', 4],
      ['Register', 1],
    ]);
    const [valves] = read.batches;
    expect([...valves!.kinds]).toEqual([0, 0, 4, 4]);
    expect([...valves!.coords]).toEqual([1464000.25, 5101500.5, 3.25, 1464010, 5101510, NaN]);
    const column = (name: string): unknown => valves!.columns.get(name);
    expect([column('id'), column('made'), column('seen'), column('live')]).toEqual([
      ['V-001', '007', 'V-003', 'after a gap'],
      ['2019-02-28', '1900-03-01', null, null],
      ['2026-11-25T08:30:00', null, null, null],
      [true, false, null, null],
    ]);
    expect(column('note')).toEqual(['Shed 3\nŌtautahi', 'on the quay', null, null]);
    expect([...valves!.locations]).toEqual([2, 3, 4, 7]);
    // a formula whose value was never worked out has none
    expect(valves!.columns.has('twice')).toBe(false);
    expect(read.findings.map((f) => [f.code, f.count, f.location])).toEqual([
      ['table-unplaced', 2, 'Valves'],
      ['table-no-places', 1, 'Register'],
    ]);
    const profile = read.profiler.layers()[0]!;
    expect(profile.groups[0]!.fields.filter((f) => f.type === 'date').map((f) => f.name)).toEqual(['made']);
  });

  it('keep their days through a shapefile, and need no system where nothing lies anywhere', async () => {
    const read = await gather(`${folder}/valves.xlsx`);
    const { proof } = await crossInto(`${folder}`, read, { format: 'shapefile', crs: 'EPSG:2193' });
    expect([proof.status, proof.records.out]).toEqual(['match', 5]);
    const back = await gather(`${folder}/valves_point.shp`);
    expect(back.profiler.layers()[0]!.groups[0]!.fields.find((f) => f.name === 'made')!.type).toBe('date');
    expect(hasGeometry((await gather(`${folder}/register.shp`)).profiler.layers())).toBe(false);
  });
});

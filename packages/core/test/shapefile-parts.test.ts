import { NO_STYLE } from '../src/symbology/layer-style';
import { describe, expect, it } from 'vitest';
import { lookupCrs } from '../src/crs/registry/registry';
import type { TargetSet } from '../src/formats/format';
import { shapefile } from '../src/formats/shapefile/index';
import { createShapefiles } from '../src/formats/shapefile/write';
import { UNWATCHED } from '../src/io/bytes';
import { LINE } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { Findings } from '../src/model/finding';
import { plain, type PlainRecord } from './drawing';
import { MemoryFolder } from './memory-files';

describe('a set that is larger than a file may be', () => {
  it.each([
    [4000, false],
    [4000, true],
    [1100, false],
  ])('is in parts of at most %i bytes, one after the other (heights: %s), and read back as one', async (most, heights) => {
    const b = new BatchBuilder('pipes');
    for (let k = 0; k < 200; k++) {
      for (let v = 0; v <= k % 7; v++) b.vertex(1_464_000 + k, 5_101_500 + v, heights ? v : NaN);
      b.vertex(0, k, heights ? 1 : NaN);
      b.endPart();
      b.set('number', k);
      b.endFeature(LINE, 'LINE', k + 1);
    }
    const batch = b.take();
    const set: TargetSet = {
      name: 'pipes',
      kind: 'line',
      heights,
      measures: false,
      fields: [{ from: 'number', to: 'number', type: 'integer', width: 3, decimals: 0 }],
      count: 200,
      vertices: batch.coords.length / 3,
      parts: 200,
      several: false,
      most: 9,
      color: null,
      symbology: [],
      style: NO_STYLE,
    };
    const folder = new MemoryFolder();
    const context = { crs: lookupCrs('EPSG:2193')!, stem: 'pipes', options: {}, libraries: [] };
    const writer = await createShapefiles(folder, [set], context, most);
    await writer.append(
      0,
      batch,
      Uint32Array.from({ length: 200 }, (_, k) => k),
      200,
      's',
    );
    const findings = new Findings();
    await writer.close(findings);
    const sizes = [...folder.files].filter(([n]) => /\.(shp|dbf)$/.test(n));
    expect(sizes.length).toBeGreaterThan(6);
    for (const [name, bytes] of sizes) expect([name, bytes.length <= most]).toEqual([name, true]);
    expect(findings.list().map((f) => [f.code, f.count])).toEqual([['shp-parts', sizes.length / 2]]);
    // the length in the header is that of the file, in words of 16 bits
    for (const [, bytes] of sizes.filter(([n]) => n.endsWith('.shp')))
      expect(new DataView(bytes.buffer).getInt32(24) * 2).toBe(bytes.length);
    const [back] = await shapefile.features.write!.readBack(folder, [set], context);
    const records: PlainRecord[] = [];
    for await (const read of back!.open.read(new Findings(), UNWATCHED)) records.push(...plain(read));
    expect(records.map((r) => r.attributes.number)).toEqual(Array.from({ length: 200 }, (_, k) => k));
    expect(records.map((r) => r.parts)).toEqual(plain(batch).map((r) => r.parts));
  });
});

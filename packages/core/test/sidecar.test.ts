import { NO_STYLE } from '../src/symbology/layer-style';
import { describe, expect, it } from 'vitest';
import { shapefile } from '../src/formats/shapefile/index';
import { openShapefile } from '../src/formats/shapefile/read';
import { lookupCrs } from '../src/crs/registry/registry';
import { UNWATCHED } from '../src/io/bytes';
import { type FeatureBatch, KINDS } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { Findings } from '../src/model/finding';
import type { TargetSet } from '../src/formats/format';
import { gated, groups, plain, type PlainRecord } from './drawing';
import { MemoryFolder } from './memory-files';

const LONG = 'ā'.repeat(200);
const FIELDS = [
  { from: 'INSTALLATION_YEAR', to: 'INST_YEAR', type: 'integer' as const, width: 4, decimals: 0 },
  { from: 'note', to: 'note', type: 'text' as const, width: 254, decimals: 0, cut: true },
];
const SET: TargetSet = {
  name: 'quay',
  kind: 'point',
  heights: false,
  measures: false,
  fields: FIELDS,
  count: 4,
  vertices: 4,
  parts: 4,
  several: false,
  most: 1,
  color: null,
  symbology: [],
  style: NO_STYLE,
};

function points(layer: string, kind: (typeof KINDS)[number], ...years: number[]): FeatureBatch {
  const b = new BatchBuilder(layer);
  for (const year of years) {
    b.vertex(1_464_000 + year, 5_101_000, NaN);
    b.endPart();
    b.set('INSTALLATION_YEAR', year);
    b.set('note', year === 1987 ? LONG : 'short');
    b.endFeature(KINDS.indexOf(kind), 'X', 1);
  }
  return b.take();
}

async function written(): Promise<MemoryFolder> {
  const folder = new MemoryFolder();
  const { library } = await gated(groups(0, 'INSERT', 8, 'VALVES', 2, 'GATE', 10, 0, 20, 0));
  const writer = await shapefile.features.write!.create(folder, [SET], {
    crs: lookupCrs('EPSG:2193')!,
    stem: 'quay',
    options: {},
    libraries: [{ source: 's', library }],
  });
  for (const batch of [points('Quay/Wall', 'point', 1986, 1987), points('Quay/Wall', 'text', 1988), points('MARKS', 'point', 1989)])
    await writer.append(
      0,
      batch,
      Uint32Array.from({ length: batch.count }, (_, k) => k),
      batch.count,
      's',
    );
  await writer.close(new Findings());
  return folder;
}

async function read(folder: MemoryFolder, bare = false): Promise<{ records: PlainRecord[]; findings: string[] }> {
  const findings = new Findings();
  const open = await openShapefile(await folder.open('quay.shp'), { bare });
  const records: PlainRecord[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) records.push(...plain(batch));
  return { records, findings: findings.list().map((f) => f.code) };
}

describe('the sidecar of a shapefile', () => {
  it('brings back long names, cut texts, layers and kinds; without it the shapefile is what it always was', async () => {
    const folder = await written();
    const { records, findings } = await read(folder);
    expect(findings).toEqual([]);
    expect(records.map((r) => [r.layer, r.kind, r.attributes.INSTALLATION_YEAR])).toEqual([
      ['Quay/Wall', 'point', 1986],
      ['Quay/Wall', 'point', 1987],
      ['Quay/Wall', 'text', 1988],
      ['MARKS', 'point', 1989],
    ]);
    expect(records[1]!.attributes.note).toBe(LONG);
    const { records: bare } = await read(folder, true);
    expect(bare.map((r) => [r.layer, r.kind, r.attributes.INST_YEAR])).toEqual([1986, 1987, 1988, 1989].map((y) => ['quay', 'point', y]));
    expect(String(bare[1]!.attributes.note).length).toBe(127);
  });

  it('of another state of the table, or damaged, is set aside and said', async () => {
    const folder = await written();
    const sidecar = new TextDecoder().decode(folder.files.get('quay.sidecar'));
    for (const text of [sidecar.replace('"records":4', '"records":5'), sidecar.slice(0, 40), 'hello', '{"sidecar":9}', '']) {
      folder.files.set('quay.sidecar', new TextEncoder().encode(text));
      const { records, findings } = await read(folder);
      expect(findings).toEqual(['shp-sidecar-unread']);
      expect(records.map((r) => r.attributes.INST_YEAR)).toEqual([1986, 1987, 1988, 1989]);
    }
  });
});

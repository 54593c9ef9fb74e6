import { mkdtempSync, readdirSync, renameSync, rmSync, unlinkSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openShapefile } from '@pontrel/core/formats/shapefile/read';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { Findings, type Finding } from '@pontrel/core/model/finding';
import { fileSource } from '@pontrel/host-node/files';
import { plain, type PlainRecord } from '../../packages/core/test/drawing';
import { python } from './python';

interface Written {
  name: string;
  rows: {
    m: (number | null)[] | null;
    points: [number, number, number | null][];
    parts: number[];
    values: Record<string, string | number | boolean | null>;
  }[];
}

const folder = mkdtempSync(path.join(tmpdir(), 'pontrel-shapes-'));
let written: Written[];
beforeAll(() => {
  written = python<Written[]>('make_shapefiles.py', { folder });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

async function read(name: string): Promise<{ records: PlainRecord[]; findings: Finding[] }> {
  const findings = new Findings();
  const records: PlainRecord[] = [];
  const open = await openShapefile(await fileSource(path.join(folder, name)));
  for await (const batch of open.read(findings, UNWATCHED)) records.push(...plain(batch));
  return { records, findings: findings.list() };
}

const KINDS: Record<string, string> = { point: 'point', multipoint: 'point', line: 'line', polygon: 'polygon' };

describe('shapefiles that pyshp wrote', () => {
  it.each(['point', 'pointz', 'pointm', 'multipoint', 'multipointz', 'line', 'linez', 'linem', 'polygon', 'polygonz', 'polygonm'])(
    '%s: every vertex and value as pyshp reads it',
    async (name) => {
      const { rows } = written.find((w) => w.name === name)!;
      const { records: all, findings } = await read(`${name}.shp`);
      // the one null shape is a record without a place, with its values
      const [nowhere, ...others] = all.filter((r) => r.kind === 'none');
      expect([nowhere!.parts, nowhere!.attributes.COUNT, others]).toEqual([[], 4000, []]);
      const records = all.filter((r) => r.kind !== 'none');
      expect(findings).toContainEqual(expect.objectContaining({ code: 'shp-null', count: 1 }));
      expect(records).toHaveLength(rows.length);
      records.forEach((record, i) => {
        const row = rows[i]!;
        expect(record.kind).toBe(KINDS[name.replace(/[zm]$/, '')]);
        const vertices = record.parts.flat();
        expect(vertices.map(([x, y]) => [x, y])).toEqual(row.points.map(([x, y]) => [x, y]));
        if (name.endsWith('z')) expect(vertices.map((v) => v[2])).toEqual(row.points.map((p) => p[2]));
        else expect(vertices.every((v) => Number.isNaN(v[2]))).toBe(true);
        if (row.parts.length > 1) {
          let at = 0;
          const starts = record.parts.map((part) => (at += part.length) - part.length);
          expect(starts).toEqual(row.parts);
        }
        // pyshp says null, or less than -10^38, where there are none
        const measures = row.m?.map((m) => (m === null || m < -1e38 ? null : m)) ?? [];
        expect(record.measures ?? null).toEqual(measures.some((m) => m !== null) ? measures : null);
        for (const [field, value] of Object.entries(row.values)) {
          const empty = value === null || value === '';
          expect([field, record.attributes[field] ?? null]).toEqual([field, empty ? null : value]);
        }
      });
    },
  );

  it('are read with capital extensions, as other systems write them', async () => {
    for (const file of readdirSync(folder).filter((f) => f.startsWith('linez.')))
      renameSync(path.join(folder, file), path.join(folder, file.replace('linez', 'CAPITAL').toUpperCase()));
    const { records } = await read('CAPITAL.SHP');
    expect(records).toHaveLength(7);
    expect(records[0]!.attributes.COUNT).toBe(1000);
  });

  it('multipatches are their faces, each with the values of its record', async () => {
    const { rows } = written.find((w) => w.name === 'multipatch')!;
    const { records, findings } = await read('multipatch.shp');
    const faces = records.filter((r) => r.kind === 'polygon');
    // two triangles of the strip, two of the fan, and the wall with its window
    expect(faces.length).toBe(5 * rows.length);
    expect(faces.slice(0, 5).map((f) => f.parts.map((p) => p.length))).toEqual([[4], [4], [4], [4], [5, 5]]);
    const [, b, c, d] = rows[0]!.points as [number, number, number][];
    expect(faces[1]!.parts[0]!.map((v) => v.slice(0, 3))).toEqual([b, c, d, b]);
    rows.forEach((row, k) => faces.slice(5 * k, 5 * k + 5).forEach((f) => expect(f.attributes.COUNT ?? null).toBe(row.values.COUNT)));
    expect(findings.map((f) => [f.code, f.count])).toContainEqual(['shp-multipatch', 6]);
  });

  it('are read without their table, said aloud', async () => {
    unlinkSync(path.join(folder, 'polygonz.dbf'));
    const { records, findings } = await read('polygonz.shp');
    expect(records).toHaveLength(7);
    expect(records[0]!.attributes).toEqual({});
    expect(findings.map((f) => f.code)).toEqual(expect.arrayContaining(['shp-no-dbf', 'shp-no-prj']));
  });
});

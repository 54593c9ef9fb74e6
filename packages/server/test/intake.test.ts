import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import type { MultipartFile } from '@fastify/multipart';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { drawing, groups } from '../../core/test/drawing';
import { type Intake, takeIn } from '../src/api/intake';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'pontrel-intake-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const SHP = Buffer.concat([Buffer.from([0, 0, 0x27, 0x0a]), Buffer.alloc(96)]);
const DXF = drawing(groups(0, 'POINT', 8, '0', 10, 1, 20, 2));

/** Files as they come in with a form. */
async function* parts(...files: [string, Buffer | string, boolean?][]): AsyncGenerator<MultipartFile> {
  for (const [filename, content, truncated] of files) {
    const bytes = Buffer.from(content);
    const file = Object.assign(Readable.from([bytes]), { truncated: truncated ?? false, bytesRead: bytes.length });
    yield { filename, file } as unknown as MultipartFile;
  }
}

const summary = (intakes: Intake[]): string[] => intakes.map((i) => `${i.name} ${[i.extension, ...i.companions.map((c) => c.extension)].join('')}`);

describe('taking files in', () => {
  it('puts companions to the file that they belong to, whatever their case and order', async () => {
    const intakes = await takeIn(parts(['Roads.DBF', 'x'], ['parcels.prj', 'y'], ['roads.shp', SHP], ['PARCELS.SHP', SHP], ['Roads.prj', 'z'], ['quay.dxf', DXF]), folder);
    expect(summary(intakes)).toEqual(['roads.shp .shp.dbf.prj', 'PARCELS.SHP .shp.prj', 'quay.dxf .dxf']);
    expect(readFileSync(intakes[0]!.companions[0]!.file, 'utf8')).toBe('x');
  });

  it('keeps the name that people know, and makes no path of it', async () => {
    const [intake] = await takeIn(parts(['..\\..\\C:\\temp\\quay\u0007.dxf', DXF]), folder);
    expect(intake!.name).toBe('quay.dxf');
    expect(path.dirname(intake!.file)).toBe(folder);
    expect(path.basename(intake!.file)).toMatch(/^[0-9a-f]{16}$/);
  });

  it('knows a drawing by its content when its name says nothing', async () => {
    const [intake] = await takeIn(parts(['export', DXF]), folder);
    expect(intake).toMatchObject({ name: 'export', extension: '.dxf' });
  });

  it.each([
    ['no file at all', [], /No file came along/],
    ['companions alone', [['roads.dbf', 'x'], ['roads.prj', 'y']], /roads\.dbf, roads\.prj: these go with a \.shp file/],
    ['a stranger among good ones', [['quay.dxf', DXF], ['notes.docx', 'PK']], /notes\.docx is of no kind that is read here/],
    ['a DWG among good ones', [['quay.dxf', DXF], ['plan.dwg', 'AC1027\0']], /plan\.dwg is a DWG drawing/],
    ['an empty file', [['quay.dxf', '']], /quay\.dxf is empty/],
    ['one that is too large', [['quay.dxf', DXF, true]], /quay\.dxf is larger than the limit/],
  ] as [string, [string, Buffer | string, boolean?][], RegExp][])('refuses %s, and keeps nothing of it', async (_name, files, message) => {
    await expect(takeIn(parts(...files), folder)).rejects.toThrow(message);
    expect(readdirSync(folder)).toEqual([]);
  });
});

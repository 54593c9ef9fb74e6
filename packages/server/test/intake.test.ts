import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { zipSync } from 'fflate';
import type { MultipartFile } from '@fastify/multipart';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { drawing, groups } from '../../core/test/drawing';
import { type FileIntake, type Taken, takeIn as take } from '../src/api/intake';

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

/** The same where files of records are handed in. */
async function takeIn(...given: Parameters<typeof take>): Promise<Omit<Taken, 'intakes'> & { intakes: FileIntake[] }> {
  const taken = await take(...given);
  return { ...taken, intakes: taken.intakes as FileIntake[] };
}

const summary = (intakes: FileIntake[]): string[] =>
  intakes.map((i) => `${i.name} ${[i.extension, ...i.companions.map((c) => c.extension)].join('')}`);

describe('taking files in', () => {
  it('puts companions to the file that they belong to, whatever their case and order', async () => {
    const { intakes } = await takeIn(
      parts(['Roads.DBF', 'x'], ['parcels.prj', 'y'], ['roads.shp', SHP], ['PARCELS.SHP', SHP], ['Roads.prj', 'z'], ['quay.dxf', DXF]),
      folder,
    );
    expect(summary(intakes)).toEqual(['roads.shp .shp.dbf.prj', 'PARCELS.SHP .shp.prj', 'quay.dxf .dxf']);
    expect(readFileSync(intakes[0]!.companions[0]!.file, 'utf8')).toBe('x');
  });

  it('keeps the name that people know, and makes no path of it', async () => {
    const [intake] = (await takeIn(parts(['..\\..\\C:\\temp\\quay\u0007.dxf', DXF]), folder)).intakes;
    expect(intake!.name).toBe('quay.dxf');
    expect(path.dirname(intake!.file)).toBe(folder);
    expect(path.basename(intake!.file)).toMatch(/^[0-9a-f]{16}$/);
  });

  it('knows a drawing by its content when its name says nothing', async () => {
    const [intake] = (await takeIn(parts(['export', DXF]), folder)).intakes;
    expect(intake).toMatchObject({ name: 'export', extension: '.dxf' });
  });

  it('takes what is good among bad ones, and says of each file what became of it', async () => {
    const { intakes, log } = await takeIn(
      parts(
        ['quay.dxf', DXF],
        ['plan.dwg', 'AC1027\0'],
        ['big.dxf', DXF, true],
        ['roads.shp', SHP],
        ['roads.dbf', 'x'],
        ['lonely.shx', 'x'],
      ),
      folder,
    );
    expect(summary(intakes)).toEqual(['quay.dxf .dxf', 'roads.shp .shp.dbf']);
    expect(log.map((l) => [l.name, l.outcome, l.message?.slice(0, 24) ?? null])).toEqual([
      ['big.dxf', 'refused', 'big.dxf is larger than t'],
      ['quay.dxf', 'taken', null],
      ['plan.dwg', 'refused', 'plan.dwg is a DWG drawin'],
      ['roads.shp', 'taken', 'with .dbf'],
      ['lonely.shx', 'refused', 'lonely.shx: this goes wi'],
    ]);
    // nothing lies there but what was taken
    expect(readdirSync(folder).length).toBe(3);
  });

  it('finds sets within archives, folder by folder, makes no path of what an archive says, and opens no archive within one', async () => {
    const bytes = (b: Buffer | string): Uint8Array => new Uint8Array(Buffer.from(b));
    const inner = zipSync({ 'deep.dxf': bytes(DXF) });
    const archive = zipSync({
      'north/roads.shp': bytes(SHP),
      'north/roads.dbf': bytes('north'),
      'south/ROADS.shp': bytes(SHP),
      'south/roads.DBF': bytes('south'),
      '../../../etc/quay.dxf': bytes(DXF),
      'readme.pdf': bytes('%PDF'),
      'more.zip': inner,
    });
    const { intakes, log } = await takeIn(parts(['all.zip', Buffer.from(archive)]), folder);
    expect(summary(intakes)).toEqual(['roads.shp .shp.dbf', 'ROADS.shp .shp.dbf', 'quay.dxf .dxf']);
    expect(intakes.slice(0, 2).map((i) => readFileSync(i.companions[0]!.file, 'utf8'))).toEqual(['north', 'south']);
    expect(log.filter((l) => l.outcome === 'passed').map((l) => l.name)).toEqual(['all.zip: readme.pdf']);
    expect(log.filter((l) => l.outcome === 'refused').map((l) => l.message)).toEqual([
      expect.stringMatching(/^more.zip is an archive within all.zip/),
    ]);
    expect(intakes.every((i) => path.dirname(i.file) === folder)).toBe(true);
    expect(readdirSync(folder).length).toBe(5);
  });

  it.each([
    ['no file at all', [], /No file came along/],
    [
      'companions alone',
      [
        ['roads.shx', 'x'],
        ['roads.prj', 'y'],
      ],
      /roads\.shx: this goes with a \.shp file.*roads\.prj: this goes/,
    ],
    [
      'strangers',
      [
        ['notes.docx', 'PK'],
        ['letter.pdf', '%PDF'],
      ],
      /notes\.docx is of no kind that is read here.*letter\.pdf is a PDF/,
    ],
    ['a DWG', [['plan.dwg', 'AC1027\0']], /plan\.dwg is a DWG drawing/],
    [
      'an archive of strangers',
      [['all.zip', Buffer.from(zipSync({ 'notes.docx': new Uint8Array(3) }))]],
      /all\.zip holds no file that is read here/,
    ],
    [
      'an archive that is cut',
      [['all.zip', Buffer.from(zipSync({ 'quay.dxf': new TextEncoder().encode(DXF) })).subarray(0, 60)]],
      /all\.zip is no sound zip archive/,
    ],
    ['an empty file', [['quay.dxf', '']], /quay\.dxf is empty/],
    [
      'one that is too large',
      [
        ['quay.dxf', DXF, true],
        ['quay.shx', 'x'],
      ],
      /quay\.dxf is larger than the limit/,
    ],
  ] as [string, [string, Buffer | string, boolean?][], RegExp][])('refuses %s, and keeps nothing of it', async (_name, files, message) => {
    await expect(takeIn(parts(...files), folder)).rejects.toThrow(message);
    expect(readdirSync(folder)).toEqual([]);
  });
});

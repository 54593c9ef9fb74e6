import { readFileSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CODE_PAGES, codePageOf } from '@pontrel/core/io/code-pages';
import { encodedText, textDecoding } from '@pontrel/core/io/text-decoding';
import { gather } from './cross-file';
import { pontrel, python } from './python';
import { temporaryFolder } from '../server/client';

/** Our pages by the names that Python's codecs have. */
const CODECS: Record<string, string> = {
  'windows-1252': 'cp1252',
  macintosh: 'mac_roman',
  ibm866: 'cp866',
  'koi8-r': 'koi8_r',
  'koi8-u': 'koi8_u',
  'windows-874': 'cp874',
  gb18030: 'gb18030',
  gbk: 'gbk',
  cp950: 'cp950',
  big5: 'big5',
  shift_jis: 'cp932',
  'euc-jp': 'euc_jp',
  'euc-kr': 'cp949',
};
const codecOf = (id: string): string => CODECS[id] ?? id.replace(/^windows-/, 'cp').replace(/^iso-8859-/, 'iso8859-');

/** Bytes that are other letters there, at most, and why. */
const KNOWN: Record<string, { most: number; why: string }> = {
  macintosh: { most: 3, why: 'the table of before 1998: currency sign for euro, ohm sign for omega, no apple' },
  gb18030: { most: 2, why: 'the edition of 2022 moved two letters out of the private use area' },
  cp950: { most: 249, why: 'the rows of ETEN extensions (C6A1 to C8D3), which the page of 1996 does not have' },
  big5: { most: 260, why: 'the Hong Kong edition, as the Encoding Standard (WHATWG) has it' },
  shift_jis: { most: 191, why: 'letters of a private use area (F040 to F9FC) and four bytes that are none' },
  'euc-jp': { most: 6, why: 'full-width forms, as the Encoding Standard (WHATWG) has them' },
};

describe('code pages, against the codecs of Python', () => {
  const ours = CODE_PAGES.map((p) => p.id).filter((id) => !id.startsWith('utf-'));
  let theirs: Record<string, { single: (string | null)[]; double: Record<string, string> }>;
  beforeAll(() => {
    theirs = python('code_pages.py', Object.fromEntries(ours.map((id) => [id, codecOf(id)])));
  });

  it.each(ours)('%s: every byte and pair of bytes, there and back', (id) => {
    const { single, double } = theirs[id]!;
    const other: string[] = [];
    const back: string[] = [];
    let compared = 0;
    const compare = (hex: string, text: string): void => {
      compared++;
      const bytes = Buffer.from(hex, 'hex');
      const letter = textDecoding(id).decode(bytes);
      if (letter !== text) return void other.push(`${hex} ${text}/${letter}`);
      // a letter that stands twice in a page is written in one of the two ways, and reads back as itself
      const written = encodedText(text, id);
      if (!written || textDecoding(id).decode(written) !== text) back.push(`${hex} ${text}`);
    };
    single.forEach((text, byte) => text !== null && compare(byte.toString(16).padStart(2, '0'), text));
    for (const [hex, text] of Object.entries(double)) compare(hex, text);
    expect(compared).toBeGreaterThan(127);
    expect(back).toEqual([]);
    expect(other.length, `${KNOWN[id]?.why ?? ''} ${other.slice(0, 20).join(', ')}`).toBeLessThanOrEqual(KNOWN[id]?.most ?? 0);
  });

  it('letters that a chunk cuts are whole in the next', () => {
    const text = '港湾の桟橋 ABC 碼頭';
    for (const id of ['shift_jis', 'gb18030', 'utf-8', 'utf-16le']) {
      const bytes = id === 'utf-16le' ? Buffer.from(text, 'utf16le') : encodedText(text, id)!;
      for (let size = 1; size < 5; size++) {
        const decoder = textDecoding(id);
        let out = '';
        for (let at = 0; at < bytes.length; at += size) out += decoder.decode(bytes.subarray(at, at + size), { stream: true });
        expect([id, size, out + decoder.decode()]).toEqual([id, size, text]);
      }
    }
  });

  it('a letter that a page does not have is told, and never another one', () => {
    expect([encodedText('Ō', 'windows-1252'), encodedText('?', 'windows-1252'), encodedText('€', 'cp850')]).toEqual([
      null,
      Buffer.from('?'),
      null,
    ]);
    expect(() => textDecoding('klingon')).toThrow(/"klingon" is no code page that is read here/);
  });
});

describe('files in code pages', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let made: { file: string; text: string }[];
  beforeAll(() => {
    made = python('make_code_pages.py', { folder });
  });

  it('tables by their language byte or the spellings of a .cpg, drawings of R12, and XML: every text as it was written', async () => {
    expect(made.length).toBeGreaterThan(35);
    for (const { file, text } of made) {
      const { batches, findings } = await gather(file);
      const texts = batches.flatMap((b) => ['NAME', 'text', 'name'].flatMap((f) => b.columns.get(f)?.[0] ?? []));
      expect([file, texts[0]]).toEqual([file, text]);
      expect(findings.filter((f) => f.code.includes('code-page'))).toEqual([]);
    }
  });

  it('what is not known is told, on the command line too, and the language byte is asked before a guess', () => {
    const { file } = made.find((m) => m.file.endsWith('byte852.shp'))!;
    writeFileSync(file.replace('.shp', '.cpg'), 'Kamenicky');
    const { json } = pontrel('convert', file, `${folder}/told.geojson`, '--from', 'EPSG:2193');
    expect(json.findings).toContainEqual(
      expect.objectContaining({
        code: 'dbf-code-page-unknown',
        message: expect.stringContaining('Kamenicky, which is not known here: its texts are read as Central European, of DOS (852)'),
      }),
    );
    expect(readFileSync(`${folder}/told.geojson`, 'utf8')).toContain('Žďár nad Sázavou');
  });

  it('bytes that are no letters of the page are counted', async () => {
    const drawing = `${folder}/broken.dxf`;
    const sound = readFileSync(made.find((m) => m.file.endsWith('ansi1252.dxf'))!.file);
    writeFileSync(
      drawing,
      Buffer.concat([Buffer.from(sound.subarray(0, sound.indexOf(0x80))), Buffer.of(0x81), sound.subarray(sound.indexOf(0x80))]),
    );
    expect((await gather(drawing)).findings).toContainEqual(expect.objectContaining({ code: 'dxf-code-page-letters', count: 1 }));
  });

  it('an XML file in an encoding that is not known is refused, with the name', async () => {
    const file = `${folder}/odd.kml`;
    writeFileSync(file, '<?xml version="1.0" encoding="x-klingon"?><kml xmlns="http://www.opengis.net/kml/2.2"/>');
    await expect(gather(file)).rejects.toThrow(/says that it is in "x-klingon", which is not read here/);
  });

  it('labels are understood with and without blanks and dashes, and nothing is made of others', () => {
    // Source of the names: IANA, "Character Sets"; the other spellings are common practice, no source
    const labels: [string, string][] = [
      ['1252', 'windows-1252'],
      ['ANSI 1252', 'windows-1252'],
      ['cp1252', 'windows-1252'],
      ['windows_1252', 'windows-1252'],
      ['IBM437', 'cp437'],
      ['DOS-850', 'cp850'],
      ['oem852', 'cp852'],
      ['x-sjis', 'shift_jis'],
      ['Shift-JIS', 'shift_jis'],
      ['BIG5', 'big5'],
      ['MS950', 'cp950'],
      ['iso8859-15', 'iso-8859-15'],
      ['ISO 8859-1', 'windows-1252'],
      ['csKOI8R', 'koi8-r'],
      ['EUC-KR', 'euc-kr'],
      ['utf 8', 'utf-8'],
      ['65001', 'utf-8'],
    ];
    expect(labels.map(([label]) => [label, codePageOf(label)?.id])).toEqual(labels);
    for (const label of ['', 'cp', 'ANSI_1361', '12520', 'windows', 'nonsense']) expect([label, codePageOf(label)]).toEqual([label, null]);
  });
});

import { strToU8, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import type { FeatureFormat } from '../src/formats/format';
import { csv } from '../src/formats/csv/index';
import { geojson } from '../src/formats/geojson/index';
import { gml } from '../src/formats/gml/index';
import { gpx } from '../src/formats/gpx/index';
import { kml } from '../src/formats/kml/index';
import { spreadsheet } from '../src/formats/spreadsheet/index';
import { ringDepths } from '../src/geometry/nesting';
import { type ByteSource, UNWATCHED } from '../src/io/bytes';
import { partRanges } from '../src/model/batch';
import { Findings } from '../src/model/finding';
import { Problem } from '../src/model/problem';
import { memorySource } from './memory-files';

async function read(format: FeatureFormat, source: ByteSource): Promise<number> {
  const open = await format.features.open(source);
  let records = 0;
  for await (const batch of open.read(new Findings(), UNWATCHED)) records += batch.count;
  return records;
}

/** A file of a gigabyte and more that is never whole anywhere: a beginning, and then the same piece again and again. */
function endless(name: string, begin: string, piece = 'x'.repeat(1 << 16)): ByteSource {
  const size = 1.2 * 1024 ** 3;
  const bytes = strToU8(piece);
  return {
    name,
    size,
    async *stream() {
      yield strToU8(begin);
      for (let at = 0; at < size; at += bytes.length) {
        yield bytes;
        await Promise.resolve();
      }
    },
    read: (offset, length) => Promise.resolve(strToU8((begin + piece).padEnd(offset + length, piece)).slice(offset, offset + length)),
    sibling: () => Promise.resolve(null),
  };
}

describe('files that were made to do harm', () => {
  it.each([
    ['geojson', geojson, 'a.geojson', '{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"a":"'],
    ['kml', kml, 'a.kml', '<kml><Document><Placemark><name>'],
    ['kml, in an attribute', kml, 'a.kml', '<kml><Document><Placemark id="'],
    ['gml', gml, 'a.gml', '<c:FeatureCollection xmlns:c="u"><c:member><c:A><c:b>'],
    ['gpx', gpx, 'a.gpx', '<gpx><wpt lat="1" lon="2"><name>'],
    ['csv', csv, 'a.csv', 'x,y,name\n1,2,"'],
  ] as const)('a value of a gigabyte in %s is refused before it fills the memory', async (_name, format, name, begin) => {
    const before = process.memoryUsage().rss;
    await expect(read(format, endless(name, begin))).rejects.toBeInstanceOf(Problem);
    expect(process.memoryUsage().rss - before).toBeLessThan(900 * 1024 ** 2);
  });

  const bomb = `<!DOCTYPE a [<!ENTITY a "aaaaaaaaaa">${Array.from({ length: 9 }, (_, k) => `<!ENTITY ${'bcdefghij'[k]} "${`&${'abcdefghi'[k]};`.repeat(10)}">`).join('')}<!ENTITY x SYSTEM "file:///etc/passwd">]>`;
  it.each([
    [
      'kml',
      kml,
      `<?xml version="1.0"?>${bomb}<kml><Document><Placemark><name>&j;</name><Point><coordinates>1,2</coordinates></Point></Placemark></Document></kml>`,
    ],
    [
      'gml',
      gml,
      `<?xml version="1.0"?>${bomb}<c:FeatureCollection xmlns:c="u"><c:member><c:A><c:b>&x;</c:b></c:A></c:member></c:FeatureCollection>`,
    ],
    ['gpx', gpx, `<?xml version="1.0"?>${bomb}<gpx><wpt lat="1" lon="2"><name>&x;</name></wpt></gpx>`],
  ] as const)('entities that a %s file defines for itself are not replaced', async (id, format, text) => {
    await expect(read(format, memorySource(`a.${id}`, strToU8(text)))).rejects.toThrow(/a\.\w+, line 1: this is no sound XML/);
  });

  it('a workbook whose sheet is a bomb, defines entities, or lies about its cells', async () => {
    const book = (sheet: string): Uint8Array =>
      zipSync({
        'xl/workbook.xml': strToU8('<workbook xmlns:r="r"><sheets><sheet name="A" r:id="r1"/></sheets></workbook>'),
        'xl/_rels/workbook.xml.rels': strToU8('<Relationships><Relationship Id="r1" Target="worksheets/sheet1.xml"/></Relationships>'),
        'xl/worksheets/sheet1.xml': strToU8(sheet),
      });
    const rows = (cells: string): string =>
      `<worksheet><sheetData><row r="1"><c t="inlineStr"><is><t>a</t></is></c></row><row r="2">${cells}</row></sheetData></worksheet>`;
    expect(await read(spreadsheet, memorySource('a.xlsx', book(rows('<c><v>1</v></c>'))))).toBe(1);
    await expect(
      read(spreadsheet, memorySource('a.xlsx', book(`<?xml version="1.0"?>${bomb}${rows('<c t="str"><v>&j;</v></c>')}`))),
    ).rejects.toThrow(/no sound XML/);
    await expect(read(spreadsheet, memorySource('a.xlsx', book(rows('<c r="ZZZZ2"><v>1</v></c>'))))).rejects.toThrow(
      /lies beyond the last column/,
    );
    // a shared text that is not there is none
    expect(await read(spreadsheet, memorySource('a.xlsx', book(rows('<c t="s"><v>99</v></c>'))))).toBe(1);
    // what the directory says of the size of the first file: 260 MB of 100 bytes
    const lying = book(rows(''));
    const view = new DataView(lying.buffer, lying.byteOffset);
    for (let at = 0; at + 4 < lying.length; at++) {
      if (view.getUint32(at, true) !== 0x02014b50) continue;
      view.setUint32(at + 24, 260 * 1024 * 1024, true);
      break;
    }
    await expect(read(spreadsheet, memorySource('a.xlsx', lying))).rejects.toThrow(/would unpack to 260 MB/);
    await expect(read(spreadsheet, memorySource('a.xlsx', strToU8('PK\u0003\u0004 and then nothing')))).rejects.toThrow(
      /no sound zip archive/,
    );
  });

  it('an area of a million rings is read, and each of them found in the one around it', async () => {
    const rings: string[] = ['[[0,0],[2000,0],[2000,2000],[0,2000],[0,0]]'];
    for (let k = 0; k < 999_999; k++) {
      const x = 1 + (k % 1000) * 1.9,
        y = 1 + Math.floor(k / 1000) * 1.9;
      rings.push(`[[${x},${y}],[${x},${y + 1}],[${x + 1},${y}],[${x},${y}]]`);
    }
    const text = `{"type":"FeatureCollection","crs":{"type":"name","properties":{"name":"EPSG:2193"}},"features":[{"type":"Feature","properties":{},"geometry":{"type":"Polygon","coordinates":[${rings.join(',')}]}}]}`;
    const open = await geojson.features.open(memorySource('a.geojson', strToU8(text), {}, 1 << 20));
    for await (const batch of open.read(new Findings(), UNWATCHED)) {
      const ranges = partRanges(batch, 0);
      const depths = ringDepths(batch.coords, ranges);
      expect([ranges.length, depths[0], depths.slice(1).every((d) => d === 1)]).toEqual([1_000_000, 0, true]);
    }
  });
});

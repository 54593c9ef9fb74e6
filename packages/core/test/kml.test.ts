import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { kml } from '../src/formats/kml/index';
import { colorOf, colorText } from '../src/formats/kml/symbology';
import { escaped, XmlReader } from '../src/io/xml';
import { UNWATCHED } from '../src/io/bytes';
import { Findings } from '../src/model/finding';
import { plain, type PlainRecord } from './drawing';
import { memorySource } from './memory-files';

async function read(text: string | Uint8Array, chunk?: number): Promise<{ records: PlainRecord[]; codes: string[]; messages: string[] }> {
  const findings = new Findings();
  const bytes = typeof text === 'string' ? new TextEncoder().encode(text) : text;
  const open = await kml.features.open(memorySource('coast.kml', bytes, {}, chunk));
  const records: PlainRecord[] = [];
  for await (const batch of open.read(findings, UNWATCHED)) records.push(...plain(batch));
  return { records, codes: findings.list().map((f) => f.code), messages: findings.list().map((f) => f.message) };
}

const document = (inside: string, head = ''): string =>
  `<?xml version="1.0" encoding="UTF-8"?>\n${head}<kml xmlns="http://www.opengis.net/kml/2.2" xmlns:gx="urn:beyond"><Document><name>Coast</name>${inside}</Document></kml>`;
const point = (more = '', at = '171.25,-44.4'): string => `<Placemark>${more}<Point><coordinates>${at}</coordinates></Point></Placemark>`;
const at = (r: PlainRecord): number[][][] => r.parts.map((p) => p.map((v) => v.slice(0, 3)));

describe('reading', () => {
  it('makes layers of folders, and fields of names, plain and typed data, times and heights', async () => {
    const { records } = await read(
      document(`
      <Schema name="walk" id="S1"><SimpleField type="int" name="year"/><SimpleField type="bool" name="open"/><SimpleField type="string" name="code"/></Schema>
      <Folder><name>Paths</name><Folder><name>Steep</name>
        <Placemark><name>Cliff &amp; stair</name><description><![CDATA[<b>mind</b> the step]]></description><TimeSpan><begin>2025-01-01</begin></TimeSpan>
          <ExtendedData><SchemaData schemaUrl="#S1"><SimpleData name="year">2025</SimpleData><SimpleData name="open">1</SimpleData><SimpleData name="code">007</SimpleData></SchemaData><Data name="grade"><displayName>Grade</displayName><value>3</value></Data></ExtendedData>
          <LineString><extrude>1</extrude><altitudeMode>absolute</altitudeMode><coordinates>171.2,-44.4,12.5
            171.3, -44.5 , 13 171.4,-44.5</coordinates></LineString></Placemark></Folder></Folder>${point('<name>loose</name>')}`),
    );
    expect(records.map((r) => [r.layer, r.kind])).toEqual([
      ['Paths / Steep', 'line'],
      ['Coast', 'point'],
    ]);
    expect(at(records[0]!)).toEqual([
      [
        [171.2, -44.4, 12.5],
        [171.3, -44.5, 13],
        [171.4, -44.5, NaN],
      ],
    ]);
    expect(records[0]!.attributes).toEqual({
      name: 'Cliff & stair',
      description: '<b>mind</b> the step',
      begin: '2025-01-01',
      year: 2025,
      open: true,
      code: '007',
      grade: '3',
      altitude_mode: 'absolute',
      extrude: true,
    });
  });

  it('takes areas with holes, several geometries, tracks, pictures on the ground and old namespaces', async () => {
    const square = (a: number): string => `<LinearRing><coordinates>0,0 ${a},0 ${a},${a} 0,${a} 0,0</coordinates></LinearRing>`;
    const { records, codes } = await read(
      document(`
      <Placemark><Polygon><innerBoundaryIs>${square(1)}</innerBoundaryIs><outerBoundaryIs>${square(9)}</outerBoundaryIs></Polygon></Placemark>
      <Placemark><MultiGeometry><Point><coordinates>1,2</coordinates></Point><Point><coordinates>3,4</coordinates></Point><LineString><coordinates>1,2 3,4</coordinates></LineString></MultiGeometry></Placemark>
      <Placemark><gx:Track><when>2025-05-28T02:02:09Z</when><when>2025-05-28T02:02:35Z</when><gx:coord>170.1 -44.2 5</gx:coord><gx:coord>170.2 -44.2 6</gx:coord></gx:Track></Placemark>
      <GroundOverlay><name>Plan</name><Icon><href>plan.png</href></Icon><LatLonBox><north>1</north><south>-1</south><east>2</east><west>-2</west><rotation>90</rotation></LatLonBox></GroundOverlay>`)
        .replaceAll('opengis.net/kml/2.2', 'earth.example/kml/2.0')
        .replaceAll('<Placemark', '<k:Placemark')
        .replaceAll('</Placemark', '</k:Placemark'),
    );
    expect(records.map((r) => [r.kind, r.entity, r.parts.length])).toEqual([
      ['polygon', 'Placemark', 2],
      ['point', 'Placemark', 2],
      ['line', 'Placemark', 1],
      ['line', 'Placemark', 1],
      ['polygon', 'GroundOverlay', 1],
    ]);
    // the outer ring is the first, whatever the order in the file
    expect(at(records[0]!)[0]![1]).toEqual([9, 0, NaN]);
    expect(records[3]!.attributes.times).toBe('["2025-05-28T02:02:09Z","2025-05-28T02:02:35Z"]');
    // a quarter of a turn, near the equator: four wide and two high becomes two wide and four high
    expect(at(records[4]!)[0]!.map(([x, y]) => [Math.round(x!), Math.round(y!)])).toEqual([
      [1, -2],
      [1, 2],
      [-1, 2],
      [-1, -2],
      [1, -2],
    ]);
    expect(records[4]!.attributes).toMatchObject({ image: 'plan.png', name: 'Plan' });
    expect(codes).toEqual(['kml-collection', 'kml-picture']);
  });

  it('follows shared styles and style maps, says which are missing and which name one another in a ring, and follows no link', async () => {
    const { records, codes, messages } = await read(
      document(`
      <Style id="s"><LineStyle><color>7f2a49a8</color><width>3</width></LineStyle><PolyStyle><color>ff737a2c</color></PolyStyle></Style>
      <StyleMap id="m"><Pair><key>normal</key><styleUrl>#s</styleUrl></Pair><Pair><key>highlight</key><styleUrl>#none</styleUrl></Pair></StyleMap>
      <StyleMap id="a"><Pair><key>normal</key><styleUrl>#b</styleUrl></Pair></StyleMap><StyleMap id="b"><Pair><key>normal</key><styleUrl>#a</styleUrl></Pair></StyleMap>
      ${point('<styleUrl>#m</styleUrl>')}${point('<styleUrl>#a</styleUrl>')}${point('<styleUrl>#gone</styleUrl><Style><IconStyle><Icon><href>http://localhost/i.png</href></Icon></IconStyle></Style>')}
      <NetworkLink><Link><href>http://localhost/more.kml</href></Link></NetworkLink>`),
    );
    expect(records[0]!.attributes).toEqual({ color: '#a8492a', transparency: 0.502, line_width_px: 3 });
    expect(records[2]!.attributes).toEqual({ icon: 'http://localhost/i.png' });
    expect(codes).toEqual(['kml-style-ring', 'kml-style-missing', 'kml-network-link']);
    expect(messages[2]).toContain('http://localhost/more.kml is not followed');
    expect(colorOf(colorText('#a8492a', 0.25))).toEqual({ color: '#a8492a', transparency: 0.251 });
  });

  it('is the same however the bytes come, in UTF-16 and in a declared code page', async () => {
    const text = document(point('<name>Ōhau “bay” 港</name>'));
    for (const chunk of [1, 7, 64]) expect((await read(text, chunk)).records[0]!.attributes.name).toBe('Ōhau “bay” 港');
    const wide = Uint8Array.from([
      0xff,
      0xfe,
      ...[...text.replace('encoding="UTF-8"', '')].flatMap((c) => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8]),
    ]);
    expect((await read(wide, 5)).records[0]!.attributes.name).toBe('Ōhau “bay” 港');
    const western = Uint8Array.from([...document(point('<name>Élysée</name>')).replace('UTF-8', 'ISO-8859-1')].map((c) => c.charCodeAt(0)));
    expect((await read(western)).records[0]!.attributes.name).toBe('Élysée');
  });
});

describe('what is made to do harm', () => {
  it('entities that grow, elements without end in one another and coordinates that are none are told, with their line', async () => {
    const bomb = '<!DOCTYPE kml [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;&a;">]>\n';
    await expect(read(document(point('<name>&b;</name>'), bomb))).rejects.toThrow(
      /coast.kml, line 3: this is no sound XML \(undefined entity\)/,
    );
    const outside = '<!DOCTYPE kml [<!ENTITY a SYSTEM "file:///etc/passwd">]>\n';
    await expect(read(document(point('<name>&a;</name>'), outside))).rejects.toThrow(/undefined entity/);
    await expect(read(document('<Folder>'.repeat(1000)))).rejects.toThrow(/more than 400 deep/);
    await expect(read('<html><body/></html>')).rejects.toThrow(/its outermost element is not kml/);
    await expect(read(document('').slice(0, -8))).rejects.toThrow(/breaks off at line 2: Document in kml is left open/);
  });

  it('a text without end is refused before it fills the memory', () => {
    const reader = new XmlReader('big.kml', { open: () => false, close() {}, text() {}, whole() {} });
    reader.push(new TextEncoder().encode(`<kml>${' '.repeat(300)}<name a="`));
    const piece = new Uint8Array(1 << 23).fill(97);
    expect(() => {
      for (let k = 0; k < 40; k++) reader.push(piece);
    }).toThrow(/longer than 128 MB/);
  });

  it('archives that unpack to far more than they hold, that are cut, or lie about their sizes are refused; names are only names', async () => {
    const text = new TextEncoder().encode(document(point('<name>inside</name>')));
    const good = zipSync({ '../../etc/doc.kml': text, 'images/i.png': new Uint8Array(3) });
    const { records, codes } = await read(good);
    expect([records[0]!.attributes.name, codes]).toEqual(['inside', ['kmz-pictures']]);
    await expect(read(good.subarray(0, good.length - 30))).rejects.toThrow(/breaks off/);
    await expect(read(zipSync({ 'readme.txt': text }))).rejects.toThrow(/holds no KML file/);
    const sized = (bytes: number): Uint8Array => {
      const archive = zipSync({ 'doc.kml': new Uint8Array(1 << 20) });
      new DataView(archive.buffer).setUint32(archive.length - 22 - 46 - 'doc.kml'.length + 24, bytes, true);
      return archive;
    };
    await expect(read(sized(210 * 1024 * 1024))).rejects.toThrow(/would unpack to 210 MB/);
    // the directory says less than there is
    await expect(read(sized(100))).rejects.toThrow(/holds more than its directory says/);
  });

  it('every text can be written and comes back, but for characters that XML cannot hold', () => {
    const seen: string[] = [];
    const text = 'a<b & "c" ]]> \r\n\t\u0007\ud800 🜁 é';
    const reader = new XmlReader('x', { open: () => false, close() {}, text: (t) => seen.push(t), whole() {} });
    reader.push(new TextEncoder().encode(`<x>${escaped(text)}</x>`));
    reader.end();
    expect(seen.join('')).toBe('a<b & "c" ]]> \r\n\t 🜁 é');
  });
});

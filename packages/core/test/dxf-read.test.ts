import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { parseReal } from '../src/formats/dxf/number';
import { plainMtext, plainText } from '../src/formats/dxf/text';
import { readDxf } from '../src/formats/dxf/read';
import { UNWATCHED } from '../src/io/bytes';
import { Findings } from '../src/model/finding';
import { Problem } from '../src/model/problem';
import { symbolizerOf } from '../src/symbology/symbolizer';
import type { SymbolLibrary } from '../src/symbology/library';
import { drawing, groups, plain, type PlainRecord, readText } from './drawing';
import { memorySource, textSource } from './memory-files';

const LAYER = groups(0, 'TABLE', 2, 'LAYER', 0, 'LAYER', 2, 'MAINS', 70, 0, 62, 5, 6, 'DASHED', 370, 35, 0, 'ENDTAB');
const SQUARE = groups(
  0,
  'LWPOLYLINE',
  5,
  'A1',
  8,
  'MAINS',
  90,
  4,
  70,
  1,
  38,
  2.5,
  10,
  0,
  20,
  0,
  10,
  10,
  20,
  0,
  42,
  1,
  10,
  10,
  20,
  10,
  10,
  0,
  20,
  10,
);

describe('numbers', () => {
  it('are rounded as the platform rounds them', () => {
    const bytes = new TextEncoder();
    fc.assert(
      fc.property(
        fc.oneof(fc.double({ noNaN: true, noDefaultInfinity: true }), fc.double({ min: -1e7, max: 1e7, noNaN: true })),
        fc.nat(12),
        (value, decimals) => {
          for (const text of [String(value), value.toFixed(decimals), ` ${value} `, `+${Math.abs(value)}`]) {
            const b = bytes.encode(text);
            expect(parseReal(b, 0, b.length)).toBe(Number(text));
          }
        },
      ),
    );
  });
});

describe('reading a drawing', () => {
  it('resolves colour, line type and weight by layer, and lifts to the elevation', async () => {
    const { records } = await readText(drawing(SQUARE, { tables: LAYER }));
    expect(records).toEqual([
      {
        layer: 'MAINS',
        entity: 'LWPOLYLINE',
        kind: 'polygon',
        parts: [
          [
            [0, 0, 2.5, 0],
            [10, 0, 2.5, 1],
            [10, 10, 2.5, 0],
            [0, 10, 2.5, 0],
            [0, 0, 2.5, 0],
          ],
        ],
        attributes: { layer: 'MAINS', entity: 'LWPOLYLINE', handle: 'A1', color: '#0000ff', linetype: 'DASHED', lineweight_mm: 0.35 },
      },
    ]);
  });

  it('gives the same records however the bytes come in', async () => {
    const text = drawing(
      SQUARE +
        groups(
          0,
          'INSERT',
          5,
          'B2',
          8,
          'MAINS',
          66,
          1,
          2,
          'VALVE',
          10,
          1,
          20,
          2,
          30,
          3,
          50,
          90,
          0,
          'ATTRIB',
          8,
          'MAINS',
          1,
          'V-7 Whārangi',
          2,
          'VALVE_ID',
          0,
          'SEQEND',
        ) +
        groups(0, 'TEXT', 8, '0', 10, 5, 20, 6, 40, 2, 1, '%%c150 %%d', 50, 45),
      { tables: LAYER },
    );
    const whole = await readText(text);
    expect(whole.records[1]!.attributes).toMatchObject({ block: 'VALVE', block_angle: 90, VALVE_ID: 'V-7 Whārangi' });
    expect(whole.records[2]!.attributes).toMatchObject({ text: 'Ø150 °', text_height: 2, text_angle: 45 });
    for (const variant of [text.replaceAll('\n', '\r\n'), text.replaceAll('\n', '\r')]) {
      for (const chunk of [1, 2, 7, 64]) expect(await readText(variant, chunk)).toEqual(whole);
    }
  });

  it('counts every entity that it does not read by type and layer, and nothing goes missing from the sum', async () => {
    const { records, findings } = await readText(
      drawing(
        SQUARE +
          groups(0, '3DFACE', 8, 'ROOF', 10, 0, 0, 'BODY', 8, 'ROOF', 0, 'BODY', 8, 'ROOF', 0, 'POINT', 8, 'PAPER', 67, 1, 10, 0, 20, 0),
      ),
    );
    expect(records.length + findings.reduce((n, f) => n + f.count, 0)).toBe(5);
    expect(findings).toContainEqual(expect.objectContaining({ code: 'dxf-entity-not-read', count: 2, location: 'ROOF' }));
    expect(findings).toContainEqual(expect.objectContaining({ code: 'dxf-sheet-object', count: 1, location: 'PAPER' }));
  });

  it('reads the 2D, 3D and fitted forms of POLYLINE', async () => {
    const vertex = (x: number, y: number, z: number, flags: number, bulge = 0): string =>
      groups(0, 'VERTEX', 8, '0', 10, x, 20, y, 30, z, 70, flags, 42, bulge);
    const { records } = await readText(
      drawing(
        groups(0, 'POLYLINE', 8, '0', 66, 1, 70, 8) +
          vertex(0, 0, 1, 32) +
          vertex(1, 1, 2, 32) +
          groups(0, 'SEQEND') +
          groups(0, 'POLYLINE', 8, '0', 66, 1, 70, 4, 30, 9) +
          vertex(0, 0, 0, 16) +
          vertex(0, 0, 0, 8) +
          vertex(5, 0, 0, 8, 0.5) +
          groups(0, 'SEQEND'),
      ),
    );
    expect(records[0]!.parts).toEqual([
      [
        [0, 0, 1, 0],
        [1, 1, 2, 0],
      ],
    ]);
    expect(records[1]!.parts).toEqual([
      [
        [0, 0, 9, 0],
        [5, 0, 9, 0],
      ],
    ]); // frame point left out, height of the head, no segment begins at the end
  });

  it('tells a code page that is not read here, and is silent about those that are', async () => {
    const told = async (codePage: string, version = 'AC1009'): Promise<string[]> =>
      (await readText(drawing(groups(0, 'POINT', 8, 'A', 10, 1, 20, 2), { codePage, version }))).findings
        .filter((f) => f.code === 'dxf-code-page')
        .map((f) => f.message);
    expect(await told('ANSI_1361')).toEqual([expect.stringContaining('ANSI_1361, which is not read here')]);
    for (const known of ['ANSI_1252', 'ascii', 'dos866', 'DOS932', 'DOS850', 'ISO8859-1', 'MACINTOSH'])
      expect(await told(known)).toEqual([]);
    // from R2007 on texts are UTF-8, whatever is said here
    expect(await told('ANSI_1361', 'AC1027')).toEqual([]);
  });

  it('reads text of old drawings by their code page and of new ones as UTF-8', async () => {
    const text = (bytes: number[]): Uint8Array => {
      const [before, after] = drawing(groups(0, 'TEXT', 8, '0', 10, 0, 20, 0, 40, 1, 1, '@'), {
        version: 'AC1015',
        codePage: 'ANSI_1251',
      }).split('@');
      return Uint8Array.from([...new TextEncoder().encode(before), ...bytes, ...new TextEncoder().encode(after)]);
    };
    const findings = new Findings();
    for await (const batch of readDxf(memorySource('old.dxf', text([0xcf, 0xeb, 0xe0, 0xed])), findings, UNWATCHED))
      expect(batch.columns.get('text')).toEqual(['План']);
  });
});

describe('plain text', () => {
  // Source: DXF Reference, MTEXT, format codes; the expected texts are what ezdxf 0.18 gives for the same input
  it.each([
    ['{\\H3;Lease 1}\\P1664 m²', 'Lease 1\n1664 m²'],
    ['\\A1;a\\~b', 'a\u00a0b'],
    ['\\S1/2;', '1/2'],
    ['\\fArial|b0|i0;x\\\\y\\{z\\}', 'x\\y{z}'],
    ['%%c20', 'Ø20'],
    ['\\U+0101', 'ā'],
  ])('%s', (raw, expected) => expect(plainMtext(raw)).toBe(expected));
  it('reads characters by their two bytes in a code page', () => {
    // values of the code pages from memory
    expect(plainText('\\M+182B1\\M+182EA, \\M+3B0A1, \\M+5C4E3')).toBe('これ, 가, 你');
    expect(plainText('\\M+48861')).toBe('\\M+48861');
  });

  it('drops under- and overlining of TEXT', () => expect(plainText('%%uMain%%u 5%%%')).toBe('Main 5%'));
});

describe('broken drawings', () => {
  const failure = async (text: string | Uint8Array, name = 'quay.dxf'): Promise<Problem> => {
    const source = typeof text === 'string' ? textSource(name, text) : memorySource(name, text);
    try {
      for await (const _ of readDxf(source, new Findings(), UNWATCHED)) {
        /* until it breaks */
      }
    } catch (error) {
      if (error instanceof Problem) return error;
      throw error;
    }
    throw new Error('It was read.');
  };
  const whole = drawing(SQUARE.repeat(40));

  it('cut anywhere name the file and the line, and never give half a drawing for a whole one', async () => {
    for (let at = 60; at < whole.length - 6; at += 97) {
      const problem = await failure(whole.slice(0, at));
      expect(problem.message).toContain('quay.dxf');
      expect(problem.where.line).toBeGreaterThan(0);
    }
  });

  it.each([
    ['not-a-drawing', 'Dear surveyor,\nplease find\n', 'dxf-not-a-drawing'],
    ['a web page', '<!doctype html>\n<html>\n', 'dxf-not-a-drawing'],
    ['empty', '', 'file-empty'],
    ['a DWG renamed', 'AC1032\0\0\0\0\0', 'dwg'],
    ['a number damaged', drawing(groups(0, 'LINE', 8, '0', 10, '12x4')), 'dxf-number'],
    ['a group code damaged', whole.replace('\n 42\n', '\n z2\n'), 'dxf-group-code'],
  ])('%s', async (_name, text, code) => {
    const problem = await failure(text);
    expect(problem.code).toBe(code);
    expect(problem.message).toContain('quay.dxf');
    expect(problem.where.line).toBeGreaterThan(0);
  });

  it('a DWG is told what to do instead', async () => expect((await failure('AC1015\0')).message).toMatch(/save the drawing as DXF/));
});

describe('patterns of lines', () => {
  // DXF Reference, HEADER section, $LTSCALE ("global linetype scale"), and common group codes, 48 ("linetype scale")
  it('are as long as the scale of the drawing makes them, and objects may have a scale of their own', async () => {
    const tables = groups(0, 'TABLE', 2, 'LTYPE', 0, 'LTYPE', 2, 'DASHED', 3, 'Dashes', 49, 12, 49, -6, 0, 'ENDTAB');
    const text = drawing(
      groups(
        0,
        'LINE',
        8,
        '0',
        6,
        'DASHED',
        10,
        0,
        20,
        0,
        11,
        9,
        21,
        0,
        0,
        'LINE',
        8,
        '0',
        6,
        'DASHED',
        48,
        0.25,
        10,
        0,
        20,
        1,
        11,
        9,
        21,
        1,
      ),
      { tables },
    ).replace(groups(9, '$INSUNITS'), groups(9, '$LTSCALE', 40, 0.5) + groups(9, '$INSUNITS'));
    let library: SymbolLibrary | null = null;
    const records: PlainRecord[] = [];
    for await (const batch of readDxf(textSource('plan.dxf', text), new Findings(), UNWATCHED, { facts: (f) => (library = f.library) }))
      records.push(...plain(batch));
    expect(library!.lines.get('dashed')!.dashes).toEqual([6, -3]);
    expect(records.map((r) => r.attributes.linetype_scale)).toEqual([undefined, 0.25]);
    const dashes = records.map(
      (r) =>
        symbolizerOf(
          'line',
          (f) => r.attributes[f] ?? null,
          (name) => library!.lines.get(name.toLowerCase()),
          1,
        ).dash_mm,
    );
    expect(dashes).toEqual([
      [6, 3],
      [1.5, 0.75],
    ]);
  });
});

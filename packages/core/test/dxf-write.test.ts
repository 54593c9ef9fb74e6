import type { Value } from '../src/model/value';
import type { Proof } from '../src/content/features/proof';
import { memoryCrossingSource, runInMemory } from './memory-crossing';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '../src/crossing/recipe';
import { UNWATCHED } from '../src/io/bytes';
import { type FeatureBatch, KINDS } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { Findings } from '../src/model/finding';
import { dxf } from '../src/formats/dxf/index';
import { parseTemplate } from '../src/filter/template';
import { gated, groups, plain, type PlainRecord } from './drawing';
import type { SymbolLibrary } from '../src/symbology/library';
import { MemoryFolder } from './memory-files';

const NZTM = 'EPSG:2193';

async function write(
  batches: FeatureBatch[],
  options: Deliverable['options'],
  library: SymbolLibrary | null = null,
): Promise<{ proof: Proof; text: string; folder: MemoryFolder; findings: string[] }> {
  const deliverable: Deliverable = { id: 'd', name: 'Plan', format: 'dxf', crs: NZTM, grouping: 'layer', ...(options ? { options } : {}) };
  const recipe: Recipe = {
    ...structuredClone(EMPTY_RECIPE),
    frame: { crs: NZTM },
    sources: { s: { placement: { crs: NZTM, unit_m: null }, layers: {} } },
    deliverables: [deliverable],
  };
  const { report, folder } = await runInMemory(recipe, deliverable, [memoryCrossingSource('s', batches, { library })]);
  const text = new TextDecoder().decode(folder.files.get('plan.dxf'));
  return { proof: report.proof, text, folder, findings: report.findings.map((f) => f.code) };
}

async function readBack(folder: MemoryFolder): Promise<PlainRecord[]> {
  const open = await dxf.features.open(await folder.open('plan.dxf'));
  const records: PlainRecord[] = [];
  for await (const batch of open.read(new Findings(), UNWATCHED)) records.push(...plain(batch));
  return records;
}

const coordinate = fc.double({ min: 1_000_000, max: 9_000_000, noNaN: true });
const vertex = fc.tuple(coordinate, coordinate, fc.oneof(fc.constant(0), fc.double({ min: -100, max: 4000, noNaN: true })));
const value: fc.Arbitrary<Value> = fc.oneof(
  fc.constant(null),
  fc.string({ unit: 'grapheme', maxLength: 40 }).map((s) => s.replace(/\p{C}/gu, '').trim()),
  fc.integer(),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
  fc.boolean(),
  fc.constantFrom(
    '%%c 50',
    '^J and ^',
    '\\U+0041 as it stands',
    '{braces} \\P',
    'two\nlines',
    'part',
    'x'.repeat(700),
    '港の岸壁',
    'boolean',
    '}',
  ),
);
const record = fc.oneof(
  fc.record({
    kind: fc.constant('point'),
    parts: fc.array(fc.array(vertex, { minLength: 1, maxLength: 1 }), { minLength: 1, maxLength: 3 }),
  }),
  fc.record({
    kind: fc.constant('text'),
    parts: fc.array(fc.array(vertex, { minLength: 1, maxLength: 1 }), { minLength: 1, maxLength: 1 }),
  }),
  fc.record({
    kind: fc.constant('line'),
    parts: fc.array(fc.array(vertex, { minLength: 2, maxLength: 6 }), { minLength: 1, maxLength: 3 }),
  }),
  fc.record({
    kind: fc.constant('polygon'),
    entity: fc.constantFrom('HATCH', 'SOLID', 'LWPOLYLINE'),
    parts: fc.array(
      fc.array(vertex, { minLength: 3, maxLength: 6 }).map((ring) => [...ring, ring[0]!]),
      { minLength: 1, maxLength: 3 },
    ),
  }),
);
const fields = fc.record({
  NAME: value,
  'a field, with: signs': value,
  text: fc.oneof(fc.constant('Lease 7'), fc.constant('two\nlines ^ %%d'), value),
  color: fc.constantFrom(null, '#ff0000', '#12ab9c', '#000000'),
  lineweight_mm: fc.constantFrom(null, 0.35, 0.33),
  transparency: fc.constantFrom(null, 0.5),
  text_height: fc.constantFrom(null, 2.5),
  text_angle: fc.constantFrom(null, 30),
  linetype: fc.constantFrom(null, 'Continuous', 'NO-SUCH'),
  pattern: fc.constantFrom(null, 'SOLID', 'ANSI31'),
  thickness: fc.constantFrom(null, 2.5),
});

function batchOf(
  rows: readonly {
    shape: { kind: string; entity?: string; parts: (readonly [number, number, number])[][] };
    values: Record<string, Value>;
  }[],
  layer: string,
): FeatureBatch {
  const b = new BatchBuilder(layer);
  rows.forEach(({ shape, values }, i) => {
    for (const part of shape.parts) {
      for (const [x, y, z] of part) b.vertex(x, y, z);
      b.endPart();
    }
    for (const [name, v] of Object.entries(values)) b.set(name, v);
    b.endFeature(KINDS.indexOf(shape.kind as (typeof KINDS)[number]), shape.entity ?? shape.kind.toUpperCase(), i + 1);
  });
  return b.take();
}

describe('a written drawing', () => {
  it('reads back as it went in, whatever the records, the version and the ways of drawing', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.record({ shape: record, values: fields }), { minLength: 1, maxLength: 12 }),
        fc.constantFrom('R12', 'R2000', 'R2010', 'R2018'),
        fc.constantFrom('as drawn', 'outline', 'fill', 'both'),
        fc.constantFrom('point', 'block', 'text'),
        fc.constantFrom('behind', 'attributes'),
        fc.constantFrom('auto', 'left', 'above'),
        fc.constantFrom('PLAN: 1/2', '0'),
        async (rows, version, areas, points, data, label_place, layer) => {
          const { proof } = await write([batchOf(rows as never, layer)], {
            version,
            areas,
            points,
            data,
            label_place,
            // a field that no record has is refused
            label: rows.some((r) => r.values.NAME !== null && r.values.NAME !== '') ? '{NAME}' : '{x}',
            symbol: 'POINT_CROSS',
          });
          expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
          expect(proof.records).toEqual({ in: rows.length, out: rows.length });
        },
      ),
      { numRuns: 400 },
    );
  });

  it('keeps a record of several parts together, and draws labels and fills beside it that are no records', async () => {
    const square = (x: number, y: number, s: number): [number, number, number][] => [
      [x, y, 0],
      [x + s, y, 0],
      [x + s, y + s, 0],
      [x, y + s, 0],
      [x, y, 0],
    ];
    const rows = [
      {
        shape: { kind: 'polygon', parts: [square(0, 0, 10), square(2, 2, 3), square(20, 0, 5)] },
        values: { PARCEL: 'L-7', color: '#ff0000' },
      },
    ];
    const { text, folder, proof } = await write([batchOf(rows, 'LEASES')], {
      areas: 'both',
      label: '{PARCEL}\\n{area:.1} m²',
      label_height: 2,
    });
    expect(proof.status).toBe('match');
    const records = await readBack(folder);
    // read as any drawing, the fill and the label are objects too
    expect(records.map((r) => [r.entity, r.parts.length])).toEqual([
      ['LWPOLYLINE', 3],
      ['HATCH', 3],
      ['MTEXT', 1],
    ]);
    expect(records[0]!.attributes).toMatchObject({ layer: 'LEASES', PARCEL: 'L-7', color: '#ff0000' });
    expect(records[2]!.attributes).toMatchObject({ text: 'L-7\n116.0 m²', text_height: 2 });
    expect(text).toContain('AcDbGeoData');
  });

  it.each(['R12', 'R2018'])(
    'of %s keeps blocks as they were drawn: nested parts, colours by block, layers and line types of their own, constant data',
    async (version) => {
      const { rows, library } = await gated(
        groups(0, 'INSERT', 5, 'A1', 8, 'VALVES', 62, 1, 2, 'GATE', 10, 100, 20, 200, 30, 7, 41, -2, 50, 90),
      );
      const { folder, proof } = await write(rows, { version }, library);
      expect(proof.status).toBe('match');
      const open = await dxf.features.open(await folder.open('plan.dxf'));
      for await (const batch of open.read(new Findings(), UNWATCHED))
        expect(plain(batch)[0]!.attributes).toMatchObject({
          block: 'GATE',
          block_angle: 90,
          scale_x: -2,
          MAKER: 'Works 4',
          layer: 'VALVES',
          color: '#ff0000',
        });
      const [was, is] = [library, open.library!()!].map((l) => l.blocks.get('gate')!);
      expect(is!.base).toEqual(was!.base);
      expect(is!.attributes).toEqual(was!.attributes);
      const looks = (parts: FeatureBatch): unknown[] =>
        ['layer', 'color', 'linetype'].map((name) => parts.columns.get(name)!.map((v) => String(v).toLowerCase()));
      expect(looks(is!.parts)).toEqual(looks(was!.parts));
      is!.parts.coords.forEach((v, k) => expect(v).toBeCloseTo(was!.parts.coords[k]!, 9));
      expect(open.library!()!.lines.get('dashed')!.dashes).toEqual([12, -6]);
    },
  );

  it('gives layers the names that the version takes, and no two the same', async () => {
    const point = { shape: { kind: 'point', parts: [[[1, 2, 3] as [number, number, number]]] }, values: { A: 1 } };
    const { folder } = await write(
      [
        batchOf([point], 'Väg/kant'),
        batchOf([point], 'VÄG_KANT'),
        batchOf([point], 'a name that is much longer than the thirty-one letters'),
      ],
      { version: 'R12' },
    );
    expect((await readBack(folder)).map((r) => r.layer).sort()).toEqual(['A_NAME_THAT_IS_MUCH_LONGER_THAN', 'VAG_KANT', 'VAG_KANT_2']);
  });

  it('leaves behind what has no room on one object, and says so in the run and in the proof', async () => {
    const row = {
      shape: { kind: 'point', parts: [[[1, 2, 3] as [number, number, number]]] },
      values: { SHORT: 'kept', A: 'a'.repeat(7900), B: 'b'.repeat(7901), C: 'c'.repeat(900) },
    };
    const { proof, findings } = await write([batchOf([row], 'L')], {});
    expect(findings).toContain('dxf-data-too-large');
    expect(proof.status).toBe('differs');
    expect([...new Set(proof.differences.map((d) => d.field))]).toEqual(['B']);
  });
});

describe('a template', () => {
  it('takes fields, decimals, line breaks and braces, and nothing where all its fields are empty', () => {
    const batch = batchOf(
      [
        { shape: { kind: 'point', parts: [[[1, 2, 3]]] }, values: { NAME: 'Whārangi', AREA: 12.345 } },
        { shape: { kind: 'point', parts: [[[1, 2, 3]]] }, values: { OTHER: 1 } },
      ],
      'L',
    );
    const template = parseTemplate('{{{NAME}}}\\n{AREA:.1} m²');
    if (typeof template === 'string') throw new Error(template);
    expect(template.of(batch, 0)).toBe('{Whārangi}\n12.3 m²');
    expect(template.of(batch, 1)).toBeNull();
    expect(parseTemplate('{NAME')).toBe('"{" at character 1 is not closed.');
    expect(parseTemplate('NAME}')).toMatch(/closes nothing/);
    expect(parseTemplate('{A:x}')).toMatch(/is no field/);
  });
});

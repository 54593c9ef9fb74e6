import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { BATCH_RECORDS, BatchBuilder, LayerBuilders } from '../src/model/batch-builder';
import { type FeatureBatch, LINE, POINT } from '../src/model/batch';
import { Findings } from '../src/model/finding';
import { digitsOf, joinFields, Profiler, utf8Length, widerType } from '../src/content/features/profile';
import { abbreviate, nameFault, uniqueName } from '../src/content/features/field-names';
import { shapefile } from '../src/formats/shapefile/index';
import { fileStem } from '../src/content/features/plan';

const rules = shapefile.features.carries.fieldNames;

describe('profiles', () => {
  it('count the bytes of a text as UTF-8 does', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        expect(utf8Length(text)).toBe(new TextEncoder().encode(text).length);
      }),
    );
  });

  it('know how much room a number needs: so many digits give it back exactly', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.double({ min: -1e12, max: 1e12, noNaN: true }), fc.integer(), fc.double({ min: -1e-3, max: 1e-3, noNaN: true })),
        (value) => {
          const [whole, decimals] = digitsOf(value);
          if (decimals > 100) return; // toFixed goes no further
          const text = value.toFixed(decimals);
          expect(Number(text)).toBe(value === 0 ? Number(text) : value);
          expect(text.split('.')[0]!.length).toBeLessThanOrEqual(whole + 1);
        },
      ),
    );
  });

  it('join types to the one that holds both', () => {
    expect(widerType('integer', 'decimal')).toBe('decimal');
    expect(widerType('integer', 'text')).toBe('text');
    expect(widerType('boolean', 'boolean')).toBe('boolean');
    expect(widerType('boolean', 'integer')).toBe('text');
  });

  it('sum up layers from any division into batches', () => {
    const build = (rows: { entity: string; value: string | number; x: number }[], cut: number): Profiler => {
      const profiler = new Profiler();
      for (let from = 0; from < rows.length; from += cut) {
        const b = new BatchBuilder('L');
        rows.slice(from, from + cut).forEach((row, i) => {
          b.vertex(row.x, 0, row.x);
          b.endPart();
          b.set('value', row.value);
          b.endFeature(POINT, row.entity, from + i);
        });
        profiler.add(b.take());
      }
      return profiler;
    };
    const row = fc.record({
      entity: fc.constantFrom('POINT', 'INSERT'),
      value: fc.oneof(fc.integer(), fc.string({ minLength: 1 })),
      x: fc.integer({ min: -1000, max: 1000 }),
    });
    fc.assert(
      fc.property(fc.array(row, { minLength: 1, maxLength: 30 }), fc.integer({ min: 1, max: 10 }), (rows, cut) => {
        expect(build(rows, cut).layers()).toEqual(build(rows, rows.length).layers());
        const [layer] = build(rows, cut).layers();
        expect(layer!.count).toBe(rows.length);
        expect(layer!.extent).toEqual([Math.min(...rows.map((r) => r.x)), 0, Math.max(...rows.map((r) => r.x)), 0]);
        const [field] = joinFields(layer!.groups);
        expect(field!.filled).toBe(rows.length);
        expect(field!.maxBytes).toBe(Math.max(...rows.map((r) => utf8Length(String(r.value)))));
      }),
    );
  });
});

describe('batches', () => {
  it('come out of any number of layers complete, and never larger than they may be', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 1, maxLength: 400 }),
        fc.integer({ min: 1, max: 60 }),
        (layers, repeat) => {
          const builders = new LayerBuilders();
          const out: FeatureBatch[] = [];
          let n = 0;
          for (let k = 0; k < repeat; k++) {
            for (const layer of layers) {
              const builder = builders.for(`L${layer}`);
              builder.vertex(n, 0, 0);
              builder.vertex(n, 1, 0);
              builder.endPart();
              builder.endFeature(LINE, 'LINE', n++);
              builders.ended(builder);
              out.push(...builders.takeFull());
            }
          }
          out.push(...builders.takeAll());
          const places = out.flatMap((b) => [...b.locations]).sort((a, b) => a - b);
          expect(places).toEqual(Array.from({ length: n }, (_, i) => i));
          for (const b of out) {
            expect(b.count).toBeLessThanOrEqual(BATCH_RECORDS);
            expect(b.coords.length).toBe(6 * b.count);
            // the order within a layer is the order of reading
            expect([...b.locations]).toEqual([...b.locations].sort((x, y) => x - y));
          }
        },
      ),
      { numRuns: 25 },
    );
  });
});

describe('names of fields', () => {
  it('fit, are valid and are unique, whatever they come from', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.oneof(
            fc.string({ maxLength: 40, unit: 'grapheme' }),
            fc.constantFrom('INSTALLATION_YEAR', 'INSTALLATION_CREW', 'INSTALLATION_YEARLY', 'a b c', ''),
          ),
          { maxLength: 30 },
        ),
        (names) => {
          const taken = new Set<string>();
          for (const name of names) {
            const to = uniqueName(name === '' ? 'field' : name, (n) => taken.has(n.toLowerCase()), rules);
            expect(utf8Length(to)).toBeLessThanOrEqual(10);
            expect(taken.has(to.toLowerCase())).toBe(false);
            if (to !== '') expect(nameFault(to, rules)).toBeNull();
            taken.add(to.toLowerCase());
          }
        },
      ),
    );
  });

  it.each([
    ['INSTALLATION_YEAR', 'INST_YEAR'],
    ['INSTALLATION_CREW', 'INST_CREW'],
    ['PIPE_ID', 'PIPE_ID'],
    ['lineweight_mm', 'linew_mm'],
    ['SAFE LOAD (kN)', 'SAFE_LOAD'],
    ['MATERIAL_OF_THE_PIPE', 'MATER_PIPE'],
    ['WATER_MAIN_DIAMETER_MM', 'WATER_MAIN'],
    ['ADDRESS_LINE_2', 'ADDR_LINE2'],
    ['pipeDiameter', 'pipeDiamet'],
    ['installationYear', 'instalYear'],
    ['depth.of.cover.m', 'dept_cov_m'],
  ])('%s becomes %s', (from, to) => expect(abbreviate(from, rules)).toBe(to));

  it('are told apart by their last word where they begin alike, then by a number', () => {
    const taken = new Set<string>();
    const names = ['WATER_MAIN_DIAMETER', 'WATER_MAIN_MATERIAL', 'WATER_MAIN_MATERIALS'].map((name) => {
      const to = uniqueName(name, (n) => taken.has(n), rules);
      taken.add(to);
      return to;
    });
    expect(names).toEqual(['WATER_MAIN', 'WATER_MAT', 'WATER']);
    expect(new Set(names).size).toBe(3);
  });

  it('are told what is wrong with them', () => {
    expect(nameFault('', rules)).toBe('A name is needed.');
    expect(nameFault('elevenchars', rules)).toMatch(/11 bytes; at most 10/);
    expect(nameFault('a b', rules)).toMatch(/" " is not allowed/);
    expect(nameFault('Straße', rules)).toBeNull();
  });
});

describe('names of files', () => {
  it('are plain, whatever the layer is called', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (name) => {
        expect(fileStem(name)).toMatch(/^[a-z0-9_]{1,60}$/);
      }),
    );
    expect(fileStem('Whārangi Lane/../x')).toBe('wharangi_lane_x');
    expect(fileStem('../..')).toBe('layer');
  });
});

describe('findings', () => {
  it('are summed by what they say and where', () => {
    const findings = new Findings();
    const one = { code: 'x', severity: 'caution', message: 'HATCH is not read.', count: 1, location: 'PLANTING' } as const;
    findings.add(one);
    findings.add(one);
    findings.add({ ...one, location: 'ROOF' });
    expect(findings.list().map((f) => [f.location, f.count])).toEqual([
      ['PLANTING', 2],
      ['ROOF', 1],
    ]);
  });
});

import type { Value } from '@pontrel/core/model/value';
import fc from 'fast-check';
import { SldStyleParser } from 'geostyler-sld-parser';
import { describe, expect, it } from 'vitest';
import { KINDS } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import type { LayerStyle } from '@pontrel/core/symbology/layer-style';
import { type Symbolizer, symbolizerOf as ourSymbolizer } from '@pontrel/core/symbology/symbolizer';
import type { Category } from '@pontrel/core/symbology/style-rules';
import { looksBy, readSld } from '@pontrel/core/symbology/sld-read';
import { sldText } from '@pontrel/core/symbology/sld-write';

type Style = NonNullable<Awaited<ReturnType<SldStyleParser['readStyle']>>['output']>;
type Rule = Style['rules'][number];
type Filter = NonNullable<Rule['filter']>;
type TheirSymbolizer = Rule['symbolizers'][number];

/** Millimetres of a pixel that styles count in. Source: OGC 05-077r4, clause 11.1.3. */
const PIXEL = 0.28;
const MARKS = ['square', 'triangle', 'star', 'cross', 'x'] as const;
const hex = fc.integer({ min: 0, max: 0xffffff }).map((n) => `#${n.toString(16).padStart(6, '0')}`);
// whole quarters of a millimetre, which four decimals of a pixel tell
const width = fc.integer({ min: 1, max: 20 }).map((n) => n * 0.28);
const share = fc.integer({ min: 1, max: 19 }).map((n) => n / 20);

const look: fc.Arbitrary<Symbolizer> = fc
  .record({
    kind: fc.constantFrom('line' as const, 'polygon' as const, 'point' as const),
    color: hex,
    fill: hex,
    opacity: share,
    width: width,
    ground: fc.option(fc.integer({ min: 1, max: 40 }).map((n) => n / 4)),
    dash: fc.option(fc.constantFrom([12, 6], [24, 5, 5, 5])),
    marker: fc.constantFrom(...MARKS),
    size: fc.integer({ min: 4, max: 40 }).map((n) => n * PIXEL),
  })
  .map(({ kind, color, fill, opacity, width: w, ground, dash, marker, size }): Symbolizer => ({
    kind,
    color,
    fill: kind === 'polygon' ? fill : null,
    opacity,
    width_mm: kind === 'point' || ground !== null ? null : w,
    width_m: kind === 'point' ? null : ground,
    dash_mm: kind === 'point' ? null : dash,
    marker: kind === 'point' ? marker : null,
    marker_mm: kind === 'point' ? size : null,
  }));
const value = fc.oneof(
  fc
    .string({ minLength: 1, maxLength: 12 })
    .map((s) => s.trim())
    .filter((s) => s !== '' && !/[\r\n\t]/.test(s) && Number.isNaN(Number(s)) && !/^(true|false)$/i.test(s) && !/ {2}/.test(s)),
  fc.integer({ min: -900, max: 900 }),
  fc.constant(null),
);
const category: fc.Arbitrary<Category> = fc
  .record({
    symbolizer: look,
    where: fc.uniqueArray(fc.record({ field: fc.constantFrom('color', 'lineweight', 'STREET', 'Größe'), value }), {
      selector: (w) => w.field,
      maxLength: 3,
    }),
  })
  .map(({ symbolizer: own, where }) => ({ name: 'rule', where, symbolizer: own, count: 1 }));
const style: fc.Arbitrary<LayerStyle> = fc.record({
  label: fc.option(
    fc.record({ field: fc.constantFrom('name', 'STREET'), height_mm: fc.integer({ min: 4, max: 30 }).map((n) => n * PIXEL), color: hex }),
  ),
  scales: fc.option(
    fc
      .record({ min: fc.option(fc.integer({ min: 1, max: 999 })), max: fc.option(fc.integer({ min: 1000, max: 99_999 })) })
      .filter((s) => s.min !== null || s.max !== null),
  ),
});

const near = (n: number): unknown => expect.closeTo(n, 3) as unknown;

/** What the other library is to make of a look: its own words for it. */
function symbolizerOf(l: Symbolizer): Record<string, unknown> {
  const dash = l.dash_mm?.map((d) => near(l.width_m === null ? d / PIXEL : d));
  const stroke = l.width_m ?? (l.width_mm === null ? null : l.width_mm / PIXEL);
  if (l.kind === 'line')
    return {
      kind: 'Line',
      color: l.color,
      opacity: l.opacity,
      width: near(stroke!),
      ...(l.width_m === null ? {} : { widthUnit: 'm' }),
      ...(dash ? { dasharray: dash } : {}),
    };
  if (l.kind === 'polygon')
    return {
      kind: 'Fill',
      color: l.fill,
      fillOpacity: l.opacity,
      outlineColor: l.color,
      outlineWidth: near(stroke!),
      ...(dash ? { outlineDasharray: dash } : {}),
    };
  return { kind: 'Mark', wellKnownName: l.marker, color: l.color, radius: near(l.marker_mm! / PIXEL / 2), strokeColor: l.color };
}

function filterOf({ where }: Category): unknown {
  const tests = where.map((w) => ['==', w.field, w.value]);
  return tests.length === 0 ? undefined : tests.length === 1 ? tests[0] : ['&&', ...tests];
}

describe('styles, as another library understands them', () => {
  // geostyler-sld-parser, live
  it('that are written here are understood there as they were meant', async () => {
    const parser = new SldStyleParser({ sldVersion: '1.1.0' });
    let rules = 0;
    await fc.assert(
      fc.asyncProperty(fc.array(category, { minLength: 1, maxLength: 5 }), style, async (categories, own) => {
        const { output, errors } = await parser.readStyle(sldText('layer <1> & "co"', categories, own));
        expect(errors ?? []).toEqual([]);
        expect(output!.name).toBe('layer <1> & "co"');
        expect(output!.rules.length).toBe(categories.length);
        output!.rules.forEach((rule: Rule, k) => {
          const wanted = categories[k]!;
          expect(rule.filter).toEqual(filterOf(wanted));
          expect(rule.scaleDenominator ?? null).toEqual(
            own.scales === null
              ? null
              : {
                  ...(own.scales.min === null ? {} : { min: own.scales.min }),
                  ...(own.scales.max === null ? {} : { max: own.scales.max }),
                },
          );
          expect(rule.symbolizers[0]).toMatchObject(symbolizerOf(wanted.symbolizer));
          expect(rule.symbolizers.slice(1)).toEqual(
            own.label === null
              ? []
              : [
                  expect.objectContaining({
                    kind: 'Text',
                    label: `{{${own.label.field}}}`,
                    color: own.label.color,
                    size: near(own.label.height_mm! / PIXEL),
                  }),
                ],
          );
          rules++;
        });
      }),
      { numRuns: 400 },
    );
    expect(rules).toBeGreaterThan(800);
  });

  it.each(['1.0.0', '1.1.0'] as const)('that are written there as SLD %s are understood here', async (sldVersion) => {
    const parser = new SldStyleParser({ sldVersion });
    const cell = fc.constantFrom('a', 'b', 'Größe', null);
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(hex, fc.integer({ min: 1, max: 12 }), share, fc.option(fc.constantFrom([12, 6], [8, 2, 2, 2])), cell), {
          minLength: 1,
          maxLength: 4,
        }),
        fc.array(cell, { minLength: 1, maxLength: 6 }),
        fc.boolean(),
        async (rules, values, scaled) => {
          const given: Style = {
            name: 'roads',
            rules: rules.map(([color, w, opacity, dasharray, wanted], k): Rule => ({
              name: `r${k}`,
              filter: ['==', 'kind', wanted] as Filter,
              ...(scaled ? { scaleDenominator: { min: 500, max: 20_000 } } : {}),
              symbolizers: [{ kind: 'Line', color, width: w, opacity, ...(dasharray ? { dasharray } : {}) } as TheirSymbolizer],
            })),
          };
          const { output } = await parser.writeStyle(given);
          const sheet = readSld('roads.sld', output!);
          expect(sheet.left).toEqual([]);
          expect(sheet.style.scales).toEqual(scaled ? { min: 500, max: 20_000 } : null);
          const b = new BatchBuilder('roads');
          for (const v of values) {
            b.vertex(0, 0, NaN);
            b.vertex(1, 1, NaN);
            b.endPart();
            b.set('kind', v);
            b.endFeature(KINDS.indexOf('line'), 'Line', 1);
          }
          const drawn = looksBy(b.take(), sheet);
          values.forEach((v: Value, i) => {
            // of several that take a record the later one is on top, and what it does not say is that of the one below
            const taking = rules.filter((r) => r[4] === v);
            const last = taking.at(-1);
            if (!last) return expect(drawn[i]).toBeNull();
            const found = ourSymbolizer(
              'line',
              (f) => drawn[i]?.[f] ?? null,
              (name) => sheet.library.lines.get(name.toLowerCase()),
              1,
            );
            const dash = [...taking].reverse().find((r) => r[3] !== null)?.[3] ?? null;
            expect(found).toMatchObject({
              color: last[0],
              opacity: near(last[2]),
              width_mm: near(last[1] * PIXEL),
              dash_mm: dash && dash.map((d) => expect.closeTo(d * PIXEL, 2) as unknown),
            });
          });
        },
      ),
      { numRuns: 150 },
    );
  });
});

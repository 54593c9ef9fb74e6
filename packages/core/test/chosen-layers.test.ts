import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { isUnused, withChosenLayers } from '../src/crossing/chosen-layers';
import { fromTemplate, templateOf } from '../src/crossing/deliverable-template';
import { recipeFingerprint } from '../src/crossing/recipe-fingerprint';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '../src/crossing/recipe';
import { renameSource } from '../src/crossing/rename-source';
import { recipeFaults } from '../src/crossing/validate-recipe';
import { type FeatureBatch, POINT } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { memoryCrossingSource, runInMemory } from './memory-crossing';

const LAYERS = ['A', 'B', 'C', 'D'];

function points(layer: string, count: number): FeatureBatch {
  const b = new BatchBuilder(layer);
  for (let k = 0; k < count; k++) {
    b.vertex(1_464_000 + k, 5_101_500, NaN);
    b.endPart();
    b.set('n', k);
    b.endFeature(POINT, 'POINT', k + 1);
  }
  return b.take();
}

const deliverable = (without?: Deliverable['without']): Deliverable => ({
  id: 'd',
  name: 'Out',
  format: 'geojson',
  crs: 'EPSG:4326',
  grouping: 'layer',
  ...(without ? { without } : {}),
});

const recipeOf = (...deliverables: Deliverable[]): Recipe => ({
  ...EMPTY_RECIPE,
  frame: { crs: 'EPSG:2193' },
  sources: Object.fromEntries(['one', 'two'].map((name) => [name, { placement: { crs: 'EPSG:2193', unit_m: null }, layers: {} }])),
  deliverables,
});

describe('layers that a deliverable leaves out', () => {
  it('stay behind by a person’s choice, whatever they are, and the account closes', async () => {
    const left = fc.oneof(fc.constant(true as const), fc.subarray(LAYERS));
    await fc.assert(
      fc.asyncProperty(left, left, async (one, two) => {
        const sources = ['one', 'two'].map((name) =>
          memoryCrossingSource(
            name,
            LAYERS.map((l, k) => points(l, k + 2)),
          ),
        );
        const d = deliverable({ one, two });
        const isOut = (source: string, layer: string): boolean => {
          const own = source === 'one' ? one : two;
          return own === true || own.includes(layer);
        };
        const crossing = sources.flatMap((s) => s.layers.filter((l) => !isOut(s.name, l.name)));
        const expected = crossing.reduce((n, l) => n + l.count, 0);
        const run = runInMemory(recipeOf(d), d, sources);
        if (expected === 0) {
          await expect(run).rejects.toThrow('would hold nothing');
          return;
        }
        const { report } = await run;
        expect([report.proof.status, report.proof.records.out]).toEqual(['match', expected]);
        for (const row of report.account) {
          const out = isOut(row.source, row.layer);
          expect([row.crossed, row.left.map((l) => [l.by, l.count])]).toEqual([out ? 0 : row.read, out ? [['you', row.read]] : []]);
        }
        expect(report.account).toHaveLength(8);
      }),
      { numRuns: 40 },
    );
  });

  it('change nothing of the rules of the crossing, nor of other deliverables', () => {
    const d = deliverable({ one: ['A'], two: true });
    const recipe = recipeOf(d);
    const before = structuredClone(recipe);
    const own = withChosenLayers(recipe, d, [
      { name: 'one', layers: [{ name: 'A' }, { name: 'B' }] },
      { name: 'two', layers: [{ name: 'C' }] },
    ]);
    expect(recipe).toEqual(before);
    expect([own.sources.one!.layers, own.sources.two!.layers]).toEqual([{ A: { taken: false } }, { C: { taken: false } }]);
    expect(withChosenLayers(recipe, deliverable(), [])).toBe(recipe);
  });

  it('go under the name that their source gets, and are told where they are no more', () => {
    const recipe = renameSource(recipeOf(deliverable({ one: ['A'] })), 'one', 'uno');
    expect(recipe.deliverables[0]!.without).toEqual({ uno: ['A'] });
    const { layers } = memoryCrossingSource('uno', [points('B', 1)]);
    const other = memoryCrossingSource('two', [points('A', 1)]);
    const faults = recipeFaults(recipe, [
      { name: 'uno', layers },
      { name: 'two', layers: other.layers },
    ]);
    expect(faults.map((f) => f.finding.code)).toContain('recipe-without');
  });
});

describe('a source that a deliverable leaves out', () => {
  const d = deliverable({ two: true });
  const mark = recipeFingerprint(recipeOf(d), 'd');

  it('may come, change and go without making its runs old', () => {
    const changed = recipeOf(d);
    changed.sources.two!.layers = { A: { dropDuplicates: true } };
    expect(recipeFingerprint(changed, 'd')).toBe(mark);
    const { two: _two, ...others } = changed.sources;
    expect(recipeFingerprint({ ...changed, sources: others }, 'd')).toBe(mark);
    // as they were before it came
    expect(recipeFingerprint({ ...recipeOf(deliverable()), sources: others }, 'd')).toBe(mark);
  });

  it('is used all the same where a table or an area of it is asked for', () => {
    const joined = recipeOf(d);
    joined.sources.one!.layers = { A: { join: { source: 'two', layer: 'A', key: 'n', tableKey: 'n' } as never } };
    expect(isUnused(joined, d, 'two')).toBe(false);
    expect(isUnused(recipeOf(d), { ...d, area: { kind: 'source', source: 'two', plus_m: 0 } }, 'two')).toBe(false);
    expect(isUnused(recipeOf(d), d, 'two')).toBe(true);
  });
});

describe('a template', () => {
  it('keeps what is said of the format and nothing of sources, and gets a name that is free', () => {
    const full: Deliverable = {
      ...deliverable({ one: true }),
      stem: 'out_1',
      into: 'one',
      area: { kind: 'source', source: 'one', plus_m: 5 },
      options: { indent: 'yes' },
      image: { resampling: 'cubic', sources: ['one'], card: 'CARD', split: { areas: { source: 'one', layer: 'A' } } },
    };
    const template = templateOf(full);
    expect(JSON.stringify(template)).not.toMatch(/"one"|CARD|out_1/);
    expect(template).toMatchObject({ options: { indent: 'yes' }, image: { resampling: 'cubic' } });
    expect(templateOf({ ...full, area: { kind: 'box', box: [0, 0, 1, 1] } }).area).toEqual({ kind: 'box', box: [0, 0, 1, 1] });
    expect(['x', 'y', 'z'].reduce<string[]>((names, id) => [...names, fromTemplate(template, id, names).name], [])).toEqual([
      'Out',
      'Out 2',
      'Out 3',
    ]);
  });
});

import { describe, expect, it } from 'vitest';
import { EMPTY_RECIPE, type Recipe } from '../src/crossing/recipe';
import { recipeFingerprint } from '../src/crossing/recipe-fingerprint';

const recipe: Recipe = {
  ...EMPTY_RECIPE,
  frame: { crs: 'EPSG:2193' },
  sources: {
    'quay.dxf': { placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: { VALVE: { taken: false }, MAIN: { dropDuplicates: true } } },
  },
  deliverables: [
    { id: 'a', name: 'A', format: 'dxf', crs: 'EPSG:2193', grouping: 'layer' },
    { id: 'b', name: 'B', format: 'kml', crs: 'EPSG:4326', grouping: 'layer' },
  ],
};

describe('what a run was made by', () => {
  const mark = recipeFingerprint(recipe, 'a');
  const changed = (how: (r: Recipe) => void): boolean => {
    const other = structuredClone(recipe);
    how(other);
    return recipeFingerprint(other, 'a') !== mark;
  };

  it('is the same when another deliverable changes, when members stand in another order, and when a change was taken back', () => {
    expect(changed((r) => void (r.deliverables[1]!.name = 'Bee'))).toBe(false);
    expect(changed((r) => void r.deliverables.reverse())).toBe(false);
    expect(changed((r) => void (r.sources['quay.dxf']!.layers = { MAIN: { dropDuplicates: true }, VALVE: { taken: false } }))).toBe(false);
    expect(
      changed((r) =>
        Object.assign(r.sources['quay.dxf']!.layers, {
          POST: {},
          MAIN: { dropDuplicates: true, selections: [{ name: 'by the ramp', where: 'x > 1' }] },
        }),
      ),
    ).toBe(false);
    expect(
      changed((r) => {
        r.chord_m = 1;
        r.chord_m = recipe.chord_m;
      }),
    ).toBe(false);
  });

  it('is another one when anything changes that its files come of', () => {
    expect(changed((r) => void (r.chord_m = 1))).toBe(true);
    expect(changed((r) => void (r.sources['quay.dxf']!.layers.VALVE = {}))).toBe(true);
    expect(changed((r) => void (r.sources['quay.dxf']!.placement!.unit_m = 1))).toBe(true);
    expect(changed((r) => void (r.deliverables[0]!.options = { version: 'R12' }))).toBe(true);
    expect(changed((r) => void (r.frame = { crs: 'EPSG:2126' }))).toBe(true);
  });
});

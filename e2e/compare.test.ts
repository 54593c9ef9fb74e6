import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { python } from '../tests/reference/python';
import { Desk } from './browser';
import type { RevisionsMade as Made } from '../tests/reference/revisions-made';

describe('two revisions', () => {
  let desk: Desk;
  let made: Made;
  beforeAll(async () => {
    desk = await Desk.open();
    made = python<Made>('make_revisions.py', { folder: desk.folder, seed: 11, count: 180 });
  });
  afterAll(() => desk.close());

  const set = (name: string): { name: string; content: Buffer }[] =>
    ['.shp', '.shx', '.dbf', '.prj'].map((e) => ({ name: `${name}${e}`, content: readFileSync(`${desk.folder}/${name}${e}`) }));

  it('are compared by a key; what differs is a source that nobody’s deliverables get unasked', async () => {
    const { page, server } = desk;
    await page.goto(server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop(...set('old'));
    await page.getByText('1 of 1 taken').waitFor();
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Add GeoPackage' }).click();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('180 records read back as they went in').waitFor();
    await page.keyboard.press('1');
    await desk.drop(...set('far'));
    await page.getByText('2 of 2 taken').waitFor();
    await page.getByRole('button', { name: 'Compare far.shp with another revision' }).click();
    const dialog = page.getByRole('dialog', { name: 'Compare two revisions' });
    await dialog.getByLabel('Has not moved within').fill('a little');
    await dialog.getByRole('button', { name: 'Compare', exact: true }).click();
    await dialog.getByText('A length is wanted, such as 1 mm, 0.02 m or 0.1 ft.').waitFor();
    await dialog.getByLabel('Has not moved within').fill('2 mm');
    await dialog.getByLabel('A record is known by').selectOption('LOT');
    await dialog.getByRole('button', { name: 'Compare', exact: true }).click();
    await page.getByText('what differs between old.shp and far.shp, by LOT').waitFor();
    const state = await server.state(desk.id);
    const differences = state.sources.find((s) => s.compared)!;
    expect(differences.compared).toEqual({ old: 'old.shp', next: 'far.shp', key: 'LOT', tolerance_m: 0.002 });
    expect(Object.fromEntries(differences.layers.map((l) => [l.profile.name, l.profile.count]))).toEqual({
      added: made.added,
      removed: made.removed,
      moved: made.moved,
      changed: made.changed + made.both,
      'moved from': made.moved + made.both,
      summary: 1,
    });
    // just the lots that are gone, with all that was said of them
    const gone = await server.call<{ records: { attributes: Record<string, unknown> }[] }>(
      'GET',
      `api/crossings/${desk.id}/sources/${differences.id}/records?layer=removed&limit=200`,
    );
    expect(gone.body.records.map((r) => r.attributes.LOT).sort()).toEqual([...made.removed_lots].sort());
    const [sum] = (
      await server.call<{ records: { attributes: Record<string, unknown> }[] }>(
        'GET',
        `api/crossings/${desk.id}/sources/${differences.id}/records?layer=summary`,
      )
    ).body.records;
    expect(sum!.attributes).toMatchObject({ layer: 'old', added: made.added, removed: made.removed, same: made.same });
    // what was delivered before is not touched by it
    expect(state.recipe.deliverables[0]!.without).toEqual({ [differences.name]: true });
  });

  it('become a deliverable of the differences alone, which is proved', async () => {
    const { page, server } = desk;
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Add GeoJSON' }).click();
    await page.getByText('All 8 layers').waitFor();
    await page.getByRole('button', { name: 'choose', exact: true }).click();
    for (const source of ['old.shp', 'far.shp']) await page.getByLabel(new RegExp(`^${source.replace('.', '\\.')} into`)).uncheck();
    await page.getByText('6 of 8 layers').waitFor();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    const count = made.added + made.removed + 2 * made.moved + made.changed + 2 * made.both + 1;
    await page.getByText(`${count} records read back as they went in`).waitFor();
    const before = await server.state(desk.id);
    const run = before.runs.find((r) => r.records.out === count)!;
    expect(run.status).toBe('match');
    expect(run.account).toMatchObject({ crossed: count, byYou: 180 + 180 - made.removed + made.added, notCarried: 0, missing: 0 });
    // another comparison makes no run old
    const [old, next] = ['old.shp', 'far.shp'].map((name) => before.sources.find((s) => s.name === name)!.id);
    await server.call('POST', `api/crossings/${desk.id}/comparisons`, { old, next, key: null, tolerance_m: 0.5 });
    const after = await server.until(desk.id, (s) => s.sources.length === 4);
    expect(after.runs.find((r) => r.id === run.id)!.current).toBe(true);
    const another = after.sources.find((s) => s.compared?.tolerance_m === 0.5)!;
    expect((await server.call('DELETE', `api/crossings/${desk.id}/sources/${another.id}`)).status).toBe(200);
    expect(desk.errors).toEqual([]);
  });

  it('are told apart on the map by a legend, in which layers are switched off and dimmed for the eye alone', async () => {
    const { page } = desk;
    await page.keyboard.press('2');
    await page.getByRole('application', { name: /Map/ }).waitFor();
    await page.keyboard.press('k');
    const legend = page.getByRole('region', { name: 'Legend' });
    await legend.getByText('removed', { exact: true }).waitFor();
    await legend.getByRole('button', { name: 'Show old of old.shp' }).click();
    await legend.getByRole('button', { name: 'Dim far of far.shp' }).click();
    await page.getByRole('button', { name: 'Legend · 2 off' }).waitFor();
    await page.reload();
    await page.getByRole('button', { name: 'Legend · 2 off' }).click();
    await legend.getByRole('button', { name: 'Show all', exact: true }).click();
    await page.getByRole('button', { name: 'Legend', exact: true }).waitFor();
    expect((await desk.server.state(desk.id)).recipe.sources['old.shp']!.layers).toEqual({});
    expect(desk.errors).toEqual([]);
  });

  it('of which one lies in the bin, since the other took its place, are compared as well', async () => {
    const { page, server } = desk;
    await page.keyboard.press('1');
    await desk.dropOn(page.getByRole('group', { name: 'old.shp', exact: true }), ...set('new'));
    await page.getByText('in the place of old.shp').waitFor();
    await page.getByRole('button', { name: 'Compare new.shp with another revision' }).click();
    const dialog = page.getByRole('dialog', { name: 'Compare two revisions' });
    expect(await dialog.getByLabel('Older').locator('option:checked').textContent()).toMatch(/^old\.shp \(in the bin since Today/);
    await dialog.getByRole('button', { name: 'Compare', exact: true }).click();
    await page.getByText('what differs between old.shp and new.shp').waitFor();
    const differences = (await server.state(desk.id)).sources.find((s) => s.compared?.next === 'new.shp')!;
    // by where they lie, what has moved and has other values as well is another one
    expect(Object.fromEntries(differences.layers.map((l) => [l.profile.name, l.profile.count]))).toMatchObject({
      added: made.added + made.both,
      removed: made.removed + made.both,
      moved: made.moved,
      changed: made.changed,
    });
    expect(desk.errors).toEqual([]);
  });
});

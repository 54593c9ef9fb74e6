import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { python } from '../tests/reference/python';
import { Desk } from './browser';

describe('revision B of a drawing', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    python('make_revision.py', { folder: desk.folder });
  });
  afterAll(() => desk.close());

  it('takes the place of A under all rules; what no longer fits is listed, matched by hand, and the run is proved', async () => {
    const { page, server, folder } = desk;
    const { id } = await server.placed(`${folder}/mains-a.dxf`, { crs: 'EPSG:2193', unit_m: 1 });
    const { recipe, revision } = await server.state(id);
    recipe.sources['mains-a.dxf']!.layers = { PIPES: { to: 'water_mains' }, VALVES: { fields: { STATE: { to: 'status' } } } };
    await server.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision });
    await page.goto(`${server.address}crossings/${id}/deliver`);
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('10 records read back as they went in').waitFor();

    await page.keyboard.press('1');
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      page.getByRole('button', { name: 'Put another file in the place of mains-a.dxf' }).click(),
    ]);
    await chooser.setFiles({ name: 'mains-b.dxf', mimeType: '', buffer: readFileSync(`${folder}/mains-b.dxf`) });
    await page.getByText('in the place of mains-a.dxf').waitFor();
    const faults = page.getByRole('group', { name: 'What no longer fits mains-b.dxf' });
    await faults.getByText('No layer PIPES any more').waitFor();
    await faults.getByText('a rule is about a field STATE, which no record has.').waitFor();
    await faults.getByText('no rule for the layer CABLES: it crosses as it is').waitFor();
    await page.getByRole('link', { name: /Prove/ }).getByText('rules changed since').waitFor();

    await faults.getByLabel('The rules of PIPES are for').selectOption({ label: 'MAINS' });
    await faults.getByText('No layer PIPES any more').waitFor({ state: 'detached' });
    await faults.getByLabel('The rule of STATE is for').selectOption({ label: 'no field: forget it' });
    await faults.getByText('a rule is about a field STATE').waitFor({ state: 'detached' });
    await page.keyboard.press('4');
    await page.getByText('water_mains.shp').waitFor();
    await page.getByRole('button', { name: 'Run again' }).click();
    await page.getByText('13 records read back as they went in').waitFor();
    const state = await server.state(id);
    expect(state.recipe.sources['mains-b.dxf']!.layers).toEqual({ MAINS: { to: 'water_mains' }, VALVES: {} });
    expect(state.runs.at(-1)).toMatchObject({ current: true, status: 'match' });
    expect(desk.errors).toEqual([]);
  });
});

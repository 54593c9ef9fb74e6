import { readFileSync } from 'node:fs';
import path from 'node:path';
import DxfParser from 'dxf-parser';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY } from '../tests/server/client';
import { python } from '../tests/reference/python';
import { Desk, unpack } from './browser';

const quay = { name: 'quay-design.dxf', content: readFileSync(QUAY) };

/** How many entities of a type are on a layer of the drawing, by a reader that this project did not write (npm: dxf-parser). */
function countIn(layer: string, type: string): number {
  const drawing = new DxfParser().parseSync(quay.content.toString('utf8'))!;
  return drawing.entities.filter((e) => e.layer === layer && e.type === type).length;
}

describe('several layers are shaped at once', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    const { id } = await desk.server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 });
    await desk.page.goto(`${desk.server.address}crossings/${id}/shape`);
  });
  afterAll(() => desk.close());

  const layers = ['WATER-MAIN', 'SEWER'];

  it('a filter goes to all that are chosen; its effect is told while it is typed, and by layer', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'WATER-MAIN', exact: true }).click();
    await page.getByRole('button', { name: 'SEWER', exact: true }).click({ modifiers: ['Control'] });
    await page.getByRole('heading', { name: 'Rules for 2 layers' }).waitFor();
    const lines = layers.map((l) => countIn(l, 'LINE')),
      all = 169 + 84;
    const passing = lines.reduce((n, k) => n + k, 0);
    const filter = page.getByRole('textbox', { name: 'Only records of 2 layers where' });
    await filter.fill("entity = 'LINE'");
    await page.getByText(`${passing} of ${all} records pass this filter`).waitFor();
    await page.keyboard.press('Enter');
    const table = page.getByRole('table', { name: 'Records of the chosen layers' });
    for (const [k, count] of [169, 84].entries()) {
      const row = table.getByRole('row', { name: new RegExp(layers[k]!) });
      await expect.poll(() => row.getByRole('cell').allTextContents()).toEqual([layers[k]!, `${lines[k]}`, `${count - lines[k]!}`, '0']);
    }
    // one step back for both of them
    await page.getByRole('heading', { name: 'Field plan' }).click();
    await page.keyboard.press('Control+z');
    await page.getByText('Undone: filter of 2 layers').waitFor();
    await expect.poll(() => table.getByRole('row', { name: /SEWER/ }).getByRole('cell').nth(1).textContent()).toBe('84');
  });

  it('X, Y and height are added to all points in one step, and taken back by their arrow', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'points', exact: true }).click();
    await page.getByRole('heading', { name: /^Rules for \d+ layers$/ }).waitFor();
    await page.getByRole('button', { name: 'X, Y and height at once' }).click();
    const plan = page.getByRole('table', { name: /^Field plan of/ });
    for (const field of ['x', 'y', 'z']) await plan.getByRole('textbox', { name: `Name of ${field} in the target` }).waitFor();
    const { recipe } = await desk.server.state(desk.id);
    const rules = Object.values(recipe.sources['quay-design.dxf']!.layers).filter((r) => r.computed);
    expect(rules.length).toBeGreaterThan(3);
    expect(rules.every((r) => r.computed!.join() === 'x,y,z')).toBe(true);
    await page.getByRole('button', { name: /^Computed fields of \d+ layers: back/ }).click();
    await plan.getByRole('textbox', { name: 'Name of x in the target' }).waitFor({ state: 'detached' });
  });

  it('what differs among the layers is told, and becomes one when it is chosen', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'BOLLARD', exact: true }).click();
    await page.getByRole('radio', { name: 'Drop' }).check();
    await page.getByRole('button', { name: 'VALVE', exact: true }).focus();
    await page.keyboard.press('Space');
    await page.getByRole('heading', { name: 'Rules for 2 layers' }).waitFor();
    const rules = page.getByRole('complementary', { name: 'Rules' });
    await rules.getByText('differ among the 2').waitFor();
    expect([
      await rules.getByRole('radio', { name: 'Keep' }).isChecked(),
      await rules.getByRole('radio', { name: 'Drop' }).isChecked(),
    ]).toEqual([false, false]);
    await rules.getByRole('radio', { name: 'Drop' }).check();
    await rules.getByText('differ among the 2').waitFor({ state: 'detached' });
  });

  it('a group that is folded sums its rules up, and stays folded', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: /^Records \d/ }).click();
    await page
      .getByRole('region', { name: 'Records' })
      .getByText(/duplicates/)
      .waitFor();
    await page.reload();
    await page.getByRole('button', { name: 'BOLLARD', exact: true }).click();
    await page.getByRole('button', { name: /^Records/ }).waitFor();
    expect(await page.getByRole('radio', { name: 'Keep' }).count()).toBe(0);
    await page.getByRole('button', { name: /^Records/ }).click();
    await page.getByRole('radio', { name: 'Drop' }).waitFor();
  });

  it('changes are taken back from a list, and ? says what the stage is for', async () => {
    const { page } = desk;
    await page.getByRole('radio', { name: 'Keep' }).check();
    await page.getByRole('radio', { name: 'Drop' }).check();
    await page.getByRole('radio', { name: 'Keep' }).check();
    await page.getByRole('button', { name: 'Changes of rules' }).click();
    await page.getByRole('menuitem', { name: /drop duplicates of BOLLARD/ }).click();
    await page.getByText(/^Undone: 2 changes/).waitFor();
    await page.getByRole('button', { name: /^Undo: keep duplicates/ }).waitFor();
    await page.keyboard.press('?');
    const help = page.getByRole('dialog', { name: 'Shape, and the keys' });
    await help.getByText(/left out by you/).waitFor();
    await page.keyboard.press('Escape');
    await help.waitFor({ state: 'detached' });
  });

  it('a record that is left out says why when it is clicked', async () => {
    const { page } = desk;
    const rules = page.getByRole('complementary', { name: 'Rules' });
    await page.getByRole('textbox', { name: 'Only records of BOLLARD where' }).fill('SAFE_LOAD_KN = 1');
    await page.keyboard.press('Enter');
    await rules.getByText('33 stay behind').waitFor();
    const source = (await desk.server.state(desk.id)).sources[0]!.id;
    const { body } = await desk.server.call<{ records: { inFrame: [number, number] }[] }>(
      'GET',
      `api/crossings/${desk.id}/sources/${source}/records?layer=BOLLARD&limit=1`,
    );
    // the bollard is brought to the middle of the map, and taken with the keys
    await page.getByRole('button', { name: 'Coordinates' }).click();
    await page.getByRole('textbox', { name: 'Go to' }).fill(body.records[0]!.inFrame.join(' '));
    await page.keyboard.press('Enter');
    const card = page.getByRole('group', { name: 'Coordinates' });
    await card.getByText('Decimal degrees').waitFor();
    await card.getByRole('button', { name: 'Close' }).click();
    await page.getByRole('application', { name: /Map/ }).focus();
    await expect
      .poll(async () => {
        await page.keyboard.press('Enter');
        return page.getByRole('region', { name: 'Record' }).getByText('Left out by you').count();
      })
      .toBe(1);
    await page.getByText('not where SAFE_LOAD_KN = 1').waitFor();
    expect(desk.errors).toEqual([]);
  });
});

describe('layers are gathered on one sheet', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    await desk.page.goto(desk.server.address);
    await desk.page.getByText('No crossing yet').waitFor();
    await desk.drop(quay);
    await desk.page.getByText('19 of 19 taken').waitFor();
  });
  afterAll(() => desk.close());

  it('several are chosen with Shift, left together, and shaped together', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: /^BOLLARD,/ }).click();
    await page.getByRole('button', { name: /^LEASE-PARCEL,/ }).click({ modifiers: ['Shift'] });
    const inspector = page.getByRole('complementary', { name: 'Layers' });
    await inspector.getByText('3 layers').waitFor();
    await inspector.getByRole('button', { name: 'Leave all' }).click();
    await page.getByText('16 of 19 taken').waitFor();
    await inspector.getByRole('button', { name: 'Take all' }).click();
    await page.getByText('19 of 19 taken').waitFor();
    await inspector.getByRole('link', { name: 'Shape' }).click();
    await page.getByRole('heading', { name: 'Rules for 3 layers' }).waitFor();
  });

  it('cards are small ones or rows, arrows go from one to the next, and it stays so', async () => {
    const { page } = desk;
    await page.keyboard.press('1');
    await page.getByRole('radio', { name: 'As a list' }).check();
    await page.getByRole('button', { name: /^QUAY-EDGE,/ }).focus();
    await page.keyboard.press('ArrowDown');
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toMatch(/^QUAY-COPING,/);
    await page.keyboard.press('Space');
    await page.getByText('18 of 19 taken').waitFor();
    await page.reload();
    await page.getByRole('listitem').first().waitFor();
    expect(await page.getByRole('radio', { name: 'As a list' }).isChecked()).toBe(true);
    await page.getByRole('radio', { name: 'As cards', exact: true }).check();
    await page.getByRole('button', { name: /^QUAY-EDGE,/ }).focus();
    await page.keyboard.press('ArrowRight');
    expect(await page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).toMatch(/^QUAY-COPING,/);
    expect(desk.errors).toEqual([]);
  });
});

describe('deliverables are run together', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    const { id } = await desk.server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 });
    await desk.page.goto(`${desk.server.address}crossings/${id}/deliver`);
  });
  afterAll(() => desk.close());

  it('all that are ticked, with one bar; what came of them leads to the proof', async () => {
    const { page } = desk;
    // beside the shapefile that it has
    for (const name of ['Add GeoPackage', 'Add GeoJSON']) await page.getByRole('button', { name }).click();
    await page.getByRole('button', { name: 'Run all 3' }).waitFor();
    await page.getByRole('checkbox', { name: /^Run .*GeoJSON with the others/ }).uncheck();
    await page.getByText('2 of 3 to run').waitFor();
    await page.keyboard.press('Control+Enter');
    const bar = page.getByRole('region', { name: 'All runs' });
    await bar.getByText('All 2 match.').waitFor({ timeout: 60_000 });
    const { runs } = await desk.server.state(desk.id);
    expect(runs.map((r) => r.status)).toEqual(['match', 'match']);
    await bar.getByRole('link', { name: 'See the proof' }).click();
    await page.getByRole('heading', { name: /Match/ }).or(page.getByText(/Match/).first()).first().waitFor();
  });

  it('the account is sorted and filtered by what became of the records', async () => {
    const { page } = desk;
    await page.keyboard.press('4');
    const table = page.getByRole('table', { name: 'Forecast' });
    const first = (): Promise<string | null> => table.getByRole('row').nth(1).getByRole('cell').first().textContent();
    await table.getByRole('button', { name: 'Not carried' }).click();
    await expect.poll(first).toBe('QUAY-COPING');
    expect(await table.getByRole('columnheader', { name: 'Not carried' }).getAttribute('aria-sort')).toBe('descending');
    await page.getByRole('radio', { name: 'Not carried' }).check();
    // the head, the one layer, and the sum
    await expect.poll(() => table.getByRole('row').count()).toBe(3);
    expect(desk.errors).toEqual([]);
  });

  it('one is kept as a template, and made of another crossing with all that was said of it', async () => {
    const { page, server } = desk;
    await page
      .getByRole('button', { name: /^Quay design, GeoJSON/ })
      .first()
      .click();
    await page.getByLabel('Name of the deliverable').fill('Web page');
    await page.keyboard.press('Enter');
    await page.getByRole('radio', { name: /All points, all lines/ }).check({ force: true });
    await page.getByLabel('Area of interest').selectOption({ label: 'Inside LEASE-PARCEL of quay-design.dxf' });
    await page.getByRole('button', { name: 'Keep as a template' }).click();
    await page.getByText('Web page is kept as a template').waitFor();
    const other = await server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 });
    await page.goto(`${server.address}crossings/${other.id}/deliver`);
    await page.getByRole('button', { name: 'Add by the template Web page' }).click();
    await expect.poll(async () => (await server.state(other.id)).recipe.deliverables.length).toBe(2);
    const made = (await server.state(other.id)).recipe.deliverables[1]!;
    // a layer of another crossing is no area of this one
    expect([made.name, made.format, made.grouping, made.area]).toEqual(['Web page', 'geojson', 'kind', undefined]);
    await page.getByRole('button', { name: 'Forget the template Web page' }).click();
    await page.getByRole('button', { name: 'Add by the template Web page' }).waitFor({ state: 'detached' });
    expect(desk.errors).toEqual([]);
  });

  it('a field in error holds the run, and the page goes to it', async () => {
    const { page, server } = desk;
    await page
      .getByRole('button', { name: /^Council upload/ })
      .first()
      .click();
    await page.getByLabel('Area of interest').selectOption({ label: 'What quay-design.dxf covers' });
    const more = page.getByLabel('How much more');
    await more.fill('a bit');
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('How much more: what stands there cannot be taken.').waitFor();
    expect(await more.evaluate((el) => el === document.activeElement)).toBe(true);
    expect((await server.state(desk.id)).jobs.filter((j) => j.kind === 'run')).toEqual([]);
    await more.fill('10 ft');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/records read back as they went in/).waitFor();
    expect(desk.errors).toEqual([]);
  });
});

describe('records stand in a table', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    const { id } = await desk.server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 });
    await desk.page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
    await desk.page.goto(`${desk.server.address}crossings/${id}/records?source=quay-design.dxf&layer=BOLLARD`);
    await desk.page.getByText('33 records', { exact: true }).waitFor();
  });
  afterAll(() => desk.close());

  const heads = (): Promise<string[]> => desk.page.getByRole('columnheader').allInnerTexts();
  const menu = async (column: string, item: string): Promise<void> => {
    await desk.page.getByRole('button', { name: `More about the column ${column}`, exact: true }).click();
    await desk.page.getByRole('menuitem', { name: item }).click();
  };

  it('whose columns are moved, hidden and kept in sight, and stay so', async () => {
    const { page } = desk;
    const before = await heads();
    await menu(before[2]!, 'Move left');
    await expect.poll(async () => (await heads()).slice(1, 3)).toEqual([before[2], before[1]]);
    await menu(before[1]!, 'Hide');
    await expect.poll(async () => (await heads()).includes(before[1]!)).toBe(false);
    await menu('SAFE_LOAD_KN', 'Keep it in sight');
    await expect.poll(async () => (await heads())[1]).toBe('SAFE_LOAD_KN');
    await page.reload();
    await expect.poll(async () => (await heads())[1]).toBe('SAFE_LOAD_KN');
    const frozen = page.getByRole('columnheader', { name: 'SAFE_LOAD_KN' });
    const at = (await frozen.boundingBox())!.x;
    await page.getByRole('region', { name: 'Records of BOLLARD' }).evaluate((el) => el.scrollBy({ left: 400 }));
    await expect.poll(async () => (await frozen.boundingBox())!.x).toBe(at);
  });

  it('are summed up by column, and copied as a table', async () => {
    const { page } = desk;
    await menu('SAFE_LOAD_KN', 'Statistics');
    const told = page.getByRole('region', { name: 'Statistics of SAFE_LOAD_KN' });
    await told.getByText('33 of 33 with a value').waitFor();
    await told.getByRole('button', { name: 'Close the statistics' }).click();
    await page.getByRole('button', { name: 'Copy', exact: true }).click();
    await page.getByText(/^33 records copied as a table/).waitFor();
    const lines = (await page.evaluate(() => navigator.clipboard.readText())).split('\n');
    expect([lines.length, lines[0]!.split('\t')[0]]).toEqual([34, 'SAFE_LOAD_KN']);
    expect(desk.errors).toEqual([]);
  });
});

describe('actions are counted', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
  });
  afterAll(() => desk.close());

  it('a first shapefile with attributes, rotation and X Y Z takes twelve at the most', async () => {
    const { page } = desk;
    let actions = 0;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    actions++;
    await desk.drop(quay);
    await page.getByText('19 of 19 taken').waitFor();
    actions++;
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    actions++;
    await page.getByRole('radio', { name: /EPSG:2193/ }).check();
    actions++;
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).click();
    await page.getByText('Placed as').waitFor();
    actions++;
    await page.getByRole('link', { name: 'Shape first' }).click();
    actions++;
    await page.getByRole('button', { name: 'points', exact: true }).click();
    actions++;
    await page.getByRole('button', { name: 'X, Y and height at once' }).click();
    actions++;
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    actions++;
    await page.getByRole('button', { name: 'Add shapefile' }).click();
    actions++;
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('1 064 records read back as they went in').waitFor();
    actions++;
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download zip' }).click()]);
    expect(actions).toBeLessThanOrEqual(12);
    const files = await unpack(download, desk.folder);
    const sets = python<{ fields: [string, ...unknown[]][] }[]>('read_shapefiles.py', {
      files: files.filter((f) => f.endsWith('bollard.shp')),
    });
    for (const field of ['block_angl', 'SAFE_LOAD', 'x', 'y', 'z']) expect(sets[0]!.fields.map(([name]) => name)).toContain(field);
  });

  it('ten shapefiles into a container take four at the most', async () => {
    const { page } = desk;
    const folder = path.dirname(QUAY);
    const parts = ['shp', 'shx', 'dbf', 'prj', 'cpg'];
    const files = Array.from({ length: 10 }, (_, k) =>
      parts.map((part) => ({ name: `parcels_${k}.${part}`, content: readFileSync(path.join(folder, `parcels.${part}`)) })),
    ).flat();
    let actions = 0;
    await page.goto(desk.server.address);
    await page.getByRole('button', { name: 'Keys' }).waitFor();
    actions++;
    await desk.drop(...files);
    await page.getByText('10 of 10 taken').waitFor();
    // each states the same system, which becomes the frame
    await page
      .getByRole('link', { name: /^Place/ })
      .getByText('all placed')
      .waitFor();
    actions++;
    await page.getByRole('link', { name: /^Deliver/ }).click();
    actions++;
    await page.getByRole('button', { name: 'Add GeoPackage' }).click();
    actions++;
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('2 040 records read back as they went in').waitFor({ timeout: 60_000 });
    expect(actions).toBeLessThanOrEqual(4);
  });

  it('revision B under all rules takes five at the most: it is dropped on the source whose place it takes', async () => {
    const { page, server, folder } = desk;
    python('make_revision.py', { folder });
    const { id } = await server.placed(`${folder}/mains-a.dxf`, { crs: 'EPSG:2193', unit_m: 1 });
    const { recipe, revision } = await server.state(id);
    recipe.sources['mains-a.dxf']!.layers = { PIPES: { to: 'water_mains' }, VALVES: { fields: { STATE: { to: 'status' } } } };
    await server.call('PUT', `api/crossings/${id}/recipe`, { recipe, revision });
    await page.goto(`${server.address}crossings/${id}/gather`);
    let actions = 1;
    await desk.dropOn(page.getByRole('group', { name: 'mains-a.dxf' }), {
      name: 'mains-b.dxf',
      content: readFileSync(`${folder}/mains-b.dxf`),
    });
    await page.getByText('in the place of mains-a.dxf').waitFor();
    const faults = page.getByRole('group', { name: 'What no longer fits mains-b.dxf' });
    actions++;
    await faults.getByLabel('The rules of PIPES are for').selectOption({ label: 'MAINS' });
    actions++;
    await faults.getByLabel('The rule of STATE is for').selectOption({ label: 'no field: forget it' });
    actions++;
    await page.getByRole('link', { name: /^Deliver/ }).click();
    actions++;
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('13 records read back as they went in').waitFor();
    expect(actions).toBeLessThanOrEqual(5);
    expect(Object.keys((await server.state(id)).recipe.sources)).toEqual(['mains-b.dxf']);
    expect(desk.errors).toEqual([]);
  });
});

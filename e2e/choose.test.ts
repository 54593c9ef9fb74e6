import { readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY } from '../tests/server/client';
import { Desk } from './browser';

const parcels = ['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => ({
  name: `parcels.${e}`,
  content: readFileSync(path.join(path.dirname(QUAY), `parcels.${e}`)),
}));

/** Records are chosen in the table, on the map and by a filter, kept under a name, and are what crosses. */
describe('records are chosen', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    await desk.page.goto(desk.server.address);
    await desk.page.getByText('No crossing yet').waitFor();
    await desk.drop(...parcels);
    await desk.page.getByText('1 of 1 taken').waitFor();
    await desk.page.goto(`${desk.server.address}crossings/${desk.id}/records?source=parcels.shp&layer=parcels`);
    await desk.page.getByText('204 records', { exact: true }).waitFor();
  });
  afterAll(() => desk.close());

  it('a filter is written with the fields and values that there are, by keyboard alone', async () => {
    const { page } = desk;
    const filter = page.getByRole('textbox', { name: 'Only records where' });
    await filter.focus();
    await page.getByRole('option', { name: /^STREET/ }).waitFor();
    // who types on quickly takes from the list that it has become by then
    await filter.pressSequentially('str');
    for (const key of ['ArrowDown', 'Enter', '=']) await page.keyboard.press(key);
    await page.keyboard.type(" 'har");
    await page.getByRole('option', { name: /^'Harb/ }).waitFor();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Tab');
    expect(await filter.textContent()).toBe("STREET = 'Harbour Street' ");
    await page.keyboard.press('Enter');
    await page
      .getByText(/^\d+ of 204 records$/)
      .first()
      .waitFor();
    await page.getByRole('button', { name: 'All records' }).click();
  });

  it('a box on the map, rows in a span and a click on the map choose records; a name keeps them', async () => {
    const { page } = desk;
    const tool = (name: string): Promise<void> => page.getByRole('radio', { name, exact: true }).check({ force: true });
    await tool('Box');
    const box = (await page.getByRole('application').boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.4, box.y + box.height * 0.4);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.6, box.y + box.height * 0.6, { steps: 5 });
    await page.mouse.up();
    await page
      .getByText(/^\d+ of 204 records$/)
      .first()
      .waitFor();
    expect(await page.getByRole('textbox', { name: 'Only records where' }).textContent()).toMatch(/^S_INTERSECTS\(geometry, BBOX\(/);
    const ticks = page.getByRole('checkbox', { name: /^Choose / });
    await ticks.nth(0).click();
    await ticks.nth(3).click({ modifiers: ['Shift'] });
    const bar = page.getByRole('region', { name: 'Chosen records' });
    await bar.getByText('4 records picked').waitFor();
    await bar.getByRole('combobox', { name: 'What the picked records are known by' }).selectOption('PARCEL_ID');
    await bar.getByRole('button', { name: 'Keep' }).click();
    await bar.getByRole('textbox', { name: 'Name of the selection' }).fill('Lots by the ramp');
    await page.keyboard.press('Enter');
    await bar.getByRole('button', { name: 'Forget “Lots by the ramp”' }).waitFor();
    await bar.getByRole('button', { name: 'Show only these' }).click();
    await bar.getByText('4 of 204 records').waitFor();
    // the same record, picked on the map, is let go by a second click
    await tool('Pick');
    await page.getByRole('row', { name: /AV-/ }).first().click();
    await page.waitForTimeout(600);
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    await bar.getByText('1 record picked').waitFor();
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    await bar.getByText('4 of 204 records').waitFor();
  });

  it('what was kept is taken up in Shape, and only that crosses', async () => {
    const { page } = desk;
    await page.keyboard.press('3');
    const rules = page.getByRole('complementary', { name: 'Rules' });
    await rules.getByRole('combobox', { name: 'Kept selections of parcels' }).selectOption('Lots by the ramp');
    await rules.getByText('200 stay behind').waitFor();
    await page.keyboard.press('Control+z');
    await rules.getByText('200 stay behind').waitFor({ state: 'detached' });
  });

  it('types, widths and order of its fields are chosen by keyboard, and what is lost by them is told', async () => {
    const { page } = desk;
    const plan = page.getByRole('table', { name: 'Field plan of parcels' });
    const names = (): Promise<string[]> => plan.getByRole('checkbox').evaluateAll((ticks) => ticks.map((t) => t.ariaLabel!));
    const type = plan.getByRole('combobox', { name: 'Type of STREET in the target' });
    await type.selectOption('integer');
    await plan.getByText('204 values not of this type').waitFor();
    await type.selectOption('as its values are');
    await plan.getByText('204 values not of this type').waitFor({ state: 'detached' });
    const width = plan.getByRole('textbox', { name: 'Width of LAND_AREA in the target' });
    await width.fill('12.x');
    await plan.getByText('Such as 12.3').waitFor();
    await width.fill('12.0');
    await width.press('Enter');
    await expect.poll(() => width.inputValue()).toBe('12');
    await plan.getByText(/^\d+ rounded/).waitFor();
    await plan.getByRole('button', { name: 'Move LEASED' }).focus();
    for (const key of ['Space', 'ArrowUp', 'ArrowUp', 'Space']) {
      await page.keyboard.press(key);
      // the row that is moved says where it is before it takes the next key
      await page.waitForTimeout(250);
    }
    await expect.poll(names).toEqual(['PARCEL_ID', 'APPELLATIO', 'LEASED', 'LAND_AREA', 'STREET'].map((n) => `Take ${n}`));
    await page.keyboard.press('F2');
    await page.keyboard.type('IS_LET');
    await page.keyboard.press('Enter');
    await expect.poll(() => plan.getByRole('textbox', { name: 'Name of LEASED in the target' }).inputValue()).toBe('IS_LET');
    const { recipe } = await page.evaluate(
      (id): Promise<{ recipe: { sources: Record<string, { layers: Record<string, unknown> }> } }> =>
        fetch(`/api/crossings/${id}`).then((r) => r.json()),
      desk.id,
    );
    expect(recipe.sources['parcels.shp']!.layers.parcels).toMatchObject({
      fieldOrder: ['PARCEL_ID', 'APPELLATIO', 'LEASED', 'LAND_AREA', 'STREET'],
      fields: { LAND_AREA: { shape: { type: 'decimal', width: 12, decimals: 0 } }, LEASED: { to: 'IS_LET' } },
    });
    expect(desk.errors).toEqual([]);
  });
});

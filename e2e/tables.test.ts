import { readFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY } from '../tests/server/client';
import { Desk } from './browser';

const DATA = path.dirname(QUAY);
const bytes = (name: string): Buffer => readFileSync(path.join(DATA, name));

const HOLDERS = `parcel,holder,rent\n${Array.from({ length: 150 }, (_, k) => `AV-${String(k + 1).padStart(5, '0')},holder ${k % 9},${k * 12.5}`).join('\n')}\nAV-99999,nobody,0\n`;
const CORNERS =
  'lot no east north\n7 1 1464012.40 5101530.25\n7 2 1464044.10 5101527.90\n7 3 1464041.75 5101496.00\n7 4 1464010.20 5101498.40\n';

/** Tables: corner points that are typed, rows joined by a key, values and measures in other words and units, rules taken over. */
describe('tables go across', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    await desk.page.goto(desk.server.address);
    await desk.page.getByText('No crossing yet').waitFor();
    await desk.drop(
      ...['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => ({ name: `parcels.${e}`, content: bytes(`parcels.${e}`) })),
      { name: 'zones.geojson', content: bytes('zones.geojson') },
      { name: 'holders.csv', content: Buffer.from(HOLDERS) },
    );
    await desk.page.getByText('3 of 3 taken').waitFor();
  });
  afterAll(() => desk.close());

  it('corner points that are typed make a closed outline, with its area at once and its place asked for', async () => {
    const { page } = desk;
    // rows that lie nowhere need no place
    await page.getByRole('link', { name: /Place/ }).first().getByText('all placed').waitFor();
    await page.getByRole('button', { name: 'Type or paste a table' }).click();
    await page.getByRole('textbox', { name: 'Rows of the table' }).fill(CORNERS);
    await page.getByText('5 rows of 4 columns').waitFor();
    await page.getByRole('button', { name: 'Take it in' }).click();
    const side = page.getByRole('complementary', { name: 'Layer' });
    await side.getByText('corners.csv · 4 records').waitFor();
    await side.getByRole('button', { name: 'change', exact: true }).click();
    await side.getByRole('radio', { name: 'An outline' }).check();
    await side.getByRole('combobox', { name: 'Column that groups corners' }).selectOption('lot');
    await side.getByRole('combobox', { name: 'Column that orders corners' }).selectOption('no');
    await side.getByRole('button', { name: 'Read again so' }).click();
    await side.getByText('corners.csv · 1 record', { exact: true }).waitFor();
    // by the formula of Gauss, by hand: 1 013.45 square metres
    await side.getByText('1013.45').waitFor();
    await page.keyboard.press('2');
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).click();
    await page.getByText('Placed as EPSG:2193.').waitFor();
  });

  it('a table is joined by a key, and keys without a record are listed', async () => {
    const { page } = desk;
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Add GeoPackage' }).click();
    await page.keyboard.press('3');
    await page.getByRole('button', { name: 'parcels', exact: true }).click();
    const rules = page.getByRole('complementary', { name: 'Rules' });
    await rules.getByRole('combobox', { name: 'Table joined to parcels' }).selectOption({ label: 'holders.csv' });
    await rules.getByRole('combobox', { name: 'Key in parcels' }).selectOption('PARCEL_ID');
    await rules.getByText('150 of 204').waitFor();
    await rules.getByRole('button', { name: '1 row found no record' }).click();
    await rules.getByText('AV-99999').waitFor();
    await page.getByRole('table', { name: 'Field plan of parcels' }).getByText('holder', { exact: true }).first().waitFor();
    await rules.getByRole('checkbox', { name: 'Area', exact: true }).check();
    await rules.getByRole('radio', { name: 'Ellipsoid' }).last().check();
    await rules.getByRole('combobox', { name: 'Unit of area' }).selectOption({ label: 'ha' });
    await page.getByRole('table', { name: 'Field plan of parcels' }).getByText('ellipsoid_area_ha').first().waitFor();
  });

  it('looks are shown side by side, with what the target cannot draw', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'zones', exact: true }).click();
    const rules = page.getByRole('complementary', { name: 'Rules' });
    await rules.getByText('as a style (SLD)').waitFor();
    expect(await rules.getByRole('img', { name: /as they are drawn/ }).count()).toBe(5);
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/records read back as they went in/).waitFor();
  });

  it('the rules are taken over into the next crossing, with what does not fit told before', async () => {
    const { page } = desk;
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save the rules as a recipe' }).click(),
    ]);
    const recipe = await download.path();
    await page.goto(desk.server.address);
    await desk.drop(...['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => ({ name: `parcels.${e}`, content: bytes(`parcels.${e}`) })));
    await page.getByText('1 of 1 taken').waitFor();
    const [chooser] = await Promise.all([
      page.waitForEvent('filechooser'),
      page.getByRole('button', { name: 'Take rules from a recipe' }).click(),
    ]);
    await chooser.setFiles(recipe);
    await page.getByRole('heading', { name: 'Not all of these rules fit' }).waitFor();
    await page.getByText('The table holders of holders.csv, which it is joined with, is not here.').waitFor();
    await page.getByRole('button', { name: 'Take these rules' }).click();
    await page
      .getByRole('link', { name: /Deliver/ })
      .first()
      .getByText('1 deliverable')
      .waitFor();
    await page.keyboard.press('Control+z');
    await page
      .getByRole('link', { name: /Deliver/ })
      .first()
      .getByText('none yet')
      .waitFor();
  });
});

/** A table that lies in the clipboard, pasted where nothing is yet. */
describe('a table that is pasted on the list of crossings', () => {
  let desk: Desk;
  beforeAll(async () => void (desk = await Desk.open()));
  afterAll(() => desk.close());

  const paste = (text: string): Promise<void> =>
    desk.page.evaluate((given) => {
      const clipboardData = new DataTransfer();
      clipboardData.setData('text/plain', given);
      document.body.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true }));
    }, text);

  it('starts a crossing; a line with a value too many is named before, and a cell that is no coordinate after', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await paste('just words');
    expect(await page.getByRole('dialog').count()).toBe(0);
    await paste(CORNERS.replaceAll(' ', '\t').replace('5101527.90', '5101527.90\tx'));
    await page.getByText(/line 3 has 5/i).waitFor();
    await page.getByRole('textbox', { name: 'Rows of the table' }).fill(CORNERS.replaceAll(' ', '\t').replace('5101527.90', '51O1527.90'));
    await page.getByText('5 rows of 4 columns').waitFor();
    await page.getByRole('button', { name: 'Take it in' }).click();
    await page
      .getByText(/51O1527\.90/)
      .first()
      .waitFor();
    expect(desk.errors).toEqual([]);
  });
});

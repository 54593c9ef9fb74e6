import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { Page } from 'playwright-core';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { MARKS, place } from '@pontrel/demo/town';
import { inScan } from '@pontrel/demo/plan-scan';
import { insertCard, makeCard } from '@pontrel/standins/field-controller/card';
import { QUAY } from '../tests/server/client';
import { Desk, unpack } from './browser';

const demo = path.dirname(QUAY);
const TILES = [1, 2, 3, 4].map((k) => `ortho_2025_${k}.tif`);
const SCAN = 'quay_plan_1938.tif';
const file = (name: string): { name: string; content: Buffer } => ({ name, content: readFileSync(path.join(demo, name)) });

describe('images', () => {
  let desk: Desk;
  beforeEach(async () => {
    desk = await Desk.open();
    await makeCard(path.join(desk.folder, 'data/cards/CARD-A'), 'a');
  });
  afterEach(() => desk.close());

  /** A folder as it comes from a flight, with more in it than is wanted. */
  function flight(): string {
    const folder = path.join(desk.folder, 'flight');
    mkdirSync(folder);
    for (const tile of TILES) copyFileSync(path.join(demo, tile), path.join(folder, tile));
    copyFileSync(path.join(demo, 'elevation_2m.tif'), path.join(folder, 'elevation_2m.tif'));
    writeFileSync(path.join(folder, 'notes.txt'), 'wind from the north-east');
    return folder;
  }

  async function runAndWait(page: Page): Promise<void> {
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/^Match\./).waitFor({ timeout: 180_000 });
  }

  it('come in by a pattern, a scan is fitted, both are cut to an outline, put on a card and into a drawing, and proved', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop(file('quay-design.dxf'), file(SCAN));
    await page.getByText(/of \d+ taken/).waitFor();
    await page.getByRole('button', { name: new RegExp(`^${SCAN}, `) }).waitFor();

    // the tiles of a folder by their names
    await page.getByRole('button', { name: 'A folder of images' }).click();
    const chooser = page.waitForEvent('filechooser');
    await page.getByRole('button', { name: 'Choose a folder' }).click();
    await (await chooser).setFiles(flight());
    await page.getByText('5 images').waitFor();
    await page.getByRole('textbox', { name: 'Names like' }).fill('ortho_*.tif');
    await page.getByText(/^4 images, .*2 passed over$/).waitFor();
    await page.getByRole('button', { name: 'Take them in' }).click();
    await page.getByRole('button', { name: /mosaic of 4 tiles/ }).click();
    await page.getByRole('img', { name: 'Index of 4 tiles' }).waitFor();
    await page.getByRole('button', { name: 'Match to tile 1' }).click();
    await page.getByText(/Tiles are matched in brightness: tile 2 \+15/).waitFor();

    // the drawing by what the tiles state, the scan by its marks
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('button', { name: /^quay-design\.dxf/ }).click();
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).click();
    await page.getByRole('button', { name: new RegExp(`^${SCAN}`) }).click();
    await page.getByRole('button', { name: 'Paste' }).click();
    const pairs = MARKS.map(({ mark, u, v }) => {
      const [x, y] = inScan(place(u, v));
      return [mark, x.toFixed(2), (-y).toFixed(2), ...place(u, v).map((c) => c.toFixed(3))].join(' ');
    });
    await page.getByRole('textbox', { name: 'Pairs to paste' }).fill(pairs.join('\n'));
    await page.getByRole('button', { name: 'Add these pairs' }).click();
    // known to a hundredth of a pixel on both sides
    const fitted = page.getByRole('group', { name: 'Result of the fit' });
    expect(await fitted.innerText()).toMatch(/0\.0\d px/);
    expect(await fitted.innerText()).toContain('0.254 m');
    await page.getByRole('button', { name: 'Place by 4 control points' }).click();
    await page.getByText(/Placed in EPSG:2193 by 4 control points/).waitFor();
    await page.getByText('all placed').waitFor();

    // an image for the card, cut to the leases
    await page.getByRole('link', { name: 'Deliver', exact: true }).first().click();
    await page.getByRole('button', { name: 'Add JPEG with world file' }).click();
    await page.getByRole('combobox', { name: 'Area of interest' }).selectOption({ label: 'Inside LEASE-PARCEL of quay-design.dxf' });
    await page.getByText(/packed with loss/).waitFor();
    await page.getByRole('radio', { name: 'Its box' }).check();
    await page.getByRole('combobox', { name: 'Card of a field controller' }).selectOption({ label: 'Field controller, type A' });
    await page.getByText('Baseline JPEG, not progressive').waitFor();
    await page.getByText(/What is written differs by/).waitFor();
    await runAndWait(page);
    await page.getByRole('button', { name: 'Put on the card' }).click();
    await page.getByText(/On the card CARD-A: BACKDROP\//).waitFor();
    const [verdict, ...others] = await insertCard(path.join(desk.folder, 'data/cards/CARD-A'));
    expect([verdict!.accepted, verdict!.reasons, others]).toEqual([true, [], []]);

    // a drawing that shows the scan in its place
    await page.getByRole('button', { name: /^Add .*DXF drawing with a picture/ }).click();
    await page.getByRole('checkbox', { name: `Made of ${SCAN}` }).check();
    await page.getByRole('checkbox', { name: 'Made of ortho_2025_{1..4}.tif' }).uncheck();
    await page.getByText(/turned by .* between the systems/).waitFor();
    await runAndWait(page);

    // both are proved, the places of the measurement among the checks
    await page.getByRole('link', { name: 'See the proof' }).click();
    await page.getByText('Match: nothing was lost that was not forecast').waitFor();
    await page.getByText(/^Registration, \d+ places$/).waitFor();
    await page.getByText('Account of source pixels').waitFor();
    expect(await page.getByText('match', { exact: true }).count()).toBe(2);
    await page.getByRole('button', { name: /^Quay design, DXF drawing with a picture/ }).click();
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Download zip' }).click();
    const names = (await unpack(await download, desk.folder)).map((f) => path.basename(f));
    expect(names.filter((n) => /\.(dxf|jpg)$/.test(n)).length).toBe(2);
    expect(desk.errors).toEqual([]);
  });

  // four runs, each written and proved: more than other checks take
  it('lie below a drawing, blended where they meet, or become a file for each area', { timeout: 300_000 }, async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop(file('quay-design.dxf'), ...TILES.map(file));
    await page.getByRole('button', { name: /mosaic of 4 tiles/ }).waitFor();
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('button', { name: /^quay-design\.dxf/ }).click();
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).click();
    await page.getByText('all placed').waitFor();

    // the drawing with the tiles below its records
    await page.getByRole('link', { name: 'Deliver', exact: true }).first().click();
    await page.getByRole('button', { name: 'Add DXF drawing', exact: true }).click();
    await page.getByRole('checkbox', { name: 'Below it ortho_2025_{1..4}.tif' }).check();
    await page.getByText(/× 2.880 px/).waitFor();
    await page.getByRole('radio', { name: 'On the ground' }).check();
    await page.getByRole('textbox', { name: 'Pixel on the ground' }).fill('0.5 m');
    await page.getByRole('textbox', { name: 'Pixel on the ground' }).press('Enter');
    await page.getByText(/× 1.440 px/).waitFor();
    await runAndWait(page);
    await page.getByRole('link', { name: 'See the proof' }).click();
    await page.getByText('The image below', { exact: true }).waitFor();
    await page.getByText('Image below, where it lies').waitFor();
    await page.getByText(/^Registration, \d+ places$/).waitFor();
    const download = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Download zip' }).click();
    const names = (await unpack(await download, desk.folder)).map((f) => path.basename(f));
    for (const extension of ['.dxf', '_image.jpg', '_image.jgw', '_image.prj'])
      expect(
        names.filter((n) => n.endsWith(extension)),
        extension,
      ).toHaveLength(1);

    // a tile for each lease, the images blended; the proof that is asked for is the one that opens
    await page
      .getByRole('link', { name: /^Deliver/ })
      .first()
      .click();
    await page.getByRole('button', { name: 'Add GeoTIFF' }).click();
    await page.getByRole('combobox', { name: 'Which image gives a pixel that several have' }).selectOption('centre');
    const width = page.getByRole('textbox', { name: 'Width over which images are blended, metres' });
    await width.fill('12');
    await width.press('Enter');
    await page.getByText(/pass into each other over 48 pixels/).waitFor();
    await page.getByRole('radio', { name: 'One for each area' }).check();
    await page
      .getByRole('combobox', { name: 'The layer whose areas are the tiles' })
      .selectOption({ label: 'LEASE-PARCEL of quay-design.dxf' });
    await page.getByText('7 tiles').waitFor();
    await runAndWait(page);
    await page.getByRole('link', { name: 'See the proof' }).click();
    await page.getByText('Account of source pixels').waitFor();
    expect(await page.getByText('match', { exact: true }).count()).toBe(2);

    // a map: the records drawn over the tiles, each of them looked for in what was written
    await page
      .getByRole('link', { name: /^Deliver/ })
      .first()
      .click();
    await page.getByRole('button', { name: 'Add PNG with world file' }).click();
    await page.getByText('Drawn over it').click();
    for (const [name, value] of [
      ['Scale of the map', '1:2000'],
      ['Dots an inch', '100'],
    ] as const) {
      await page.getByRole('textbox', { name }).fill(value);
      await page.getByRole('textbox', { name }).press('Enter');
    }
    await page.getByText(/mm on paper/).waitFor();
    await runAndWait(page);
    await page.getByRole('link', { name: 'See the proof' }).click();
    await page.getByText('Records, each looked for').waitFor();
    await page.getByText(/records drawn/).waitFor();
    expect(await page.getByText('match', { exact: true }).count()).toBe(3);

    // the tiles and the records in one picture of what goes where
    await page.getByRole('link', { name: /Span/ }).first().click();
    await page.getByRole('button', { name: /^4 images to .*PNG.*pixels changed/ }).focus();
    await page.keyboard.press('Enter');
    await page.getByText('Account of source pixels').waitFor();
    await page.getByText('ortho_2025_3.tif', { exact: true }).waitFor();
    expect(desk.errors).toEqual([]);
  });

  it('are ordered, hidden and faded on the map by keyboard', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop(...TILES.slice(0, 2).map(file), file('elevation_2m.tif'));
    await page.getByRole('button', { name: /mosaic of 2 tiles/ }).waitFor();
    await page
      .getByRole('button', { name: /elevation_2m/ })
      .first()
      .waitFor();
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('application', { name: /Map/ }).waitFor();
    await page.keyboard.press('i');
    const rows = page.getByRole('region', { name: 'Images on the map' }).getByRole('listitem');
    await rows.nth(1).waitFor();
    expect(await rows.first().innerText()).toContain('ortho_2025_{1..2}.tif');
    await page.getByRole('button', { name: 'Move elevation_2m.tif' }).focus();
    await page.keyboard.press('Space');
    await page.waitForTimeout(200);
    await page.keyboard.press('ArrowUp');
    await page.waitForTimeout(200);
    await page.keyboard.press('Space');
    await expect.poll(async () => rows.first().innerText()).toContain('elevation_2m.tif');
    await page.getByRole('button', { name: 'Show elevation_2m.tif' }).press('Enter');
    await expect.poll(async () => (await desk.server.state(desk.id)).recipe.sources['elevation_2m.tif']?.image?.shown?.hidden).toBe(true);
    expect((await desk.server.state(desk.id)).recipe.images).toEqual(['elevation_2m.tif', 'ortho_2025_{1..2}.tif']);
    expect(desk.errors).toEqual([]);
  });
});

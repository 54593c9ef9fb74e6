import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { python } from '../tests/reference/python';
import { QUAY } from '../tests/server/client';
import { Desk } from './browser';

interface Written {
  errors: string[];
  fixes: string[];
  crs: [number, boolean] | null;
  layers: Record<string, unknown>;
  records: { type: string; layer: string; text?: string; xdata: [number, unknown][] | null }[];
}

/** The demo quay, shaped and delivered as a drawing, by mouse and keys. */
describe('a drawing is shaped and delivered as a drawing', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop({ name: 'quay-design.dxf', content: readFileSync(QUAY) });
    await page.getByText('19 of 19 taken').waitFor();
    await page.keyboard.press('2');
    await page.getByRole('radio', { name: /EPSG:2193/ }).check();
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).click();
    await page.getByText('Placed as').waitFor();
  });
  afterAll(() => desk.close());

  const shapeOf = async (layer: string): Promise<void> => {
    await desk.page.keyboard.press('3');
    await desk.page
      .getByRole('button', { name: new RegExp(`^${layer} `) })
      .or(desk.page.getByRole('button', { name: layer, exact: true }))
      .first()
      .click();
    await desk.page.getByRole('heading', { name: 'Goes into' }).waitFor();
  };

  it('blocks are taken apart, with the parts counted at once', async () => {
    const { page } = desk;
    await shapeOf('BOLLARD');
    await page.getByLabel('How BOLLARD-T crosses').selectOption('apart');
    await page.getByText('33 blocks → 99 parts').waitFor();
    await page.getByText(/^99 records:/).waitFor();
  });

  it('texts go to the areas that they stand in, and the page says which found none', async () => {
    const { page } = desk;
    await shapeOf('LEASE-TEXT');
    await page.getByLabel('What becomes of the texts of LEASE-TEXT').selectOption('in');
    await page.getByLabel('Layer that the texts go to').selectOption('LEASE-PARCEL');
    await page.getByText('Every text found its object.').waitFor();
    await page.getByText('Nothing of this layer crosses on its own').waitFor();
    // to the bollards instead, most find none within a metre: they are listed, and found on the map
    await page.getByLabel('What becomes of the texts of LEASE-TEXT').selectOption('near');
    await page.getByLabel('Layer that the texts go to').selectOption('BOLLARD');
    await page.getByLabel('Largest distance of a text from its object').fill('10 cm');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: /7 texts found no object/ }).click();
    await page.getByRole('button', { name: /Lease 1/ }).click();
    for (let k = 0; k < 3; k++) await page.keyboard.press('Control+z');
    await page.getByText('Every text found its object.').waitFor();
  });

  it('two layers go into one, with what tells them apart on every record', async () => {
    const { page } = desk;
    for (const [layer, kind] of [
      ['VALVE', 'valve'],
      ['MANHOLE', 'manhole'],
    ] as const) {
      await shapeOf(layer);
      await page.getByLabel(`Layer that ${layer} goes into`).fill('FITTINGS');
      await page.keyboard.press('Enter');
      await page.getByRole('button', { name: 'Add a field' }).click();
      await page.getByLabel('Value of constant 1').fill(kind);
      await page.keyboard.press('Enter');
    }
    await page.getByText('together with 1 other layer').waitFor();
  });

  it('and the drawing holds all that, with labels, in an area of interest; ezdxf finds nothing to mend', async () => {
    const { page } = desk;
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Add DXF drawing' }).click();
    await page.getByLabel('Label', { exact: true }).fill('{BROKEN');
    await page.getByText('"{" at character 1 is not closed.').waitFor();
    await page.getByLabel('Label', { exact: true }).fill('{VALVE_ID}');
    await page.keyboard.press('Enter');
    await page.getByRole('radio', { name: 'R2018' }).check();
    await page.getByLabel('Area of interest').selectOption({ label: 'What quay-design.dxf covers' });
    await page
      .getByRole('table', { name: 'Forecast' })
      .getByRole('row', { name: /LEASE-TEXT/ })
      .getByText('7 texts given to objects as a field')
      .waitFor();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/records read back as they went in/).waitFor();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download zip' }).click()]);
    const zip = `${desk.folder}/drawing.zip`;
    await download.saveAs(zip);
    const { spawnSync } = await import('node:child_process');
    expect(
      spawnSync('/usr/bin/python3', ['-c', 'import sys,zipfile; zipfile.ZipFile(sys.argv[1]).extractall(sys.argv[2])', zip, desk.folder])
        .status,
    ).toBe(0);
    const name = spawnSync('/usr/bin/python3', ['-c', 'import sys,zipfile; print(zipfile.ZipFile(sys.argv[1]).namelist()[0])', zip], {
      encoding: 'utf8',
    }).stdout.trim();
    const [found] = python<Written[]>('read_written.py', { files: [`${desk.folder}/${name}`] });
    expect(found!.errors.concat(found!.fixes)).toEqual([]);
    expect(found!.crs).toEqual([2193, true]);
    expect(Object.keys(found!.layers)).toContain('FITTINGS');
    expect(Object.keys(found!.layers)).not.toContain('VALVE');
    const records = found!.records.filter((r) => r.xdata?.[0]?.[1] !== 'drawn');
    expect(records.filter((r) => r.layer === 'BOLLARD').length).toBe(99);
    const values = (layer: string): unknown[] => records.filter((r) => r.layer === layer).map((r) => JSON.stringify(r.xdata));
    expect(values('FITTINGS').filter((x) => String(x).includes('"valve"')).length).toBe(66);
    expect(values('LEASE-PARCEL').every((x) => String(x).includes('Lease '))).toBe(true);
    expect(found!.records.filter((r) => r.xdata?.[0]?.[1] === 'drawn' && r.text !== undefined).length).toBe(66);
    expect(desk.errors).toEqual([]);
  });

  it('an area is drawn on the map, corner by corner, with the mouse and with keys', async () => {
    const { page } = desk;
    const records = async (): Promise<number> =>
      Number(
        (
          await page
            .getByRole('complementary', { name: 'Deliverables' })
            .getByRole('button', { name: /DXF drawing/ })
            .first()
            .innerText()
        )
          .split('\n')
          .find((line) => line.endsWith(' cross'))!
          .replace(/\D/g, ''),
      );
    const all = await records();
    await page.getByLabel('Area of interest').selectOption('drawn');
    await page.getByText('Corner 1 of the area').waitFor();
    const map = page.getByRole('application');
    const box = (await map.boundingBox())!;
    // the eastern half, the last corner set by keyboard in the middle of the map
    for (const [k, [x, y]] of (
      [
        [0.98, 0.02],
        [0.5, 0.02],
      ] as const
    ).entries()) {
      await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
      await page.getByText(k === 0 ? '1 corner' : '2 corners').waitFor();
    }
    await map.focus();
    await page.keyboard.press('Enter');
    await page.getByText('3 corners').waitFor();
    await page.getByRole('button', { name: 'Take back' }).click();
    await page.getByText('2 corners').waitFor();
    for (const [x, y] of [
      [0.5, 0.98],
      [0.98, 0.98],
      [0.98, 0.02],
    ] as const) {
      await page.mouse.click(box.x + x * box.width, box.y + y * box.height);
      await page.waitForTimeout(100);
    }
    // the first corner again closes it
    await page.getByText('4 corners').waitFor();
    await expect.poll(records).toBeLessThan(all);
    expect(await records()).toBeGreaterThan(0);
    await page.getByRole('button', { name: /^Run (and prove|again)$/ }).click();
    await page.getByText(/records read back as they went in/).waitFor();
    expect(desk.errors).toEqual([]);
  });

  it('and a box without anything in it is told before it runs', async () => {
    const { page } = desk;
    await page.getByLabel('Area of interest').selectOption('box');
    await page.getByLabel('West, south, east and north of the box').fill('0 0 10 10');
    await page.keyboard.press('Enter');
    await page
      .getByRole('row', { name: /BOLLARD/ })
      .getByText('33 outside the area of interest')
      .waitFor();
    expect(await page.getByRole('button', { name: /^Run (and prove|again)$/ }).isDisabled()).toBe(true);
  });
});

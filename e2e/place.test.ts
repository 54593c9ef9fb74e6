import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { SURVEY } from '../tests/server/client';
import { python } from '../tests/reference/python';
import { Desk, unpack } from './browser';

/** A plot of ground and a wall on a local grid, as lines between corners and marks at them; one stray point far off. */
const CORNERS: [number, number][] = [
  [1000, 2000],
  [1800, 2050],
  [1750, 2700],
  [950, 2600],
];
const EXTENT = [950, 2000, 1800, 2700] as const;
const siteDrawing = (): Buffer => {
  const groups: (string | number)[] = [0, 'SECTION', 2, 'ENTITIES'];
  const line = (layer: string, [x1, y1]: readonly [number, number], [x2, y2]: readonly [number, number]): void =>
    void groups.push(0, 'LINE', 8, layer, 10, x1, 20, y1, 30, 0, 11, x2, 21, y2, 31, 0);
  const point = (layer: string, [x, y]: readonly [number, number]): void => void groups.push(0, 'POINT', 8, layer, 10, x, 20, y, 30, 0);
  CORNERS.forEach((c, i) => {
    line('PLOT', c, CORNERS[(i + 1) % 4]!);
    point('MARK', c);
  });
  line('WALL', [1200, 2200], [1600, 2200]);
  point('STRAY', [990_000, -880_000]);
  groups.push(0, 'ENDSEC', 0, 'EOF');
  return Buffer.from(`${groups.join('\n')}\n`);
};

/** Where a place of the drawing is on the screen, when the map shows all of it. */
async function onScreen(page: Page, [x, y]: readonly [number, number]): Promise<[number, number]> {
  const box = (await page.getByRole('application', { name: /Map/ }).boundingBox())!;
  const resolution = Math.max((EXTENT[2] - EXTENT[0]) / (box.width - 48), (EXTENT[3] - EXTENT[1]) / (box.height - 48));
  return [
    box.x + box.width / 2 + (x - (EXTENT[0] + EXTENT[2]) / 2) / resolution,
    box.y + box.height / 2 - (y - (EXTENT[1] + EXTENT[3]) / 2) / resolution,
  ];
}

describe('Place', () => {
  let desk: Desk;
  beforeEach(async () => {
    desk = await Desk.open();
  });
  afterEach(() => desk.close());

  async function start(name: string, content: Buffer): Promise<Page> {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop({ name, content });
    await page.getByText(/of \d+ taken/).waitFor();
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    return page;
  }

  async function choose(page: Page, code: string): Promise<void> {
    await page.getByRole('combobox', { name: 'Find a reference frame' }).fill(code);
    await page.getByRole('option', { name: new RegExp(`EPSG:${code} `) }).click();
    await page.getByRole('button', { name: 'change' }).waitFor();
  }

  it('an unplaced drawing is found by pointing at the place, looked at and placed', async () => {
    const page = await start('street-survey.dxf', readFileSync(SURVEY));
    const locator = page.getByRole('img', { name: /Locator map/ });
    const box = (await locator.boundingBox())!;
    await page.mouse.click(box.x + (box.width * (171.3 + 180)) / 360, box.y + (box.height * (90 + 44.2)) / 180);
    const card = page.getByRole('radio', { name: /EPSG:2126/ });
    await card.check();
    // it is shown before it is placed
    await page.getByText('as it would lie').waitFor();
    await page.getByRole('button', { name: 'Place as EPSG:2126' }).click();
    await page.getByText('Placed as EPSG:2126, numbers in metres.').waitFor();
    const state = await desk.server.state(desk.id);
    expect(state.frame!.id).toBe('EPSG:2126');
    expect(state.frameExtent![0]).toBeGreaterThan(418_000);
    expect(desk.errors).toEqual([]);
  });

  it('a local drawing is fitted to four marks; marks on a line are refused; a stray point is told', async () => {
    const page = await start('site.dxf', siteDrawing());
    await choose(page, '2193');
    await page.getByText('Control points', { exact: true }).click();
    const k = 0.3048,
      turn = 0.35;
    const there = ([x, y]: readonly [number, number]): [number, number] => [
      1463_700 + k * (x * Math.cos(turn) - y * Math.sin(turn)),
      5101_400 + k * (x * Math.sin(turn) + y * Math.cos(turn)),
    ];
    await page.getByRole('button', { name: 'Paste' }).click();
    const onLine = [0, 100, 200].map((d, i) => `L${i} ${d} ${d} ${there([d, d]).join(' ')}`).join('\n');
    await page.getByLabel('Pairs to paste').fill(onLine);
    await page.getByRole('button', { name: 'Add these pairs' }).click();
    await page.getByLabel('Kind of fit').selectOption({ label: 'Affine, from 3 points' });
    await page.getByText(/The marks L0, L1, L2 lie on one line in the source/).waitFor();
    expect(await page.getByRole('button', { name: /^Place by/ }).count()).toBe(0);
    for (let i = 3; i > 0; i--) await page.getByRole('button', { name: `Remove mark ${i}` }).click();

    await page.getByLabel('Kind of fit').selectOption({ label: 'Similarity, from 2 points' });
    await page.getByRole('button', { name: 'Paste' }).click();
    // the third one is half a metre off
    await page
      .getByLabel('Pairs to paste')
      .fill(CORNERS.map((c, i) => [`P${i + 1}`, ...c, ...there(c).map((v) => v + (i === 2 ? 0.5 : 0))].join(' ')).join('\n'));
    await page.getByRole('button', { name: 'Add these pairs' }).click();
    const result = page.getByRole('group', { name: 'Result of the fit' });
    // an error v of one mark of n leaves a sum of squares of v^2 (1 - h), with its leverage h = 1/n + r^2 / sum r^2
    await result.getByText('0.247 m').waitFor();
    await page.getByText('The numbers are feet, not metres', { exact: false }).waitFor();
    await page.getByLabel('Mark 3 takes part').uncheck();
    await result.getByText('mm').waitFor();
    await page.getByRole('table', { name: 'Control points' }).getByText('0.707 m').waitFor();
    await page.getByRole('button', { name: 'Place by 3 control points' }).click();
    await page.getByText('Placed in EPSG:2193 by 3 control points, similarity.').waitFor();
    const { frameExtent } = await desk.server.state(desk.id);
    const corners = CORNERS.map(there);
    // the box of a turned drawing's own box
    expect(frameExtent![0]).toBeLessThanOrEqual(Math.min(...corners.map((c) => c[0])));
    expect(frameExtent![2]).toBeLessThan(Math.max(...corners.map((c) => c[0])) + 120);
    await page.getByText('1 object lies far from the rest').waitFor();
    await page.getByText('Fitted to 3 control points').waitFor();
    expect(desk.errors).toEqual([]);
  });

  it('a drawing on a site grid is kept in a local plane, crosses and is proved; what wants a place on earth refuses it', async () => {
    const made = `${desk.folder}/site.dxf`;
    const drawn = python<number[][][]>('make_site.py', { file: made, insunits: 4 });
    const page = await start('site.dxf', readFileSync(made));
    await page.getByRole('radio', { name: /local plane/ }).check();
    await page.getByText('as it would lie').waitFor();
    await page.getByRole('button', { name: 'Place as local plane' }).click();
    await page.getByText('Placed as local plane, numbers in millimetres.').waitFor();
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    await page.getByRole('button', { name: 'Add GeoJSON' }).click();
    await page
      .getByText(/has no place on earth/)
      .first()
      .waitFor();
    await page.getByRole('button', { name: 'Add shapefile' }).click();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('3 records read back as they went in').waitFor();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download zip' }).click()]);
    const files = (await unpack(download, desk.folder)).filter((file) => file.endsWith('.shp'));
    const told = python<{ lines: number[][][]; system: string }[]>('read_site.py', { files });
    const text = (lines: number[][][]): string[] => lines.map((line) => JSON.stringify(line.map((p) => p.slice(0, 2)))).sort();
    expect(text(told.flatMap((one) => one.lines))).toEqual(text(drawn));
    for (const { system } of told) expect(system).toContain('UNIT["millimetre",0.001]');
    await page.getByRole('link', { name: 'Prove', exact: false }).first().click();
    await page.getByText('Match: nothing was lost that was not forecast').waitFor();
    expect(desk.errors).toEqual([]);
  });

  it('a mark is clicked in the drawing and typed in the frame', async () => {
    const page = await start('site.dxf', siteDrawing());
    await choose(page, '2193');
    await page.getByText('Control points', { exact: true }).click();
    await page.getByRole('button', { name: 'Click a mark' }).click();
    await page.getByText('Mark 1: click it in the drawing').waitFor();
    await page.waitForFunction(() => document.querySelector('[role=application] canvas') !== null);
    await page.waitForTimeout(500);
    await page.mouse.click(...(await onScreen(page, CORNERS[1]!)));
    // caught by the vertex, to the last digit
    await page.waitForFunction(() => document.querySelector<HTMLInputElement>('[aria-label="Mark 1 x"]')?.value === '1800');
    expect(await page.getByLabel('Mark 1 y').inputValue()).toBe('2050');
    await page.getByLabel('Mark 1 easting').fill('1463700');
    await page.getByLabel('Mark 1 northing').fill('5101400');
    await page.getByText('Similarity needs 2 control points; 1 takes part', { exact: false }).waitFor();
    expect(desk.errors).toEqual([]);
  });

  it('a drawing in feet is caught by a known distance', async () => {
    const page = await start('site.dxf', siteDrawing());
    await choose(page, '2193');
    await page.getByText('Known distance', { exact: true }).click();
    const measure = async (again: boolean): Promise<void> => {
      await page
        .getByRole('button', { name: again ? 'Measure again' : 'Measure', exact: true })
        .first()
        .click();
      await page.getByText('Click one end of the distance').waitFor();
      await page.waitForTimeout(700);
      await page.mouse.click(...(await onScreen(page, [1200, 2200])));
      await page.getByText('Click the other end').waitFor();
      await page.waitForTimeout(700);
      await page.mouse.click(...(await onScreen(page, [1600, 2200])));
    };
    await measure(false);
    await page.getByTestId('measured').getByText('400.0 m').waitFor();
    await page.getByLabel('What the distance should be').fill('121.92 m');
    await page.getByText(/The numbers are feet, not metres/).waitFor();
    await page.getByRole('button', { name: 'Take them as feet' }).click();
    await page.getByText('taken as feet').waitFor();
    await measure(false);
    await page.getByLabel('What the distance should be').fill('400 ft');
    await page.getByText(/The distance agrees/).waitFor();
    await page.getByText('Find', { exact: true }).click();
    expect(await page.getByLabel('Unit of site.dxf').inputValue()).toBe('foot');
    expect(desk.errors).toEqual([]);
  });
});

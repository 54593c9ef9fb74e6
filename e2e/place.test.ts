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
    await page.getByRole('button', { name: 'change', exact: true }).waitFor();
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
    // the page shows a change before the server has it
    const state = await desk.server.until(desk.id, (s) => s.frameExtent !== null);
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
    const { frameExtent } = await desk.server.until(desk.id, (s) => s.frameExtent !== null);
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

  it('a unit that is not the system’s is asked for, and changing it alone places the drawing again', async () => {
    const file = `${desk.folder}/lots.dxf`;
    python('make_lots.py', { file, insunits: 2, origin: [6_489_000, 1_842_000], size: 100 });
    const page = await start('lots.dxf', readFileSync(file));
    await page.getByText('the drawing alone, in its own numbers: it has no place yet').waitFor();
    await page.getByRole('combobox', { name: 'Find a system for lots.dxf' }).fill('2229');
    await page.getByRole('option', { name: /EPSG:2229 / }).click();
    await page.getByText(/It states feet.*Taken as feet it would lie 13 US survey feet west and 3.68 US survey feet south/).waitFor();
    await page.getByRole('button', { name: 'Place as EPSG:2229' }).click();
    await page.getByText('Placed as EPSG:2229.').waitFor();
    // The page says so as soon as the answer is there; the records are read again after that.
    const west = async (): Promise<number | undefined> => (await desk.server.state(desk.id)).frameExtent?.[0];
    await expect.poll(west).toBeCloseTo(6_489_000, 6);
    await page.getByLabel('Unit of lots.dxf').selectOption('foot');
    await page.getByText('Placed as EPSG:2229, numbers in feet.').waitFor();
    await expect.poll(west).toBeCloseTo((6_489_000 * 0.3048) / (1200 / 3937), 6);
    await page.getByText('Which is it?').waitFor({ state: 'detached' });
    await page.keyboard.press('Control+z');
    await page.getByRole('button', { name: 'They are US survey feet' }).click();
    await page.getByText('Which is it?').waitFor({ state: 'detached' });
    await expect.poll(west).toBeCloseTo(6_489_000, 6);
    expect(desk.errors).toEqual([]);
  });

  it('a stated system that cannot be true places nothing until a person decides; degrees are found first', async () => {
    const stem = `${desk.folder}/town`;
    python('make_misplaced.py', {
      stem,
      points: [
        [171.29, -44.22],
        [171.31, -44.21],
      ],
      prj: 'EPSG:2193',
    });
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop(...['shp', 'shx', 'dbf', 'prj'].map((e) => ({ name: `town.${e}`, content: readFileSync(`${stem}.${e}`) })));
    await page.getByText('EPSG:2193 stated, in doubt').waitFor();
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByText(/look like degrees. So it is not placed yet/).waitFor();
    expect((await desk.server.state(desk.id)).frame).toBeNull();
    await page.getByRole('button', { name: 'Find what fits' }).click();
    const found = page.getByRole('radiogroup', { name: 'Systems that fit' }).getByRole('radio');
    await page.getByRole('radio', { name: 'EPSG:4326 WGS 84' }).waitFor();
    expect(await found.evaluateAll((all) => all.slice(0, 2).map((r) => r.getAttribute('aria-label')))).toEqual([
      'EPSG:4326 WGS 84',
      'EPSG:4167 NZGD2000',
    ]);
    await page
      .getByRole('button', { name: 'Stated', exact: false })
      .or(page.getByText('Stated', { exact: true }))
      .first()
      .click();
    await page.getByRole('button', { name: 'Place it as stated' }).click();
    await page.getByText('Placed as EPSG:2193.').waitFor();
    expect((await desk.server.until(desk.id, (s) => s.frame !== null)).frame!.id).toBe('EPSG:2193');
    expect(desk.errors).toEqual([]);
  });

  it('data in the areas of several operations takes one for all of it, or each part its own', async () => {
    const feature = (lat: number): object => ({ type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [-1.5, lat] } });
    const crs = { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::4168' } };
    const content = Buffer.from(JSON.stringify({ type: 'FeatureCollection', crs, features: [3, 5, 6.5].map(feature) }));
    const page = await start('coast.geojson', content);
    await page.getByRole('button', { name: 'change', exact: true }).click();
    await choose(page, '4326');
    await page.getByText(/It spans the areas of several operations/).waitFor();
    const operations = page.getByRole('radiogroup', { name: 'Coordinate operations' });
    expect(await operations.getByRole('radio', { name: 'Accra to WGS 84 (1)' }).isChecked()).toBe(true);
    await operations.getByRole('radio', { name: 'For each position the best one of its area' }).check();
    await page.getByText(/It spans the areas of several operations/).waitFor({ state: 'detached' });
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    await page.getByRole('button', { name: 'Add GeoJSON' }).click();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('3 records read back as they went in').waitFor();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download zip' }).click()]);
    const [file] = (await unpack(download, desk.folder)).filter((f) => f.endsWith('.geojson'));
    const at = (JSON.parse(readFileSync(file!, 'utf8')) as { features: { geometry: { coordinates: number[] } }[] }).features.map(
      (f) => f.geometry.coordinates,
    );
    const [theirs] = python<{ point: number[] }[][]>('run_time.py', [
      { from: 'EPSG:4168', to: 'EPSG:4326', points: [3, 5, 6.5].map((lat) => [-1.5, lat]) },
    ]);
    at.forEach((p, i) => expect(Math.hypot(p[0]! - theirs![i]!.point[0]!, p[1]! - theirs![i]!.point[1]!)).toBeLessThan(2e-8));
    expect(desk.errors).toEqual([]);
  });

  it('several sources are placed at once, in one step of undo; the system is offered from then on', async () => {
    const { page, server } = desk;
    await page.goto(server.address);
    await page.getByText('No crossing yet').waitFor();
    await desk.drop({ name: 'one.dxf', content: siteDrawing() }, { name: 'two.dxf', content: siteDrawing() });
    await page.getByText(/of 8 taken/).waitFor();
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByText('2 sources not placed').waitFor();
    await page.getByRole('button', { name: 'choose all of these' }).click();
    await page.getByRole('combobox', { name: /^Find a system for/ }).fill('2126');
    await page.getByRole('option', { name: /EPSG:2126 / }).click();
    await page.getByRole('button', { name: 'Place all 2 as EPSG:2126' }).click();
    await expect
      .poll(async () => Object.values((await server.state(desk.id)).recipe.sources).map((s) => s.placement?.crs))
      .toEqual(['EPSG:2126', 'EPSG:2126']);
    await page.getByRole('link', { name: 'Deliver', exact: true }).waitFor();
    await page.keyboard.press('Control+z');
    await expect.poll(async () => Object.values((await server.state(desk.id)).recipe.sources).filter((s) => s.placement).length).toBe(0);
    await page.keyboard.press('Control+y');
    await page.getByRole('button', { name: 'change', exact: true }).click();
    await page.getByText('Used before').waitFor();
    expect(await page.getByRole('option').first().textContent()).toContain('EPSG:2126');
    expect(desk.errors).toEqual([]);
  });
});

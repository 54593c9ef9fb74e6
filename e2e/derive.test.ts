import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FaultList } from '@pontrel/contract/crossing';
import { feature, featuresOf } from '../tests/odd/files';
import { pontrel } from '../tests/reference/python';
import { Desk } from './browser';

/** The demo drawing of lots, sewers and ground has each trouble once: see packages/demo/src/lots-and-sewers.ts. */
const DRAWING = 'lots-and-sewers.dxf';

describe('what is worked out of a drawing', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
  });
  afterAll(() => desk.close());

  const faultsOf = async (name: string): Promise<FaultList> => {
    const { sources } = await desk.server.until(desk.id, (state) => state.sources.some((s) => s.name === name));
    const source = sources.find((s) => s.name === name)!;
    return (await desk.server.call<FaultList>('GET', `api/crossings/${desk.id}/sources/${source.id}/faults`)).body;
  };

  it('lots of loose lines become areas; what is wrong is stepped through, left, and gone when it is worked out again', async () => {
    const { page, server } = desk;
    const { id } = await server.placed(`packages/demo/data/${DRAWING}`, { crs: 'EPSG:2193', unit_m: 1 });
    await page.goto(`${server.address}crossings/${id}/shape`);
    await page.getByTitle(/^BOUNDARY\. Ctrl/).click();
    await page.getByTitle(/^LOT-TEXT\. Ctrl/).click({ modifiers: ['Control'] });
    await page.getByRole('button', { name: 'Work out', exact: true }).click();
    const dialog = page.getByRole('dialog', { name: 'Work out of layers' });
    // the layers that were chosen are those that it begins with
    await dialog.getByText('Lines and labels').waitFor();
    expect(await dialog.getByRole('checkbox', { checked: true }).count()).toBe(2);
    await dialog.getByLabel('Ends meet within').fill('20 mm');
    await dialog.getByRole('textbox', { name: 'Called', exact: true }).fill('Lots');
    await dialog.getByRole('button', { name: 'Work out', exact: true }).click();
    await page.getByText('6 open of 6').waitFor();
    expect((await faultsOf('Lots.gpkg')).faults.map((f) => f.kind).sort()).toEqual([
      ...['label-on-line', 'label-outside', 'labels-differ', 'line-loose', 'line-loose', 'no-label'],
    ]);
    // by the keys alone: the next one, and let it be
    await page.getByRole('heading', { name: 'Areas from lines' }).click();
    await page.keyboard.press(']');
    await page.getByText('13.92 m').first().waitFor();
    await page.keyboard.press('.');
    await page.keyboard.press('x');
    await page.getByText('5 open of 6').waitFor();
    await page.keyboard.press('Control+z');
    await page.getByText('6 open of 6').waitFor();
    await page.getByRole('button', { name: 'Work out again' }).click();
    const again = page.getByRole('dialog', { name: 'Work out Lots again' });
    await again.getByLabel('Extend loose ends up to').fill('0.6 m');
    await again.getByLabel('Trim overshoots up to').fill('0.5 m');
    await again.getByRole('button', { name: 'Work out again' }).click();
    await expect.poll(async () => (await server.state(desk.id)).sources.find((s) => s.derived)?.derived?.figures.areas).toBe(68);
    await page.getByText('Line extended').first().waitFor();
    const { sources } = await server.state(desk.id);
    expect(sources.map((s) => s.name)).toEqual([DRAWING, 'Lots.gpkg']);
    expect(sources[1]!.derived).toMatchObject({ current: true, faults: { 'line-extended': 1, 'line-trimmed': 1 } });
  });

  it('pipes and manholes become a network, which is followed in its long profile', async () => {
    const { page } = desk;
    await page.getByTitle(/^SEWER\. Ctrl/).click();
    await page.getByTitle(/^MANHOLE\. Ctrl/).click({ modifiers: ['Control'] });
    await page.getByRole('button', { name: 'Work out', exact: true }).click();
    const dialog = page.getByRole('dialog', { name: 'Work out of layers' });
    await dialog.getByRole('radio', { name: 'Network' }).check({ force: true });
    await dialog.getByLabel('Structures are called by').selectOption('NUMBER');
    await dialog.getByRole('textbox', { name: 'Called', exact: true }).fill('Sewer');
    await dialog.getByRole('button', { name: 'Work out', exact: true }).click();
    await page.getByText('Flows against its slope').first().waitFor();
    const kinds = (await faultsOf('Sewer.gpkg')).faults.map((f) => f.kind);
    for (const kind of ['end-moved', 'end-open', 'against-slope', 'structure-missing', 'structure-twice', 'structure-alone'])
      expect(kinds).toContain(kind);
    await page.getByLabel('From structure').selectOption('SMH-13');
    await page.getByRole('img', { name: 'Long profile, 8 pipes' }).waitFor();
    await page.getByText('-0.23 %').waitFor();
    // the run is on the map as well, and one that begins at a structure is followed from there
    expect(await page.locator('path[data-course]').getAttribute('d')).toMatch(/^M.+L/);
    const saved = page.waitForEvent('download');
    await page.getByRole('link', { name: 'Save the profile as a drawing' }).click();
    const drawing = await readFile((await (await saved).path())!, 'utf8');
    expect([drawing.includes('Sewer-pipes'), drawing.includes('SMH-16')]).toEqual([true, true]);
    await page.getByText('Upstream').click();
    await page.getByText('No pipe leads upstream from SMH-13 to where the water leaves.').waitFor();
  });

  it('levels become a ground on which lamps are dropped, and lots, sewer and lamps go into a shapefile and a drawing', async () => {
    const { page, server } = desk;
    await page.getByTitle(/^SPOT-LEVEL\. Ctrl/).click();
    await page.getByRole('button', { name: 'Work out', exact: true }).click();
    const dialog = page.getByRole('dialog', { name: 'Work out of layers' });
    await dialog.getByRole('radio', { name: 'Ground surface' }).check({ force: true });
    await dialog.getByLabel('Height stands out by').fill('2 m');
    await dialog.getByRole('textbox', { name: 'Called', exact: true }).fill('Ground');
    await dialog.getByRole('button', { name: 'Work out', exact: true }).click();
    await page.getByRole('list', { name: 'Faults' }).getByText('Height stands out').first().waitFor();
    // as an elevation model, which the reader of such takes for what it is
    await page.getByLabel('Pixels of the elevation model').selectOption('5');
    const model = page.waitForEvent('download');
    await page.getByRole('link', { name: 'GeoTIFF' }).click();
    const tiff = path.join(desk.folder, 'ground.tif');
    await (await model).saveAs(tiff);
    expect(pontrel('inspect', tiff).json.sources[0].raster).toMatchObject({
      bands: 1,
      sampleType: 'float32',
      pixelSize: [5, 5],
      nodata: -9999,
    });
    await page.getByTitle(/^LAMP\. Ctrl/).click();
    await page.getByRole('button', { name: 'Work out', exact: true }).click();
    await dialog.getByRole('radio', { name: 'Records on the ground' }).check({ force: true });
    await dialog.getByRole('checkbox', { name: 'Ground of Ground.gpkg as The ground' }).check();
    await dialog.getByLabel('Records are called by').selectOption('LAMP_NO');
    await dialog.getByRole('textbox', { name: 'Called', exact: true }).fill('Lamps');
    await dialog.getByRole('button', { name: 'Work out', exact: true }).click();
    // the network has a ground to lie under from now on
    await page.getByTitle(/^Sewer-pipes\. Ctrl/).click();
    await page.getByLabel('Ground of the profile').waitFor();
    await page.getByText('Downstream', { exact: true }).click();
    await page
      .getByRole('img', { name: /^Long profile/ })
      .locator('path', { has: page.locator('title', { hasText: 'Ground' }) })
      .first()
      .waitFor({ state: 'attached' });
    expect((await faultsOf('Lamps.gpkg')).faults.filter((f) => f.kind !== 'off-surface').map((f) => [f.kind, f.about])).toEqual([
      ['buried', 'L005'],
      ['floats', 'L012'],
      ['buried', 'L018'],
    ]);
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Add DXF drawing' }).click();
    await expect.poll(async () => (await server.state(desk.id)).recipe.deliverables.length).toBe(2);
    const { recipe, revision } = await server.state(desk.id);
    const without = { [DRAWING]: true as const, 'Ground.gpkg': true as const };
    await server.call('PUT', `api/crossings/${desk.id}/recipe`, {
      revision,
      recipe: { ...recipe, deliverables: recipe.deliverables.map((d) => ({ ...d, without })) },
    });
    await page.reload();
    await page.getByRole('button', { name: 'Run all 2' }).waitFor();
    await page.keyboard.press('Control+Enter');
    await expect.poll(async () => (await server.state(desk.id)).runs.length, { timeout: 60_000 }).toBe(2);
    const { runs } = await server.state(desk.id);
    // 68 lots, 22 structures with their 21 pipes, 24 lamps
    expect(runs.map((r) => [r.status, r.records])).toEqual([
      ['match', { in: 68 + 43 + 24, out: 68 + 43 + 24 }],
      ['match', { in: 68 + 43 + 24, out: 68 + 43 + 24 }],
    ]);
    expect(desk.errors).toEqual([]);
  });

  it('faults of lots are mended one by one by key, taken back, and the differences of their areas are drawn', async () => {
    const { page, server } = desk;
    const square = (x: number, y: number, w: number, h: number): string =>
      JSON.stringify({
        type: 'Polygon',
        coordinates: [
          [
            [x, y],
            [x + w, y],
            [x + w, y + h],
            [x, y + h],
            [x, y],
          ].map(([e, n]) => [1_464_000 + e!, 5_101_500 + n!]),
        ],
      });
    const lot = (no: string, area: number, geometry: string): string => feature(geometry, `{"lot":"${no}","stated":${area}}`);
    // a gap of 10 m2 between the first two, an overlap of 20 m2 of the others
    const lots = featuresOf(
      lot('1', 200, square(0, 0, 20, 10)),
      lot('2', 190, square(21, 0, 19, 10)),
      lot('3', 400, square(0, 10, 20, 20)),
      lot('4', 431, square(19, 10, 21, 20)),
      lot('5', 400, square(0, -10, 40, 10)),
    );
    const stated = lots.replace('{', '{"crs":{"type":"name","properties":{"name":"EPSG:2193"}},');
    const { id } = (await server.upload('api/crossings', ['holding.geojson', stated])).body;
    await server.until(id, (s) => s.sources.length === 1);
    await server.call('POST', `api/crossings/${id}/derived`, {
      operation: 'topology',
      name: 'Report',
      roles: { areas: [{ source: 'holding.geojson', layer: 'holding' }] },
      settings: { names: 'lot' },
    });
    await server.until(id, (s) => s.sources.length === 2);
    await page.goto(`${server.address}crossings/${id}/shape`);
    await page
      .getByTitle(/^Report\. Ctrl/)
      .first()
      .click();
    await page.getByText('2 open of 2').waitFor();
    await page.getByRole('button', { name: 'Next' }).click();
    await page.getByRole('button', { name: 'Mend it' }).waitFor();
    await page.keyboard.press('e');
    await page.getByText('1 open of 2').waitFor();
    const mended = (await server.until(id, (s) => s.sources.length === 3)).sources[2]!;
    expect([mended.name, mended.derived!.figures]).toEqual([
      'Report mended.gpkg',
      expect.objectContaining({ gapsFilled: 0, overlapsSettled: 1, overlapsSettled_m2: expect.closeTo(20, 6), changed: 2 }),
    ]);
    await page.getByRole('button', { name: 'Mend it' }).waitFor();
    await page.keyboard.press('e');
    await page.getByText('0 open of 2').waitFor();
    const figures = async (): Promise<Record<string, number>> =>
      (await server.state(id)).sources.find((s) => s.name === 'Report mended.gpkg')!.derived!.figures;
    await expect.poll(async () => (await figures()).gapsFilled).toBe(1);
    // and one of them taken back
    await page.getByRole('list', { name: 'Faults' }).getByText('Gap').click();
    await page.getByRole('button', { name: 'As it was' }).click();
    await page.getByText('1 open of 2').waitFor();
    await expect.poll(async () => (await figures()).gapsFilled).toBe(0);
    expect((await server.state(id)).sources).toHaveLength(3);
    // areas against those that are stated
    await server.call('POST', `api/crossings/${id}/derived`, {
      operation: 'areas',
      name: 'Areas',
      roles: { areas: [{ source: 'holding.geojson', layer: 'holding' }] },
      settings: { stated: 'stated', names: 'lot', against: 'grid' },
    });
    await server.until(id, (s) => s.sources.length === 4);
    await page
      .getByTitle(/^Areas\. Ctrl/)
      .first()
      .click();
    await page.getByRole('img', { name: /^How 5 differences lie between .11\.00 m² and 0\.00 m²/ }).waitFor();
    expect(desk.errors).toEqual([]);
  });
});

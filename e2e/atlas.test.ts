import { readFileSync } from 'node:fs';
import path from 'node:path';
import { zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { python } from '../tests/reference/python';
import { QUAY } from '../tests/server/client';
import { Desk } from './browser';

const DATA = path.dirname(QUAY);
const bytes = (name: string): Uint8Array => new Uint8Array(readFileSync(path.join(DATA, name)));

/** Map files of several kinds in one archive, filtered, handed over for a globe and as an archive, by mouse and keys. */
describe('an atlas goes across', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
    await desk.page.goto(desk.server.address);
    await desk.page.getByText('No crossing yet').waitFor();
  });
  afterAll(() => desk.close());

  it('an archive with good and bad files: what is good comes in, and of the rest it is said why not', async () => {
    const { page } = desk;
    const files = Object.fromEntries(['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => [`town/parcels.${e}`, bytes(`parcels.${e}`)]));
    const archive = zipSync({
      ...files,
      'town/zones.geojson': bytes('zones.geojson'),
      'paths/coast-path.kml': bytes('coast-path.kml'),
      'old/plan.dwg': new TextEncoder().encode('AC1032\0\0'),
      'readme.pdf': new Uint8Array(9),
    });
    await desk.drop({ name: 'atlas.zip', content: Buffer.from(archive) });
    await page.getByRole('heading', { name: '3 files taken in, 1 not' }).waitFor();
    await page.getByText('plan.dwg is a DWG drawing').waitFor();
    await page.getByText('atlas.zip: readme.pdf').waitFor();
    await page.keyboard.press('Escape');
    await page.getByText('4 of 4 taken').waitFor();
    // a globe's numbers have their size on the ground
    await page
      .getByText(/0\.\d\d × 0\.9\d km/)
      .first()
      .waitFor();
  });

  it('a filter with a fault says so where it stands; one without takes what it should', async () => {
    const { page } = desk;
    await page.keyboard.press('4');
    await page.getByRole('button', { name: 'Add GeoPackage' }).click();
    await page.keyboard.press('3');
    await page.getByRole('button', { name: 'parcels', exact: true }).click();
    const where = page.getByLabel('Only records of parcels where');
    await where.fill("LAND_AREA > 'x");
    await page.getByText('The quote at character 13 is not closed.').waitFor();
    await where.fill('LANDAREA > 300');
    await page.getByText(/There is no field LANDAREA in this layer; there is LAND_AREA/).waitFor();
    await where.fill("LAND_AREA > 900 AND STREET LIKE 'Harbour%'");
    await page.keyboard.press('Enter');
    await page.getByText(/^\d+ stay behind$/).waitFor();
  });

  it('the archive and the file for a globe are proved, and the container has just those parcels', async () => {
    const { page } = desk;
    await page.keyboard.press('4');
    await page
      .getByRole('row', { name: /parcels/ })
      .getByText(/not taken by the filter/)
      .waitFor();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/records read back as they went in/).waitFor();
    await page.getByRole('button', { name: 'Add KML' }).click();
    await page.getByText('as the format prescribes').waitFor();
    await page.getByRole('radio', { name: 'KMZ' }).check();
    const side = page.getByRole('textbox', { name: 'Name', exact: true });
    await side.fill('{NAMEE}');
    await page.getByText(/No record has a value in a field NAMEE\. The fields are .*name/i).waitFor();
    await side.fill('no field');
    await page.getByText(/braces/).waitFor();
    await side.fill('');
    const fields = await page.getByLabel('Picture by field').getByRole('option').allTextContents();
    expect([fields[0], fields.includes('photo'), fields.some((f) => /name/i.test(f))]).toEqual(['none', false, true]);
    await page.getByLabel('Heights').selectOption('absolute');
    await page.getByLabel('Raised by').fill('2 m');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/records read back as they went in/).waitFor();
    await page.getByRole('button', { name: /GeoPackage, 4 layers/ }).click();
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download zip' }).click()]);
    const zip = `${desk.folder}/atlas.zip`;
    await download.saveAs(zip);
    const { spawnSync } = await import('node:child_process');
    const names = spawnSync(
      '/usr/bin/python3',
      [
        '-c',
        'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); z.extractall(sys.argv[2]); print("\\n".join(z.namelist()))',
        zip,
        desk.folder,
      ],
      { encoding: 'utf8' },
    )
      .stdout.trim()
      .split('\n');
    expect(names.at(-1)).toBe('proof.html');
    const [file] = python<
      { head: { faults: string[] }; layers: Record<string, { properties: { LAND_AREA: number; STREET: string } }[]> }[]
    >('read_gis.py', { files: [`${desk.folder}/${names[0]}`] });
    expect(file!.head.faults).toEqual([]);
    expect(file!.layers.parcels!.length).toBeGreaterThan(0);
    expect(file!.layers.parcels!.every((r) => r.properties.LAND_AREA > 900 && r.properties.STREET === 'Harbour Street')).toBe(true);
    const report = readFileSync(`${desk.folder}/proof.html`, 'utf8');
    expect(report).toContain('Match: nothing was lost that was not forecast');
    const { createHash } = await import('node:crypto');
    expect(report).toContain(
      createHash('sha256')
        .update(readFileSync(`${desk.folder}/${names[0]}`))
        .digest('hex'),
    );
    expect(report).not.toMatch(/<script|javascript:/i);
  });

  it('every record stands in a table, ordered and filtered by the server, and a row is found on the map', async () => {
    const { page } = desk;
    await page.keyboard.press('1');
    // the page before this one has the name as well
    const side = page.getByRole('complementary', { name: 'Layer' });
    await side.waitFor();
    await page.getByText('parcels', { exact: true }).first().click();
    await side.getByText(/parcels\.shp/).waitFor();
    await side.getByRole('link', { name: 'All records as a table' }).click();
    await page.getByText('204 records').waitFor();
    const row = (n: number): ReturnType<typeof page.getByRole> => page.getByRole('row').nth(n);
    const areas = async (): Promise<number[]> =>
      (await Promise.all([1, 2, 3, 4].map((n) => row(n).getByRole('cell').nth(3).innerText()))).map((t) => Number(t.replace(/\s/g, '')));
    await row(4).waitFor();
    await page.getByRole('button', { name: 'LAND_AREA', exact: true }).click();
    await expect
      .poll(async () => {
        const a = await areas();
        return a.every((v, k) => k === 0 || v >= a[k - 1]!);
      })
      .toBe(true);
    await page.getByRole('button', { name: 'LAND_AREA', exact: true }).click();
    await expect
      .poll(async () => {
        const a = await areas();
        return a[0]! > 1000 && a.every((v, k) => k === 0 || v <= a[k - 1]!);
      })
      .toBe(true);
    await page.getByRole('textbox', { name: 'Only records where' }).fill("STREET = 'Tern Street' AND LEASED");
    await page.keyboard.press('Enter');
    await page
      .getByText(/^\d+ of 204 records$/)
      .first()
      .waitFor();
    await expect.poll(() => row(1).getByRole('cell').nth(4).innerText()).toBe('Tern Street');
    await row(1).focus();
    await page.keyboard.press('Enter');
    await expect.poll(() => row(1).getAttribute('aria-selected')).toBe('true');
  });

  it('the span shows who arrives and who does not, and opens the records of a band by keyboard', async () => {
    const { page } = desk;
    await page.keyboard.press('s');
    await page.getByRole('heading', { name: 'Span' }).waitFor();
    const band = page.getByRole('button', { name: /^parcels to not taken by the filter: \d+ left out by you$/ });
    await band.focus();
    await page.keyboard.press('Enter');
    await page.getByText(/records left out by you/).waitFor();
    await page.getByText(/PARCEL_ID AV-00001/).waitFor();
    await page.getByRole('button', { name: 'Records after' }).click();
    await page.getByText(/PARCEL_ID AV-00021/).waitFor();
    expect(desk.errors).toEqual([]);
  });
});

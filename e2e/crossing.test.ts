import { readFileSync } from 'node:fs';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY, SURVEY } from '../tests/server/client';
import { python } from '../tests/reference/python';
import { Desk, unpack } from './browser';

const quay = { name: 'quay-design.dxf', content: readFileSync(QUAY) };

describe('a drawing goes across, by mouse', () => {
  let desk: Desk;
  let actions = 0;
  beforeAll(async () => {
    desk = await Desk.open();
  });
  afterAll(() => desk.close());

  it('from the drop to the zip in at most eight actions', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();

    actions++; // drop
    await desk.drop(quay);
    await page.getByRole('listitem').first().waitFor();
    expect(await page.getByRole('listitem').count()).toBe(19);
    await page.getByText('19 of 19 taken').waitFor();

    actions++; // on to Place
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    // the numbers alone cannot tell New Zealand from Argentina: the page asks
    await page.getByText(/numbers alone cannot tell these apart/).waitFor();
    actions++; // choose
    const nztm = page.getByRole('radio', { name: /EPSG:2193/ });
    await nztm.check();
    actions++; // place
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).click();
    await page.getByRole('application', { name: /Map/ }).waitFor();
    await page.getByText('Placed as').waitFor();

    actions++; // on to Deliver
    await page.getByRole('link', { name: 'Deliver', exact: true }).click();
    actions++; // add
    await page.getByRole('button', { name: 'Add shapefile' }).click();
    const forecast = page.getByRole('table', { name: 'Forecast' });
    await forecast
      .getByRole('row', { name: /QUAY-COPING/ })
      .getByText('4 × 3DSOLID is not read and stays behind')
      .waitFor();
    await page.getByText('quay_edge.shp').waitFor();

    actions++; // run
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText('1 064 records read back as they went in').waitFor();

    actions++; // download
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'Download zip' }).click()]);
    expect(actions).toBeLessThanOrEqual(8);
    console.log(`${actions} actions from the drop to the zip`);

    const files = await unpack(download, desk.folder);
    // seven files a set with its style, and the report
    expect(files).toHaveLength(22 * 7 + 1);
    const sets = python<{ count: number }[]>('read_shapefiles.py', { files: files.filter((f) => f.endsWith('.shp')) });
    expect(sets.reduce((n, s) => n + s.count, 0)).toBe(1064);
    expect(desk.errors).toEqual([]);
  });

  it('and the next drawing from there is placed without asking', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByRole('link', { name: 'Quay design', exact: true }).waitFor();
    await desk.drop({ name: 'street-survey.dxf', content: readFileSync(SURVEY) });
    await page.getByRole('link', { name: 'Place', exact: true }).click();
    await page.getByRole('button', { name: 'Place as EPSG:2126' }).click();
    await page.getByText('Placed as').waitFor();
    await page.getByText('The same system').waitFor();
  });

  it('shows source and read-back under a divider, with the checks of the proof', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByRole('link', { name: 'Quay design', exact: true }).click();
    await page.keyboard.press('5');
    await page.getByText('Match: nothing was lost that was not forecast').waitFor();
    const divider = page.getByRole('slider', { name: /Divider between Source and Read back/ });
    const before = Number(await divider.getAttribute('aria-valuenow'));
    await divider.focus();
    await page.keyboard.press('ArrowRight');
    expect(Number(await divider.getAttribute('aria-valuenow'))).toBe(before + 2);
    await page.getByText('8 ', { exact: false }).first().waitFor();
    await page.getByRole('table', { name: 'Records' }).getByText('quay_edge').waitFor();
    await page.getByRole('img', { name: /^Deviations:/ }).waitFor();
  });

  it('measures, and shows the record of an object that is clicked', async () => {
    const { page } = desk;
    await page.keyboard.press('2');
    await page.getByRole('heading', { name: 'Reference frame' }).waitFor();
    const map = page.getByRole('application', { name: /Map/ });
    await map.waitFor();
    await page.getByTestId('scale').waitFor();
    // close in on a bollard
    const box = (await map.boundingBox())!;
    const bollard = (
      await desk.server.call<{ records: { at: number[] }[] }>(
        'GET',
        `api/crossings/${desk.id}/sources/${(await desk.server.state(desk.id)).sources[0]!.id}/records?layer=BOLLARD&limit=33`,
      )
    ).body.records[16]!;
    const [e, n] = [bollard.at[0]! / 1000, bollard.at[1]! / 1000];
    const extent = (await desk.server.state(desk.id)).frameExtent!;
    const perPixel = Math.max((extent[2] - extent[0]) / (box.width - 48), (extent[3] - extent[1]) / (box.height - 48));
    const x = box.x + box.width / 2 + (e - (extent[0] + extent[2]) / 2) / perPixel,
      y = box.y + box.height / 2 - (n - (extent[1] + extent[3]) / 2) / perPixel;
    await page.mouse.move(x, y);
    for (let i = 0; i < 5; i++) {
      await page.mouse.wheel(0, -240);
      await page.waitForTimeout(350);
    }
    // where the pointer is now, as the footer says, and so where the bollard is
    const cursor = async (px: number, py: number): Promise<[number, number]> => {
      await page.mouse.move(px, py);
      await page.waitForTimeout(60);
      const [, east, north] = /^E ([\d\s.]+)\s+N ([\d\s.]+)$/.exec((await page.getByTestId('cursor').textContent())!)!;
      return [Number(east!.replace(/\s/g, '')), Number(north!.replace(/\s/g, ''))];
    };
    const [e0, n0] = await cursor(x, y);
    const closer = ((await cursor(x + 100, y))[0] - e0) / 100;
    const [bx, by] = [x + (e - e0) / closer, y - (n - n0) / closer];
    await page.mouse.click(bx, by);
    const record = page.getByRole('region', { name: 'Record' });
    await record.getByText('BOLLARD_ID').waitFor();
    await page.keyboard.press('Escape');
    await record.waitFor({ state: 'detached' });

    await page.keyboard.press('m');
    // the vertex that would catch the point is shown before it is set
    await page.mouse.move(bx + 2, by + 2);
    const caught = await page.locator('[data-caught]').getAttribute('data-caught');
    caught!.split(' ').forEach((v, k) => expect(Number(v)).toBeCloseTo([e, n][k]!, 3));
    await page.mouse.click(bx, by);
    await page.waitForTimeout(250);
    await page.mouse.click(bx + 150, by + 90);
    const card = page.getByRole('status', { name: 'Measurement' });
    await card.getByText(/\d m$/).first().waitFor();
    await card.getByText(/[12] of 2 points on a vertex/).waitFor();
    await page.keyboard.press('Escape');
    await card.waitFor({ state: 'detached' });
  });

  it('shapes: objects left, a name typed wrongly is flagged, and undo takes it all back', async () => {
    const { page } = desk;
    await page.keyboard.press('3');
    await page.getByRole('button', { name: 'BOLLARD', exact: true }).click();
    const plan = page.getByRole('table', { name: 'Field plan of BOLLARD' });
    const name = plan.getByRole('textbox', { name: 'Name of INSTALLATION_YEAR in the target' });
    expect(await name.inputValue()).toBe('INST_YEAR');
    await name.fill('INSTALLATION');
    await name.press('Enter');
    await plan.getByText('12 bytes; at most 10 fit.').waitFor();
    await page.keyboard.press('4');
    await page.getByText(/1 field name has a fault/).waitFor();
    expect(await page.getByRole('button', { name: /^Run/ }).isDisabled()).toBe(true);
    await page.keyboard.press('3');
    await page.getByRole('button', { name: 'BOLLARD', exact: true }).click();
    await page.getByRole('checkbox', { name: 'Take BOLLARD', exact: true }).uncheck();
    await page.getByText('This layer does not cross').waitFor();
    await page.getByRole('heading', { name: 'Field plan' }).click();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await page.getByText('Undone: name of INSTALLATION_YEAR').waitFor();
    await expect.poll(() => page.getByRole('textbox', { name: 'Name of INSTALLATION_YEAR in the target' }).inputValue()).toBe('INST_YEAR');
    expect(await page.getByRole('checkbox', { name: 'Take BOLLARD', exact: true }).isChecked()).toBe(true);
    expect(desk.errors).toEqual([]);
  });

  it('tells of a broken drawing by name and line, and of a DWG what to do', async () => {
    const { page } = desk;
    await page.keyboard.press('1');
    await page.getByRole('listitem').first().waitFor();
    const layers = await page.getByRole('listitem').count();
    await desk.drop({ name: 'cut.dxf', content: quay.content.subarray(0, 250_000) });
    await page.getByText(/cut\.dxf breaks off at line \d/).waitFor();
    await page.getByRole('button', { name: 'Dismiss message about cut.dxf' }).click();
    await page.getByText(/cut\.dxf breaks off/).waitFor({ state: 'detached' });
    await desk.drop({ name: 'plan.dwg', content: Buffer.from('AC1032\0\0') });
    await page.getByText(/plan\.dwg is a DWG drawing.*save the drawing as DXF/).waitFor();
    expect(await page.getByRole('listitem').count()).toBe(layers);
  });
});

describe('everyday turns', () => {
  let desk: Desk;
  let id: string;
  beforeAll(async () => {
    desk = await Desk.open();
    id = (await desk.server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 })).id;
  });
  afterAll(() => desk.close());
  const go = (stage: string): Promise<unknown> => desk.page.goto(`${desk.server.address}crossings/${id}/${stage}`);

  it('a crossing is renamed where its name stands', async () => {
    const { page } = desk;
    await go('gather');
    await page.getByRole('button', { name: 'Rename Quay design' }).click();
    await page.getByRole('textbox', { name: 'Name of the crossing' }).fill('Ferry quay, revision B');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Rename Ferry quay, revision B' }).waitFor();
  });

  it('layers are found by kind and name, and all of a source are taken or left at once', async () => {
    const { page } = desk;
    await page.getByRole('radio', { name: /^Text/ }).check();
    await expect.poll(() => page.getByRole('listitem').count()).toBe(3);
    await page.getByRole('textbox', { name: 'Find a layer' }).fill('lease');
    await expect.poll(() => page.getByRole('listitem').count()).toBe(1);
    await page.getByRole('textbox', { name: 'Find a layer' }).fill('no such layer');
    await page.getByText('No layer found').waitFor();
    await page.getByRole('button', { name: 'Show all layers' }).click();
    const all = page.getByRole('checkbox', { name: 'Take all layers of quay-design.dxf' });
    await all.uncheck();
    await page.getByText('0 of 19 taken').waitFor();
    await page.keyboard.press('Control+z');
    await page.getByText('19 of 19 taken').waitFor();
    await page.keyboard.press('Control+Shift+z');
    await page.getByText('0 of 19 taken').waitFor();
    await page.keyboard.press('Control+z');
    await page.getByText('19 of 19 taken').waitFor();
  });

  it('the inspector goes from record to record', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: /^BOLLARD, 33 records/ }).click();
    const inspector = page.getByRole('complementary', { name: 'Layer' });
    await inspector.getByText('QB-001').waitFor();
    await inspector.getByRole('button', { name: 'Next record' }).click();
    await inspector.getByText('QB-002').waitFor();
    await inspector.getByText('record 2 of 33').waitFor();
  });

  it('the frame is changed, the map follows, and the path of a coordinate says how', async () => {
    const { page } = desk;
    await go('place');
    await page.getByRole('button', { name: 'change', exact: true }).click();
    await page.getByRole('combobox', { name: 'Find a reference frame' }).fill('timaru 2000');
    await page.getByRole('option', { name: /EPSG:2126/ }).click();
    const path = page.getByRole('complementary', { name: 'Path of a coordinate' });
    await path.getByText('NZGD2000 / New Zealand Transverse Mercator 2000 to degrees').waitFor();
    await path.getByText('Degrees to NZGD2000 / Timaru 2000').waitFor();
    await page.getByRole('img', { name: /Neatline, eastings 41[89]/ }).waitFor();
  });

  it('a unit that is wrong is told before anything is placed; a system that is wrong sends the drawing elsewhere, and undo brings it back', async () => {
    const { page } = desk;
    await page.getByRole('button', { name: 'Choose another system' }).click();
    await page.getByRole('combobox', { name: 'Find a system for quay-design.dxf' }).fill('2193');
    await page.getByRole('option', { name: /EPSG:2193/ }).click();
    await page.getByRole('combobox', { name: 'Unit of quay-design.dxf' }).selectOption('metre');
    await page.getByText(/So placed, the numbers of quay-design\.dxf lie where NZGD2000 \/ Timaru 2000 has no coordinates/).waitFor();
    await expect.poll(() => page.getByRole('button', { name: 'Place as EPSG:2193' }).isDisabled()).toBe(true);
    await page.getByRole('combobox', { name: 'Unit of quay-design.dxf' }).selectOption('millimetre');
    await page.getByRole('combobox', { name: 'Find a system for quay-design.dxf' }).fill('timaru 2000');
    await page.getByRole('option', { name: /EPSG:2126/ }).click();
    await page.getByRole('button', { name: 'Place as EPSG:2126' }).click();
    await page.getByText('Placed as EPSG:2126, numbers in millimetres.').waitFor();
    await page.getByRole('heading', { name: 'Stated', exact: true }).click();
    await page.keyboard.press('Control+z');
    await page.getByText('Placed as EPSG:2193, numbers in millimetres.').waitFor();
  });

  it('a deliverable in another system, all of a kind together; rules changed since are said everywhere', async () => {
    const { page } = desk;
    await go('deliver');
    await page.getByRole('radio', { name: 'All points, all lines, all areas' }).click();
    await page.getByText('council_upload_line.shp').waitFor();
    await page.getByRole('main').getByRole('button', { name: 'change', exact: true }).click();
    await page.getByRole('combobox', { name: 'Find a target system' }).fill('4167');
    await page.getByRole('option', { name: /EPSG:4167/ }).click();
    await page.getByRole('button', { name: 'Run and prove' }).click();
    await page.getByText(/1\s064 records read back as they went in/).waitFor();
    await page.getByRole('link', { name: /Prove/ }).getByText('match').waitFor();
    await page.keyboard.press('3');
    await page.getByRole('checkbox', { name: 'Take TITLE-BLOCK', exact: true }).uncheck();
    await page.getByRole('link', { name: /Prove/ }).getByText('rules changed since').waitFor();
    await page.keyboard.press('5');
    await page.getByText('The rules have changed since').waitFor();
    await page.keyboard.press('4');
    await page.getByText('The rules have changed since this was last written.').waitFor();
    expect(await page.getByRole('link', { name: 'Download zip' }).count()).toBe(0);
  });

  it('the chord tolerance takes a unit, and says so when it is none', async () => {
    const { page } = desk;
    await page.keyboard.press('3');
    await page.getByRole('button', { name: 'DOLPHIN', exact: true }).click();
    const chord = page.getByRole('textbox', { name: 'Largest distance of a chord from its curve' });
    const chords = page.getByText(/6 curved objects → about/);
    const before = await chords.textContent();
    await chord.fill('wide');
    await page.getByText('A length is wanted, such as 5 mm').waitFor();
    await chord.fill('2 cm');
    await chord.press('Enter');
    await expect.poll(() => chord.inputValue()).toBe('0.02 m');
    expect(await chords.textContent()).not.toBe(before);
  });

  it('the same file twice gets a name of its own; a source is removed with its rules, and comes back with them', async () => {
    const { page } = desk;
    await page.keyboard.press('1');
    await desk.drop(quay);
    await page.getByText('quay-design (2).dxf').first().waitFor();
    await page.getByText('38 of 38 taken', { exact: false }).or(page.getByText('37 of 38 taken')).first().waitFor();
    await page.getByRole('button', { name: 'Remove quay-design (2).dxf' }).click();
    await page.getByRole('button', { name: 'Remove with its rules' }).click();
    await page.getByText('quay-design (2).dxf lies in the bin with its rules.', { exact: false }).waitFor();
    await page.getByRole('button', { name: 'quay-design (2).dxf', exact: true }).waitFor({ state: 'detached' });
    await page.keyboard.press('h');
    await page.getByRole('button', { name: 'Bin (1)' }).click();
    await page.getByText('a source of Ferry quay, revision B', { exact: false }).waitFor();
    await page.getByRole('button', { name: 'Put back' }).click();
    await page.getByText('The bin is empty.').waitFor();
    await page.keyboard.press('Escape');
    await page.getByText('quay-design (2).dxf', { exact: false }).first().waitFor();
  });

  /** Chooses something from the menu of a crossing on Home. */
  const choose = async (crossing: string, what: string): Promise<void> => {
    await desk.page.getByRole('button', { name: `More about ${crossing}`, exact: true }).click();
    await desk.page.getByRole('menuitem', { name: what }).click();
  };

  it('a crossing is duplicated with its rules and runs, renamed where it stands, sorted, and found by what is still to do', async () => {
    const { page } = desk;
    await page.keyboard.press('h');
    await choose('Ferry quay, revision B', 'Duplicate');
    await page.getByRole('link', { name: 'Ferry quay, revision B, copy', exact: true }).waitFor();
    await choose('Ferry quay, revision B, copy', 'Rename');
    const name = page.getByRole('textbox', { name: 'Name of Ferry quay, revision B, copy' });
    await name.fill('A quay for trials');
    await name.press('Enter');
    await page.getByRole('link', { name: 'A quay for trials', exact: true }).waitFor();
    const names = async (): Promise<string[]> =>
      (await page.getByRole('table', { name: 'Crossings' }).getByRole('link').allInnerTexts()).filter((t) => t !== '');
    await page.getByRole('button', { name: 'Crossing', exact: true }).click();
    await expect.poll(names).toEqual(['A quay for trials', 'Ferry quay, revision B']);
    await page.getByRole('button', { name: 'Crossing', exact: true }).click();
    await expect.poll(names).toEqual(['Ferry quay, revision B', 'A quay for trials']);
    expect(await page.getByRole('columnheader', { name: 'Crossing' }).getAttribute('aria-sort')).toBe('descending');
    // both have been run, by the same rules
    const runs = page.getByRole('complementary', { name: 'Runs of the last days' });
    await runs.getByText('A quay for trials').first().waitFor();
    for (const which of ['To do', 'Proved']) {
      const choice = page.getByRole('radio', { name: new RegExp(`^${which} \\d`) });
      await choice.check();
      const count = Number(
        (await page.getByRole('radiogroup', { name: 'Which crossings' }).innerText()).match(new RegExp(`${which} (\\d)`))![1],
      );
      await expect.poll(async () => (await names()).length).toBe(count);
    }
    await page.getByRole('radio', { name: /^All/ }).check();
    await choose('A quay for trials', 'Put A quay for trials into the bin');
    await page.getByRole('link', { name: 'A quay for trials', exact: true }).first().waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Bin (1)' }).click();
    await page.getByRole('button', { name: 'Delete A quay for trials for good' }).click();
    await page.getByRole('button', { name: 'Delete for good', exact: true }).click();
    await page.getByText('The bin is empty.').waitFor();
    await page.keyboard.press('Escape');
  });

  it('what a crossing is stands on Home until it is put away, and stays away', async () => {
    const { page } = desk;
    const told = page.getByRole('region', { name: 'What a crossing is' });
    await told.waitFor();
    await told.getByRole('button', { name: 'Hide' }).click();
    await told.waitFor({ state: 'detached' });
    await page.reload();
    await page.getByRole('table', { name: 'Crossings' }).waitFor();
    expect(await told.count()).toBe(0);
  });

  it('a crossing goes into the bin, comes back with its rules and runs, and is deleted for good only when asked twice', async () => {
    const { page } = desk;
    await page.keyboard.press('h');
    await choose('Ferry quay, revision B', 'Put Ferry quay, revision B into the bin');
    await page.getByText('No crossing yet').waitFor();
    await page.getByRole('button', { name: 'Bin (1)' }).click();
    await page.getByRole('button', { name: 'Put back' }).click();
    await page.getByText('The bin is empty.').waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('link', { name: 'Ferry quay, revision B', exact: true }).waitFor();
    await choose('Ferry quay, revision B', 'Put Ferry quay, revision B into the bin');
    await page.getByRole('button', { name: 'Bin (1)' }).click();
    await page.getByRole('button', { name: 'Delete Ferry quay, revision B for good' }).click();
    await page.getByRole('button', { name: 'Keep' }).click();
    await page.getByRole('button', { name: 'Delete Ferry quay, revision B for good' }).click();
    await page.getByRole('button', { name: 'Delete for good', exact: true }).click();
    await page.getByText('The bin is empty.').waitFor();
    expect(desk.errors).toEqual([]);
  });
});

describe('by keyboard only', () => {
  let desk: Desk;
  beforeAll(async () => {
    desk = await Desk.open();
  });
  afterAll(() => desk.close());

  /** Moves the focus on until it is on what is wanted, which is there and can be used before. */
  async function tabTo(role: Parameters<Page['getByRole']>[0], name: RegExp): Promise<void> {
    const wanted = desk.page.getByRole(role, { name }).first();
    await wanted.waitFor();
    await expect.poll(() => wanted.isEnabled()).toBe(true);
    for (let i = 0; i < 120; i++) {
      const hit = await desk.page.evaluate(() => {
        const e = document.activeElement as HTMLElement;
        return {
          role:
            e.getAttribute('role') ??
            {
              BUTTON: 'button',
              A: 'link',
              INPUT:
                (e as HTMLInputElement).type === 'checkbox' ? 'checkbox' : (e as HTMLInputElement).type === 'radio' ? 'radio' : 'textbox',
              SELECT: 'combobox',
            }[e.tagName] ??
            '',
          name: e.getAttribute('aria-label') ?? e.textContent ?? '',
        };
      });
      if (hit.role === role && name.test(hit.name)) return;
      await desk.page.keyboard.press('Tab');
    }
    throw new Error(`The focus never came to ${role} ${name}.`);
  }

  it('a drawing goes across', async () => {
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByText('No crossing yet').waitFor();
    await page.waitForTimeout(1000); // the browser drops keys until it has painted the page for the first time
    const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.keyboard.press('n')]);
    await chooser.setFiles([QUAY]);
    await page.getByText('19 of 19 taken').waitFor();

    await tabTo('button', /^TITLE-BLOCK/);
    await page.keyboard.press('Space');
    await page.getByText('18 of 19 taken').waitFor();

    await page.keyboard.press('2');
    await tabTo('combobox', /Find a reference frame/);
    await page.keyboard.type('2193');
    await page.getByRole('option', { name: /EPSG:2193/ }).waitFor();
    await page.keyboard.press('Enter');
    await page.getByText('NZGD2000 / New Zealand Transverse Mercator 2000').first().waitFor();
    await tabTo('radio', /EPSG:2193/);
    await page.keyboard.press('Space');
    await tabTo('button', /Place as EPSG:2193/);
    await page.keyboard.press('Enter');
    await page.getByText('Placed as').waitFor();

    // the map: move, zoom, take what is in the middle
    await tabTo('application', /^Map/);
    // it shows all of the drawing first, once the server has put that in its place
    await desk.server.until(desk.id, (s) => s.frameExtent !== null);
    const shown = page.getByTestId('scale');
    let scale = null;
    for (let now = await shown.textContent(); now !== scale; now = await shown.textContent()) {
      scale = now;
      await page.waitForTimeout(500);
    }
    await page.keyboard.press('+');
    await expect.poll(() => shown.textContent()).not.toBe(scale);
    await page.keyboard.press('f');

    await page.keyboard.press('4');
    await tabTo('button', /Add shapefile/);
    await page.keyboard.press('Enter');
    await tabTo('button', /Run and prove/);
    await page.keyboard.press('Enter');
    await page.getByText(/records read back as they went in/).waitFor();
    await page.keyboard.press('5');
    await page.getByText('Match: nothing was lost that was not forecast').waitFor();
    await tabTo('link', /Download zip/);
    const [download] = await Promise.all([page.waitForEvent('download'), page.keyboard.press('Enter')]);
    expect((await unpack(download, desk.folder)).length).toBeGreaterThan(90);

    await page.keyboard.press('?');
    await page.getByRole('dialog').getByText('Undo the last change of a rule').waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    expect(desk.errors).toEqual([]);
  });
});

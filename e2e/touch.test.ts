import type { CDPSession } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY } from '../tests/server/client';
import { Desk } from './browser';

type XY = readonly [number, number];

/** Fingers on the screen, which move together in steps. */
async function drag(session: CDPSession, ...fingers: { from: XY; to: XY }[]): Promise<void> {
  const at = (t: number): { x: number; y: number; id: number }[] =>
    fingers.map(({ from, to }, id) => ({ x: from[0] + t * (to[0] - from[0]), y: from[1] + t * (to[1] - from[1]), id }));
  await session.send('Input.dispatchTouchEvent', { type: 'touchStart', touchPoints: at(0) });
  for (let k = 1; k <= 10; k++) {
    await session.send('Input.dispatchTouchEvent', { type: 'touchMove', touchPoints: at(k / 10) });
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  await session.send('Input.dispatchTouchEvent', { type: 'touchEnd', touchPoints: [] });
}

/** A tablet: everything is tapped and dragged with fingers, and there is neither mouse nor keyboard. */
describe('a drawing goes across by touch', () => {
  let desk: Desk;
  let session: CDPSession;
  const stage = (name: string): Promise<void> =>
    desk.page
      .getByRole('link', { name: new RegExp(`^${name}`) })
      .first()
      .tap();
  beforeAll(async () => {
    desk = await Desk.open({ touch: true });
    session = await desk.page.context().newCDPSession(desk.page);
    await desk.page.goto(desk.server.address);
  });
  afterAll(() => desk.close());

  it('from the choice of the file to a proof, in five stages', async () => {
    const { page } = desk;
    const [chooser] = await Promise.all([page.waitForEvent('filechooser'), page.getByRole('button', { name: 'Choose files' }).tap()]);
    await chooser.setFiles([QUAY]);
    await page.getByText('19 of 19 taken').waitFor();
    await stage('Place');
    await page.getByRole('radio', { name: /EPSG:2193/ }).tap({ force: true });
    await page.getByRole('button', { name: 'Place as EPSG:2193' }).tap();
    await page.getByText('Placed as').waitFor();
    await stage('Shape');
    await page.getByRole('checkbox', { name: 'Take TITLE-BLOCK' }).tap();
    await page.getByText('18 of 19 layers cross').waitFor();
    await stage('Deliver');
    await page.getByRole('button', { name: 'Add shapefile' }).tap();
    await page.getByRole('button', { name: 'Run and prove' }).tap();
    await page.getByText(/records read back as they went in/).waitFor();
    await stage('Prove');
    await page.getByText('Match: nothing was lost that was not forecast').waitFor();
  });

  it('the divider of a proof follows a finger', async () => {
    const { page } = desk;
    const divider = page.getByRole('slider', { name: /Divider between/ });
    const box = (await divider.boundingBox())!;
    const from: XY = [box.x + box.width / 2, box.y + box.height / 2];
    await drag(session, { from, to: [from[0] - 120, from[1]] });
    const after = (await divider.boundingBox())!;
    expect(after.x - box.x).toBeCloseTo(-120, -1);
  });

  it('the map is moved with one finger, zoomed with two, and tells of what is tapped', async () => {
    const { page } = desk;
    await stage('Place');
    const map = page.getByRole('application', { name: /Map/ });
    await map.waitFor();
    await page.waitForTimeout(1500);
    const box = (await map.boundingBox())!;
    const middle: XY = [box.x + box.width / 2, box.y + box.height / 2];
    const scale = async (): Promise<number> =>
      Number(
        /^1:([\d\s\u00a0\u202f]+)$/
          .exec(
            (await page
              .getByText(/^1:[\d\s\u00a0\u202f]+$/)
              .first()
              .textContent())!,
          )![1]!
          .replace(/\D/g, ''),
      );
    const before = await scale();
    await drag(
      session,
      { from: [middle[0] - 20, middle[1]], to: [middle[0] - 80, middle[1]] },
      { from: [middle[0] + 20, middle[1]], to: [middle[0] + 80, middle[1]] },
    );
    await page.waitForTimeout(800);
    expect(before / (await scale())).toBeGreaterThan(2);
    const pixels = (): Promise<string> => map.screenshot().then((b) => b.toString('base64'));
    const still = await pixels();
    await drag(session, { from: middle, to: [middle[0] + 90, middle[1] + 60] });
    await page.waitForTimeout(800);
    expect(await pixels()).not.toBe(still);
    await page.getByRole('button', { name: 'Coordinates', exact: true }).tap();
    await page.touchscreen.tap(...middle);
    await page
      .getByText(/^44° 13/)
      .first()
      .waitFor();
    expect(desk.errors).toEqual([]);
  });

  it('panels fold and unfold under a finger that is not exact, and what is shown by pointing elsewhere is shown here', async () => {
    const { page } = desk;
    await stage('Shape');
    const fold = page.getByRole('button', { name: 'Fold Rules away' });
    const handle = (await fold.boundingBox())!;
    expect(handle.width).toBeLessThan(24);
    await page.touchscreen.tap(handle.x - 7, handle.y + handle.height / 2);
    await page.getByRole('button', { name: 'Unfold Rules' }).tap();
    await page.getByRole('complementary', { name: 'Rules' }).waitFor();
    await page.goto(`${desk.server.address}crossings/${desk.id}/records?source=quay-design.dxf&layer=BOLLARD`);
    const more = page.getByRole('button', { name: 'More about the column BOLLARD_ID' });
    await more.waitFor();
    expect(await more.evaluate((e) => getComputedStyle(e.parentElement!).opacity)).toBe('1');
    await more.tap();
    await page.getByRole('menuitem', { name: 'Hide' }).tap();
    await more.waitFor({ state: 'detached' });
    expect(desk.errors).toEqual([]);
  });
});

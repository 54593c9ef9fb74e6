import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { chromium, type Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SURVEY } from '../tests/server/client';
import { ARGS, CHROMIUM, Desk } from './browser';

/** What a page of somebody else can try on a server of this machine. */
describe('another page', () => {
  let desk: Desk;
  let elsewhere: Server;
  let port: number;
  beforeAll(async () => {
    desk = await Desk.open();
    await desk.server.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    elsewhere = createServer(
      (_, answer) => void answer.setHeader('content-type', 'text/html').end('<!doctype html><title>Elsewhere</title>'),
    );
    await new Promise<void>((ready) => elsewhere.listen(0, '127.0.0.1', ready));
    ({ port } = elsewhere.address() as AddressInfo);
  });
  afterAll(async () => {
    elsewhere.close();
    await desk.close();
  });

  const crossings = async (): Promise<unknown> => (await desk.server.call('GET', 'api/crossings')).body;

  // of another site by its name, and of this one by another port
  it.each(['localhost', '127.0.0.1'])('at %s can neither write nor read, by script, form, beacon or picture', async (name) => {
    const { page } = desk;
    const before = await crossings();
    await page.goto(`http://${name}:${port}/`);
    const read = await page.evaluate(async (target) => {
      const api = `${target}api/crossings`;
      await fetch(api, { method: 'POST', mode: 'no-cors' }).catch(() => null);
      navigator.sendBeacon(api, new Blob(['{}'], { type: 'text/plain' }));
      const picture = new Image();
      await new Promise((done) => {
        picture.onload = picture.onerror = done;
        picture.src = api;
      });
      return await fetch(api).then(
        (r) => r.text(),
        () => null,
      );
    }, desk.server.address);
    expect(read).toBeNull();
    const [answer] = await Promise.all([
      page.waitForResponse((r) => r.request().isNavigationRequest()),
      page.evaluate((target) => {
        const form = document.createElement('form');
        Object.assign(form, { method: 'post', action: `${target}api/crossings`, enctype: 'multipart/form-data' });
        document.body.append(form);
        form.submit();
      }, desk.server.address),
    ]);
    expect([answer.status(), await answer.text()]).toEqual([403, expect.stringContaining('Pontrel answers its own page only.')]);
    // the script and the beacon would have begun a crossing each
    expect(await crossings()).toEqual(before);
  });

  it('cannot show it in a frame', async () => {
    const { page } = desk;
    await page.goto(`http://127.0.0.1:${port}/`);
    await page.evaluate(async (target) => {
      const frame = document.createElement('iframe');
      frame.src = target;
      await new Promise((done) => {
        frame.onload = done;
        document.body.append(frame);
      });
    }, desk.server.address);
    await expect.poll(() => page.frames()[1]?.url()).toMatch(/^chrome-error:/);
    expect(await page.frames()[1]!.getByText('Crossings').count()).toBe(0);
  });

  it('cannot reach it by a name that was made to lead here', async () => {
    const browser = await chromium.launch({
      executablePath: CHROMIUM,
      args: [...ARGS, '--host-resolver-rules=MAP rebound.example 127.0.0.1'],
    });
    try {
      const page: Page = await browser.newPage();
      const answer = await page.goto(`http://rebound.example:${new URL(desk.server.address).port}/api/crossings`);
      expect([answer!.status(), await answer!.text()]).toEqual([403, expect.stringContaining('Pontrel answers on this machine only.')]);
    } finally {
      await browser.close();
    }
  });

  it('has not kept its own page from working', async () => {
    desk.errors.length = 0;
    const { page } = desk;
    await page.goto(desk.server.address);
    await page.getByRole('link', { name: 'Street survey', exact: true }).click();
    // keys are for the crossing once it is there
    await page.getByRole('link', { name: /Place/ }).waitFor();
    await page.keyboard.press('2');
    await page.getByRole('application', { name: /Map/ }).waitFor();
    await page.waitForLoadState('networkidle');
    expect(desk.errors).toEqual([]);
  });
});

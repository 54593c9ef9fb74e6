import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY } from '../tests/server/client';
import { Desk } from './browser';

const AXE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');
const ZONES = new URL('../packages/demo/data/zones.geojson', import.meta.url);
const STAGES = ['gather', 'place', 'shape', 'deliver', 'prove'];
const BESIDE = ['records', 'span'];

/** A window of 1920 by 1080 pixels at 200 %. */
const ZOOMED = [960, 540] as const;

/** Pages with something on them that does not stand there by itself: the page, and what brings it up. */
const BROUGHT_UP: Record<string, { place: string; by(page: Page): Promise<unknown> }> = {
  'gather as a list': { place: 'gather', by: (page) => page.getByRole('radio', { name: 'As a list' }).check() },
  'gather with a panel folded': { place: 'gather', by: (page) => page.getByRole('button', { name: 'Fold Sources away' }).click() },
  'shape of several layers': { place: 'shape', by: (page) => page.getByRole('button', { name: 'points', exact: true }).click() },
  'deliver with its help': { place: 'deliver', by: (page) => page.keyboard.press('?') },
  'gather with the list of changes': {
    place: 'gather',
    async by(page) {
      await page.getByRole('checkbox', { name: 'Take BOLLARD', exact: true }).click();
      await page.getByRole('button', { name: 'Changes of rules' }).click();
    },
  },
  'gather with two revisions to compare': {
    place: 'gather',
    by: (page) => page.getByRole('button', { name: 'Compare quay-design.dxf with another revision' }).click(),
  },
  'place with the legend': {
    place: 'place',
    async by(page) {
      await page.getByRole('application', { name: /Map/ }).waitFor();
      await page.keyboard.press('k');
      await page.getByRole('region', { name: 'Legend' }).waitFor();
    },
  },
  'shape with what a filter may say next': {
    place: 'shape',
    async by(page) {
      await page.getByRole('textbox', { name: /^Only records of/ }).fill('han');
      await page.getByRole('listbox', { name: 'Completions' }).getByRole('option').first().waitFor();
    },
  },
  'shape with what can be worked out': {
    place: 'shape',
    async by(page) {
      await page.getByRole('button', { name: 'Work out', exact: true }).click();
      await page.getByRole('dialog', { name: 'Work out of layers' }).getByText('Lines and labels').waitFor();
    },
  },
  'shape with faults and a long profile': {
    place: 'shape',
    async by(page) {
      await page.getByTitle(/^Sewer-pipes\. Ctrl/).click();
      await page.getByRole('button', { name: 'Next', exact: true }).click();
      await page.getByRole('img', { name: /^Long profile/ }).waitFor();
    },
  },
  'deliver with its layers': { place: 'deliver', by: (page) => page.getByRole('button', { name: 'choose', exact: true }).click() },
  'records with statistics': {
    place: 'records',
    async by(page) {
      await page.getByRole('button', { name: 'More about the column layer' }).click();
      await page.getByRole('menuitem', { name: 'Statistics' }).click();
      await page.getByText(/with a value/).waitFor();
    },
  },
  'records with the menu of a column': {
    place: 'records',
    by: (page) => page.getByRole('button', { name: 'More about the column layer' }).click(),
  },
};
const ALL = ['home', ...STAGES, ...BESIDE, ...Object.keys(BROUGHT_UP)];

interface Violation {
  id: string;
  help: string;
  nodes: { target: string[]; failureSummary: string }[];
}

describe('every page', () => {
  let desk: Desk;
  let id: string;
  beforeAll(async () => {
    desk = await Desk.open();
    const state = await desk.server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 });
    id = state.id;
    // a second source, which the first can be compared with
    await desk.server.upload(`api/crossings/${id}/sources`, ['zones.geojson', readFileSync(ZONES)]);
    await desk.server.until(id, (s) => s.sources.length === 2);
    // what is worked out of it, with its faults
    await desk.server.call('POST', `api/crossings/${id}/derived`, {
      operation: 'network',
      name: 'Sewer',
      roles: {
        pipes: [{ source: 'quay-design.dxf', layer: 'SEWER' }],
        structures: [{ source: 'quay-design.dxf', layer: 'MANHOLE' }],
      },
      settings: {},
    });
    await desk.server.until(id, (s) => s.sources.length === 3);
    await desk.server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    await desk.server.until(id, (s) => s.runs.length === 1);
  });
  afterAll(() => desk.close());

  const open = async (name: string, night: boolean): Promise<void> => {
    const { page } = desk;
    const place = BROUGHT_UP[name]?.place ?? name;
    // what a person likes is kept by the browser, and each page begins with what is usual
    await page
      .evaluate(() => Object.keys(localStorage).forEach((k) => k.startsWith('pontrel.') && localStorage.removeItem(k)))
      .catch(() => null);
    await page.goto(place === 'home' ? desk.server.address : `${desk.server.address}crossings/${id}/${place}`);
    await page.getByRole('button', { name: 'Keys' }).waitFor();
    const wanted = night ? 'Night colours' : 'Day colours';
    if (await page.getByRole('button', { name: wanted }).isVisible()) await page.getByRole('button', { name: wanted }).click();
    // with a record picked, so that what can be done with it is there
    if (place === 'records')
      await page
        .getByRole('checkbox', { name: /^Choose / })
        .first()
        .check();
    await BROUGHT_UP[name]?.by(page);
    await page.waitForTimeout(500);
  };

  it.each(
    ALL.flatMap((place) => [
      [place, 'day'],
      [place, 'night'],
    ]),
  )('%s by %s meets WCAG 2.2 AA as far as axe-core can tell', async (place, time) => {
    await open(place!, time === 'night');
    await desk.page.evaluate(AXE);
    const violations = (await desk.page.evaluate(
      async () =>
        (
          await (window as unknown as { axe: { run(options: unknown): Promise<{ violations: unknown[] }> } }).axe.run({
            runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'],
          })
        ).violations,
    )) as Violation[];
    expect(
      violations.map(
        (v) =>
          `${v.id}: ${v.help}: ${v.nodes
            .slice(0, 4)
            .map((n) => `${n.target.join(' ')} (${n.failureSummary.split('\n')[1]?.trim()})`)
            .join('; ')}`,
      ),
    ).toEqual([]);
  });

  it.each(
    ALL.flatMap((stage) => [
      [stage, 1280, 800],
      [stage, 1024, 700],
      ...(stage in BROUGHT_UP
        ? []
        : ([
            [stage, 1920, 1080],
            [stage, ...ZOOMED],
          ] as const)),
    ]),
  )('%s fits %d x %d: nothing that can be used is cut off', async (stage, width, height) => {
    await desk.page.setViewportSize({ width: Number(width), height: Number(height) });
    await open(String(stage), false);
    const { wide, high, cut } = await desk.page.evaluate(() => ({
      wide: document.documentElement.scrollWidth,
      high: document.documentElement.scrollHeight,
      cut: [...document.querySelectorAll('a, button, input, select, [role=separator], aside')].flatMap((element) => {
        const { left, right, top, width } = element.getBoundingClientRect();
        if (width === 0) return [];
        // what a pane lets scroll can be reached; what it hides cannot
        for (let a = element.parentElement; a; a = a.parentElement) {
          const { overflowX, textOverflow } = getComputedStyle(a);
          if (overflowX === 'auto' || overflowX === 'scroll') return [];
          const box = a.getBoundingClientRect();
          const hides = overflowX === 'hidden' && textOverflow !== 'ellipsis' && box.width > 1;
          if (hides && (right > box.right + 1.5 || left < box.left - 1.5))
            return [
              `${element.tagName} ${element.getAttribute('aria-label') ?? element.textContent?.slice(0, 30)} by ${Math.round(right - box.right)}`,
            ];
        }
        return right > innerWidth + 1 || top > innerHeight
          ? [`${element.tagName} ${element.getAttribute('aria-label') ?? element.textContent?.slice(0, 30)} beyond the window`]
          : [];
      }),
    }));
    expect([wide, high, cut]).toEqual([width, height, []]);
  });
});

import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { SURVEY, temporaryFolder, TestServer } from './client';

const root = fileURLToPath(new URL('../..', import.meta.url));

/** A program that puts the clock on by so many years. */
const jump = (years: number): string =>
  `const Own = Date; const by = ${years * 365 * 24 * 3600 * 1000}; globalThis.Date = class extends Own { constructor(...a) { if (a.length === 0) super(Own.now() + by); else super(...a); } static now() { return Own.now() + by; } };`;

/** Starts a server that is expected not to stay. */
function attempt(data: string, env: Record<string, string> = {}): { status: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['dist/server.mjs', '--port', '0', '--data', data], {
    cwd: root,
    encoding: 'utf8',
    timeout: 60_000,
    env: { ...process.env, ...env },
  });
  return { status, out: stdout, err: stderr };
}

describe('what lies in the data folder', () => {
  let folder: string, data: string, remove: () => void;
  let server: TestServer | null = null;
  beforeEach(() => {
    ({ folder, remove } = temporaryFolder());
    data = path.join(folder, 'data');
  });
  afterEach(async () => {
    await server?.stop();
    remove();
  });
  const start = async (): Promise<TestServer> => (server = await TestServer.start(data));
  const catalog = (): string => path.join(data, 'catalog.sqlite');

  /** A crossing with a source and rules, and the server that made it killed. */
  async function killedWithOne(): Promise<string> {
    const own = await start();
    const { id } = await own.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    await own.stop('SIGKILL');
    return id;
  }

  it.each([
    ['is missing', () => ['', '-wal', '-shm'].forEach((end) => rmSync(catalog() + end, { force: true }))],
    ['lost its -wal', () => ['-wal', '-shm'].forEach((end) => rmSync(catalog() + end, { force: true }))],
    ['is empty', () => (['-wal', '-shm'].forEach((end) => rmSync(catalog() + end, { force: true })), writeFileSync(catalog(), ''))],
  ])('is found again by its folders when the catalog %s, with its rules, and can be run', async (_what, harm) => {
    const id = await killedWithOne();
    harm();
    const again = await start();
    const state = await again.state(id);
    expect([state.sources.map((s) => s.name), state.recipe.deliverables.map((d) => d.name)]).toEqual([
      ['street-survey.dxf'],
      ['Council upload'],
    ]);
    expect(state.recipe.sources['street-survey.dxf']!.placement).toMatchObject({ crs: 'EPSG:2126' });
    await again.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    const run = await again.until(id, (s) => s.runs.length > 0);
    expect(run.runs[0]!.status).toBe('match');
  });

  it('is found again as far as its folders are sound, and the rest is set aside', async () => {
    const id = await killedWithOne();
    const odd = path.join(data, 'crossings', 'abcdefghijkl');
    mkdirSync(odd, { recursive: true });
    writeFileSync(path.join(odd, 'crossing.json'), '{"id":"abcdefghijkl","name":"Odd","recipe":{"version":99},"revision":"many"}');
    writeFileSync(path.join(odd, 'notes.txt'), 'kept');
    ['', '-wal', '-shm'].forEach((end) => rmSync(catalog() + end, { force: true }));
    const again = await start();
    expect((await again.call<{ id: string }[]>('GET', 'api/crossings')).body.map((c) => c.id)).toEqual([id]);
    expect(existsSync(path.join(data, 'set-aside', 'abcdefghijkl', 'notes.txt'))).toBe(true);
  });

  it('shows a crossing whose rules cannot be read as damaged, and all others as ever; it can be deleted', async () => {
    const id = await killedWithOne();
    const db = new Database(catalog());
    const add = (name: string, recipe: string): unknown =>
      db
        .prepare(
          "INSERT INTO crossings (id, name, recipe, created, opened) VALUES (?, ?, ?, '2026-01-01T00:00:00Z', '2026-01-01T00:00:00Z')",
        )
        .run(name, name, recipe);
    add('newernewer99', '{"version":99}');
    add('brokenbroken', '{"version":2,"frame":');
    db.close();
    const again = await start();
    const rows = (await again.call<{ id: string; damaged: string | null }[]>('GET', 'api/crossings')).body;
    expect(Object.fromEntries(rows.map((r) => [r.id, r.damaged]))).toEqual({
      [id]: null,
      newernewer99: expect.stringMatching(/made by a newer Pontrel/),
      brokenbroken: expect.stringMatching(/cannot be read any more.*backups/),
    });
    expect((await again.call('GET', 'api/crossings/brokenbroken')).status).toBe(409);
    expect((await again.call('DELETE', 'api/crossings/brokenbroken')).status).toBe(200);
    expect((await again.call<unknown[]>('GET', 'api/crossings')).body.length).toBe(2);
  });

  it('is read again from its folders where a source or a run of the catalog is damaged, and a number that is none is told', async () => {
    const own = await start();
    const { id } = await own.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    for (let runs = 1; runs <= 2; runs++) {
      await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
      await own.until(id, (s) => s.jobs.length === 0 && s.runs.length > 0);
    }
    const before = await own.state(id);
    await own.stop();
    const db = new Database(catalog());
    db.exec("UPDATE sources SET facts = '{\"crs\":'; UPDATE runs SET files = 'no list' WHERE rowid = 1");
    db.exec("UPDATE runs SET proof = json_set(proof, '$.maxDeviation_m', NULL) WHERE rowid = 2");
    db.close();
    const again = await start();
    const after = await again.state(id);
    expect([after.sources, after.recipe]).toEqual([before.sources, before.recipe]);
    expect(after.runs.map((r) => [r.id, r.status])).toEqual([[before.runs[0]!.id, 'failed']]);
    const runs = (await again.call<{ status: string }[]>('GET', `api/crossings/${id}/runs`)).body;
    expect(runs.map((r) => r.status)).toEqual(['failed', 'match']);
    expect(existsSync(path.join(data, 'set-aside'))).toBe(false);
  });

  it('is the same after the clock went back ten years, or on as many', async () => {
    const own = await start();
    const { id } = await own.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    const before = await own.until(id, (s) => s.jobs.length === 0 && s.runs.length > 0);
    await own.stop();
    const known = [before.runs[0]!.id];
    for (const years of [-10, 10]) {
      const later = (server = await TestServer.start(data, {
        env: { NODE_OPTIONS: `--import data:text/javascript,${encodeURIComponent(jump(years))}` },
      }));
      const after = await later.state(id);
      expect([after.name, after.recipe, after.sources]).toEqual([before.name, before.recipe, before.sources]);
      await later.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
      const run = (await later.until(id, (s) => s.jobs.length === 0 && s.runs.some((r) => !known.includes(r.id)))).runs[0]!;
      // the last one is the one that was made last, whatever its clock said
      expect([run.status, run.current]).toEqual(['match', true]);
      known.push(run.id);
      await later.stop();
    }
    const again = await start();
    const runs = (await again.call<{ id: string }[]>('GET', `api/crossings/${id}/runs`)).body.map((r) => r.id);
    expect(runs).toEqual([...known].reverse());
  });

  it('is set aside and not deleted where nothing tells of it', async () => {
    await killedWithOne();
    const stranger = path.join(data, 'crossings', 'abcdefghijkl', 'sources', 'mnopqrstuvwx');
    mkdirSync(stranger, { recursive: true });
    writeFileSync(path.join(stranger, 'source.dxf'), 'half a year of work');
    const again = await start();
    expect(again.said.join(' ')).toMatch(/1 folders of which nothing tells any more were put into/);
    expect(existsSync(path.join(data, 'set-aside', 'abcdefghijkl', 'sources', 'mnopqrstuvwx', 'source.dxf'))).toBe(true);
  });

  it('has a copy of the catalog of today', async () => {
    await killedWithOne();
    await start();
    const copies = readdirSync(path.join(data, 'backups'));
    expect(copies).toEqual([expect.stringMatching(/^catalog-\d{4}-\d\d-\d\d\.sqlite$/)]);
    const copy = new Database(path.join(data, 'backups', copies[0]!), { readonly: true });
    expect(copy.prepare('SELECT count(*) FROM sources').pluck().get()).toBe(1);
    copy.close();
  });

  it('is not touched by a second server, which says where the first one is', async () => {
    const first = await start();
    const second = attempt(data);
    expect([second.status, second.err]).toEqual([0, '']);
    expect(second.out).toContain(`Pontrel is at ${first.address} already`);
    await first.stop();
    const third = await start();
    expect((await third.call('GET', 'api/crossings')).status).toBe(200);
  });

  it('is refused in one sentence where it cannot be used', async () => {
    await killedWithOne();
    const keep = path.join(folder, 'keep.sqlite');
    ['-wal', '-shm'].forEach((end) => rmSync(catalog() + end, { force: true }));
    renameSync(catalog(), keep);
    writeFileSync(catalog(), 'this is no database, and has never been one'.repeat(100));
    const damaged = attempt(data);
    expect([damaged.status, damaged.err.trim().split('\n').length]).toEqual([1, 1]);
    expect(damaged.err).toMatch(/catalog\.sqlite is damaged .*copies in the folder backups/);
    rmSync(catalog());
    renameSync(keep, catalog());
    const db = new Database(catalog());
    db.pragma('user_version = 99');
    db.close();
    const newer = attempt(data);
    expect([newer.status, newer.err]).toEqual([1, expect.stringMatching(/made by a newer Pontrel/)]);
    const setting = attempt(data, { PONTREL_MAX_UPLOAD_MB: 'abc' });
    expect([setting.status, setting.err]).toEqual([1, expect.stringMatching(/PONTREL_MAX_UPLOAD_MB wants a number of megabytes/)]);
    writeFileSync(path.join(folder, 'file'), '');
    const noFolder = attempt(path.join(folder, 'file'));
    expect([noFolder.status, noFolder.err]).toEqual([1, expect.stringMatching(/cannot be written to/)]);
  });
});

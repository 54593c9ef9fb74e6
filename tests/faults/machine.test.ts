import { spawnSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { SURVEY, temporaryFolder, TestServer } from '../server/client';

const STEP = 100_000;
const mount = (...args: string[]): boolean => spawnSync('mount', args).status === 0;

/** Whether a small file system of its own can be had here: as root, on Linux. */
const canMount = ((): boolean => {
  const { folder, remove } = temporaryFolder();
  const can = mount('-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', folder);
  if (can) spawnSync('umount', [folder]);
  remove();
  return can;
})();

/** What a machine does to a server while it works. */
describe('a fault of the machine', () => {
  let data: string, remove: () => void;
  let server: TestServer | null = null;
  let mounted = false;
  beforeEach(() => {
    const made = temporaryFolder();
    data = path.join(made.folder, 'data');
    mkdirSync(data);
    remove = made.remove;
  });
  afterEach(async () => {
    await server?.stop();
    if (mounted) spawnSync('umount', [data]);
    mounted = false;
    remove();
  });

  const ended = async (own: TestServer, id: string, sources: number): Promise<void> => {
    for (let k = 0; k < 600; k++) {
      const { sources: now, jobs } = await own.state(id);
      if (now.length > sources || (jobs.length > 0 && jobs.every((j) => j.status === 'failed'))) return;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
    throw new Error('The job did not end.');
  };

  /** Names of what lies half made in the folder. */
  const partial = (): string[] =>
    readdirSync(data, { recursive: true })
      .map(String)
      .filter((f) => f.endsWith('.partial'));

  it.skipIf(!canMount)(
    'such as a disk that fills up is told in a sentence, takes nothing that was there, and is over when there is space again',
    async () => {
      mounted = mount('-t', 'tmpfs', '-o', 'size=60m', 'tmpfs', data);
      const own = (server = await TestServer.start(data));
      const { id } = await own.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
      const ballast = path.join(data, 'ballast');
      const told = new Set<string>();
      let [acknowledged, refusals] = [1, 0];
      for (let left = 0; left <= 20 * STEP; left += STEP) {
        rmSync(ballast, { force: true });
        const { bavail, bsize } = statfsSync(data);
        writeFileSync(ballast, new Uint8Array(Math.max(0, bavail * bsize - left)));
        const { status, body } = await own.upload(`api/crossings/${id}/sources`, [`${left}.dxf`, readFileSync(SURVEY)]);
        if (status === 200) await ended(own, id, acknowledged);
        else {
          refusals++;
          told.add(body.error!.message);
        }
        const state = await own.state(id);
        for (const job of state.jobs) {
          told.add(job.message!);
          await own.call('DELETE', `api/jobs/${job.id}`);
        }
        // what was acknowledged stays, whatever came after
        expect(state.sources.length).toBeGreaterThanOrEqual(acknowledged);
        acknowledged = state.sources.length;
        expect(partial()).toEqual([]);
      }
      expect(refusals).toBeGreaterThan(0);
      expect([...told].filter((t) => !/^The disk is full\. Free some space/.test(t))).toEqual([]);
      rmSync(ballast);
      const after = await own.upload(`api/crossings/${id}/sources`, ['after.dxf', readFileSync(SURVEY)]);
      expect([after.status, after.body.error]).toEqual([200, undefined]);
      await own.until(id, (s) => s.sources.some((x) => x.name === 'after.dxf'));
      const { recipe, revision, sources } = await own.state(id);
      const placement = recipe.sources[path.basename(SURVEY)]!;
      await own.call('PUT', `api/crossings/${id}/recipe`, {
        recipe: { ...recipe, sources: Object.fromEntries(sources.map((s) => [s.name, placement])) },
        revision,
      });
      const run = await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
      expect([run.status, run.body.error]).toEqual([200, undefined]);
      expect((await own.until(id, (s) => s.runs.length > 0)).runs[0]!.status).toBe('match');
      await own.stop();
      const again = (server = await TestServer.start(data));
      expect((await again.state(id)).sources.length).toBe(acknowledged + 1);
    },
  );

  it('such as a catalog that another program holds is told in a sentence, and over when it is let go', async () => {
    const own = (server = await TestServer.start(data));
    const { id } = await own.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    const other = new Database(path.join(data, 'catalog.sqlite'));
    other.exec('BEGIN IMMEDIATE');
    const { status, body } = await own.call('PATCH', `api/crossings/${id}`, { name: 'Another name' });
    expect([status, body.error!.message]).toEqual([
      507,
      expect.stringMatching(/^The catalog in the data folder is held by another program/),
    ]);
    const run = await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    expect(run.status).toBeLessThan(600);
    await new Promise((resolve) => setTimeout(resolve, 6000));
    other.exec('ROLLBACK');
    other.close();
    await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    const state = await own.until(id, (s) => s.runs.length > 0 && s.jobs.every((j) => j.status === 'failed'));
    expect(state.runs[0]!.status).toBe('match');
    expect(partial()).toEqual([]);
    expect(own.child.exitCode).toBeNull();
  });
});

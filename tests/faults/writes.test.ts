import { readdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { feature, featuresOf, POINT } from '../odd/files';
import { SURVEY, temporaryFolder, TestServer } from '../server/client';

const PRELOAD = fileURLToPath(new URL('./failing-writes.mjs', import.meta.url));
const SMALL = featuresOf(feature(POINT), feature(POINT));

describe('a disk of which every so-manieth write fails', () => {
  let data: string, flag: string, remove: () => void;
  let server: TestServer | null = null;
  beforeEach(() => {
    const made = temporaryFolder();
    [data, flag, remove] = [path.join(made.folder, 'data'), path.join(made.folder, 'failing'), made.remove];
  });
  afterEach(async () => {
    await server?.stop();
    remove();
  });

  it.each([2, 5, 13, 34, 144])(
    'the %i th: what was acknowledged stays, all else is told in a sentence, and work goes on afterwards',
    async (every) => {
      const own = (server = await TestServer.start(data, { env: { NODE_OPTIONS: `--import ${PRELOAD}`, FAILING: flag } }));
      const { id } = await own.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
      let name = (await own.state(id)).name;
      let revision = (await own.state(id)).revision;
      const said: { status: number; message: string }[] = [];
      const tell = ({ status, body }: { status: number; body: { error?: { message: string } } }): boolean => {
        if (status >= 300) said.push({ status, message: body.error!.message });
        return status < 300;
      };
      writeFileSync(flag, String(every));
      for (let k = 0; k < 12; k++) {
        if (tell(await own.call('PATCH', `api/crossings/${id}`, { name: `Name ${k}` }))) name = `Name ${k}`;
        tell(await own.upload(`api/crossings/${id}/sources`, [`small-${k}.geojson`, SMALL]));
        tell(await own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' }));
        const { recipe, revision: now } = await own.state(id);
        if (tell(await own.call('PUT', `api/crossings/${id}/recipe`, { recipe: { ...recipe, chord_m: (k + 1) / 1000 }, revision: now })))
          revision = now + 1;
      }
      // whatever was begun ends
      await own.until(id, (s) => s.jobs.every((j) => j.status !== 'running' && j.status !== 'waiting'), 60_000);
      const state = await own.state(id);
      said.push(...state.jobs.map((j) => ({ status: 507, message: j.message! })));
      rmSync(flag);
      expect(said.filter((s) => s.status !== 409 && (s.status !== 507 || !/^The disk/.test(s.message)))).toEqual([]);
      expect(own.child.exitCode).toBeNull();
      const sources = state.sources.map((s) => s.id);
      const runs = (await own.call<{ id: string }[]>('GET', `api/crossings/${id}/runs`)).body.map((r) => r.id);
      await own.stop('SIGKILL');

      const again = (server = await TestServer.start(data));
      const after = await again.state(id);
      // a change of which the answer failed may have been made
      expect([after.name.startsWith('Name') || after.name === name, after.revision >= revision]).toEqual([true, true]);
      expect(sources.filter((s) => !after.sources.some((x) => x.id === s))).toEqual([]);
      const kept = (await again.call<{ id: string }[]>('GET', `api/crossings/${id}/runs`)).body.map((r) => r.id);
      expect(runs.filter((r) => !kept.includes(r))).toEqual([]);
      for (const run of kept) expect((await again.bytes(`api/runs/${run}/zip`)).status).toBe(200);
      const all = readdirSync(path.join(data, 'crossings'), { recursive: true }).map(String);
      expect(all.filter((f) => f.endsWith('.partial'))).toEqual([]);
      const catalog = new Database(path.join(data, 'catalog.sqlite'), { readonly: true });
      expect(catalog.pragma('integrity_check')).toEqual([{ integrity_check: 'ok' }]);
      catalog.close();
      await again.upload(`api/crossings/${id}/sources`, ['after.geojson', SMALL]);
      await again.until(id, (s) => s.sources.some((x) => x.name === 'after.geojson'));
      await again.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
      expect((await again.until(id, (s) => s.runs.some((r) => !kept.includes(r.id)), 20_000)).runs[0]!.status).toBe('match');
    },
  );
});

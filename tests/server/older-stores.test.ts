import { existsSync } from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { afterAll, expect, it } from 'vitest';
import { SURVEY, temporaryFolder, TestServer } from './client';

const { folder, remove } = temporaryFolder();
afterAll(remove);

it('a store of an earlier layout is made anew from the file that was kept, under the same rules', async () => {
  const data = path.join(folder, 'data');
  const first = await TestServer.start(data);
  const { id, sources } = await first.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
  await first.stop();
  const store = path.join(data, 'crossings', id, 'sources', sources[0]!.id, 'features.sqlite');
  const db = new Database(store);
  db.exec('DROP TABLE batches; DROP TABLE declared');
  db.close();
  const catalog = new Database(path.join(data, 'catalog.sqlite'));
  catalog.exec('UPDATE sources SET layout = 0');
  catalog.close();
  const second = await TestServer.start(data);
  const state = await second.until(id, (s) => s.sources[0]!.id !== sources[0]!.id && s.jobs.length === 0);
  expect(state.sources[0]!.name).toBe(sources[0]!.name);
  expect(existsSync(store)).toBe(false);
  await second.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
  const { runs } = await second.until(id, (s) => s.runs.length > 0);
  expect(runs[0]).toMatchObject({ status: 'match', current: true });
  await second.stop();
});

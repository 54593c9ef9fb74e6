import { readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { CrossingRow, CrossingState, RecentRun } from '@pontrel/contract/crossing';
import { feature, featuresOf, POINT } from '../odd/files';
import { SURVEY, temporaryFolder, TestServer } from './client';

describe('a crossing that is saved as one file', () => {
  const { folder, remove } = temporaryFolder();
  let here: TestServer, there: TestServer;
  let before: CrossingState;
  let archive: Uint8Array;
  beforeAll(async () => {
    [here, there] = await Promise.all([TestServer.start(path.join(folder, 'here')), TestServer.start(path.join(folder, 'there'))]);
    const { id } = await here.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    await here.upload(`api/crossings/${id}/sources`, ['points.geojson', featuresOf(feature(POINT))]);
    await here.until(id, (s) => s.sources.length === 2);
    for (let runs = 1; runs <= 2; runs++) {
      await here.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
      await here.until(id, (s) => s.jobs.length === 0);
    }
    const all = (await here.call<{ id: string }[]>('GET', `api/crossings/${id}/runs`)).body;
    expect(all).toHaveLength(2);
    await here.call('PATCH', `api/runs/${all[1]!.id}`, { pinned: true });
    before = await here.state(id);
    archive = (await here.bytes(`api/crossings/${id}/saved`)).bytes;
  });
  afterAll(async () => {
    await Promise.all([here.stop(), there.stop()]);
    remove();
  });

  const runsOf = (own: TestServer, id: string) =>
    own
      .call<{ id: string; finished: string; pinned: boolean; current: boolean; status: string }[]>('GET', `api/crossings/${id}/runs`)
      .then((r) => r.body);

  it('is opened on another machine with its files, its rules and its runs, which are still those of its rules', async () => {
    const { status, body } = await there.upload('api/crossings', ['quay.crossing.zip', archive]);
    expect([status, body.error, (body as unknown as { log: unknown[] }).log]).toEqual([200, undefined, []]);
    const after = await there.until(body.id, (s) => s.sources.length === 2 && s.jobs.length === 0);
    expect([after.name, after.recipe]).toEqual([before.name, before.recipe]);
    expect(after.sources.map((s) => [s.name, s.format, s.bytes, s.layers.map((l) => l.profile)])).toEqual(
      before.sources.map((s) => [s.name, s.format, s.bytes, s.layers.map((l) => l.profile)]),
    );
    const [old, now] = [await runsOf(here, before.id), await runsOf(there, after.id)];
    const told = (runs: typeof old) => runs.map(({ finished, pinned, current, status: proof }) => ({ finished, pinned, current, proof }));
    expect(told(now)).toEqual(told(old));
    expect(now.map((r) => r.current)).toEqual([true, true]);
    const files = async (own: TestServer, run: string) => unzipSync((await own.bytes(`api/runs/${run}/zip`)).bytes);
    const [first, second] = [await files(here, old[1]!.id), await files(there, now[1]!.id)];
    for (const name of Object.keys(first)) if (name !== 'proof.html') expect([name, second[name]]).toEqual([name, first[name]]);
    // and can be run as it could where it came from
    await there.call('POST', `api/crossings/${after.id}/runs`, { deliverable: 'out' });
    expect((await there.until(after.id, (s) => s.jobs.length === 0 && s.runs[0]!.id !== now[0]!.id)).runs[0]!.status).toBe('match');
    expect((await there.call<{ deliverables: unknown[] }>('GET', `api/runs/${now[1]!.id}/recipe`)).body.deliverables).toEqual(
      before.recipe.deliverables,
    );
  });

  it('is copied in its place with its files, its rules and its runs, and Home lists the runs of both', async () => {
    const { status, body } = await here.call<{ id: string }>('POST', `api/crossings/${before.id}/copy`);
    expect(status).toBe(200);
    const copy = await here.until(body.id, (s) => s.sources.length === 2 && s.jobs.length === 0);
    expect([copy.name, copy.recipe]).toEqual([`${before.name}, copy`, before.recipe]);
    const runs = (await here.call<RecentRun[]>('GET', 'api/runs')).body;
    const of = (id: string): unknown[] =>
      runs.filter((r) => r.crossing === id).map(({ finished, status: proof, records }) => ({ finished, proof, records }));
    expect(of(copy.id)).toEqual(of(before.id));
    expect(of(copy.id)).toHaveLength(2);
    const rows = (await here.call<CrossingRow[]>('GET', 'api/crossings')).body;
    const [one, other] = [before.id, copy.id].map((id) => rows.find((r) => r.id === id)!);
    expect(other!.account).toEqual(one!.account);
    expect(one!.account!.read).toBe(one!.account!.crossed + one!.account!.byYou + one!.account!.notCarried + one!.account!.missing);
    // what is changed in one is not changed in the other
    await here.call('DELETE', `api/crossings/${copy.id}`);
    expect((await here.state(before.id)).sources).toHaveLength(2);
    expect((await here.call<RecentRun[]>('GET', 'api/runs')).body.map((r) => r.crossing)).not.toContain(copy.id);
    expect((await here.call('POST', 'api/crossings/nothing/copy')).status).toBe(404);
  });

  /** The archive with something in it changed. */
  const changed = (change: (files: Record<string, Uint8Array>, contents: Record<string, any>) => void): Uint8Array => {
    const files = unzipSync(archive);
    const contents = JSON.parse(strFromU8(files['crossing.json']!)) as Record<string, any>;
    change(files, contents);
    return zipSync({ ...files, 'crossing.json': strToU8(JSON.stringify(contents)) });
  };

  it.each([
    ['whose file is not in it', changedBy((files, c) => void delete files[c.sources[0].files[0]]), /not in it/],
    ['of a newer program', changedBy((_files, c) => void (c.version = 2)), /newer Pontrel/],
    ['whose rules are damaged', changedBy((_files, c) => void (c.recipe.sources = 'none')), /rules cannot be read/],
    ['whose list is damaged', changedBy((_files, c) => void (c.runs[0].files = 'none')), /damaged at runs\.0\.files/],
    ['whose proof is no proof', changedBy((_files, c) => void (c.runs[0].proof.status = 'perfect')), /damaged at runs\.0\.proof/],
  ])('is refused where it is one %s, and nothing of it is kept', async (_what, make, told) => {
    const rows = (await there.call<unknown[]>('GET', 'api/crossings')).body.length;
    const { status, body } = await there.upload('api/crossings', ['quay.crossing.zip', make()]);
    expect([status, body.error!.message]).toEqual([400, expect.stringMatching(told)]);
    expect((await there.call<unknown[]>('GET', 'api/crossings')).body).toHaveLength(rows);
  });
  function changedBy(change: Parameters<typeof changed>[0]): () => Uint8Array {
    return () => changed(change);
  }

  it('opens without the runs that are not sound: names that climb out, sizes that lie, stores that hold a view', async () => {
    const store = path.join(folder, 'store.sqlite');
    const { body } = await there.upload('api/crossings', [
      'quay.crossing.zip',
      changed((files, c) => {
        const { folder: own } = c.runs[0] as { folder: string };
        writeFileSync(store, files[`${own}/readback.sqlite`]!);
        const db = new Database(store);
        db.exec('CREATE VIEW endless AS WITH RECURSIVE c(n) AS (SELECT 1 UNION ALL SELECT n + 1 FROM c) SELECT n FROM c');
        db.close();
        files[`${own}/readback.sqlite`] = readFileSync(store);
        c.runs[1].files[0].name = '../../../out.shp';
        c.runs.push({ ...c.runs[0], files: [{ ...c.runs[0].files[0], bytes: 1 }] });
      }),
    ]);
    expect(body.error).toBeUndefined();
    const { log } = body as unknown as { log: { message: string }[] };
    expect(log.map((l) => l.message)).toEqual([
      expect.stringMatching(/no store of this version/),
      expect.stringMatching(/no plain name/),
      expect.stringMatching(/of another size/),
    ]);
    const state = await there.until(body.id, (s) => s.sources.length === 2);
    expect(state.runs).toEqual([]);
  });
});

import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import Database from 'better-sqlite3';
import { unzipSync } from 'fflate';
import { afterAll, describe, expect, it } from 'vitest';
import type { CrossingState } from '@pontrel/contract/crossing';
import { EMPTY_RECIPE } from '@pontrel/core/crossing/recipe';
import { feature, featuresOf, POINT } from '../odd/files';
import { SURVEY, temporaryFolder, TestServer } from '../server/client';
import { randomOf } from './random';

/** Kills in a run; the nightly run has a hundred. */
const KILLS = Number(process.env.KILLS ?? 12);
/** A server lives so long at most before it is killed, ms, or so many times as long as a drawing takes to come in and to be run. */
const LIFE_MS = 4500,
  LIFE_TURNS = 3;
/** Every fifth is killed while it starts, so many ms after its beginning at the most. */
const START_MS = 500;

/** What was acknowledged of a crossing. */
interface Known {
  /** Names that it may have: the last one acknowledged, and those asked for since. */
  names: string[];
  /** Sources that were seen. */
  sources: Set<string>;
  runs: Set<string>;
  chord_m: number[];
  /** Asked to be deleted, or known to be gone. */
  gone: 'no' | 'asked' | 'yes';
}

const SMALL = featuresOf(feature(POINT), feature(POINT));

describe('a server that is killed at any moment', () => {
  const { folder, remove } = temporaryFolder();
  const data = path.join(folder, 'data');
  const random = randomOf(Number(process.env.FC_SEED ?? 1987));
  const known = new Map<string, Known>();
  const checked = { sources: 0, runs: 0 };
  let server: TestServer | null = null;
  afterAll(async () => {
    await server?.stop();
    remove();
  });
  const living = (): [string, Known][] => [...known].filter(([, k]) => k.gone === 'no');
  // one person at a time changes a crossing, so that it is known which change was the last
  const busy = new Set<string>();
  const withOne = async (act: (id: string, k: Known) => Promise<unknown>): Promise<void> => {
    const free = living().filter(([id]) => !busy.has(id));
    const [id, k] = free[Math.floor(random() * free.length)] ?? [];
    if (!id || !k) return;
    busy.add(id);
    await act(id, k).finally(() => busy.delete(id));
  };

  /** What people do, over and over, until the connection breaks. */
  const acts: Record<string, (own: TestServer) => Promise<unknown>> = {
    async upload(own) {
      if (living().length > 5) return;
      const { status, body } = await own.upload('api/crossings', [`survey.dxf`, readFileSync(SURVEY)]);
      if (status === 200)
        known.set(body.id, { names: ['Survey'], sources: new Set(), runs: new Set(), chord_m: [EMPTY_RECIPE.chord_m], gone: 'no' });
    },
    add: (own) => withOne((id) => own.upload(`api/crossings/${id}/sources`, ['small.geojson', SMALL])),
    async look(own) {
      for (const [id, k] of living()) note(await own.state(id), k);
    },
    rename: (own) =>
      withOne(async (id, k) => {
        const name = `Name ${Math.floor(random() * 1e6)}`;
        k.names.push(name);
        if ((await own.call('PATCH', `api/crossings/${id}`, { name })).status < 300) k.names = [name];
      }),
    edit: (own) =>
      withOne(async (id, k) => {
        const { recipe, revision, sources } = await own.state(id);
        const chord_m = Math.ceil(random() * 1000) / 10_000;
        k.chord_m.push(chord_m);
        const drawing = sources.find((s) => s.format === 'dxf')?.name;
        const { status } = await own.call('PUT', `api/crossings/${id}/recipe`, {
          recipe: {
            ...recipe,
            frame: { crs: 'EPSG:2126' },
            chord_m,
            ...(drawing ? { sources: { ...recipe.sources, [drawing]: { placement: { crs: 'EPSG:2126', unit_m: 1 }, layers: {} } } } : {}),
            deliverables: [{ id: 'out', name: 'Out', format: 'geojson', crs: 'EPSG:4326', grouping: 'layer' }],
          },
          revision,
        });
        if (status === 200) k.chord_m = [chord_m];
      }),
    run: (own) => withOne((id) => own.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' })),
    async delete(own) {
      if (living().length < 5) return;
      await withOne(async (id, k) => {
        k.gone = 'asked';
        if ((await own.call('DELETE', `api/crossings/${id}`)).status < 300) k.gone = 'yes';
        // some stay in the bin
        if (random() < 0.7) await own.call('DELETE', `api/bin/${id}`);
      });
    },
  };

  function note(state: CrossingState, k: Known): void {
    for (const s of state.sources) k.sources.add(s.id);
    for (const r of state.runs) k.runs.add(r.id);
  }

  /** Everything that was acknowledged is there, nothing half made is, and all databases are sound. */
  async function check(own: TestServer): Promise<void> {
    const rows = new Set((await own.call<{ id: string }[]>('GET', 'api/crossings')).body.map((r) => r.id));
    for (const [id, k] of known) {
      if (k.gone === 'yes') expect([id, rows.has(id)]).toEqual([id, false]);
      if (k.gone !== 'no') {
        if (!rows.has(id)) known.delete(id);
        else k.gone = 'no';
        continue;
      }
      const state = await own.state(id);
      expect(k.names).toContain(state.name);
      k.names = [state.name];
      // a crossing that nobody changed has the chord that all begin with
      expect(k.chord_m).toContain(state.recipe.chord_m);
      k.chord_m = [state.recipe.chord_m];
      const there = new Set(state.sources.map((s) => s.id));
      expect([...k.sources].filter((s) => !there.has(s))).toEqual([]);
      for (const source of state.sources) {
        const store = path.join(data, 'crossings', id, 'sources', source.id, 'features.sqlite');
        const db = new Database(store, { readonly: true });
        expect(db.pragma('quick_check')).toEqual([{ quick_check: 'ok' }]);
        db.close();
      }
      checked.sources += state.sources.length;
      checked.runs += state.runs.length;
      for (const run of state.runs) {
        const { status, bytes } = await own.bytes(`api/runs/${run.id}/zip`);
        expect(status).toBe(200);
        const files = unzipSync(bytes);
        for (const f of run.files) expect([f.name, files[f.name]?.length]).toEqual([f.name, f.bytes]);
      }
      note(state, k);
      // of each deliverable the last run is shown
      k.runs = new Set(state.runs.map((r) => r.id));
    }
    const all = existsSync(path.join(data, 'crossings')) ? readdirSync(path.join(data, 'crossings'), { recursive: true }).map(String) : [];
    expect(all.filter((f) => f.endsWith('.partial'))).toEqual([]);
    expect(existsSync(path.join(data, 'set-aside'))).toBe(false);
    const catalog = new Database(path.join(data, 'catalog.sqlite'), { readonly: true });
    expect([catalog.pragma('integrity_check'), catalog.pragma('foreign_key_check')]).toEqual([[{ integrity_check: 'ok' }], []]);
    catalog.close();
  }

  /** How long one drawing takes from the upload to its proof on this machine as it is now, ms. */
  async function oneTurn(): Promise<number> {
    const own = (server = await TestServer.start(data));
    const begun = performance.now();
    await acts.upload!(own);
    const [id] = [...known.keys()] as [string];
    await own.until(id, (s) => s.sources.length > 0);
    await acts.edit!(own);
    await acts.run!(own);
    await own.until(id, (s) => s.runs.length > 0);
    await own.stop('SIGKILL');
    return performance.now() - begun;
  }

  it(`keeps all that was acknowledged, ${KILLS} times over`, { timeout: KILLS * 60_000 }, async () => {
    const done: Record<string, number> = {};
    const life_ms = Math.max(LIFE_MS, LIFE_TURNS * (await oneTurn()));
    for (let n = 0; n < KILLS; n++) {
      if (n % 5 === 4) await TestServer.killedStarting(data, Math.floor(random() * START_MS));
      const own = (server = await TestServer.start(data));
      await check(own);
      let alive = true;
      // looking and running more often than coming and going
      const names = [...Object.keys(acts), 'look', 'look', 'edit', 'run', 'run', 'run'];
      const people = Array.from({ length: 3 }, async () => {
        while (alive) {
          const name = names[Math.floor(random() * names.length)]!;
          await acts[name]!(own).then(
            () => (done[name] = (done[name] ?? 0) + 1),
            () => {},
          );
          await new Promise((resolve) => setTimeout(resolve, random() * 120));
        }
      });
      await new Promise((resolve) => setTimeout(resolve, random() * life_ms));
      await own.stop('SIGKILL');
      alive = false;
      await Promise.all(people);
    }
    const own = (server = await TestServer.start(data));
    await check(own);
    console.log(`acknowledged before ${KILLS} kills: ${JSON.stringify(done)}; checked after them: ${JSON.stringify(checked)}`);
    expect(checked.sources).toBeGreaterThan(KILLS / 2);
    expect(checked.runs).toBeGreaterThan(0);
  });
});

import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { SURVEY, temporaryFolder, TestServer } from '../server/client';
import { shareOf } from '../share';
import { feature, featuresOf, POINT } from '../odd/files';
import { DRAWINGS } from './drawings';
import type { HostileFile } from './hostile';
import { RECORDS } from './records';
import { TABLES } from './tables';

/** How many times as long as alone a sound file takes while hostile ones are read, in nineteen cases of twenty and at most. */
const SOUND_TIMES = 15,
  SLOWEST_TIMES = 45;
/** After so long a hostile one is taken to have no end. */
const HOSTILE_MS = 120_000;
/** Hostile files at a time. */
const AT_ONCE = 3;

const SOUND = featuresOf(feature(POINT), feature(POINT), feature(POINT));

const files = shareOf(
  [...DRAWINGS, ...RECORDS, ...TABLES].filter((f) => f.args === undefined),
  2,
);
const groups = Array.from({ length: Math.ceil(files.length / AT_ONCE) }, (_, k) => files.slice(AT_ONCE * k, AT_ONCE * (k + 1)));

describe('a server that is given hostile files', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  let sound: string;
  const sounds: { ms: number; beside: string }[] = [];
  const told: string[] = [];
  /** How long a sound one takes with nothing beside it, ms: the longest of three. */
  let alone_ms = 0;
  let handed = 0;
  beforeAll(async () => {
    server = await TestServer.start(folder);
    const { body } = await server.upload('api/crossings', ['first.geojson', SOUND]);
    sound = body.id;
    await server.until(sound, (s) => s.sources.length === 1);
    for (let k = 0; k < 3; k++) await another('nothing');
    alone_ms = Math.max(...sounds.splice(0).map((x) => x.ms));
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  const hand = async (file: HostileFile): Promise<void> => {
    const { status, body } = await server.upload('api/crossings', ...(Object.entries(file.make()) as [string, Uint8Array][]));
    if (status !== 200) {
      told.push(body.error!.message);
      return;
    }
    if (body.jobs.length > 0) {
      const state = await server.until(
        body.id,
        (s) => s.jobs.every((j) => j.ended !== null) && (s.jobs.length > 0 || s.sources.length > 0),
        HOSTILE_MS,
      );
      told.push(...state.jobs.map((j) => j.message!));
    }
    await server.discard(body.id);
  };

  /** A sound file handed in meanwhile. */
  const another = async (beside: string): Promise<void> => {
    await new Promise((resolve) => setTimeout(resolve, 300));
    const began = Date.now();
    const name = `sound-${++handed}.geojson`;
    await server.upload(`api/crossings/${sound}/sources`, [name, SOUND]);
    await server.until(sound, (s) => s.sources.some((x) => x.name === name));
    sounds.push({ ms: Date.now() - began, beside });
  };

  it.each(groups.map((g, k) => [k + 1, g.map((f) => f.what).join('; '), g] as const))(
    'reads a sound one at once beside group %i: %s',
    async (_k, what, group) => {
      await Promise.all([...group.map(hand), another(what)]);
      expect(server.child.exitCode).toBeNull();
    },
  );

  it('had a sentence for each, lost no process, and nobody waited for long', async () => {
    const [slowest] = sounds.sort((a, b) => b.ms - a.ms);
    console.log(
      `of ${sounds.length} sound files one took ${slowest!.ms} ms, beside ${slowest!.beside}; half took less than ${sounds[sounds.length >> 1]!.ms} ms`,
    );
    expect(told.filter((t) => !/^[^]{10,1000}$/.test(t) || /should not have|nobody expected|Nothing was heard/.test(t))).toEqual([]);
    expect(sounds.filter((x) => x.ms > SOUND_TIMES * alone_ms).length).toBeLessThanOrEqual(sounds.length / 20);
    expect(slowest!.ms).toBeLessThan(SLOWEST_TIMES * alone_ms);
    const { id } = await server.placed(SURVEY, { crs: 'EPSG:2126', unit_m: 1 });
    await server.call('POST', `api/crossings/${id}/runs`, { deliverable: 'out' });
    expect((await server.until(id, (s) => s.runs.length > 0)).runs[0]!.status).toBe('match');
    expect((await server.state(sound)).sources.length).toBe(handed + 1);
  });
});

import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { QUAY, temporaryFolder } from '../server/client';
import type { HostileFile } from './hostile';
import { CommandProcess } from './command-process';

/**
 * What no file may take: so many times the work that the demo drawing takes on the same machine in the same run, the start of the program
 * counted in neither, and so much memory.
 */
const MOST_TIMES = 30,
  MOST_MB = 1024;
/** After so long it is taken to have no end, s: several times what the most work takes on a machine that is busy with other things. */
const NO_END_S = 120;

/** The work that the demo drawing takes in a process that has done nothing before, s. */
async function soundWork(folder: string): Promise<number> {
  const fresh = new CommandProcess();
  const { status, cpu_s } = await fresh.run(['convert', QUAY, path.join(folder, 'sound.gpkg'), '--json', '--from', 'EPSG:2193'], NO_END_S);
  fresh.end();
  expect(status).toBe(0);
  return cpu_s;
}

interface Row {
  read: number;
  crossed: number;
  left: { count: number }[];
}

/** The corpus, or what of it is asked for by HOSTILE=..., which prints what each file took. */
const wanted = process.env.HOSTILE;

/** Runs each file through the command line, one after the other: each ends in time and within memory, with a sentence or an account that closes. */
export function checkAll(title: string, files: readonly HostileFile[]): void {
  describe(title, () => {
    const { folder, remove } = temporaryFolder();
    const commands = new CommandProcess();
    let sound = 0;
    beforeAll(async () => {
      sound = await soundWork(folder);
    });
    afterAll(() => {
      commands.end();
      remove();
    });
    it.each(files.filter((f) => f.what.includes(wanted ?? '')).map((f) => [f.what, f] as const))('%s', async (what, file) => {
      const own = path.join(folder, 'own');
      const made = file.make();
      rmSync(own, { recursive: true, force: true });
      mkdirSync(own);
      for (const [name, content] of Object.entries(made)) writeFileSync(path.join(own, name), content);
      const input = path.join(own, Object.keys(made)[0]!);
      const from = what.startsWith('filter') ? 'EPSG:4326' : 'EPSG:2193';
      const words = ['convert', input, path.join(own, file.output ?? 'out.gpkg'), '--json', '--from', from, ...(file.args ?? [])];
      let ended = await commands.run(words, NO_END_S);
      // a machine that has become busy since the first measurement is not what is asked about: both are measured once more
      if (ended.fault === null && ended.cpu_s / sound >= MOST_TIMES) {
        sound = await soundWork(folder);
        ended = await commands.run(words, NO_END_S);
      }
      const { status, fault, out, err, cpu_s, peak_MB } = ended;
      rmSync(own, { recursive: true });
      if (wanted !== undefined)
        console.log(
          `${(cpu_s / sound).toFixed(1)} times (${cpu_s.toFixed(1)} s) ${peak_MB.toFixed(0)} MB ${status} ${fault ?? ''} ${what}: ${(out || err).slice(0, 900)}`,
        );
      expect([fault, err.slice(0, 300)]).toEqual([null, '']);
      const json = JSON.parse(out) as { error?: { code: string; message: string }; account: Row[] };
      if (json.error) {
        expect([status, json.error.code === 'failed']).toEqual([1, false]);
        expect(json.error.message).toMatch(/^[^]{10,800}$/);
      } else {
        expect(status).toBe(0);
        for (const { read, crossed, left } of json.account) expect(read).toBe(crossed + left.reduce((n, l) => n + l.count, 0));
      }
      expect(peak_MB).toBeLessThan(MOST_MB);
      expect(cpu_s / sound).toBeLessThan(MOST_TIMES);
    });
  });
}

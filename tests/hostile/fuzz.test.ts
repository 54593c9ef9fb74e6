import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { afterAll, describe, expect, it } from 'vitest';
import { randomOf } from '../faults/random';
import { temporaryFolder } from '../server/client';
import { CommandProcess } from './command-process';
import { soundFiles } from './harmed';
import { mutated } from './mutate';

/** Inputs of each kind; the nightly run has ten thousand. */
const INPUTS = Number(process.env.FUZZ ?? 60);
const SEED = Number(process.env.FC_SEED ?? 1987);
/** After so long a file is taken to have no end, s. */
const NO_END_S = 120,
  MOST_MB = 1024;
/** Whether the files stay, to look at those that fail. */
const KEPT = process.env.KEEP_FUZZ;
/** Files that are shown to the second reader at a time. */
const TOGETHER = 100;

const here = fileURLToPath(new URL('.', import.meta.url));

function secondReader(paths: readonly string[]): (number | null)[] {
  const { stdout, status, stderr } = spawnSync('/usr/bin/python3', [path.join(here, 'second_reader.py')], {
    input: JSON.stringify(paths),
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  if (status !== 0) throw new Error(stderr);
  return JSON.parse(stdout) as (number | null)[];
}

/** What the command line prints of a conversion. */
interface Printed {
  error?: { code: string; message: string };
  proof: { status: string; differences: { expected: boolean; message: string }[] };
  account: { layer: string; read: number; crossed: number; left: { count: number; reason: string }[] }[];
  findings: { code: string }[];
}

describe('files changed at random', () => {
  const { folder, remove } = temporaryFolder();
  const sound = soundFiles(path.join(folder, 'sound'));
  const commands = new CommandProcess();
  afterAll(() => {
    commands.end();
    if (KEPT) console.log(`the files are in ${folder}`);
    else remove();
  });

  it.each(sound.map((s) => [s.kind, s] as const))(
    '%s: end in a sentence or in an account that closes, and are counted as by a second reader',
    { timeout: INPUTS * 2000 },
    async (kind, { picture, files }) => {
      const random = randomOf(SEED + kind.length * 7919 + kind.charCodeAt(1));
      const names = Object.keys(files);
      const faults: string[] = [];
      const told = { problems: 0, crossed: 0, compared: 0, most_MB: 0 };
      let waiting: { n: number; input: string; read: number; folder: string; codes: string[] }[] = [];
      const compare = (): void => {
        const counts = secondReader(waiting.map((w) => w.input));
        waiting.forEach(({ n, read, folder: own, codes }, k) => {
          const count = counts[k];
          if (count !== null) {
            told.compared++;
            // that the two may see different numbers is told where a file contradicts itself
            if (count !== read && !codes.includes('shp-length'))
              faults.push(`${kind} ${n}: ${read} read, ${count} by the second reader (${codes.join(', ')})`);
          }
          if (!KEPT) rmSync(own, { recursive: true, force: true });
        });
        waiting = [];
      };
      for (let n = 0; n < INPUTS; n++) {
        const own = path.join(folder, `${kind.replace('.', '')}-${n}`);
        mkdirSync(own);
        // one of its files, the main one most often
        const victim = random() < 0.7 ? names[0]! : names[Math.floor(random() * names.length)]!;
        for (const name of names) writeFileSync(path.join(own, name), name === victim ? mutated(files[name]!, random) : files[name]!);
        const input = path.join(own, names[0]!);
        const { fault, out, err, peak_MB } = await commands.run(
          ['convert', input, path.join(own, picture ? 'out.tif' : 'out.geojson'), '--from', 'EPSG:4326', '--to', 'EPSG:4326', '--json'],
          NO_END_S,
        );
        told.most_MB = Math.max(told.most_MB, peak_MB);
        const say = (what: string): void => void faults.push(`${kind} ${n} (${victim}): ${what}`);
        const printed = fault ? null : (JSON.parse(out) as Printed);
        if (fault || err) say(`${fault} ${err.slice(0, 600)}`);
        if (!printed) continue;
        // what is neither a problem nor a word amiss is a fault of ours
        if (printed.error?.code === 'failed') say(printed.error.message);
        if (!printed.error) {
          told.crossed++;
          const { proof, account, findings } = printed;
          for (const row of account)
            if (row.read !== row.crossed + row.left.reduce((sum, l) => sum + l.count, 0)) say(`the account of ${row.layer} does not close`);
          const unannounced = proof.differences.filter((d) => !d.expected);
          if (proof.status !== 'match' || unannounced.length > 0) say(`${proof.status}: ${unannounced.map((d) => d.message).join(' ')}`);
          // the second reader counts records, and a picture has none
          if (!picture)
            waiting.push({ n, input, folder: own, read: account.reduce((sum, r) => sum + r.read, 0), codes: findings.map((f) => f.code) });
        } else {
          told.problems++;
          if (!/^[^]{10,1000}$/.test(printed.error.message)) say(`no sentence: ${printed.error.message}`);
        }
        if ((printed.error || picture) && !KEPT) rmSync(own, { recursive: true, force: true });
        if (waiting.length >= TOGETHER) compare();
      }
      compare();
      console.log(
        `${kind}: of ${INPUTS} ${told.problems} refused, ${told.crossed} crossed, ${told.compared} of these compared; at most ${told.most_MB.toFixed(0)} MB`,
      );
      expect(faults.slice(0, 12)).toEqual([]);
      expect(told.most_MB).toBeLessThan(MOST_MB);
      expect(told.problems).toBeGreaterThan(0);
    },
  );
});

import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { createSyncFn } from 'synckit';

/** Debian's own interpreter, which sees the packages that Debian installs. */
const PYTHON = '/usr/bin/python3';
const here = fileURLToPath(new URL('.', import.meta.url));

/** Runs a script of this folder: JSON in, JSON out. */
export function python<T>(script: string, input: unknown): T {
  const result = spawnSync(PYTHON, [`${here}${script}`], { input: JSON.stringify(input), encoding: 'utf8', maxBuffer: 1 << 30 });
  if (result.status !== 0) throw new Error(`${script}: ${result.stderr}`);
  return JSON.parse(result.stdout) as T;
}

const inThread = createSyncFn<(words: string[]) => Promise<{ status: number; out: string; err: string }>>(`${here}command-worker.mjs`);

/** Runs the built command line, in a thread that runs one command after the other: most of a short one is its start. */
export function pontrel(...words: string[]): { status: number; json: any; stderr: string } {
  const { status, out, err } = inThread([...words, '--json']);
  return { status, json: out ? JSON.parse(out) : null, stderr: err };
}

import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

/** Debian's own interpreter, which sees the packages that Debian installs. */
const PYTHON = '/usr/bin/python3';
const here = fileURLToPath(new URL('.', import.meta.url));

/** Runs a script of this folder: JSON in, JSON out. */
export function python<T>(script: string, input: unknown): T {
  const result = spawnSync(PYTHON, [`${here}${script}`], { input: JSON.stringify(input), encoding: 'utf8', maxBuffer: 1 << 30 });
  if (result.status !== 0) throw new Error(`${script}: ${result.stderr}`);
  return JSON.parse(result.stdout) as T;
}

/** Runs the built command line. */
export function pontrel(...args: string[]): { status: number; json: any; stderr: string } {
  const result = spawnSync(
    process.execPath,
    [fileURLToPath(new URL('../../packages/cli/bin/pontrel.mjs', import.meta.url)), ...args, '--json'],
    { encoding: 'utf8', maxBuffer: 1 << 30 },
  );
  return { status: result.status ?? -1, json: result.stdout ? JSON.parse(result.stdout) : null, stderr: result.stderr };
}

import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import path from 'node:path';

const CACHE = path.resolve(import.meta.dirname, '../../node_modules/.cache/open-data');

/** The files of a Debian package that carries open data, unpacked beside the installed packages and not installed itself. */
export function openData(name: string): string {
  const folder = path.join(CACHE, name);
  if (existsSync(folder)) return folder;
  const partial = `${folder}.partial-${process.pid}`;
  rmSync(partial, { recursive: true, force: true });
  mkdirSync(partial, { recursive: true });
  const run = (command: string, ...args: string[]): void => {
    const done = spawnSync(command, args, { cwd: partial, encoding: 'utf8' });
    if (done.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${done.stderr || String(done.error)}`);
  };
  run('apt-get', 'download', name);
  const archive = readdirSync(partial).find((f) => f.endsWith('.deb'))!;
  run('dpkg', '-x', archive, '.');
  rmSync(path.join(partial, archive));
  renameSync(partial, folder);
  return folder;
}

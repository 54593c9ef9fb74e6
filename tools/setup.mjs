// What has to be there before anything runs: packages from the lock file, the build, the demo data. Each is made only when it
// is missing or older than what it is made from.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
const at = (...parts) => path.join(root, ...parts);

/** Runs a command in the project, its output shown; ends the whole when it fails. */
export function run(command, args, options = {}) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (result.status !== 0) {
    console.error(`${command} ${args.join(' ')} did not succeed.`);
    process.exit(1);
  }
}

function upToDate(stampFile, wanted) {
  return existsSync(stampFile) && readFileSync(stampFile, 'utf8') === wanted;
}

/** Installs what the lock file says, when node_modules is not of that lock file. */
export function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    console.error(`Pontrel needs Node.js 20.19 or later; this is ${process.version}.`);
    process.exit(1);
  }
  const wanted = createHash('sha256')
    .update(readFileSync(at('package-lock.json')))
    .update(process.version)
    .digest('hex');
  const stamp = at('node_modules', '.pontrel-lock');
  if (upToDate(stamp, wanted)) return;
  console.log('Installing packages from the lock file; the first time this takes some minutes.');
  run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
  writeFileSync(stamp, wanted);
}

/** A digest of names, sizes and times of everything that the build is made from. */
function sourcesDigest() {
  const hash = createHash('sha256');
  const walk = (folder) => {
    for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      if (entry.name === 'node_modules' || entry.name === 'data') continue;
      const file = path.join(folder, entry.name);
      if (entry.isDirectory()) walk(file);
      else {
        const { size, mtimeMs } = statSync(file);
        hash.update(`${path.relative(root, file)} ${size} ${mtimeMs}\n`);
      }
    }
  };
  walk(at('packages'));
  hash.update(readFileSync(at('tools/build.mjs'))).update(readFileSync(at('package-lock.json')));
  return hash.digest('hex');
}

export function ensureBuild() {
  const stamp = at('dist', '.stamp');
  const wanted = sourcesDigest();
  if (upToDate(stamp, wanted)) return;
  console.log('Building.');
  run(process.execPath, ['tools/build.mjs']);
  writeFileSync(stamp, wanted);
}

/** Writes the demo files; the same seed always gives the same bytes, so they are made again whenever the generator changed. */
export function ensureDemoData() {
  const folder = at('packages/demo/data');
  const wanted = createHash('sha256')
    .update(readFileSync(at('dist/demo.mjs')))
    .digest('hex');
  const stamp = path.join(folder, '.stamp');
  if (upToDate(stamp, wanted)) return folder;
  mkdirSync(folder, { recursive: true });
  run(process.execPath, ['dist/demo.mjs', 'write', folder]);
  writeFileSync(stamp, wanted);
  return folder;
}

// npm run nightly: the checks by chance, far longer than npm test has them: 10,000 changed files of each kind, and 100 kills; and all of the
// hostile, harmed and odd files, of which npm test has a share. A seed of its own
// each time; it is printed, and FC_SEED repeats it.
import { spawnSync } from 'node:child_process';
import { randomInt } from 'node:crypto';
import path from 'node:path';
import { ensureBuild, ensureDemoData, ensurePackages, root } from './setup.mjs';

ensurePackages();
ensureBuild();
ensureDemoData();
const seed = process.env.FC_SEED ?? String(randomInt(1, 2 ** 31));
console.log(`FC_SEED=${seed}`);
const { status } = spawnSync(
  path.join(root, 'node_modules', '.bin', 'vitest'),
  ['run', '--project', 'reference', 'tests/hostile', 'tests/faults/kills', 'tests/odd'],
  { cwd: root, stdio: 'inherit', env: { FUZZ: '10000', KILLS: '100', ALL: 'yes', ...process.env, FC_SEED: seed } },
);
process.exit(status ?? 1);

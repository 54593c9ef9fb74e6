// npm run lint: the rules of the code, its layout, and the arrows between its folders.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { root } from './setup.mjs';

const CHECKS = [
  ['eslint', '.', '--max-warnings', '0'],
  ['prettier', '--check', '--log-level', 'warn', '**/*.{ts,tsx,mjs}'],
  ['depcruise', '--config', '.dependency-cruiser.mjs', '--output-type', 'err', 'packages'],
];

const failed = [
  ...CHECKS.map(([command, ...args]) => [path.join(root, 'node_modules', '.bin', command), ...args]),
  [process.execPath, 'tools/diagram.mjs', '--check'],
].filter(([command, ...args]) => spawnSync(command, args, { cwd: root, stdio: 'inherit' }).status !== 0);
process.exit(failed.length > 0 ? 1 : 0);

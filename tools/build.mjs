// Builds what runs: the server, its worker and the command line (esbuild) and the page (Vite), into dist/.
import { cpSync, existsSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import esbuild from 'esbuild';

const root = fileURLToPath(new URL('..', import.meta.url));
const ENTRIES = {
  cli: 'packages/cli/src/main.ts',
  command: 'packages/cli/src/run.ts',
  server: 'packages/server/src/main.ts',
  worker: 'packages/server/src/work/worker.ts',
  job: 'packages/server/src/work/job.ts',
  'image-thread': 'packages/host-node/src/image-thread.ts',
  demo: 'packages/demo/src/main.ts',
  standins: 'packages/standins/src/main.ts',
};

/**
 * Packages of node_modules stay outside the bundle; ours go in. What runs looks for them from dist/, so a version that only one workspace has
 * beside itself would not be the one that runs: that is an error.
 */
const external = {
  name: 'external',
  setup: (b) =>
    b.onResolve({ filter: /^[^./]/ }, (a) => {
      if (a.path.startsWith('@pontrel/') || a.kind === 'entry-point') return null;
      const name = a.path.split('/', a.path.startsWith('@') ? 2 : 1).join('/');
      const nested = /^(.*\/packages\/[^/]+)\//.exec(a.importer.replaceAll('\\', '/'))?.[1];
      if (nested && existsSync(`${nested}/node_modules/${name}`))
        return { errors: [{ text: `${name} lies in ${nested}/node_modules, where dist/ does not look: give the root the same version.` }] };
      return { path: a.path, external: true };
    }),
};

/** The esbuild options for everything that Node runs. */
export const nodeOptions = {
  absWorkingDir: root,
  bundle: true,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  sourcemap: 'linked',
  // less to be read at each start of a command; names stay as they are
  minifyWhitespace: true,
  minifySyntax: true,
  plugins: [external],
  loader: { '.sql': 'text' },
  logLevel: 'warning',
};

/** Those for what goes into dist/; `npm run dev` watches with the same. */
export const distOptions = {
  ...nodeOptions,
  entryPoints: ENTRIES,
  outdir: 'dist',
  outExtension: { '.js': '.mjs' },
  // what several of them use is written once, beside them, since they look for grids and threads beside themselves
  splitting: true,
  chunkNames: 'shared-[hash]',
};

/** Grid files lie beside what reads them. */
export function copyGrids() {
  cpSync(`${root}packages/core/grids`, `${root}dist/grids`, { recursive: true });
}

export async function buildNode() {
  // what was shared before may be cut in another way now
  if (existsSync(`${root}dist`))
    for (const name of readdirSync(`${root}dist`).filter((n) => n.startsWith('shared-'))) rmSync(`${root}dist/${name}`);
  await esbuild.build(distOptions);
  copyGrids();
}

export async function buildPage() {
  const vite = await import('vite');
  await vite.build({ configFile: `${root}packages/web/vite.config.ts`, logLevel: 'warn' });
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await Promise.all([buildNode(), buildPage()]);
  console.log(`built Pontrel ${JSON.parse(readFileSync(`${root}package.json`, 'utf8')).version}`);
}

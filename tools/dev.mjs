// npm run dev: the server and the page reload themselves when their sources change.
import esbuild from 'esbuild';
import { copyGrids, distOptions } from './build.mjs';
import { ensurePackages, root } from './setup.mjs';
import { startServer } from './server-process.mjs';

ensurePackages();
copyGrids();
const PORT = process.env.PONTREL_PORT ?? '5190';
let server = null;
let restarting = Promise.resolve();

async function restart() {
  if (server) {
    server.child.removeAllListeners('exit');
    const gone = new Promise((resolve) => server.child.once('exit', resolve));
    server.child.kill('SIGTERM');
    await gone;
  }
  server = await startServer(['--port', PORT]);
  console.log(`server at ${server.address}`);
}

const context = await esbuild.context({
  ...distOptions,
  plugins: [
    ...distOptions.plugins,
    {
      name: 'restart',
      setup: (b) =>
        b.onEnd((result) => {
          if (result.errors.length === 0) restarting = restarting.then(restart).catch((error) => console.error(error.message));
        }),
    },
  ],
});
await context.watch();

const vite = await import('vite');
const page = await vite.createServer({ configFile: `${root}packages/web/vite.config.ts` });
await page.listen();
page.printUrls();

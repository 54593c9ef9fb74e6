import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { makeServer } from './server';

const HOST = '127.0.0.1';
const DEFAULT_PORT = 5190;
const LAST_TRIED = 20;

const { values } = parseArgs({ options: { port: { type: 'string' }, data: { type: 'string' } } });
const wanted = Number(values.port ?? DEFAULT_PORT);
if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65535) {
  console.error(`--port wants a number from 0 to 65535; "${values.port}" is none.`);
  process.exit(2);
}

const here = path.dirname(fileURLToPath(import.meta.url));
const page = path.join(here, 'page');
const { app, interrupted } = await makeServer({
  data: path.resolve(values.data ?? process.env.PONTREL_DATA ?? 'data'),
  page: existsSync(page) ? page : null,
  worker: path.join(here, 'worker.mjs'),
  grids: path.join(here, 'grids'),
  maxUploadBytes: Number(process.env.PONTREL_MAX_UPLOAD_MB ?? 4096) * 1024 * 1024,
});
for (const message of interrupted) console.log(message);

for (let port = wanted; ; port++) {
  try {
    await app.listen({ host: HOST, port });
    break;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE' || port >= wanted + LAST_TRIED) throw error;
    console.log(`Port ${port} is taken; trying ${port + 1}.`);
  }
}
const address = app.server.address();
console.log(`Pontrel is at http://${HOST}:${typeof address === 'object' && address ? address.port : wanted}/`);

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void app.close().then(() => process.exit(0)));

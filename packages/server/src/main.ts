import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { messageOf, Problem } from '@pontrel/core/model/problem';
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

const megabytes = Number(process.env.PONTREL_MAX_UPLOAD_MB ?? 4096);
if (!(megabytes > 0)) {
  console.error(`PONTREL_MAX_UPLOAD_MB wants a number of megabytes, such as 4096; "${process.env.PONTREL_MAX_UPLOAD_MB}" is none.`);
  process.exit(1);
}

const here = path.dirname(fileURLToPath(import.meta.url));
const page = path.join(here, 'page');
const data = path.resolve(values.data ?? process.env.PONTREL_DATA ?? 'data');
const { app, told, lock } = await makeServer({
  data,
  page: existsSync(page) ? page : null,
  worker: path.join(here, 'worker.mjs'),
  job: path.join(here, 'job.mjs'),
  grids: path.join(here, 'grids'),
  maxUploadBytes: megabytes * 1024 * 1024,
}).catch(refused);
for (const message of told) console.log(message);

/** Says in one sentence why it cannot start, and ends: that one runs already is no fault. */
function refused(error: unknown): never {
  if (error instanceof Problem && error.code === 'already-running') {
    console.log(error.message);
    process.exit(0);
  }
  const code = (error as NodeJS.ErrnoException).code ?? '';
  if (error instanceof Problem) console.error(error.message);
  else if (['EACCES', 'EPERM', 'EROFS', 'ENOTDIR', 'ENOSPC', 'SQLITE_CANTOPEN', 'SQLITE_READONLY'].includes(code))
    console.error(`${data} cannot be written to (${messageOf(error)}). Choose another folder with --data or PONTREL_DATA.`);
  else throw error;
  process.exit(1);
}

for (let port = wanted; ; port++) {
  try {
    await app.listen({ host: HOST, port });
    break;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EADDRINUSE') throw error;
    if (port >= wanted + LAST_TRIED) {
      console.error(`The ports ${wanted} to ${port} are all taken. Choose another one with --port.`);
      await app.close();
      process.exit(1);
    }
    console.log(`Port ${port} is taken; trying ${port + 1}.`);
  }
}
const address = app.server.address();
const at = `http://${HOST}:${typeof address === 'object' && address ? address.port : wanted}/`;
lock.listensAt(at);
console.log(`Pontrel is at ${at}`);

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void app.close().then(() => process.exit(0)));

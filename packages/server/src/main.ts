import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { networkInterfaces } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { makeServer } from './server';

/** Where it listens: this machine alone, unless HOST says otherwise. */
const HOST = process.env.HOST || '127.0.0.1';
const isLocal = /^(127\.|localhost$|::1$)/.test(HOST);
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
const key = isLocal ? null : networkKey(data);
const { app, told, lock } = await makeServer({
  data,
  page: existsSync(page) ? page : null,
  worker: path.join(here, 'worker.mjs'),
  job: path.join(here, 'job.mjs'),
  grids: path.join(here, 'grids'),
  cards: [path.join(data, 'cards'), ...(process.env.PONTREL_CARDS ? [path.resolve(process.env.PONTREL_CARDS)] : [])],
  maxUploadBytes: megabytes * 1024 * 1024,
  key,
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
    const { code } = error as NodeJS.ErrnoException;
    if (code === 'EADDRNOTAVAIL' || code === 'ENOTFOUND' || code === 'EINVAL') {
      console.error(`HOST wants an address of this machine, such as 0.0.0.0 for all of them; "${HOST}" is none.`);
      await app.close();
      process.exit(1);
    }
    if (code !== 'EADDRINUSE') throw error;
    if (port >= wanted + LAST_TRIED) {
      console.error(`The ports ${wanted} to ${port} are all taken. Choose another one with --port.`);
      await app.close();
      process.exit(1);
    }
    console.log(`Port ${port} is taken; trying ${port + 1}.`);
  }
}
const address = app.server.address();
const port = typeof address === 'object' && address ? address.port : wanted;
lock.listensAt(`http://${isLocal ? HOST : '127.0.0.1'}:${port}/`);
const at = isLocal ? `http://${HOST}:${port}/` : `http://${ownAddress(HOST)}:${port}/?key=${key}`;
console.log(`Pontrel is at ${at}`);

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => void app.close().then(() => process.exit(0)));

/** What a browser on another machine shows, kept so that it need not be given out again after each start. */
function networkKey(folder: string): string {
  const file = path.join(folder, 'network-key');
  try {
    const known = readFileSync(file, 'utf8').trim();
    if (/^[\w-]{43}$/.test(known)) return known;
  } catch {
    // there is none yet
  }
  const made = randomBytes(32).toString('base64url');
  try {
    mkdirSync(folder, { recursive: true });
    writeFileSync(file, made, { mode: 0o600 });
  } catch (error) {
    refused(error);
  }
  return made;
}

/** An address by which other machines reach this one. */
function ownAddress(host: string): string {
  if (host !== '0.0.0.0' && host !== '::') return host;
  const all = Object.values(networkInterfaces()).flatMap((own) => own ?? []);
  return all.find((a) => a.family === 'IPv4' && !a.internal)?.address ?? '127.0.0.1';
}

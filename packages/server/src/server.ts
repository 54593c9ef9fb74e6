import { rmSync } from 'node:fs';
import { cpus } from 'node:os';
import path from 'node:path';
import type { IncomingMessage } from 'node:http';
import multipart from '@fastify/multipart';
import fastifyStatic from '@fastify/static';
import Fastify, { type FastifyInstance } from 'fastify';
import { serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod';
import { Piscina } from 'piscina';
import own from '../package.json' with { type: 'json' };
import { searchCrs } from '@pontrel/core/crs/registry/search';
import { Problem } from '@pontrel/core/model/problem';
import { SourceReader } from './api/source-reader';
import { Bin } from './api/bin';
import { Cards } from './api/cards';
import { HomeService } from './api/home-service';
import { CrossingService } from './api/crossing-service';
import { addDerivedRoutes } from './api/derived-routes';
import { DerivedService } from './api/derived-service';
import { addPictureRoutes } from './api/picture-routes';
import { PictureService } from './api/picture-service';
import { PlaceService } from './api/place-service';
import { RecordService } from './api/record-service';
import { Templates } from './api/templates';
import { ReportService } from './api/report-service';
import { guard } from './api/guard';
import { addRoutes } from './api/routes';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { gridFolders, registerGrids } from '@pontrel/host-node/grid-folders';
import { Events } from './jobs/events';
import { JobProcesses } from './jobs/job-processes';
import { Jobs } from './jobs/jobs';
import { LookUps } from './work/look-ups';
import { Catalog } from './store/catalog';
import { Backups } from './store/backups';
import { DataFolder } from './store/data-folder';
import { faultOf } from './store/faults';
import { DataLock } from './store/lock';
import { Manifests } from './store/manifests';

export interface ServerOptions {
  data: string;
  /** Folder of the built page; null when another server serves it. */
  page: string | null;
  /** The built program of the threads that answer, and that of the processes of jobs. */
  worker: string;
  job: string;
  maxUploadBytes: number;
  /** What a browser on another machine has to show; null where only this machine is listened to. */
  key: string | null;
  /** Folders in which the cards of field controllers appear, each as a folder. */
  cards: readonly string[];
  /** Folder of the grid files that ship with the program. */
  grids: string;
}

/** Codes of problems that are not the request's fault, or have a status of their own. */
const STATUS: Record<string, number> = {
  'not-local': 403,
  'not-own-page': 403,
  'key-wanted': 401,
  'crossing-unknown': 404,
  'run-unknown': 404,
  'source-unknown': 404,
  'record-unknown': 404,
  'preview-unknown': 404,
  'recipe-stale': 409,
  'crossing-newer': 409,
  'crossing-damaged': 409,
  'upload-too-large': 413,
  'took-too-long': 503,
  stopping: 503,
};

/**
 * The server, not yet listening. What an earlier stop cut off is cleared away first, and said.
 * @throws Problem when another one works on the data folder, and when its catalog cannot be used
 */
export async function makeServer(options: ServerOptions): Promise<{ app: FastifyInstance; told: string[]; lock: DataLock }> {
  const folder = new DataFolder(options.data);
  const lock = await DataLock.take(folder.root);
  const catalog = new Catalog(folder.catalog, new Manifests(folder));
  const adopted = catalog.reconcile();
  const cut = catalog.markInterrupted(new Date().toISOString(), (job) =>
    job.kind === 'read'
      ? `Pontrel was stopped while it was reading ${job.subject}. The crossing is as it was before; drop the file again.`
      : `Pontrel was stopped while ${job.subject} was being written. Nothing half-written was kept; run it again.`,
  );
  folder.sweep();
  const aside = folder.setUnknownAside(catalog.allCrossingIds(), catalog.allSourceIds(), catalog.allRunIds());
  const backups = new Backups(catalog, folder.backups);
  await backups.start();
  const uploads = path.join(options.data, 'uploads');
  rmSync(uploads, { recursive: true, force: true });

  const grids = gridFolders(options.grids, folder.grids);
  registerGrids(grids);
  registerNodeCodePages();
  const processes = new JobProcesses({ script: options.job, grids, scratch: folder.scratch, atOnce: Math.max(4, cpus().length) });
  const threads = new Piscina({
    filename: options.worker,
    workerData: { grids },
    // on a small machine as well, one slow answer is not to hold up the map
    maxThreads: Math.max(2, Math.min(4, cpus().length - 1)),
    minThreads: 1,
    resourceLimits: { maxOldGenerationSizeMb: 1024 },
  });
  const lookUps = new LookUps(threads);
  const events = new Events();
  const jobs = new Jobs(catalog, processes, events);
  const reader = new SourceReader(catalog, folder, jobs, events);
  const places = new PlaceService(catalog, folder, lookUps, grids);
  const pictures = new PictureService(catalog, folder, lookUps, places);
  const service = new CrossingService(catalog, folder, jobs, reader, lookUps, pictures, events);
  const bin = new Bin(catalog, folder, jobs, reader, events);
  const reports = new ReportService(catalog, folder, lookUps, pictures, own.version);

  // a filter that names thousands of records goes in the address
  const app = Fastify({
    http: { maxHeaderSize: 128 * 1024 },
    bodyLimit: 8 * 1024 * 1024,
    forceCloseConnections: true,
    routerOptions: { maxParamLength: 300 },
  });
  app.setValidatorCompiler(validatorCompiler);
  app.setSerializerCompiler(serializerCompiler);
  // a file that is too large is told by name, and does not stop the others
  await app.register(multipart, { throwFileSizeLimit: false, limits: { fileSize: options.maxUploadBytes, files: 2000 } });
  await guard(app, options.key);
  app.setErrorHandler(async (error: Error & { statusCode?: number; code?: string }, request, reply) => {
    await received(request.raw);
    if (error instanceof Problem)
      return reply.status(STATUS[error.code] ?? 400).send({ error: { code: error.code, message: error.message } });
    const fault = faultOf(error);
    if (fault !== null) return reply.status(507).send({ error: { code: 'machine', message: fault } });
    const status = error.statusCode ?? 500;
    if (status >= 500) console.error(error);
    return reply.status(status).send({
      error: {
        code: error.code ?? 'failed',
        message: status >= 500 ? 'Something went wrong that should not have. The server’s window has the details.' : error.message,
      },
    });
  });
  addRoutes(
    app,
    service,
    new RecordService(catalog, folder, lookUps),
    new Templates(catalog),
    new HomeService(catalog),
    bin,
    places,
    reports,
    jobs,
    events,
    uploads,
  );
  addDerivedRoutes(app, new DerivedService(catalog, folder, reader, lookUps));
  addPictureRoutes(app, pictures, new Cards(catalog, folder, options.cards));
  if (options.page !== null) {
    await app.register(fastifyStatic, {
      root: options.page,
      wildcard: false,
      immutable: true,
      maxAge: '1y',
      setHeaders: (reply, file) => {
        if (file.endsWith('.html')) reply.header('cache-control', 'no-cache');
      },
    });
    app.setNotFoundHandler((request, reply) => {
      if (request.method !== 'GET' || request.url.startsWith('/api/') || request.url.startsWith('/assets/'))
        return reply.status(404).send({ error: { code: 'not-found', message: 'There is nothing at this address.' } });
      return reply.header('cache-control', 'no-cache').sendFile('index.html');
    });
  }
  app.addHook('onClose', async () => {
    await jobs.close();
    processes.close();
    await lookUps.close();
    backups.stop();
    catalog.close();
    lock.release();
  });
  // the lists of systems are made now rather than at somebody's first key
  app.addHook('onListen', () => {
    processes.warm();
    setImmediate(() => searchCrs('2193'));
  });
  reader.readOlderStores();
  const told = [
    ...cut.map((j) => j.message!),
    ...(adopted > 0 ? [`The catalog did not know ${adopted} of the crossings and sources in its folder: they were taken up again.`] : []),
    ...(aside > 0 ? [`${aside} folders of which nothing tells any more were put into ${folder.setAside}; none was deleted.`] : []),
  ];
  return { app, told, lock };
}

/** Waits until a sender has sent all, whatever is wrong with it: one that is cut off in the midst of a file never sees the answer. */
async function received(request: IncomingMessage): Promise<void> {
  if (request.complete || request.destroyed) return;
  request.unpipe();
  request.resume();
  await new Promise((resolve) => request.once('end', resolve).once('close', resolve));
}

import { Placement } from '@pontrel/core/placement/placement';
import { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { LONGEST_FILTER } from '@pontrel/core/operations/filter';
import { readdir } from 'node:fs/promises';
import path from 'node:path';
import type { Readable } from 'node:stream';
import type { FastifyInstance, FastifyReply } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import yazl from 'yazl';
import { z } from 'zod';
import {
  Added,
  BinItem,
  Candidate,
  CompareRequest,
  Created,
  CrossingRow,
  CrossingState,
  CrsName,
  DefinitionChange,
  DeliverableForecast,
  FieldStatistics,
  FieldValue,
  GridList,
  NameChange,
  Outliers,
  PathView,
  PlaceView,
  Preview,
  PrintRequest,
  RecipeChange,
  RecordIds,
  RecordPage,
  RecordView,
  RunChange,
  RunProof,
  RunRequest,
  RecentRun,
  RunSummary,
} from '@pontrel/contract/crossing';
import { Job } from '@pontrel/contract/job';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { allCrs, REGISTRY_VERSION } from '@pontrel/core/crs/registry/registry';
import type { Crs } from '@pontrel/core/crs/crs';
import type { Events } from '../jobs/events';
import type { Jobs } from '../jobs/jobs';
import { FILES_FOLDER } from '../work/run-records';
import type { Bin } from './bin';
import type { HomeService } from './home-service';
import type { CrossingService } from './crossing-service';
import type { PlaceService } from './place-service';
import { takeIn } from './intake';
import { sendTile, TileAt } from './tile-reply';
import type { RecordService } from './record-service';
import type { Templates } from './templates';
import type { ReportService } from './report-service';

const Id = z.object({ id: z.string() });
const SourceId = z.object({ id: z.string(), source: z.string() });
const VECTORS = 'application/vnd.mapbox-vector-tile';
/** Whether pictures that are handed in become one source, whatever their names. */
const Together = z.object({ together: z.literal('yes').optional() });
const Done = z.object({ done: z.literal(true) });
const DONE = { done: true } as const;
/** Two numbers with a comma between. */
const Pair = z.string().transform((text, context): [number, number] => {
  const numbers = text.split(',').map(Number);
  if (numbers.length !== 2 || numbers.some((n) => !Number.isFinite(n))) context.addIssue('two numbers with a comma between');
  return [numbers[0]!, numbers[1]!];
});

export function addRoutes(
  app: FastifyInstance,
  service: CrossingService,
  records: RecordService,
  templates: Templates,
  home: HomeService,
  bin: Bin,
  places: PlaceService,
  reports: ReportService,
  jobs: Jobs,
  events: Events,
  uploads: string,
): void {
  const api = app.withTypeProvider<ZodTypeProvider>();

  api.get('/api/about', { schema: { response: { 200: z.object({ registry: z.string(), systems: z.number() }) } } }, () => ({
    registry: REGISTRY_VERSION,
    systems: [...allCrs()].length,
  }));

  api.get('/api/crossings', { schema: { response: { 200: z.array(CrossingRow) } } }, () => home.rows());
  api.post('/api/crossings', { schema: { querystring: Together, response: { 200: Created } } }, async (request) =>
    service.create(
      request.isMultipart()
        ? await takeIn(request.files(), uploads, request.query.together === 'yes')
        : { intakes: [], log: [], saved: [] },
      uploads,
    ),
  );
  api.get('/api/runs', { schema: { response: { 200: z.array(RecentRun) } } }, () => home.recentRuns());
  api.post('/api/crossings/:id/copy', { schema: { params: Id, response: { 200: Created } } }, ({ params }) =>
    service.copy(params.id, uploads),
  );
  api.get('/api/crossings/:id', { schema: { params: Id, response: { 200: CrossingState } } }, ({ params }) => service.state(params.id));
  api.post('/api/crossings/:id/opened', { schema: { params: Id, response: { 200: Done } } }, ({ params }) => {
    service.opened(params.id);
    return DONE;
  });
  api.patch('/api/crossings/:id', { schema: { params: Id, body: NameChange, response: { 200: Done } } }, ({ params, body }) => {
    service.rename(params.id, body.name);
    return DONE;
  });
  api.delete('/api/crossings/:id', { schema: { params: Id, response: { 200: Done } } }, async ({ params }) => {
    await bin.putCrossing(params.id);
    return DONE;
  });
  api.get('/api/bin', { schema: { response: { 200: z.array(BinItem) } } }, () => bin.items());
  api.post('/api/bin/:id/restore', { schema: { params: Id, response: { 200: Done } } }, ({ params }) => {
    bin.restore(params.id);
    return DONE;
  });
  api.delete('/api/bin/:id', { schema: { params: Id, response: { 200: Done } } }, async ({ params }) => {
    await bin.delete(params.id);
    return DONE;
  });
  api.put(
    '/api/crossings/:id/recipe',
    { schema: { params: Id, body: RecipeChange, response: { 200: CrossingState } } },
    ({ params, body }) => service.saveRecipe(params.id, body.recipe, body.revision),
  );

  api.post('/api/crossings/:id/sources', { schema: { params: Id, querystring: Together, response: { 200: Added } } }, async (request) =>
    service.addSources(request.params.id, await takeIn(request.files(), uploads, request.query.together === 'yes')),
  );
  api.put('/api/crossings/:id/sources/:source/file', { schema: { params: SourceId, response: { 200: Added } } }, async (request) =>
    service.replaceSource(request.params.id, request.params.source, await takeIn(request.files(), uploads, true)),
  );
  api.post('/api/crossings/:id/map.pdf', { schema: { params: Id, body: PrintRequest } }, async ({ params, body }, reply) =>
    reply.type('application/pdf').send(await reports.print(params.id, body)),
  );
  api.post('/api/crossings/:id/comparisons', { schema: { params: Id, body: CompareRequest, response: { 200: Job } } }, ({ params, body }) =>
    service.compare(params.id, body),
  );
  api.delete('/api/crossings/:id/sources/:source', { schema: { params: SourceId, response: { 200: Done } } }, ({ params }) => {
    bin.putSource(params.id, params.source);
    return DONE;
  });
  api.get(
    '/api/crossings/:id/sources/:source/records',
    {
      schema: {
        params: SourceId,
        querystring: z.object({
          layer: z.string(),
          offset: z.coerce.number().int().min(0).default(0),
          limit: z.coerce.number().int().min(1).max(200).default(20),
          sort: z.string().optional(),
          descending: z.literal('yes').optional(),
          where: z.string().max(LONGEST_FILTER).optional(),
        }),
        response: { 200: RecordPage },
      },
    },
    ({ params, query }) =>
      records.records(params.id, params.source, query.layer, query.offset, query.limit, {
        sort: query.sort ?? null,
        descending: query.descending === 'yes',
        where: query.where ?? null,
      }),
  );
  api.get(
    '/api/crossings/:id/sources/:source/ids',
    {
      schema: {
        params: SourceId,
        querystring: z.object({ layer: z.string(), where: z.string().max(LONGEST_FILTER) }),
        response: { 200: RecordIds },
      },
    },
    ({ params, query }) => records.recordIds(params.id, params.source, query.layer, query.where),
  );
  api.get(
    '/api/crossings/:id/sources/:source/record-at',
    {
      schema: {
        params: SourceId,
        querystring: z.object({ layer: z.string(), x: z.coerce.number(), y: z.coerce.number(), reach: z.coerce.number().positive() }),
        response: { 200: z.object({ record: z.number().nullable() }) },
      },
    },
    async ({ params, query }) => ({
      record: await records.recordAt(params.id, params.source, query.layer, query.x, query.y, query.reach),
    }),
  );
  api.get(
    '/api/crossings/:id/sources/:source/values',
    {
      schema: {
        params: SourceId,
        querystring: z.object({ layer: z.string(), field: z.string(), begin: z.string().max(200).default('') }),
        response: { 200: z.array(FieldValue) },
      },
    },
    ({ params, query }) => records.values(params.id, params.source, query.layer, query.field, query.begin),
  );
  api.get(
    '/api/crossings/:id/sources/:source/statistics',
    {
      schema: {
        params: SourceId,
        querystring: z.object({ layer: z.string(), field: z.string(), where: z.string().max(LONGEST_FILTER).optional() }),
        response: { 200: FieldStatistics },
      },
    },
    ({ params, query }) => records.statistics(params.id, params.source, query.layer, query.field, query.where ?? null),
  );
  api.get(
    '/api/crossings/:id/sources/:source/texts',
    { schema: { params: SourceId, querystring: z.object({ codePage: z.string().max(30) }), response: { 200: z.array(z.string()) } } },
    ({ params, query }) => records.texts(params.id, params.source, query.codePage),
  );
  api.get(
    '/api/crossings/:id/sources/:source/candidates',
    {
      schema: {
        params: SourceId,
        querystring: z.object({
          lon: z.coerce.number().optional(),
          lat: z.coerce.number().optional(),
          unit: z.union([z.literal('own'), z.coerce.number().positive()]).optional(),
        }),
        response: { 200: z.array(Candidate) },
      },
    },
    ({ params, query }) =>
      places.candidates(
        params.id,
        params.source,
        query.lon !== undefined && query.lat !== undefined ? [query.lon, query.lat] : null,
        query.unit === 'own' ? null : query.unit,
      ),
  );
  api.get(
    '/api/crossings/:id/sources/:source/proposal',
    { schema: { params: SourceId, querystring: z.object({ crs: z.string().max(20_000) }), response: { 200: Placement } } },
    ({ params, query }) => places.proposal(params.id, params.source, query.crs),
  );
  api.get('/api/crossings/:id/sources/:source/path', { schema: { params: SourceId, response: { 200: PathView } } }, ({ params }) =>
    places.path(params.id, params.source),
  );
  api.get('/api/crossings/:id/sources/:source/outliers', { schema: { params: SourceId, response: { 200: Outliers } } }, ({ params }) =>
    places.outliers(params.id, params.source),
  );
  api.post(
    '/api/crossings/:id/sources/:source/previews',
    { schema: { params: SourceId, body: Placement, response: { 200: Preview } } },
    ({ params, body }) => places.preview(params.id, params.source, body),
  );
  api.get(
    '/api/crossings/:id/sources/:source/previews/:stamp/:z/:x/:y',
    { schema: { params: TileAt.extend({ source: z.string(), stamp: z.string() }) } },
    async ({ params }, reply) =>
      sendTile(reply, VECTORS, await places.previewTile(params.id, params.source, params.stamp, params.z, params.x, params.y)),
  );
  api.get(
    '/api/crossings/:id/sources/:source/previews/:stamp/vertex',
    {
      schema: {
        params: SourceId.extend({ stamp: z.string() }),
        querystring: z.object({ x: z.coerce.number(), y: z.coerce.number(), reach: z.coerce.number().positive() }),
        response: { 200: z.object({ vertex: z.tuple([z.number(), z.number()]).nullable() }) },
      },
    },
    async ({ params, query }) => ({
      vertex: await places.previewVertex(params.id, params.source, params.stamp, query.x, query.y, query.reach),
    }),
  );
  api.get('/api/grids', { schema: { response: { 200: GridList } } }, () => places.gridList());
  api.get(
    '/api/crossings/:id/where',
    {
      schema: {
        params: Id,
        querystring: z.object({
          frame: Pair.optional(),
          degrees: Pair.optional(),
          other: Pair.optional(),
          crs: z.string().max(4000).optional(),
        }),
        response: { 200: PlaceView },
      },
    },
    ({ params, query }) => places.where(params.id, query),
  );
  const Kept = z.array(Deliverable);
  api.get('/api/templates', { schema: { response: { 200: Kept } } }, () => templates.list());
  api.put('/api/templates', { schema: { body: Deliverable, response: { 200: Kept } } }, ({ body }) => templates.keep(body));
  api.delete('/api/templates', { schema: { querystring: z.object({ name: z.string() }), response: { 200: Kept } } }, ({ query }) =>
    templates.forget(query.name),
  );
  api.put('/api/definitions', { schema: { body: DefinitionChange, response: { 200: Done } } }, ({ body }) => {
    places.saveDefinition(body.name, body.text);
    return DONE;
  });
  api.get(
    '/api/crossings/:id/record',
    {
      schema: { params: Id, querystring: z.object({ source: z.string(), record: z.coerce.number().int() }), response: { 200: RecordView } },
    },
    ({ params, query }) => records.record(params.id, query.source, query.record),
  );

  api.get('/api/crossings/:id/forecasts', { schema: { params: Id, response: { 200: z.array(DeliverableForecast) } } }, ({ params }) =>
    service.forecasts(params.id),
  );
  api.post('/api/crossings/:id/runs', { schema: { params: Id, body: RunRequest, response: { 200: Job } } }, ({ params, body }) =>
    service.run(params.id, body.deliverable),
  );
  api.get('/api/crossings/:id/runs', { schema: { params: Id, response: { 200: z.array(RunSummary) } } }, ({ params }) =>
    service.runs(params.id),
  );
  api.patch('/api/runs/:id', { schema: { params: Id, body: RunChange, response: { 200: Done } } }, ({ params, body }) => {
    service.pinRun(params.id, body.pinned);
    return DONE;
  });
  api.get('/api/runs/:id/recipe', { schema: { params: Id, response: { 200: Recipe } } }, ({ params }) => service.runRecipe(params.id));
  api.get('/api/runs/:id', { schema: { params: Id, response: { 200: RunProof } } }, ({ params }) => service.runProof(params.id));
  api.get('/api/runs/:id/zip', { schema: { params: Id } }, async ({ params }, reply) => {
    const run = service.runRecord(params.id);
    const folder = path.join(run.folder, FILES_FOLDER);
    const zip = new yazl.ZipFile();
    for (const name of (await readdir(folder)).sort()) zip.addFile(path.join(folder, name), name);
    zip.addBuffer(Buffer.from(await reports.html(params.id)), 'proof.html');
    zip.end();
    return sendZip(reply, zip, run.name);
  });
  api.get('/api/crossings/:id/saved', { schema: { params: Id } }, ({ params }, reply) => {
    const zip = service.saved(params.id);
    return sendZip(reply, zip, `${zip.called}.crossing`);
  });

  api.get('/api/runs/:id/report', { schema: { params: Id } }, async ({ params }, reply) => {
    const html = await reports.html(params.id);
    // it is a page of its own, without scripts
    return reply
      .header('content-security-policy', "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'")
      .type('text/html; charset=utf-8')
      .send(html);
  });

  api.get('/api/runs/:id/report.pdf', { schema: { params: Id } }, async ({ params }, reply) =>
    reply
      .header('content-disposition', 'inline; filename="proof.pdf"')
      .type('application/pdf')
      .send(await reports.pdf(params.id)),
  );

  api.get(
    '/api/crossings/:id/tiles/:stamp/:z/:x/:y',
    { schema: { params: TileAt.extend({ stamp: z.string() }) } },
    async ({ params }, reply) => sendTile(reply, VECTORS, await service.tile(params.id, params.z, params.x, params.y)),
  );
  api.get('/api/runs/:id/tiles/:stamp/:z/:x/:y', { schema: { params: TileAt.extend({ stamp: z.string() }) } }, async ({ params }, reply) =>
    sendTile(reply, VECTORS, await service.readBackTile(params.id, params.z, params.x, params.y)),
  );

  api.get(
    '/api/crossings/:id/vertex',
    {
      schema: {
        params: Id,
        querystring: z.object({ x: z.coerce.number(), y: z.coerce.number(), reach: z.coerce.number().positive() }),
        response: { 200: z.object({ vertex: z.tuple([z.number(), z.number()]).nullable() }) },
      },
    },
    async ({ params, query }) => ({ vertex: await service.vertex(params.id, query.x, query.y, query.reach) }),
  );

  api.post('/api/jobs/:id/cancel', { schema: { params: Id, response: { 200: Done } } }, ({ params }) => {
    jobs.cancel(params.id);
    return DONE;
  });
  api.delete('/api/jobs/:id', { schema: { params: Id, response: { 200: Done } } }, ({ params }) => {
    service.dismissJob(params.id);
    return DONE;
  });

  api.get(
    '/api/crs',
    {
      schema: {
        querystring: z.object({ q: z.string().max(20_000), limit: z.coerce.number().int().min(1).max(50).default(12) }),
        response: { 200: z.array(CrsName) },
      },
    },
    ({ query }) => places.search(query.q, query.limit),
  );
  api.get(
    '/api/crs/definition',
    { schema: { querystring: z.object({ text: z.string().max(20_000) }), response: { 200: z.custom<Crs>() } } },
    ({ query }) => readPositions(query.text),
  );

  api.get('/api/events', (request, reply) => {
    reply.hijack();
    reply.raw.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', connection: 'keep-alive' });
    reply.raw.write(': here\n\n');
    const stop = events.listen((event) => reply.raw.write(`data: ${JSON.stringify(event)}\n\n`));
    request.raw.on('close', stop);
  });
}

/** Sends an archive as it is made, under a name that any system takes. */
function sendZip(reply: FastifyReply, zip: yazl.ZipFile, name: string): FastifyReply {
  // a file that is taken away meanwhile ends the download, and nothing else
  zip.on('error', (error: Error) => (zip.outputStream as Readable).destroy(error));
  const plain = name.replace(/[^A-Za-z0-9._-]+/g, '-').replace(/^-|-$/g, '') || 'deliverable';
  return reply.header('content-disposition', `attachment; filename="${plain}.zip"`).type('application/zip').send(zip.outputStream);
}

import type { FastifyInstance, FastifyReply } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { DeriveRequest, FaultList, LongProfileRequest, LongProfileView, ProfileSheetRequest } from '@pontrel/contract/crossing';
import { Job } from '@pontrel/contract/job';
import type { DerivedService } from './derived-service';

/** The routes of records that are worked out of layers. */
export function addDerivedRoutes(app: FastifyInstance, derived: DerivedService): void {
  const api = app.withTypeProvider<ZodTypeProvider>();
  api.post(
    '/api/crossings/:id/derived',
    { schema: { params: z.object({ id: z.string() }), body: DeriveRequest, response: { 200: Job } } },
    ({ params, body }) => derived.derive(params.id, body),
  );
  api.get(
    '/api/crossings/:id/sources/:source/faults',
    { schema: { params: z.object({ id: z.string(), source: z.string() }), response: { 200: FaultList } } },
    ({ params }) => derived.faults(params.id, params.source),
  );
  api.get(
    '/api/crossings/:id/sources/:source/profile',
    {
      schema: {
        params: z.object({ id: z.string(), source: z.string() }),
        querystring: LongProfileRequest,
        response: { 200: LongProfileView },
      },
    },
    ({ params, query }) => derived.profile(params.id, params.source, query),
  );
  api.get(
    '/api/crossings/:id/sources/:source/elevation.tif',
    {
      schema: {
        params: z.object({ id: z.string(), source: z.string() }),
        querystring: z.object({ pixel: z.coerce.number().positive().max(1e6) }),
      },
    },
    async ({ params, query }, reply) => {
      const { file, name } = await derived.elevation(params.id, params.source, query.pixel);
      return attached(reply, file, `${name}.tif`, 'image/tiff');
    },
  );
  api.get(
    '/api/crossings/:id/sources/:source/profile.dxf',
    { schema: { params: z.object({ id: z.string(), source: z.string() }), querystring: ProfileSheetRequest } },
    async ({ params, query }, reply) => {
      const { file, name } = await derived.profileDrawing(params.id, params.source, query);
      return attached(reply, file, `${name}.dxf`, 'image/vnd.dxf');
    },
  );
}

/** A file to be saved. */
const attached = (reply: FastifyReply, file: Uint8Array, name: string, type: string): FastifyReply =>
  reply
    .type(type)
    .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name)}`)
    .send(Buffer.from(file));

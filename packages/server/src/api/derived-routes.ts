import type { FastifyInstance } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { DeriveRequest, FaultList, LongProfileView } from '@pontrel/contract/crossing';
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
        querystring: z.object({ from: z.string(), to: z.string().optional(), way: z.enum(['downstream', 'upstream']) }),
        response: { 200: LongProfileView },
      },
    },
    ({ params, query }) => derived.profile(params.id, params.source, query.from, query.to ?? null, query.way),
  );
}

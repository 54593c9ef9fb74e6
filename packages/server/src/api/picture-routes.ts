import { createReadStream } from 'node:fs';
import type { FastifyInstance } from 'fastify';
import type { ZodTypeProvider } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { Card, OnCard, PictureSizes, PieceView, PixelValues } from '@pontrel/contract/pictures';
import type { Cards } from './cards';
import type { PictureService } from './picture-service';
import { kept, sendTile, TileAt } from './tile-reply';

const Id = z.object({ id: z.string() });
const SourceId = Id.extend({ source: z.string() });
const DeliverableId = Id.extend({ deliverable: z.string() });
const SourceTile = TileAt.extend({ source: z.string(), stamp: z.string() });
const WEBP = 'image/webp';

/** Pictures on the map, and what will become of them. */
export function addPictureRoutes(app: FastifyInstance, pictures: PictureService, cards: Cards): void {
  const api = app.withTypeProvider<ZodTypeProvider>();
  api.get('/api/cards', { schema: { response: { 200: z.array(Card) } } }, () => cards.list());
  api.post(
    '/api/runs/:id/card',
    { schema: { params: Id, body: z.object({ card: z.string().max(200) }), response: { 200: OnCard } } },
    ({ params, body }) => cards.put(params.id, body.card),
  );
  const source = '/api/crossings/:id/sources/:source';
  api.get(`${source}/thumbnail/:stamp`, { schema: { params: SourceId.extend({ stamp: z.string() }) } }, ({ params }, reply) =>
    kept(reply)
      .type(WEBP)
      .send(createReadStream(pictures.thumbnail(params.id, params.source))),
  );
  api.get(`${source}/picture-tiles/:stamp/:z/:x/:y`, { schema: { params: SourceTile } }, async ({ params }, reply) =>
    sendPicture(reply, await pictures.tile(params.id, params.source, params.z, params.x, params.y)),
  );
  api.get(`${source}/own-tiles/:stamp/:z/:x/:y`, { schema: { params: SourceTile } }, async ({ params }, reply) =>
    sendPicture(reply, await pictures.ownTile(params.id, params.source, params.z, params.x, params.y)),
  );
  api.get(`${source}/previews/:stamp/picture-tiles/:z/:x/:y`, { schema: { params: SourceTile } }, async ({ params }, reply) =>
    sendPicture(reply, await pictures.previewTile(params.id, params.source, params.stamp, params.z, params.x, params.y)),
  );
  api.get(
    '/api/runs/:id/picture-tiles/:stamp/:z/:x/:y',
    { schema: { params: TileAt.extend({ stamp: z.string() }) } },
    async ({ params }, reply) => sendPicture(reply, await pictures.readBackTile(params.id, params.z, params.x, params.y)),
  );
  api.get(
    '/api/crossings/:id/pixels',
    {
      schema: { params: Id, querystring: z.object({ x: z.coerce.number(), y: z.coerce.number() }), response: { 200: PixelValues } },
    },
    ({ params, query }) => pictures.values(params.id, query.x, query.y),
  );
  api.get(
    '/api/crossings/:id/deliverables/:deliverable/size',
    { schema: { params: DeliverableId, response: { 200: PictureSizes } } },
    ({ params }) => pictures.size(params.id, params.deliverable),
  );
  api.get(
    '/api/crossings/:id/deliverables/:deliverable/overview',
    { schema: { params: DeliverableId, response: { 200: z.object({ image: z.string() }) } } },
    ({ params }) => pictures.overview(params.id, params.deliverable),
  );
  api.get(
    '/api/crossings/:id/deliverables/:deliverable/piece',
    {
      schema: {
        params: DeliverableId,
        querystring: z.object({
          x: z.coerce.number().int(),
          y: z.coerce.number().int(),
          width: z.coerce.number().int().min(1).max(1600),
          height: z.coerce.number().int().min(1).max(1200),
          quality: z.coerce.number().int().min(1).max(100).optional(),
        }),
        response: { 200: PieceView },
      },
    },
    ({ params, query: { quality, ...window } }) =>
      pictures.piece(params.id, params.deliverable, window, quality === undefined ? {} : { quality }),
  );
}

/** A tile; nothing where no picture lies. */
const sendPicture = (reply: Parameters<typeof sendTile>[0], bytes: Uint8Array): unknown =>
  bytes.length === 0 ? kept(reply).status(204).send() : sendTile(reply, WEBP, bytes);

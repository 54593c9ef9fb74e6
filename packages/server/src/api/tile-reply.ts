import { z } from 'zod';

/** The place of a tile in an address. */
export const TileAt = z.object({
  id: z.string(),
  z: z.coerce.number().int().min(0).max(30),
  x: z.coerce.number().int(),
  y: z.coerce.number().int(),
});

/** An answer, as far as tiles need it. */
interface Reply {
  header(name: string, value: string): Reply;
  type(value: string): Reply;
  status(code: number): Reply;
  send(body?: unknown): unknown;
}

/** The address of a tile holds a stamp of all that it was made from, so it never changes. */
export const kept = (reply: Reply): Reply => reply.header('cache-control', 'private, max-age=31536000, immutable');

export const sendTile = (reply: Reply, type: string, bytes: Uint8Array): unknown =>
  kept(reply)
    .type(type)
    .send(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength));

import type { ByteWriter } from '../wkb';
import { NotWkb } from '../wkb';

/** Bytes of the bounds behind the header, by the number that says which they are. Source: OGC 12-128r18, section 2.1.3, table 6. */
const ENVELOPES = [0, 32, 48, 48, 64];
const LITTLE = 1,
  EMPTY = 16,
  EXTENDED = 32;
const XY = 1;

/** The header before a geometry; bounds are left out for points. Source: OGC 12-128r18, section 2.1.3. */
export function putHeader(out: ByteWriter, srs: number, bounds: readonly [number, number, number, number] | null): void {
  for (const v of [0x47, 0x50, 0, LITTLE | (bounds ? XY << 1 : 0)]) out.byte(v);
  out.integer(srs);
  if (bounds) for (const v of [bounds[0], bounds[2], bounds[1], bounds[3]]) out.real(v);
}

/**
 * Where the geometry itself begins; null for an empty one.
 * @throws NotWkb
 */
export function skipHeader(bytes: Uint8Array): number | null {
  if (bytes.length < 8 || bytes[0] !== 0x47 || bytes[1] !== 0x50) throw new NotWkb('it does not begin with "GP"');
  const flags = bytes[3]!;
  if (flags & EXTENDED) throw new NotWkb('its geometry is of a kind of its own (an extension)');
  const envelope = ENVELOPES[(flags >> 1) & 7];
  if (envelope === undefined) throw new NotWkb(`the bounds in its header are of kind ${(flags >> 1) & 7}, which there is not`);
  return flags & EMPTY ? null : 8 + envelope;
}

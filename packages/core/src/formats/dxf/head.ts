import type { ByteSource } from '../../io/bytes';

/** The mark at the beginning of a binary drawing. Source: DXF Reference, "Binary DXF files". */
export const BINARY = /^\S+ Binary DXF/;

/** The first bytes of a file, one character each. */
export async function headOf(source: ByteSource): Promise<string> {
  return new TextDecoder('latin1').decode(await source.read(0, 64));
}

import type { Crs } from '../crs/crs';
import { readPositions } from '../crs/definitions/read-definition';
import { identifyCrs } from '../crs/registry/identify';
import type { ByteSource, FolderSink } from '../io/bytes';
import { messageOf } from '../model/problem';

/** What a .prj file beside another file says. */
export interface BesidePrj {
  crs: Crs | null;
  /** Null when there is none. */
  text: string | null;
  /** Why its text is no system. */
  error: string | null;
}

/** What the .prj beside a file states. */
export async function prjBeside(source: ByteSource): Promise<BesidePrj> {
  const text = await textOf(await source.sibling('.prj'));
  if (text === null) return { crs: null, text, error: null };
  try {
    const read = readPositions(text, 'The .prj text');
    return { crs: identifyCrs(read) ?? read, text, error: null };
  } catch (error) {
    return { crs: null, text, error: messageOf(error) };
  }
}

/** The text of a small file; null when there is none. */
export async function textOf(source: ByteSource | null): Promise<string | null> {
  return source ? new TextDecoder().decode(await source.read(0, Math.min(source.size, 65536))).trim() : null;
}

/** Writes a small file of its own. */
export async function putText(folder: FolderSink, name: string, text: string): Promise<void> {
  const sink = await folder.create(name);
  await sink.write(new TextEncoder().encode(text));
  await sink.close();
}

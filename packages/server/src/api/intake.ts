import { randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { MultipartFile } from '@fastify/multipart';
import { extensionOf, FORMATS, isCompanion, recogniseFormat } from '@pontrel/core/formats/index';
import { Problem } from '@pontrel/core/model/problem';
import { fileSource } from '../files/node-io';

/** A file that was handed in, with those that belong to it, under names made here. */
export interface Intake {
  /** As the person knows it. */
  name: string;
  extension: string;
  file: string;
  bytes: number;
  companions: { extension: string; file: string }[];
}

interface Received {
  name: string;
  extension: string;
  file: string;
  bytes: number;
}

const EXTENSION = /^\.[a-z0-9]{1,8}$/;

/**
 * Takes uploaded files into `folder`, puts companions (.dbf, .prj) to the file that they belong to, and refuses what is of
 * no known kind.
 * @throws Problem that names each file that was refused; then nothing was kept
 */
export async function takeIn(parts: AsyncIterable<MultipartFile>, folder: string): Promise<Intake[]> {
  const received: Received[] = [];
  const begun: string[] = [];
  try {
    await mkdir(folder, { recursive: true });
    for await (const part of parts) {
      const name = path.basename(part.filename.replaceAll('\\', '/')).replace(/[\u0000-\u001f]/g, '').slice(0, 200) || 'unnamed';
      const extension = EXTENSION.test(extensionOf(name)) ? extensionOf(name) : '';
      const file = path.join(folder, randomBytes(8).toString('hex'));
      begun.push(file);
      await pipeline(part.file, createWriteStream(file));
      if (part.file.truncated) throw new Problem('upload-too-large', `${name} is larger than the limit for one file. Start Pontrel with PONTREL_MAX_UPLOAD_MB set higher to take it.`, { file: name });
      received.push({ name, extension, file, bytes: part.file.bytesRead });
    }
    if (received.length === 0) throw new Problem('upload-empty', 'No file came along. Choose or drop at least one.');
    return await matched(received);
  } catch (error) {
    for (const file of begun) await rm(file, { force: true });
    throw error;
  }
}

async function matched(received: Received[]): Promise<Intake[]> {
  const stem = (r: Received): string => r.name.slice(0, r.name.length - r.extension.length).toLowerCase();
  const mains = received.filter((r) => !isCompanion(r.name));
  const intakes: Intake[] = [];
  const used = new Set<Received>(mains);
  for (const main of mains) {
    // refuses a DWG or a stranger before anything is made of it
    const source = await fileSource(main.file, main.name, () => Promise.resolve(null));
    const format = await recogniseFormat(source);
    await format.refuse?.(source);
    const companions = received.filter((r) => isCompanion(r.name) && stem(r) === stem(main) && format.companions.includes(r.extension));
    for (const c of companions) used.add(c);
    intakes.push({ name: main.name, extension: main.extension || format.extensions[0]!, file: main.file, bytes: main.bytes, companions: companions.map((c) => ({ extension: c.extension, file: c.file })) });
  }
  const lonely = received.filter((r) => !used.has(r));
  if (lonely.length > 0) {
    const wanted = FORMATS.find((f) => f.companions.includes(lonely[0]!.extension))!;
    throw new Problem('companion-alone', `${lonely.map((r) => r.name).join(', ')}: ${lonely.length === 1 ? 'this goes' : 'these go'} with a ${wanted.extensions[0]} file of the same name. Drop ${lonely.length === 1 ? 'it' : 'them'} together with it.`);
  }
  return intakes;
}

import { randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { mkdir, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { MultipartFile } from '@fastify/multipart';
import type { IntakeEntry } from '@pontrel/contract/crossing';
import { FORMATS, isCompanion, isKnownName, recogniseFormat } from '@pontrel/core/formats/index';
import { safeExtension, storedExtension } from '../work/read-source';
import { entrySource, type ZipEntry, zipEntries } from '@pontrel/core/formats/zip/read';
import type { ByteSource } from '@pontrel/core/io/bytes';
import { Problem } from '@pontrel/core/model/problem';
import { CONTENTS } from './saved-contents';
import { fileSource } from '@pontrel/host-node/files';

/** A file that was handed in, with those that belong to it, under names made here. */
export interface Intake {
  /** As the person knows it. */
  name: string;
  extension: string;
  file: string;
  bytes: number;
  companions: { extension: string; file: string }[];
}

/** What came of all files that were handed in. */
export interface Taken {
  intakes: Intake[];
  log: IntakeEntry[];
  /** Archives that are crossings saved as one file. */
  saved: string[];
}

interface Received {
  name: string;
  extension: string;
  file: string;
  bytes: number;
  /** Where it lay in an archive: files belong together only within one folder. */
  folder: string;
}

const ARCHIVE = '.zip';

/**
 * Takes uploaded files into `folder`: unpacks archives, puts companions (.dbf, .prj) to the file that they belong to, and
 * refuses what is of no known kind. One bad file does not stop the others.
 * @throws Problem when nothing at all can be taken; then nothing was kept
 */
export async function takeIn(parts: AsyncIterable<MultipartFile>, folder: string): Promise<Taken> {
  const intake = new IntakeRun(folder);
  try {
    await mkdir(folder, { recursive: true });
    for await (const part of parts) await intake.receive(part);
    const taken = await intake.matched();
    await intake.dropUnused(taken);
    return taken;
  } catch (error) {
    await intake.dropUnused({ intakes: [], saved: [] });
    throw error;
  }
}

const filesOf = ({ intakes, saved }: Omit<Taken, 'log'>): string[] => [
  ...saved,
  ...intakes.flatMap((i) => [i.file, ...i.companions.map((c) => c.file)]),
];

/** Deletes what was taken in and is not wanted. */
export async function discardTaken(taken: Omit<Taken, 'log'>): Promise<void> {
  for (const file of filesOf(taken)) await rm(file, { force: true });
}

/** Unpacks a file of an archive. @returns its bytes */
export async function unpackTo(file: string, archive: ByteSource, entry: ZipEntry): Promise<number> {
  await pipeline(Readable.from(entrySource(archive, entry).stream()), createWriteStream(file));
  return (await stat(file)).size;
}

class IntakeRun {
  private readonly received: Received[] = [];
  private readonly made: string[] = [];
  private readonly log: IntakeEntry[] = [];
  private readonly saved: string[] = [];
  private first: Problem | null = null;
  private came = false;

  constructor(private readonly folder: string) {}

  private newFile(): string {
    const file = path.join(this.folder, randomBytes(8).toString('hex'));
    this.made.push(file);
    return file;
  }

  private refuse(name: string, error: unknown): void {
    if (!(error instanceof Problem)) throw error;
    this.first ??= error;
    this.log.push({ name, outcome: 'refused', message: error.message });
  }

  async receive(part: MultipartFile): Promise<void> {
    this.came = true;
    const name = plainName(part.filename);
    const file = this.newFile();
    await pipeline(part.file, createWriteStream(file));
    if (part.file.truncated)
      return this.refuse(
        name,
        new Problem(
          'upload-too-large',
          `${name} is larger than the limit for one file. Start Pontrel with PONTREL_MAX_UPLOAD_MB set higher to take it.`,
          { file: name },
        ),
      );
    const one = { name, extension: safeExtension(name), file, bytes: part.file.bytesRead, folder: '' };
    if (one.extension !== ARCHIVE) this.received.push(one);
    else await this.unpack(one).catch((error: unknown) => this.refuse(name, error));
  }

  /** The files of an archive that may be read here, under names made here; what an archive calls them is never used as a path. */
  private async unpack(archive: Received): Promise<void> {
    const source = await fileSource(archive.file, archive.name, () => Promise.resolve(null));
    let known = 0;
    const entries = await zipEntries(source);
    if (entries.some((e) => e.name === CONTENTS)) return void this.saved.push(archive.file);
    for (const entry of entries) {
      const name = plainName(entry.name);
      if (safeExtension(name) === ARCHIVE) {
        this.refuse(
          name,
          new Problem('zip-nested', `${name} is an archive within ${archive.name}. Unpack ${archive.name}, and drop ${name} by itself.`, {
            file: name,
          }),
        );
        continue;
      }
      if (!isKnownName(name) || name.startsWith('.')) {
        this.log.push({ name: `${archive.name}: ${name}`, outcome: 'passed', message: null });
        continue;
      }
      const file = this.newFile();
      const bytes = await unpackTo(file, source, entry);
      known++;
      this.received.push({
        name,
        extension: safeExtension(name),
        file,
        bytes,
        folder: `${archive.file}/${path.posix.dirname(entry.name)}`,
      });
    }
    if (known === 0 && this.first?.code !== 'zip-nested')
      throw new Problem('zip-nothing', `${archive.name} holds no file that is read here.`, { file: archive.name });
  }

  async matched(): Promise<Taken> {
    const { received } = this;
    const stem = (r: Received): string => `${r.folder}\n${r.name.slice(0, r.name.length - r.extension.length).toLowerCase()}`;
    const intakes: Intake[] = [];
    const used = new Set<Received>();
    // what only goes with another file comes after: alone it may be a source of its own, as a table without its shapes is
    const alone = (r: Received): boolean => !used.has(r) && isCompanion(r.name) && FORMATS.some((f) => f.extensions.includes(r.extension));
    const mains = [...received.filter((r) => !isCompanion(r.name)), ...received.filter((r) => isCompanion(r.name))];
    for (const main of mains) {
      if (isCompanion(main.name) && !alone(main)) continue;
      used.add(main);
      try {
        // refuses a DWG or a stranger before anything is made of it
        const source = await fileSource(main.file, main.name, () => Promise.resolve(null));
        const format = await recogniseFormat(source);
        await format.refuse?.(source);
        const companions = received.filter((r) => isCompanion(r.name) && stem(r) === stem(main) && format.companions.includes(r.extension));
        for (const c of companions) used.add(c);
        intakes.push({
          name: main.name,
          extension: storedExtension(main.name, format),
          file: main.file,
          bytes: main.bytes,
          companions: companions.map((c) => ({ extension: c.extension, file: c.file })),
        });
        this.log.push({
          name: main.name,
          outcome: 'taken',
          message: companions.length > 0 ? `with ${companions.map((c) => c.extension).join(', ')}` : null,
        });
      } catch (error) {
        this.refuse(main.name, error);
        // what belongs to it is told with it
        for (const r of received) if (isCompanion(r.name) && stem(r) === stem(main)) used.add(r);
      }
    }
    for (const lonely of received.filter((r) => !used.has(r))) {
      const wanted = FORMATS.find((f) => f.companions.includes(lonely.extension))!;
      this.refuse(
        lonely.name,
        new Problem(
          'companion-alone',
          `${lonely.name}: this goes with a ${wanted.extensions[0]} file of the same name. Drop it together with it.`,
          { file: lonely.name },
        ),
      );
    }
    if (intakes.length === 0 && this.saved.length === 0)
      throw this.first
        ? this.told()
        : new Problem(
            'upload-empty',
            this.came ? 'Nothing that was handed in is read here.' : 'No file came along. Choose or drop at least one.',
          );
    return { intakes, log: this.log, saved: this.saved };
  }

  /** All refusals in one, with the code of the first. */
  private told(): Problem {
    const messages = this.log.flatMap((l) => (l.outcome === 'refused' ? [l.message!] : []));
    const more = messages.length - MOST_TOLD;
    return new Problem(
      this.first!.code,
      messages.slice(0, MOST_TOLD).join(' ') + (more > 0 ? ` And ${more} more.` : ''),
      this.first!.where,
    );
  }

  /** Deletes every file that was made and is in no intake. */
  async dropUnused({ intakes, saved }: Omit<Taken, 'log'>): Promise<void> {
    const kept = new Set(filesOf({ intakes, saved }));
    for (const file of this.made) if (!kept.has(file)) await rm(file, { force: true });
  }
}

const MOST_TOLD = 5;

function plainName(name: string): string {
  return (
    path.posix
      .basename(name.replaceAll('\\', '/'))
      .replace(/[\u0000-\u001f]/g, '')
      .slice(0, 200) || 'unnamed'
  );
}

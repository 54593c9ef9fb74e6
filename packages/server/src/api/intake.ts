import { randomBytes } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { copyFile, mkdir, rm, stat } from 'node:fs/promises';
import path from 'node:path';
import { inNumbers, mosaicName, patternOf } from '@pontrel/core/crossing/mosaic-name';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { MultipartFile } from '@fastify/multipart';
import type { IntakeEntry } from '@pontrel/contract/crossing';
import { EVERY_FORMAT, isCompanion, isKnownName, recogniseAny } from '@pontrel/core/formats/every-format';
import type { Format } from '@pontrel/core/formats/format';
import { Findings } from '@pontrel/core/model/finding';
import { safeExtension, storedExtension } from '../work/read-source';
import { entrySource, type ZipEntry, zipEntries } from '@pontrel/core/formats/zip/read';
import type { ByteSource } from '@pontrel/core/io/bytes';
import { Problem } from '@pontrel/core/model/problem';
import { CONTENTS } from './saved-contents';
import { fileSource } from '@pontrel/host-node/files';

/** What was handed in and becomes one source: a file of records, or pictures that are one mosaic. */
export type Intake = FileIntake | ImageIntake;

/** Pictures that were handed in and belong together. */
export interface ImageIntake {
  images: FileIntake[];
  /** As the person knows it: the picture's name, or the pattern of the names. */
  name: string;
  bytes: number;
}

/** A file that was handed in, with those that belong to it, under names made here. */
export interface FileIntake {
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
 * refuses what is of no known kind. One bad file does not stop the others. Pictures that lie somewhere and whose names differ by their numbers
 * only become one source.
 * @param together whether all pictures that lie in one system become one source, whatever their names
 * @throws Problem when nothing at all can be taken; then nothing was kept
 */
export async function takeIn(parts: AsyncIterable<MultipartFile>, folder: string, together = false): Promise<Taken> {
  const intake = new IntakeRun(folder, together);
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
  ...intakes.flatMap((i) => ('images' in i ? i.images : [i])).flatMap((i) => [i.file, ...i.companions.map((c) => c.file)]),
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

  constructor(
    private readonly folder: string,
    private readonly together: boolean,
  ) {}

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
    const images: (FileIntake & { key: string | null })[] = [];
    const used = new Set<Received>();
    // what only goes with another file comes after: alone it may be a source of its own, as a table without its shapes is
    const alone = (r: Received): boolean =>
      !used.has(r) && isCompanion(r.name) && EVERY_FORMAT.some((f) => f.extensions.includes(r.extension));
    const mains = [...received.filter((r) => !isCompanion(r.name)), ...received.filter((r) => isCompanion(r.name))];
    for (const main of mains) {
      if (isCompanion(main.name) && !alone(main)) continue;
      used.add(main);
      try {
        // refuses a DWG or a stranger before anything is made of it
        const source = await fileSource(main.file, main.name, () => Promise.resolve(null));
        const format = await recogniseAny(source);
        await format.refuse?.(source);
        const companions = received.filter((r) => isCompanion(r.name) && stem(r) === stem(main) && format.companions.includes(r.extension));
        const own: FileIntake = {
          name: main.name,
          extension: storedExtension(main.name, format),
          file: main.file,
          bytes: main.bytes,
          companions: await Promise.all(companions.map(async (c) => ({ extension: c.extension, file: await this.forOne(c, used) }))),
        };
        if (format.images && !format.features) images.push({ ...own, key: await this.mosaicKey(own, format, main.folder) });
        else intakes.push(own);
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
    intakes.push(...mosaics(images));
    for (const lonely of received.filter((r) => !used.has(r))) {
      const wanted = EVERY_FORMAT.find((f) => f.companions.includes(lonely.extension))!;
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

  /** The file of a companion; one that goes with several files is copied for each but the first. */
  private async forOne(companion: Received, used: Set<Received>): Promise<string> {
    if (!used.has(companion)) {
      used.add(companion);
      return companion.file;
    }
    const copy = this.newFile();
    await copyFile(companion.file, copy);
    return copy;
  }

  /** What pictures of one mosaic have in common; null for one that does not say where it lies, or only once it is unpacked. */
  private async mosaicKey({ file, name, companions }: FileIntake, { id, images }: Format, folder: string): Promise<string | null> {
    const source = await fileSource(file, name, async (extension) => {
      const found = companions.find((c) => c.extension === extension);
      return found ? fileSource(found.file, name + extension, () => Promise.resolve(null)) : null;
    });
    const where = await images!.locate?.(source, new Findings());
    if (!where?.grid) return null;
    return JSON.stringify([where.crs?.id ?? where.crs?.name ?? where.crsText, ...(this.together ? [] : [folder, id, patternOf(name)])]);
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

/** Pictures as sources: those of one key are the tiles of one mosaic. */
function mosaics(images: readonly (FileIntake & { key: string | null })[]): ImageIntake[] {
  const groups = new Map<string, FileIntake[]>();
  for (const { key, ...image } of images) {
    const own = key ?? image.file;
    groups.set(own, [...(groups.get(own) ?? []), image]);
  }
  return [...groups.values()].map((group) => {
    const sorted = [...group].sort((a, b) => inNumbers(a.name, b.name));
    return { images: sorted, name: mosaicName(sorted.map((i) => i.name)), bytes: sorted.reduce((n, i) => n + i.bytes, 0) };
  });
}

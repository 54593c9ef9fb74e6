import { existsSync } from 'node:fs';
import { link, rename } from 'node:fs/promises';
import path from 'node:path';
import type { Reading } from '@pontrel/core/model/reading';
import { FreeNames } from '@pontrel/core/model/free-names';
import type { FileIntake, Intake } from '../api/intake';
import type { SourceRecord } from '../store/records';
import { memberFile, storedImages } from './image-files';
import type { JobTask } from './job';
import { storedFiles } from './read-source';
import { FAULTS_FILE } from './work-out-stored';

/** How a source is read: what its process is asked for, and how the files get into its folder before. */
export interface ReadingWork {
  task: JobTask;
  input: Record<string, unknown>;
  /** Puts the files into the folder. */
  bring(): Promise<void>;
}

/** The work of reading what was handed in. @param folder where it is read into @param name of the source */
export function readingOf(intake: Intake, folder: string, name: string, reading: Reading | undefined): ReadingWork {
  if ('images' in intake) return imagesWork(intake.images, folder, name);
  const companions = intake.companions.map((c) => c.extension);
  return {
    task: 'read',
    input: { files: { folder, name, extension: intake.extension, companions, reading } },
    async bring() {
      await rename(intake.file, path.join(folder, `source${intake.extension}`));
      for (const c of intake.companions) await rename(c.file, path.join(folder, `source${c.extension}`));
    },
  };
}

function imagesWork(images: readonly FileIntake[], folder: string, name: string): ReadingWork {
  const free = new FreeNames([], (wanted, n) => `${wanted} (${n})`);
  // a picture by itself is called what its source is called
  const names = images.map((image) => (images.length === 1 ? name : free.take(image.name)));
  const members = images.map(({ extension, companions }, k) => ({
    name: names[k]!,
    extension,
    companions: companions.map((c) => c.extension),
  }));
  return {
    task: 'images',
    input: { files: { folder, name, members } },
    async bring() {
      for (const [k, { file, extension, companions }] of images.entries()) {
        await rename(file, memberFile(folder, k, extension));
        for (const c of companions) await rename(c.file, memberFile(folder, k, c.extension));
      }
    },
  };
}

/** The work of reading the files of a source once more. @param before its folder @param folder where it is read into */
export function readingAgain(source: SourceRecord, before: string, folder: string, reading: Reading | undefined): ReadingWork {
  const { images } = source.facts;
  if (images) {
    const { members } = storedImages(before, source.name, images.members);
    return {
      task: 'images',
      input: { files: { folder, name: source.name, members } },
      async bring() {
        for (const [k, { extension, companions }] of members.entries())
          for (const e of [extension, ...companions]) await link(memberFile(before, k, e), memberFile(folder, k, e));
      },
    };
  }
  const stored = storedFiles(before, source.name, source.format, reading);
  return {
    task: 'read',
    input: { files: { ...stored, folder } },
    async bring() {
      for (const e of [stored.extension, ...stored.companions])
        await link(path.join(before, `source${e}`), path.join(folder, `source${e}`));
      const faults = path.join(before, FAULTS_FILE);
      if (existsSync(faults)) await link(faults, path.join(folder, FAULTS_FILE));
    },
  };
}

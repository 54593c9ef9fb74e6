import { existsSync } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import yazl from 'yazl';
import { readRecipe } from '@pontrel/core/crossing/recipe-upgrade';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { extensionOf } from '@pontrel/core/formats/extension';
import { entrySource, zipEntries } from '@pontrel/core/formats/zip/read';
import type { MadeFacts } from '@pontrel/contract/crossing';
import type { Fault } from '@pontrel/core/content/derived/fault';
import { Problem } from '@pontrel/core/model/problem';
import { fileSource } from '@pontrel/host-node/files';
import { makeForeignStoreSafe } from '@pontrel/host-node/store/foreign-store';
import type { Catalog } from '../store/catalog';
import type { DataFolder } from '../store/data-folder';
import { newId } from '../store/id';
import type { RunRecord } from '../store/records';
import { memberFile, pyramidFile, storedImages } from '../work/image-files';
import { mainFile, safeExtension, storedFiles } from '../work/read-source';
import { FILES_FOLDER, READ_BACK_FILE } from '../work/run-records';
import { FAULTS_FILE } from '../work/work-out-stored';
import { discardTaken, type FileIntake, type Intake, unpackTo } from './intake';
import { CONTENTS, type Contents, contentsOf, damaged, KIND, parsedContents, parsedFaults } from './saved-contents';

/** A source of a saved crossing, to be read again from its file under the name and the time that it had. */
export interface SavedSource {
  intake: Intake;
  kept: { added: string; replaces: { names: string[]; at: string } | undefined; made: MadeFacts | undefined; faults: Fault[] };
}

/** A crossing as one archive: its files as they came, its rules, and its runs with what they wrote. */
export function savedCrossing(catalog: Catalog, folder: DataFolder, id: string): yazl.ZipFile {
  const crossing = catalog.crossing(id);
  const zip = new yazl.ZipFile();
  const sources = catalog.sources(id).map((s, k): Contents['sources'][number] => {
    const own = `sources/${k + 1}`;
    const faults = path.join(folder.source(id, s.id), FAULTS_FILE);
    const hasFaults = s.facts.made !== undefined && existsSync(faults);
    if (hasFaults) zip.addFile(faults, `${own}/${FAULTS_FILE}`);
    const told = {
      name: s.name,
      added: s.added,
      replaces: s.facts.replaces,
      made: s.facts.made,
      ...(hasFaults ? { faults: `${own}/${FAULTS_FILE}` } : {}),
    };
    if (s.facts.images) {
      const stored = storedImages(folder.source(id, s.id), s.name, s.facts.images.members);
      const images = stored.members.map(({ name, extension, companions }, n) => {
        const stem = name.slice(0, name.length - extensionOf(name).length);
        const files = [name, ...companions.map((e) => stem + e)].map((file) => `${own}/${n + 1}/${file}`);
        [extension, ...companions].forEach((e, f) => zip.addFile(memberFile(stored.folder, n, e), files[f]!));
        return { name, files };
      });
      return { ...told, files: images.flatMap((i) => i.files), images };
    }
    const stored = storedFiles(folder.source(id, s.id), s.name, s.format, s.facts.reading);
    const stem = s.name.slice(0, s.name.length - extensionOf(s.name).length);
    const files = [s.name, ...stored.companions.map((e) => stem + e)].map((name) => `${own}/${name}`);
    zip.addFile(mainFile(stored), files[0]!);
    stored.companions.forEach((e, c) => zip.addFile(path.join(stored.folder, `source${e}`), files[c + 1]!));
    return { ...told, files };
  });
  // the oldest first, as they are added again
  const runs = catalog
    .runs(id)
    .reverse()
    .map(({ id: run, crossing: _crossing, ...known }, k): Contents['runs'][number] => {
      const own = `runs/${k + 1}`;
      for (const { name } of known.files) zip.addFile(path.join(folder.run(id, run), FILES_FOLDER, name), `${own}/${FILES_FOLDER}/${name}`);
      const back = readBackFile(folder.run(id, run), known);
      if (existsSync(back)) zip.addFile(back, `${own}/${path.basename(back)}`);
      return { ...known, folder: own };
    });
  const contents: Contents = { kind: KIND, version: 1, name: crossing.name, recipe: crossing.recipe, sources, runs };
  zip.addBuffer(Buffer.from(JSON.stringify(contents)), CONTENTS);
  zip.end();
  return zip;
}

/**
 * Opens such an archive as a crossing of its own. Nothing in it is trusted: sources are read again from their files, names are never paths,
 * and what runs read back as is taken only where it is a store as they are made here.
 * @returns the sources that are to be read, and what of the runs could not be taken
 * @throws Problem when it cannot be opened; then nothing of it is kept
 */
export async function openSaved(
  catalog: Catalog,
  folder: DataFolder,
  file: string,
  uploads: string,
): Promise<{ id: string; sources: SavedSource[]; left: string[] }> {
  const archive = await fileSource(file, 'The saved crossing', () => Promise.resolve(null));
  const entries = new Map((await zipEntries(archive)).map((e) => [e.name, e]));
  const extract = async (name: string, to: string): Promise<number> => {
    const entry = entries.get(name);
    if (!entry) throw damaged(`${name.slice(0, 80)} is not in it`);
    return unpackTo(to, archive, entry);
  };
  const contents = parsedContents(await contentsOf(entries.get(CONTENTS), (e) => entrySource(archive, e).read(0, e.bytes)));
  const recipe = readRecipe(contents.recipe);
  if (!recipe.success) throw damaged('its rules cannot be read, or were made by a newer Pontrel');
  const id = newId();
  const now = new Date().toISOString();
  const left: string[] = [];
  const sources: SavedSource[] = [];
  try {
    catalog.addCrossing(id, contents.name, now);
    catalog.saveRecipe(id, recipe.data, 1);
    await mkdir(uploads, { recursive: true });
    const unpacked = async (name: string, files: readonly string[]): Promise<FileIntake> => {
      const made: { extension: string; file: string; bytes: number }[] = [];
      for (const inside of files) {
        const to = path.join(uploads, newId());
        made.push({ extension: safeExtension(inside), file: to, bytes: await extract(inside, to) });
      }
      const [main, ...companions] = made;
      return { name, extension: main!.extension || safeExtension(name), file: main!.file, bytes: main!.bytes, companions };
    };
    for (const { name, added, replaces, made, faults, files, images } of contents.sources) {
      const pictures: FileIntake[] = [];
      for (const image of images ?? []) pictures.push(await unpacked(image.name, image.files));
      const intake = images ? { name, images: pictures, bytes: pictures.reduce((n, p) => n + p.bytes, 0) } : await unpacked(name, files);
      const told =
        faults === undefined
          ? []
          : parsedFaults(await contentsOf(entries.get(faults), (e) => entrySource(archive, e).read(0, e.bytes), faults), faults);
      sources.push({ intake, kept: { added, replaces, made, faults: told } });
    }
    for (const { folder: own, recipe: rules, ...run } of contents.runs) {
      const record: RunRecord = { ...run, id: newId(), crossing: id, recipe: (rules ?? null) as RunRecord['recipe'] };
      const why = await takeRun(folder, record, (name, to) => extract(`${own}/${name}`, to));
      if (why !== null) left.push(`The run of ${run.name} of ${run.finished.slice(0, 10)} could not be taken: ${why}.`);
      else catalog.addRun(record);
    }
    return { id, sources, left };
  } catch (error) {
    catalog.deleteCrossing(id);
    await folder.remove(folder.crossing(id));
    await discardTaken({ intakes: sources.map((s) => s.intake), saved: [] });
    throw error;
  }
}

/** What a run read back as: a store of records, or the smaller pictures of a picture. @param folder that of the run */
const readBackFile = (folder: string, { proof }: Pick<RunRecord, 'proof'>): string =>
  isImageProof(proof) ? pyramidFile(folder, 0) : path.join(folder, READ_BACK_FILE);

/** @returns why a run could not be taken; null where it was */
async function takeRun(folder: DataFolder, run: RunRecord, extract: (name: string, to: string) => Promise<number>): Promise<string | null> {
  const final = folder.run(run.crossing, run.id);
  const partial = folder.partial(final);
  try {
    await mkdir(path.join(partial, FILES_FOLDER), { recursive: true });
    for (const { name, bytes } of run.files) {
      if (name !== path.basename(name) || name.startsWith('.')) return 'a name in it is no plain name';
      if ((await extract(`${FILES_FOLDER}/${name}`, path.join(partial, FILES_FOLDER, name))) !== bytes) return `${name} is of another size`;
    }
    const back = readBackFile(partial, run);
    await extract(path.basename(back), back);
    if (!isImageProof(run.proof) && !makeForeignStoreSafe(back)) return 'what it read back as is no store of this version';
    await rename(partial, final);
    return null;
  } catch (error) {
    if (error instanceof Problem) return error.message.replace(/\.$/, '');
    throw error;
  } finally {
    await rm(partial, { recursive: true, force: true });
  }
}

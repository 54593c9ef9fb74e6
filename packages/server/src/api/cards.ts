import { copyFile, mkdir, open, readdir, readFile, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import type { Card, OnCard } from '@pontrel/contract/pictures';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { CARD_FILE, CardProfile } from '@pontrel/core/crossing/card';
import { Problem } from '@pontrel/core/model/problem';
import type { Catalog } from '../store/catalog';
import type { DataFolder } from '../store/data-folder';
import { FILES_FOLDER } from '../work/run-records';

/** Cards of field controllers: folders that say by a file of theirs what their device takes. */
export class Cards {
  /** @param folders in which cards appear, each as a folder */
  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly folders: readonly string[],
  ) {}

  /** The cards that are in now. */
  async list(): Promise<Card[]> {
    const found = await Promise.all(
      this.folders.map(async (at) => {
        const names = await readdir(at).catch((): string[] => []);
        return Promise.all(names.map((name) => cardAt(path.join(at, name), name)));
      }),
    );
    return found.flat().flatMap((card) => (card ? [card.card] : []));
  }

  /**
   * Puts the files of a run on a card, into the folder that its device reads images from. Each is there as a whole or not at all, the world
   * file before its image; the device's other folders are not touched.
   * @throws Problem `card-missing`, `card-no-image`
   */
  async put(runId: string, name: string): Promise<OnCard> {
    const run = this.catalog.run(runId);
    if (!isImageProof(run.proof)) throw new Problem('card-no-image', `${run.name} is no image: a card takes images.`);
    const card = await this.find(name);
    const into = path.join(card.at, card.card.profile.folder);
    await mkdir(into, { recursive: true });
    const from = path.join(this.folder.run(run.crossing, run.id), FILES_FOLDER);
    const wanted = run.files.map((f) => f.name).filter((f) => f.endsWith(card.card.profile.extension) || /w$/i.test(f));
    // the image last: a device that sees it finds what belongs to it
    const ordered = [...wanted].sort(
      (a, b) => Number(a.endsWith(card.card.profile.extension)) - Number(b.endsWith(card.card.profile.extension)),
    );
    for (const file of ordered) {
      const partial = path.join(into, `~${file}`);
      try {
        await copyFile(path.join(from, file), partial);
        const handle = await open(partial, 'r+');
        await handle.sync().finally(() => handle.close());
        await rename(partial, path.join(into, file));
      } catch (error) {
        await rm(partial, { force: true });
        throw error;
      }
    }
    return { files: ordered.map((f) => `${card.card.profile.folder}/${f}`) };
  }

  private async find(name: string): Promise<{ at: string; card: Card }> {
    for (const at of this.folders) {
      const card = (await readdir(at).catch((): string[] => [])).includes(name) ? await cardAt(path.join(at, name), name) : null;
      if (card) return card;
    }
    throw new Problem('card-missing', `The card ${name} is not in the reader any more. Put it in, and try again.`);
  }
}

async function cardAt(at: string, name: string): Promise<{ at: string; card: Card } | null> {
  try {
    const profile = CardProfile.safeParse(JSON.parse(await readFile(path.join(at, CARD_FILE), 'utf8')));
    return profile.success ? { at, card: { name, profile: profile.data } } : null;
  } catch {
    return null; // no card
  }
}

import { existsSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { rename, rm } from 'node:fs/promises';
import path from 'node:path';

/** Names that are made here and nowhere else: no name from outside ever becomes part of a path. */
const ID = /^[0-9a-z]{12}$/;

/** Where everything lies: `catalog.sqlite`, `grids/`, and `crossings/<id>/` with `sources/<id>/` and `runs/<id>/`. */
export class DataFolder {
  constructor(readonly root: string) {
    mkdirSync(path.join(root, 'crossings'), { recursive: true });
    mkdirSync(this.grids, { recursive: true });
  }

  /** The user's own grid files. */
  get grids(): string {
    return path.join(this.root, 'grids');
  }

  get catalog(): string {
    return path.join(this.root, 'catalog.sqlite');
  }

  crossing(id: string): string {
    return path.join(this.root, 'crossings', checked(id));
  }

  source(crossing: string, id: string): string {
    return path.join(this.crossing(crossing), 'sources', checked(id));
  }

  run(crossing: string, id: string): string {
    return path.join(this.crossing(crossing), 'runs', checked(id));
  }

  /** Where a source or a run is made before it is renamed into its place, and what is deleted goes first. */
  partial(final: string): string {
    return `${final}.partial`;
  }

  /** Where folders are put that nothing tells of any more. */
  get setAside(): string {
    return path.join(this.root, 'set-aside');
  }

  /** Temporary files of jobs. */
  get scratch(): string {
    return path.join(this.root, 'scratch');
  }

  get backups(): string {
    return path.join(this.root, 'backups');
  }

  crossingIds(): string[] {
    return list(path.join(this.root, 'crossings')).filter((name) => ID.test(name));
  }

  idsOf(crossing: string, kind: 'sources' | 'runs'): string[] {
    return list(path.join(this.crossing(crossing), kind)).filter((name) => ID.test(name));
  }

  /** Deletes the folder of a crossing, a source or a run: at once by its name, so that a stop on the way leaves none that is half there. */
  async remove(final: string): Promise<void> {
    const partial = this.partial(final);
    await rm(partial, { recursive: true, force: true });
    try {
      await rename(final, partial);
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    }
    await rm(partial, { recursive: true, force: true });
  }

  /** What `take` makes of a folder that is complete; where that fails the folder goes as well. */
  async orRemoved<T>(final: string, take: () => T): Promise<T> {
    try {
      return take();
    } catch (error) {
      await this.remove(final);
      throw error;
    }
  }

  /** Deletes what interrupted jobs and deletions left half there, and nothing else. */
  sweep(): void {
    const crossings = path.join(this.root, 'crossings');
    const folders = this.crossingIds().flatMap((id) => ['sources', 'runs'].map((kind) => path.join(this.crossing(id), kind)));
    for (const folder of [crossings, ...folders])
      for (const name of list(folder)) if (name.endsWith('.partial')) rmSync(path.join(folder, name), { recursive: true, force: true });
  }

  /**
   * Sets folders aside that the catalog does not know; nothing of them is deleted.
   * @returns how many there were
   */
  setUnknownAside(crossings: ReadonlySet<string>, sources: ReadonlySet<string>, runs: ReadonlySet<string>): number {
    const unknown = this.crossingIds().flatMap((crossing) =>
      crossings.has(crossing)
        ? [
            ...this.idsOf(crossing, 'sources')
              .filter((id) => !sources.has(id))
              .map((id) => this.source(crossing, id)),
            ...this.idsOf(crossing, 'runs')
              .filter((id) => !runs.has(id))
              .map((id) => this.run(crossing, id)),
          ]
        : [this.crossing(crossing)],
    );
    for (const folder of unknown) {
      const wanted = path.join(this.setAside, path.relative(path.join(this.root, 'crossings'), folder));
      // what was set aside before stays as well
      const to = existsSync(wanted) ? `${wanted}-${Date.now()}` : wanted;
      mkdirSync(path.dirname(to), { recursive: true });
      renameSync(folder, to);
    }
    return unknown.length;
  }
}

function checked(id: string): string {
  if (!ID.test(id)) throw new Error(`"${id}" is not an id.`);
  return id;
}

function list(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return []; // none was made yet
  }
}

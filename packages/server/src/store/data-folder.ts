import { mkdirSync, readdirSync, rmSync } from 'node:fs';
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

  /** Where a source or a run is made before it is renamed into its place. */
  partial(final: string): string {
    return `${final}.partial`;
  }

  /** Deletes what an interrupted job left: folders that the catalog does not know. */
  sweep(sources: ReadonlySet<string>, runs: ReadonlySet<string>): void {
    for (const crossing of readdirSync(path.join(this.root, 'crossings'))) {
      for (const [kind, known] of [
        ['sources', sources],
        ['runs', runs],
      ] as const) {
        const folder = path.join(this.root, 'crossings', crossing, kind);
        for (const name of list(folder)) if (!known.has(name)) rmSync(path.join(folder, name), { recursive: true, force: true });
      }
    }
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

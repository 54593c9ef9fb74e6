import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { addGrids } from '@pontrel/core/crs/datum/grid-registry';

/** A folder that is looked through for grid files, and what it is called in lists. */
export interface GridFolder {
  folder: string;
  place: string;
}

/**
 * The folders of grid files, the nearest first: the user's own, those that `PONTREL_GRIDS` names, those shipped.
 * @param shipped the folder that comes with the program
 * @param own the one in the data folder; null where there is none
 */
export function gridFolders(shipped: string, own: string | null): GridFolder[] {
  const named = (process.env.PONTREL_GRIDS ?? '').split(path.delimiter).filter(Boolean);
  return [
    ...(own === null ? [] : [{ folder: own, place: 'grids folder' }]),
    ...named.map((folder) => ({ folder, place: folder })),
    { folder: shipped, place: 'shipped' },
  ];
}

let inUse: readonly GridFolder[] = [];

/** The folders that were looked through last, for threads that are to find the same. */
export const gridFoldersInUse = (): readonly GridFolder[] => inUse;

/** Puts the grid files of the folders on the shelf; what lies there already stays. Cheap enough to be done before each job. */
export function registerGrids(folders: readonly GridFolder[]): void {
  inUse = folders;
  for (const { folder, place } of folders) {
    if (!existsSync(folder)) continue;
    addGrids(
      readdirSync(folder)
        .filter((name) => /\.(gsb|gtx)$/i.test(name))
        .map((name) => ({ name, place, bytes: () => readFileSync(path.join(folder, name)) })),
    );
  }
}

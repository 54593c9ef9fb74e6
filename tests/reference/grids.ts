import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { addGrids } from '@pontrel/core/crs/datum/grid-registry';

const shipped = fileURLToPath(new URL('../../packages/core/grids/', import.meta.url));

/** Puts the shipped grid files on the shelf, and those of Debian's proj-data, which PROJ finds as well. */
export function registerReferenceGrids(): string[] {
  const folders = [shipped, '/usr/share/proj/'];
  for (const folder of folders)
    addGrids(
      readdirSync(folder)
        .filter((n) => /\.(gsb|gtx)$/i.test(n))
        .map((name) => ({ name, place: folder, bytes: () => readFileSync(folder + name) })),
    );
  return readdirSync(shipped).filter((n) => n.endsWith('.gsb'));
}

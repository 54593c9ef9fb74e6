import type { GridContent, GridName } from '../registry/datum-operations';
import { readGtx, type HeightGrid } from './gtx';
import { readNtv2, type ShiftGrid } from './ntv2';

/** A grid file that is at hand. Its bytes are asked for at the first use. */
export interface GridFile {
  name: string;
  /** Where it lies, for people: "shipped", or a folder. */
  place: string;
  bytes: () => Uint8Array;
}

const files = new Map<string, GridFile>();
const shiftGrids = new Map<string, ShiftGrid>();
const heightGrids = new Map<string, HeightGrid>();
let version = 0;

/** Puts files on the shelf; names are compared without regard to case, and the first of a name stays. */
export function addGrids(list: Iterable<GridFile>): void {
  for (const file of list) {
    const key = file.name.toLowerCase();
    if (files.has(key)) continue;
    files.set(key, file);
    version++;
  }
}

/** Changes when the shelf does: what was chosen before may have to be chosen again. */
export function gridRegistryVersion(): number {
  return version;
}

/** All grid files that are known at present. */
export function gridFiles(): GridFile[] {
  return [...files.values()];
}

/** Endings of the files that are read here, by what they carry. */
const READ: Record<GridContent['carries'], RegExp | null> = {
  horizontal: /\.gsb$/i,
  geoid: /\.gtx$/i,
  height: /\.gtx$/i,
  geocentric: null,
};

/** The first of the names by which a grid goes that is at hand and of a kind that is read here. */
export function gridAtHand({ files: names, carries }: GridContent): GridName | null {
  return names.find(({ name }) => READ[carries]?.test(name) && files.has(name.toLowerCase())) ?? null;
}

/** @throws Problem `grid-broken` */
export function shiftGrid(name: string): ShiftGrid {
  return kept(shiftGrids, name, readNtv2);
}

/** @throws Problem `grid-broken` */
export function heightGrid(name: string): HeightGrid {
  return kept(heightGrids, name, readGtx);
}

function kept<G>(made: Map<string, G>, name: string, read: (bytes: Uint8Array, name: string) => G): G {
  const key = name.toLowerCase();
  let grid = made.get(key);
  if (!grid) {
    const file = files.get(key)!;
    made.set(key, (grid = read(file.bytes(), file.name)));
  }
  return grid;
}

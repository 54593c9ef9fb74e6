import { readFileSync, readdirSync } from 'node:fs';
import { addGrids } from '@pontrel/core/crs/datum/grid-registry';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform } from '@pontrel/core/crs/transform';

/** Puts the grid files of a folder on the shelf. */
export function registerGrids(folder: string): void {
  addGrids(
    readdirSync(folder)
      .filter((name) => name.endsWith('.gsb'))
      .map((name) => ({ name, place: folder, bytes: () => readFileSync(`${folder}/${name}`) })),
  );
}

/** Points a second on one thread, over `count` points spread over a box of degrees. */
export function projectionSpeed(
  from: string,
  to: string,
  [west, south, east, north]: [number, number, number, number],
  count: number,
): { forward: number; inverse: number } {
  // the middle of the box is where the operations are chosen for
  const area = { name: '', west, south, east, north };
  const way = compileTransform(lookupCrs(from)!, lookupCrs(to)!, { area });
  const back = compileTransform(lookupCrs(to)!, lookupCrs(from)!, { area });
  const points = new Float64Array(2 * count);
  const fill = (): void => {
    let seed = 7;
    for (let i = 0; i < 2 * count; i += 2) {
      seed = (seed * 16807) % 2147483647;
      points[i] = west + (seed / 2147483647) * (east - west);
      seed = (seed * 16807) % 2147483647;
      points[i + 1] = south + (seed / 2147483647) * (north - south);
    }
  };
  const best = { forward: 0, inverse: 0 };
  for (let k = 0; k < 3; k++) {
    fill();
    const start = performance.now();
    way.apply(points, 0, count, 2);
    const middle = performance.now();
    back.apply(points, 0, count, 2);
    const end = performance.now();
    best.forward = Math.max(best.forward, (1000 * count) / (middle - start));
    best.inverse = Math.max(best.inverse, (1000 * count) / (end - middle));
  }
  return best;
}

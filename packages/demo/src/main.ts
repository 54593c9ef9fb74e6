import { mkdir, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { quayDesign } from './quay-design';
import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { addGrids } from '@pontrel/core/crs/datum/grid-registry';
import { coastPath, parcelFiles, parcels, zones } from './atlas';
import { folderAt } from '@pontrel/host-node/files';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { lotsAndSewers } from './lots-and-sewers';
import { oldMains } from './mains';
import { writePictures } from './pictures';
import { seedDemo } from './seed';
import { sitePlan } from './site-plan';
import { surveyDrawing } from './survey';

const SEED = 1987;
const USAGE = 'demo write FOLDER [SIZE] | demo seed FOLDER ADDRESS';

/** Writes the demo files into `folder`; the same seed gives the same bytes. */
async function write(folder: string, size: number): Promise<void> {
  const grids = fileURLToPath(new URL('./grids/', import.meta.url));
  addGrids(
    readdirSync(grids)
      .filter((name) => name.endsWith('.gsb'))
      .map((name) => ({ name, place: grids, bytes: () => readFileSync(path.join(grids, name)) })),
  );
  await mkdir(folder, { recursive: true });
  const files: [string, string][] = [
    ['quay-design.dxf', quayDesign(SEED, size)],
    ['street-survey.dxf', surveyDrawing(SEED)],
    ['warehouse-site.dxf', sitePlan()],
    ['mains-1987.dxf', oldMains(SEED)],
    ['lots-and-sewers.dxf', lotsAndSewers(SEED, parcels(SEED))],
    ['zones.geojson', zones()],
    ['coast-path.kml', coastPath(SEED)],
  ];
  for (const [name, text] of files) await writeFile(path.join(folder, name), text);
  for (const [extension, bytes] of Object.entries(parcelFiles(parcels(SEED, size))))
    await writeFile(path.join(folder, `parcels${extension}`), bytes);
  registerNodeImageEngine();
  await writePictures(folderAt(folder), SEED);
}

const [command, folder, last] = process.argv.slice(2);
if (command === 'write' && folder) await write(folder, Number(last ?? 1));
else if (command === 'seed' && folder && last) await seedDemo(last, folder);
else {
  console.error(USAGE);
  process.exitCode = 2;
}

import { mkdir, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { quayDesign } from './quay-design';
import { seedDemo } from './seed';
import { surveyDrawing } from './survey';

const SEED = 1987;
const USAGE = 'demo write FOLDER [SIZE] | demo seed FOLDER ADDRESS';

/** Writes the demo files into `folder`; the same seed gives the same bytes. */
async function write(folder: string, size: number): Promise<void> {
  await mkdir(folder, { recursive: true });
  const files: [string, string][] = [['quay-design.dxf', quayDesign(SEED, size)], ['street-survey.dxf', surveyDrawing(SEED)]];
  for (const [name, text] of files) await writeFile(path.join(folder, name), text);
}

const [command, folder, last] = process.argv.slice(2);
if (command === 'write' && folder) await write(folder, Number(last ?? 1));
else if (command === 'seed' && folder && last) await seedDemo(last, folder);
else {
  console.error(USAGE);
  process.exitCode = 2;
}

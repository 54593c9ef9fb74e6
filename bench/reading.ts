import { readFile } from 'node:fs/promises';
import DxfParser from 'dxf-parser';
import { dxf } from '@pontrel/core/formats/dxf/index';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { Findings } from '@pontrel/core/model/finding';
import { quayDesign } from '@pontrel/demo/quay-design';
import { registerNodeCodePages } from '@pontrel/host-node/code-pages';
import { fileSource } from '@pontrel/host-node/files';

registerNodeCodePages();

/** A drawing of many kinds of objects: the demo quay, so many times as long. */
export const manyKinds = (times: number): string => quayDesign(1987, times);

const RUNS = 3;

async function best(work: () => Promise<number>): Promise<{ seconds: number; objects: number }> {
  let seconds = Infinity,
    objects = 0;
  for (let k = 0; k < RUNS; k++) {
    const start = performance.now();
    objects = await work();
    seconds = Math.min(seconds, (performance.now() - start) / 1000);
  }
  return { seconds, objects };
}

/** Reads a drawing from disk into records. */
export const ourReading = (file: string): ReturnType<typeof best> =>
  best(async () => {
    const open = await dxf.features.open(await fileSource(file));
    let n = 0;
    for await (const batch of open.read(new Findings(), UNWATCHED)) n += batch.count;
    return n;
  });

/** The same by dxf-parser, which wants the whole text. */
export const parserReading = (file: string): ReturnType<typeof best> =>
  best(async () => new DxfParser().parseSync(await readFile(file, 'utf8'))!.entities.length);

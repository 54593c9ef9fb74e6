import { access } from 'node:fs/promises';
import { Profiler } from '@pontrel/core/content/features/profile';
import type { CrossingSource } from '@pontrel/core/crossing/crossing-source';
import { extentOf } from '@pontrel/core/crossing/placement-of';
import type { FeatureFormat, OpenSource, SourceFacts } from '@pontrel/core/formats/format';
import { recogniseFormat } from '@pontrel/core/formats/index';
import type { ByteSource, Watch } from '@pontrel/core/io/bytes';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { Findings } from '@pontrel/core/model/finding';
import { FreeNames } from '@pontrel/core/model/free-names';
import { Problem } from '@pontrel/core/model/problem';
import type { Reading } from '@pontrel/core/model/reading';
import type { LayerStyle } from '@pontrel/core/symbology/layer-style';
import { fileSource } from '@pontrel/host-node/files';
import { Spool } from '@pontrel/host-node/store/spool';
import { progressBar } from './progress';
import { removedAtEnd } from './temporary';

/** A file that was read once from end to end. */
export interface Gathered extends Omit<CrossingSource, 'records'> {
  path: string;
  format: FeatureFormat;
  facts: SourceFacts;
}

/** A file whose records are at hand as often as they are asked for. */
export type GatheredSource = Gathered & CrossingSource;

/** Opens a file as a source. @throws Problem when it is not there, or of no kind that is read */
async function opened(path: string, reading: Reading | undefined): Promise<{ bytes: ByteSource; format: FeatureFormat; open: OpenSource }> {
  await access(path).catch(() => {
    throw new Problem('file-missing', `${path} is not there or cannot be read.`, { file: path });
  });
  const bytes = await fileSource(path);
  const format = await recogniseFormat(bytes);
  return { bytes, format, open: await format.features.open(bytes, reading) };
}

/**
 * Reads a file from end to end and sums it up.
 * @param keep gets every batch, for using it again
 */
export async function gather(
  path: string,
  keep: (batch: FeatureBatch) => Promise<void> | void = () => {},
  reading?: Reading,
  watch?: Watch,
): Promise<Gathered> {
  const { bytes, format, open } = await opened(path, reading);
  const findings = new Findings();
  const profiler = new Profiler();
  const bar = watch ? null : progressBar(`Reading ${bytes.name}`);
  try {
    for await (const batch of open.read(findings, watch ?? bar!.watch)) {
      profiler.add(batch);
      await keep(batch);
    }
  } finally {
    bar?.stop();
  }
  const library = open.library?.() ?? null;
  const layers = profiler.layers();
  const facts = open.facts();
  return {
    path,
    name: bytes.name,
    format,
    facts,
    layers,
    extent: extentOf(layers),
    unit: facts.unit,
    findings: findings.list(),
    library,
    patterns: Object.fromEntries(library?.lines ?? []),
    styles: Object.fromEntries<LayerStyle>(library?.styles ?? []),
    reopen: async () => (await opened(path, reading)).open,
    file: () => fileSource(path),
  };
}

/** Reads files from end to end, each into a spool of its own; the spools are gone when `use` is done with them. */
export async function gatherAll<T>(
  files: readonly string[],
  use: (sources: GatheredSource[]) => Promise<T>,
  readingOf: (file: string) => Reading | undefined = () => undefined,
): Promise<T> {
  const spools: Spool[] = [];
  try {
    const sources: GatheredSource[] = [];
    // two files of one name in two folders are two sources
    const names = new FreeNames([], (name, n) => `${name} (${n})`);
    for (const file of files) {
      const spool = await Spool.create();
      removedAtEnd(spool.folder);
      spools.push(spool);
      const gathered = await gather(file, (batch) => spool.add(batch), readingOf(file));
      await spool.finish();
      sources.push({ ...gathered, name: names.take(gathered.name), records: () => spool.batches() });
    }
    return await use(sources);
  } finally {
    for (const spool of spools) await spool.remove();
  }
}

/** @throws Problem `layer-unknown` where a name is that of no layer of the sources */
export function checkLayers(sources: readonly Pick<GatheredSource, 'layers'>[], names: readonly string[] | undefined): void {
  const all = sources.flatMap((s) => s.layers.map((l) => l.name));
  for (const name of names ?? [])
    if (!all.includes(name)) throw new Problem('layer-unknown', `There is no layer "${name}". The layers are: ${all.join(', ')}.`);
}

import { access } from 'node:fs/promises';
import { recogniseFormat } from '@pontrel/core/formats/index';
import type { Reading } from '@pontrel/core/model/reading';
import type { Format, OpenSource, SourceFacts } from '@pontrel/core/formats/format';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { type LayerProfile, Profiler } from '@pontrel/core/content/features/profile';
import { fileSource } from '@pontrel/host-node/files';
import { Spool } from '@pontrel/host-node/store/spool';

/** A file read once from end to end. */
export interface Surveyed {
  path: string;
  name: string;
  format: Format;
  open: OpenSource;
  facts: SourceFacts;
  layers: LayerProfile[];
  findings: Finding[];
}

/** @param keep gets every batch, for using it again */
export async function survey(path: string, keep?: (batch: FeatureBatch) => Promise<void>, reading?: Reading): Promise<Surveyed> {
  await access(path).catch(() => {
    throw new Problem('file-missing', `${path} is not there or cannot be read.`, { file: path });
  });
  const source = await fileSource(path);
  const format = await recogniseFormat(source);
  const open = await format.open(source, reading);
  const findings = new Findings();
  const profiler = new Profiler();
  for await (const batch of open.read(findings, UNWATCHED)) {
    profiler.add(batch);
    await keep?.(batch);
  }
  return { path, name: source.name, format, open, facts: open.facts(), layers: profiler.layers(), findings: findings.list() };
}

/** Reads files once from end to end, each into a spool of its own; the spools are gone when `use` is done with them. */
export async function surveyAll<T>(
  files: readonly string[],
  use: (sources: Surveyed[], spools: Spool[]) => Promise<T>,
  readingOf?: (file: string) => Reading | undefined,
): Promise<T> {
  const spools: Spool[] = [];
  try {
    const sources: Surveyed[] = [];
    for (const file of files) {
      const spool = await Spool.create();
      spools.push(spool);
      sources.push(await survey(file, (batch) => spool.add(batch), readingOf?.(file)));
      await spool.finish();
    }
    return await use(sources, spools);
  } finally {
    for (const spool of spools) await spool.remove();
  }
}

import { existsSync } from 'node:fs';
import path from 'node:path';
import type { SourceLayer } from '@pontrel/contract/crossing';
import { type Crs, metresPerUnit } from '@pontrel/core/crs/crs';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { identify, identifyCrs } from '@pontrel/core/crs/registry/identify';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import type { Format } from '@pontrel/core/formats/format';
import { extensionOf } from '@pontrel/core/formats/extension';
import { formatById, recogniseFormat } from '@pontrel/core/formats/index';
import type { Reading } from '@pontrel/core/model/reading';
import type { ByteSource } from '@pontrel/core/io/bytes';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { type BlockSymbol, symbolKey } from '@pontrel/core/symbology/library';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { Profiler } from '@pontrel/core/content/features/profile';
import { fileSource } from '@pontrel/host-node/files';
import type { StoredFacts } from '../store/records';
import { FeatureStore, FeatureStoreWriter } from '@pontrel/host-node/store/feature-store';
import { thumbnail } from '../tiles/thumbnail';
import { type Progress, watchOver } from './watch';

/** Where a source's files lie: under names made here, with the extension kept. */
export interface StoredFiles {
  folder: string;
  /** What people call it. */
  name: string;
  /** Extension of the file that is opened, with the dot. */
  extension: string;
  /** Extensions of its companions. */
  companions: string[];
  /** How it is to be read, where that was settled by hand. */
  reading?: Reading | undefined;
}

/** Extensions that stored files may have, so that a name never decides what a file is called here. */
const EXTENSION = /^\.[a-z0-9]{1,8}$/;

/** The extension of a name as stored files have it; "" where it has none that is plain. */
export function safeExtension(name: string): string {
  const extension = extensionOf(name);
  return EXTENSION.test(extension) ? extension : '';
}

/** The extension that the file of a source is stored with. */
export const storedExtension = (name: string, format: Format): string => safeExtension(name) || format.extensions[0]!;

/** The files of a source that was read into `folder` as a file of that format. */
export function storedFiles(folder: string, name: string, formatId: string, reading: Reading | undefined): StoredFiles {
  const format = formatById(formatId)!;
  const companions = format.companions.filter((c) => existsSync(path.join(folder, `source${c}`)));
  return { folder, name, extension: storedExtension(name, format), companions, reading };
}

/** The file itself among those of a source. */
export const mainFile = ({ folder, extension }: Pick<StoredFiles, 'folder' | 'extension'>): string =>
  path.join(folder, `source${extension}`);

export interface ReadResult {
  format: string;
  facts: StoredFacts;
  layers: SourceLayer[];
  findings: Finding[];
}

export const STORE_FILE = 'features.sqlite';

export function openStored(files: StoredFiles): Promise<ByteSource> {
  const stem = files.name.slice(0, files.name.length - extensionOf(files.name).length);
  return fileSource(mainFile(files), files.name, async (extension) =>
    files.companions.includes(extension) ? fileSource(path.join(files.folder, `source${extension}`), stem + extension) : null,
  );
}

/** How a stated text was understood, for people; null when it states nothing that is a definition. */
function understood(text: string | null): string | null {
  if (text === null) return null;
  try {
    const read = readPositions(text);
    const [first] = identify(read);
    return first && first.confidence >= 40
      ? `${first.confidence >= 70 ? 'Understood' : 'Perhaps meant'} as ${identifyCrs(read)?.id ?? first.crs.id}: ${first.reason}.`
      : 'No registered system has this content; it is taken as it is written.';
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
}

/** What a file states of its system, as it is kept. */
export const statedFacts = (crs: Crs | null, crsText: string | null): Pick<StoredFacts, 'crs' | 'crsText' | 'understood'> => ({
  crs: crs && { id: crs.id, name: crs.name, text: definitionOf(crs) },
  crsText,
  understood: understood(crsText),
});

/** Patterns of lines that are kept for showing. */
const MOST_PATTERNS = 200;

/** Metres by which things lie apart at the least, for telling outliers. */
const LEAST_SPREAD_M = 10;
const OUTLIERS_LISTED = 200;
const BLOCKS_LISTED = 200;
/** Where nothing is stated, numbers are taken for metres. */
const PLAIN = lookupCrs('EPSG:3857')!;

/** What a page says of a block. */
function told(symbol: BlockSymbol | undefined): { parts: number; prompts: Record<string, string> } {
  return {
    parts: symbol?.parts.count ?? 0,
    prompts: Object.fromEntries(
      (symbol?.attributes ?? []).filter((a) => a.prompt !== '' && a.prompt !== a.tag).map((a) => [a.tag, a.prompt]),
    ),
  };
}

/** Adds the blocks that a batch places, by layer. */
function countBlocks(batch: FeatureBatch, counts: Map<string, Map<string, number>>): void {
  const column = batch.columns.get('block');
  if (!column) return;
  let own = counts.get(batch.layer);
  if (!own) counts.set(batch.layer, (own = new Map()));
  for (const name of column) if (typeof name === 'string') own.set(name, (own.get(name) ?? 0) + 1);
}

/** Reads a source from end to end into its feature store, and sums up its layers. */
export async function readSource(files: StoredFiles, report: (progress: Progress) => void): Promise<ReadResult> {
  const source = await openStored(files);
  const format = await recogniseFormat(source);
  const open = await format.features.open(source, files.reading);
  const findings = new Findings();
  const profiler = new Profiler();
  const store = path.join(files.folder, STORE_FILE);
  const writer = new FeatureStoreWriter(store);
  const blocks = new Map<string, Map<string, number>>();
  try {
    for await (const batch of open.read(findings, watchOver(report, 'Reading'))) {
      profiler.add(batch);
      countBlocks(batch, blocks);
      writer.add(batch);
    }
  } catch (error) {
    writer.abandon();
    throw error;
  }
  const library = open.library?.() ?? null;
  if (library) writer.setLibrary(library);
  writer.close();
  const layers = profiler.layers();
  if (layers.length === 0)
    throw new Problem(
      'source-empty',
      `${source.name} holds no object that is read here.${findings
        .list()
        .map((f) => ` ${f.count} × ${f.message}`)
        .join('')}`,
      { file: source.name },
    );
  const facts = open.facts();
  const reader = new FeatureStore(store);
  try {
    const unit_m = metresPerUnit(facts.crs ?? PLAIN, facts.unit?.metres ?? null);
    const { bounds, ...outliers } = reader.outliers(LEAST_SPREAD_M / unit_m, OUTLIERS_LISTED);
    return {
      format: format.id,
      facts: {
        ...(facts.fit
          ? { fit: { kind: facts.fit.kind, pairs: facts.fit.pairs.map((p) => ({ from: [...p.from], to: [...p.to], name: p.name })) } }
          : {}),
        outliers,
        core: outliers.count > 0 ? bounds : null,
        ...statedFacts(facts.crs, facts.crsText),
        unit: facts.unit,
        ...(facts.externals ? { externals: facts.externals } : {}),
        ...(facts.pictures ? { pictures: facts.pictures } : {}),
        ...(facts.table ? { table: facts.table } : {}),
        ...(library && library.lines.size > 0 ? { patterns: Object.fromEntries([...library.lines].slice(0, MOST_PATTERNS)) } : {}),
        ...(library && library.styles.size > 0 ? { styles: Object.fromEntries(library.styles) } : {}),
        ...(files.reading ? { reading: files.reading } : {}),
        version: facts.version,
      },
      layers: layers.map((profile) => ({
        profile,
        plan: thumbnail(reader, profile),
        states: library?.layers.get(symbolKey(profile.name))?.states ?? [],
        blocks: [...(blocks.get(profile.name) ?? [])]
          .map(([name, count]) => ({ name, count, ...told(library?.blocks.get(symbolKey(name))) }))
          .sort((a, b) => b.count - a.count)
          .slice(0, BLOCKS_LISTED),
      })),
      findings: findings.list(),
    };
  } finally {
    reader.close();
  }
}

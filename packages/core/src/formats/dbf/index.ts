import type { ByteSource, Watch } from '../../io/bytes';
import { type FeatureBatch, NO_GEOMETRY } from '../../model/batch';
import { BATCH_RECORDS, BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import type { FeatureFormat, OpenSource, SourceFacts } from '../format';
import { textOf } from '../prj';
import type { Reading } from '../../model/reading';
import { DbfReader } from '../shapefile/dbf-read';

/** A table of a shapefile without its shapes, or a table that never had any; it is only read. Source: dBASE III. */
export const dbf: FeatureFormat = {
  id: 'dbf',
  name: 'DBF table',
  extensions: ['.dbf'],
  companions: ['.cpg'],
  sniff: (_head, name) => /\.dbf$/i.test(name),
  features: {
    counts: 'record',
    carries: {
      kinds: { point: null, text: null, line: null, polygon: null, none: 'none' },
      oneKindPerSet: true,
      oneFile: false,
      curves: false,
      heights: false,
      measures: false,
      verticalSystem: false,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small' },
      fieldNames: { maxBytes: 10, caseMatters: false, valid: /[A-Za-z0-9_]/, replacement: '_' },
      fieldCount: 255,
      text: { maxBytes: 254 },
      number: { maxWidth: 20, maxDecimals: 15 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date'],
      maxBytes: Infinity,
    },
    readings: ['code-page'],
    open: (source, reading) => openDbf(source, reading),
  },
};

async function openDbf(source: ByteSource, reading: Reading | undefined): Promise<OpenSource> {
  const table = await DbfReader.open(source, reading?.codePage ?? (await textOf(await source.sibling('.cpg'))));
  return {
    facts: (): SourceFacts => ({ crs: null, crsText: null, unit: null, version: null }),
    read: (findings, watch) => readRows(source, table, findings, watch),
  };
}

async function* readRows(source: ByteSource, table: DbfReader, findings: Findings, watch: Watch): AsyncGenerator<FeatureBatch> {
  const layer = source.name.replace(/\.[^.]+$/, '');
  const declared = table.declared();
  for (let first = 0; first < table.count; first += BATCH_RECORDS) {
    watch.check();
    const n = Math.min(BATCH_RECORDS, table.count - first);
    const { columns, deleted } = await table.rows(first, n);
    const builder = new BatchBuilder(layer);
    builder.declare(declared);
    for (let r = 0; r < n; r++) {
      if (deleted?.[r]) continue;
      for (const [name, values] of columns) builder.set(name, values[r]!);
      builder.endFeature(NO_GEOMETRY, 'row', first + r + 1);
    }
    const gone = n - builder.count;
    if (gone > 0)
      findings.add({
        code: 'dbf-deleted',
        severity: 'info',
        message: 'A row is marked as deleted, and left out.',
        count: gone,
        location: layer,
        left: true,
      });
    if (builder.count > 0) yield builder.take();
    watch.progress(Math.round((source.size * (first + n)) / table.count), source.size);
  }
  for (const finding of table.findings()) findings.add(finding);
}

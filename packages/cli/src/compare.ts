import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { inPieces, placeBatch, resizeBatch, sourceTransform, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { hasGeometry, joinFields } from '@pontrel/core/content/features/profile';
import { compareRevisions, type RecordDifference, type Revision } from '@pontrel/core/content/revisions/compare-revisions';
import { type Crs, isOnEarth, metresPerUnit } from '@pontrel/core/crs/crs';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { sameSystem } from '@pontrel/core/crs/registry/identify';
import { label } from '@pontrel/core/crs/transform';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import type { Finding } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { inOtherUnit } from '@pontrel/core/symbology/sizes';
import { openDatabase } from '@pontrel/host-node/sqlite';
import { findingText } from './account-json';
import { gatherAll, type GatheredSource } from './gathered';
import { type Result, Usage } from './result';
import { removedAtEnd } from './temporary';

/** The options of the command, as they were typed. */
export interface CompareOptions {
  key?: string;
  tolerance?: string;
  from?: string;
}

/** Metres within which a record has not moved, where nobody says another length. */
const TOLERANCE_M = 0.001;

/** Metres by which chords may stand off, where curves have to be carried into the system of the older file. */
const CHORD_M = 0.0005;

/** Records that are listed; more are counted only. */
const MOST_LISTED = 100_000,
  MOST_PRINTED = 20;

/** Compares two revisions of a file, record by record. */
export async function compare(files: readonly string[], { key, tolerance, from }: CompareOptions): Promise<Result> {
  if (files.length !== 2) throw new Usage('compare wants two files: the older one first.');
  const tolerance_m = tolerance === undefined ? TOLERANCE_M : Number(tolerance);
  if (!(tolerance_m > 0)) throw new Usage(`--tolerance wants a length in metres, such as 0.001; "${tolerance}" is none.`);
  const told = from === undefined ? null : readPositions(from, '--from');
  return gatherAll(files, async ([old, next]) => {
    const [before, after] = [old!, next!];
    if (key !== undefined)
      for (const source of [before, after])
        if (!source.layers.some((l) => fieldsOf(l).includes(key))) {
          const all = [...new Set(source.layers.flatMap(fieldsOf))];
          throw new Problem('key-unknown', `${source.name} has no field ${key}. It has ${all.join(', ') || 'no fields'}.`, {
            file: source.name,
          });
        }
    const [a, b] = [systemOf(before, told), systemOf(after, told)];
    const findings: Finding[] = [before, after].flatMap((s) =>
      s.findings.map((f) => (f.left ? { ...f, code: 'not-compared', message: `${s.name}: ${f.message} It is not compared.` } : f)),
    );
    const same = a === null || b === null || sameSystem(a, b);
    if ((a === null) !== (b === null))
      findings.push({
        code: 'crs-stated-once',
        severity: 'caution',
        message: `Only ${(a ? before : after).name} states its system: the numbers of the other are taken for the same. Say with --from which one both are in.`,
        count: 1,
      });
    const drawn = Math.max(...[before, after].map(({ library }) => (library ? library.blocks.size + library.styles.size : 0)));
    if (drawn > 0)
      findings.push({
        code: 'library-not-compared',
        severity: 'caution',
        message: 'Only records are compared: what blocks draw, and the styles of layers, may be others.',
        count: drawn,
      });
    const unit_m = unitOf(before, a);
    const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-compare-'));
    const done = removedAtEnd(folder);
    const db = openDatabase(path.join(folder, 'revisions.sqlite'), false);
    try {
      const listed: RecordDifference[] = [];
      const report = await compareRevisions(
        db,
        revisionOf(before, () => before.records()),
        revisionOf(after, () => (same ? inUnitOf(after, unit_m, b) : carried(after, b!, a!))),
        { ...(key === undefined ? {} : { key }), tolerance: tolerance_m / unit_m },
        (difference) => void (listed.length < MOST_LISTED && listed.push(difference)),
      );
      findings.push(...report.findings);
      return resultOf(report, listed, findings, unit_m, a && isOnEarth(a) ? label(a) : null);
    } finally {
      db.close();
      await rm(folder, { recursive: true, force: true });
      done();
    }
  });
}

const fieldsOf = (layer: GatheredSource['layers'][number]): string[] => joinFields(layer.groups).map((f) => f.name);

const revisionOf = (source: GatheredSource, read: Revision['read']): Revision => ({
  layers: source.layers.map((l) => ({ name: l.name, fields: fieldsOf(l) })),
  read,
});

const systemOf = (source: GatheredSource, told: Crs | null): Crs | null => (hasGeometry(source.layers) ? (told ?? source.facts.crs) : null);

/** Metres in one unit of the numbers of a file; those without a system and a unit are taken for metres. */
const unitOf = ({ facts }: GatheredSource, crs: Crs | null): number => facts.unit?.metres ?? (crs ? metresPerUnit(crs, null) : 1);

/** Records whose numbers are in another unit than those of the older file: a drawing that went from millimetres to metres has not moved. */
async function* inUnitOf(source: GatheredSource, wanted_m: number, crs: Crs | null): AsyncGenerator<FeatureBatch> {
  const ratio = unitOf(source, crs) / wanted_m;
  for await (const batch of source.records()) yield Math.abs(ratio - 1) < 1e-9 ? batch : inOtherUnit(batch, ratio);
}

/** Records in the system of the older file. */
async function* carried(source: GatheredSource, from: Crs, to: Crs): AsyncGenerator<FeatureBatch> {
  const way = sourceTransform(
    source.name,
    { crs: from, parameters: { unit_m: source.facts.unit?.metres ?? null }, extent: source.extent },
    to,
  );
  for await (const batch of inPieces(toAsync(source.records()), way, CHORD_M))
    yield transformBatch(resizeBatch(placeBatch(batch, way, CHORD_M), way), way.transform).batch;
}

async function* toAsync(batches: ReturnType<GatheredSource['records']>): AsyncGenerator<FeatureBatch> {
  yield* batches;
}

function resultOf(
  { counts, fields }: Awaited<ReturnType<typeof compareRevisions>>,
  listed: readonly RecordDifference[],
  findings: readonly Finding[],
  unit_m: number,
  system: string | null,
): Result {
  const records = listed.map(({ moved, ...record }) => ({
    ...record,
    ...(moved === undefined ? {} : { moved_m: moved === null ? null : Number((moved * unit_m).toPrecision(9)) }),
  }));
  const total = counts.added + counts.removed + counts.moved + counts.changed;
  const lines = records.slice(0, MOST_PRINTED).map((r) => {
    const at = r.at ? ` at ${r.at.map((v) => v.toFixed(3)).join(' ')}` : '';
    const where = r.new ?? r.old;
    const moved = r.moved_m === undefined ? '' : r.moved_m === null ? ', of another shape' : `, by ${r.moved_m.toPrecision(4)} m`;
    const values = (r.changes ?? []).map((c) => `${c.field}: ${c.old ?? 'nothing'} became ${c.new ?? 'nothing'}`).join('; ');
    return `  ${r.status} ${r.layer} ${r.key ?? where}${at}${moved}${values === '' ? '' : `; ${values}`}`;
  });
  return {
    json: { ...counts, crs: system, fields, records, listed: records.length, findings },
    text: [
      `${counts.added} added, ${counts.removed} removed, ${counts.moved} moved, ${counts.changed} changed, ${counts.same} the same`,
      ...fields.map(({ layer, added, removed }) =>
        [
          `  ${layer}:`,
          ...(added.length > 0 ? [`new fields ${added.join(', ')}`] : []),
          ...(removed.length > 0 ? [`without ${removed.join(', ')}`] : []),
        ].join(' '),
      ),
      ...lines,
      ...(total > lines.length ? [`  and ${total - lines.length} more, which --json lists`] : []),
      ...findings.filter((f) => f.severity !== 'info').map(findingText),
    ].join('\n'),
    exit: 0,
  };
}

import { createHash } from 'node:crypto';
import { type AccountRow, accountTotals } from '@pontrel/core/content/account';
import type { RunSummary, SourceState } from '@pontrel/contract/crossing';
import type { Crs } from '@pontrel/core/crs/crs';
import { label } from '@pontrel/core/crs/transform';
import type { SourceSummary } from '@pontrel/core/crossing/crossing-source';
import { extentOf } from '@pontrel/core/crossing/placement-of';
import { isUnused } from '@pontrel/core/crossing/chosen-layers';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { recipeFingerprint } from '@pontrel/core/crossing/recipe-fingerprint';
import { imagesExtent } from '@pontrel/core/content/raster/profile';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import type { Reading } from '@pontrel/core/model/reading';
import { symbolKey } from '@pontrel/core/symbology/library';
import { statedDoubt } from '@pontrel/core/placement/stated-system';
import { statedPlace } from './stated-placement';
import type { CrossingRecord, RunRecord, SourceRecord } from '../store/records';
import type { TileSource } from '../tiles/cut-tile';
import { inputsMark } from './inputs-mark';

/** Bounds of all that a source holds in its own numbers; null where nothing of it lies anywhere. */
export function extentOfSource({ layers, facts }: Pick<SourceRecord, 'layers' | 'facts'>): Bounds | null {
  return facts.images ? imagesExtent(facts.images.members) : extentOf(layers.map((l) => l.profile));
}

/** A source as plans and forecasts know it. */
export function summaryOf(s: SourceRecord): SourceSummary & { layers: SourceRecord['layers'][number]['profile'][] } {
  const layers = s.layers.map((l) => l.profile);
  return {
    name: s.name,
    layers,
    extent: extentOfSource(s),
    unit: s.facts.unit,
    findings: s.findings,
    ...(s.facts.patterns ? { patterns: s.facts.patterns } : {}),
    ...(s.facts.styles ? { styles: s.facts.styles } : {}),
  };
}

function doubtView(s: SourceRecord): SourceState['doubt'] {
  const doubt = statedDoubt(statedPlace(s.facts), extentOfSource(s));
  return doubt && { code: doubt.code, message: doubt.message };
}

/** What a source was worked out of, and whether that is still so. */
function workedOutView(s: SourceRecord, recipe: Recipe, sources: readonly SourceRecord[]): Pick<SourceState, 'compared' | 'derived'> {
  const rule = recipe.sources[s.name]?.workedOut;
  if (rule?.by === 'comparison') return { compared: rule, derived: null };
  if (!rule) return { compared: null, derived: null };
  const { figures, faults, inputs } = s.facts.made ?? { figures: {}, faults: {}, inputs: null };
  return { compared: null, derived: { ...rule, figures, faults, current: inputs === inputsMark(recipe, sources, rule) } };
}

/** A source as the page knows it, among all those of its crossing. */
export function sourceState(s: SourceRecord, recipe: Recipe, sources: readonly SourceRecord[]): SourceState {
  return {
    id: s.id,
    name: s.name,
    format: s.format,
    formatName: anyFormatById(s.format)?.name ?? s.format,
    bytes: s.bytes,
    added: s.added,
    replaces: s.facts.replaces?.names ?? [],
    version: s.facts.version,
    unit: s.facts.unit,
    crs: s.facts.crs,
    crsText: s.facts.crsText,
    understood: s.facts.understood ?? null,
    doubt: doubtView(s),
    outliers: s.facts.outliers?.count ?? 0,
    layers: s.layers.map((l) => {
      const style = s.facts.styles?.[symbolKey(l.profile.name)];
      return style ? { ...l, style } : l;
    }),
    readings: [...(anyFormatById(s.format)?.features?.readings ?? [])],
    reading: s.facts.reading ?? null,
    ...workedOutView(s, recipe, sources),
    images: s.facts.images ?? null,
    columns: s.facts.table?.columns ?? [],
    places: s.facts.table?.places ?? null,
    findings: s.findings,
  };
}

/** Whether two ways of reading are one; none is that of the file itself. */
export const sameReading = (a: Reading | undefined, b: Reading | undefined): boolean => JSON.stringify(a ?? {}) === JSON.stringify(b ?? {});

/** A mark of all that a run is made by: the rules, and the files that they are about. */
export function rulesMark(recipe: Recipe, deliverable: string, sources: readonly SourceRecord[]): string {
  const own = recipe.deliverables.find((d) => d.id === deliverable);
  const used = sources.filter((s) => !own || !isUnused(recipe, own, s.name));
  const files = used.map((s) => [s.name, s.added, s.facts.replaces?.at ?? null]);
  return createHash('sha256')
    .update(JSON.stringify([recipeFingerprint(recipe, deliverable), files]))
    .digest('hex')
    .slice(0, 16);
}

/** Whether the rules and the sources would still make what a run has made. */
export function isCurrent(run: RunRecord, crossing: CrossingRecord, sources: readonly SourceRecord[]): boolean {
  return run.rules === '' ? run.revision === crossing.revision : run.rules === rulesMark(crossing.recipe, run.deliverable, sources);
}

/** A pixel without a value has nothing that could be carried. */
const valuesOnly = (row: AccountRow): AccountRow => ({ ...row, left: row.left.filter((l) => l.reason !== 'nodata') });

/** A run as the page knows it. */
export function runSummary(r: RunRecord, crossing: CrossingRecord, sources: readonly SourceRecord[]): RunSummary {
  const map = isImageProof(r.proof) ? r.proof.drawn : undefined;
  const totals = map && accountTotals(map.account);
  return {
    id: r.id,
    deliverable: r.deliverable,
    name: r.name,
    finished: r.finished,
    current: isCurrent(r, crossing, sources),
    files: r.files,
    bytes: r.files.reduce((n, f) => n + f.bytes, 0),
    status: r.proof.status,
    records: isImageProof(r.proof) ? { in: totals?.read ?? 0, out: totals?.crossed ?? 0 } : r.proof.records,
    picture: isImageProof(r.proof)
      ? { width: r.proof.size.width, height: r.proof.size.height, worst_px: r.proof.registration.largest_px, isMap: map !== undefined }
      : null,
    account: totals ?? (r.proof.account ? accountTotals(r.proof.account.map(valuesOnly)) : null),
    maxDeviation_m: r.proof.maxDeviation_m,
    differences: r.proof.differences.filter((d) => !d.expected).length,
    seconds: r.seconds,
    pinned: r.pinned,
    hasRules: r.recipe !== null,
  };
}

/** A mark of all that lies on the map, and where. */
export function stampOf(frame: Crs | null, placed: TileSource[]): string {
  return createHash('sha256')
    .update(JSON.stringify([frame && label(frame), placed]))
    .digest('hex')
    .slice(0, 16);
}

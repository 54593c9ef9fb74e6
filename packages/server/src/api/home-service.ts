import type { AccountTotals, CrossingRow, RecentRun, RunSummary } from '@pontrel/contract/crossing';
import { hasGeometry } from '@pontrel/core/content/features/profile';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { imageRule, layerRule } from '@pontrel/core/crossing/recipe';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import type { Catalog } from '../store/catalog';
import type { CrossingRecord, DamagedCrossing } from '../store/records';
import { frameName } from './crs-names';
import { isPlaced } from './frame';
import { runSummary } from './views';

/** What Home lists: all crossings, and their runs of the last days. */
export class HomeService {
  constructor(private readonly catalog: Catalog) {}

  /** The crossings, the one that was opened last first; one of whose files none could be read is none. */
  rows(): CrossingRow[] {
    const refused = this.catalog.refused();
    return this.catalog
      .crossingsOrDamaged()
      .filter((c) => !refused.has(c.id) && c.binned === null)
      .map((c) => ('why' in c ? damagedRow(c) : this.rowOf(c)));
  }

  /** The runs of the last days of all crossings, the last first. */
  recentRuns(): RecentRun[] {
    const names = new Map(this.catalog.crossingsOrDamaged().flatMap((c) => (c.binned === null ? [[c.id, c.name] as const] : [])));
    return this.catalog.recentRuns(RECENT).flatMap((r) => {
      const crossingName = names.get(r.crossing);
      if (crossingName === undefined) return [];
      const { id, crossing, deliverable, name, finished, seconds, proof } = r;
      const wrote = isImageProof(proof)
        ? { records: null, size: { width: proof.size.width, height: proof.size.height } }
        : { records: proof.records.out, size: null };
      return [{ id, crossing, crossingName, deliverable, name, finished, seconds, status: proof.status, ...wrote }];
    });
  }

  private rowOf(c: CrossingRecord): CrossingRow {
    const sources = this.catalog.sources(c.id);
    const layers = sources.flatMap((s) => s.layers.map((l) => ({ l, taken: isTaken(layerRule(c.recipe, s.name, l.profile.name)) })));
    const pictures = sources.filter((s) => s.facts.images);
    const runs = this.catalog
      .lastRuns(c.id)
      .filter((r) => c.recipe.deliverables.some((d) => d.id === r.deliverable))
      .map((r) => runSummary(r, c, sources));
    const largest = layers
      .filter((l) => l.taken)
      .sort((a, b) => b.l.plan.strokes.reduce((n, s) => n + s.path.length, 0) - a.l.plan.strokes.reduce((n, s) => n + s.path.length, 0))[0];
    return {
      id: c.id,
      name: c.name,
      created: c.created,
      opened: c.opened,
      frame: frameName(c.recipe),
      sources: sources.map((s) => s.name),
      records: layers.filter((l) => l.taken).reduce((n, { l }) => n + l.profile.count, 0),
      deliverables: c.recipe.deliverables.length,
      placed: sources.filter((s) => isPlaced(c.recipe, s) || (!s.facts.images && !hasGeometry(s.layers.map((l) => l.profile)))).length,
      taken: layers.filter((l) => l.taken).length + pictures.filter((s) => imageRule(c.recipe, s.name).taken !== false).length,
      layers: layers.length + pictures.length,
      runs: {
        match: runs.filter((r) => r.status === 'match').length,
        differs: runs.filter((r) => r.status !== 'match').length,
        current: runs.filter((r) => r.current).length,
      },
      account: summed(runs.filter((r) => !r.picture || r.picture.isMap)),
      plan: largest?.l.plan ?? null,
      damaged: null,
    };
  }
}

/** Runs that Home lists. */
const RECENT = 30;

/** The accounts of some runs together; null where none has one. */
function summed(runs: readonly RunSummary[]): AccountTotals | null {
  const accounts = runs.flatMap((r) => (r.account ? [r.account] : []));
  if (accounts.length === 0) return null;
  const sum = (of: keyof AccountTotals): number => accounts.reduce((n, a) => n + a[of], 0);
  return {
    read: sum('read'),
    crossed: sum('crossed'),
    byYou: sum('byYou'),
    notCarried: sum('notCarried'),
    missing: sum('missing'),
  };
}

function damagedRow({ why, ...known }: DamagedCrossing): CrossingRow {
  return {
    ...known,
    frame: null,
    sources: [],
    records: 0,
    deliverables: 0,
    placed: 0,
    taken: 0,
    layers: 0,
    runs: { match: 0, differs: 0, current: 0 },
    account: null,
    plan: null,
    damaged: why,
  };
}

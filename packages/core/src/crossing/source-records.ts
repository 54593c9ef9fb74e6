import type { Account, AccountRow } from '../content/account';
import { joinFields } from '../content/features/profile';
import type { Watch } from '../io/bytes';
import type { Region } from '../geometry/within';
import type { FeatureBatch } from '../model/batch';
import { Findings } from '../model/finding';
import { type Reason, REASONS } from '../model/reason';
import { applyOperations, type SourceContext } from '../operations/apply';
import { isTaken } from '../operations/layer-rule';
import { inAreaOf, intoFrame } from './area-of-interest';
import type { CrossingSource } from './crossing-source';
import { layerRule, type Recipe } from './recipe';
import { joinTables, rulesOf, unitOfSource } from './shaped';

/**
 * What the operations on a source work with.
 * @param region the area of interest, in the frame; null where there is none
 * @param sources every source of the crossing
 */
export async function contextOf(
  recipe: Recipe,
  source: CrossingSource,
  region: Region | null,
  sources: readonly CrossingSource[],
): Promise<SourceContext> {
  const fields = (layer: string): string[] =>
    source.layers.filter((l) => l.name === layer).flatMap((l) => joinFields(l.groups).map((f) => f.name));
  const tables = await joinTables(recipe, source.name, fields, (name) => sources.find((s) => s.name === name)?.records ?? null);
  return {
    rules: rulesOf(recipe, source.name),
    library: source.library,
    unit_m: unitOfSource(recipe, source.name),
    tables,
    inFrame: intoFrame(recipe, source),
    ...(region ? { inArea: inAreaOf(recipe, source, region) } : {}),
  };
}

/**
 * The records of a source read from its file once more, as the rules want them. Every item of the file is numbered in the account, and what
 * the rules leave behind is told there.
 * @param found gets what the reader says, each time that the file is read
 */
export async function* readOnceMore(
  recipe: Recipe,
  source: CrossingSource,
  context: SourceContext,
  account: Account,
  watch: Watch,
  found: (findings: Findings) => void = () => {},
): AsyncGenerator<FeatureBatch> {
  const open = await source.reopen();
  const quiet: Watch = { progress() {}, check: () => watch.check() };
  const read = async function* (): AsyncGenerator<FeatureBatch> {
    // texts that look for objects have the source read several times: each begins anew
    const findings = new Findings();
    found(findings);
    for await (const batch of open.read(findings, quiet)) yield batch;
  };
  const left: SourceContext['left'] = (batch, i, reason) =>
    account.layer(source.name, batch.layer).left(batch.items![i]!, reason, batch.locations[i]!);
  yield* applyOperations(read, {
    ...context,
    left,
    // items are numbered once, in the pass whose records go on
    begin: (batch) => {
      const own = account.layer(source.name, batch.layer);
      const numbered = own.numbered(batch);
      if (!isTaken(layerRule(recipe, source.name, batch.layer)))
        for (let i = 0; i < numbered.count; i++) own.left(numbered.items![i]!, REASONS.layer, numbered.locations[i]!);
      return numbered;
    },
  });
}

/**
 * Sources of which nothing crosses are in the account too, by what they held when they came in.
 * @param why a source stays behind as a whole; null where its layers say it
 */
export function untaken(
  recipe: Recipe,
  sources: readonly CrossingSource[],
  crossing: readonly CrossingSource[],
  why: (source: CrossingSource) => Reason | null = () => null,
): AccountRow[] {
  return sources
    .filter((s) => !crossing.includes(s))
    .flatMap((s) =>
      s.layers.map((l): AccountRow => {
        const reason = why(s) ?? (isTaken(layerRule(recipe, s.name, l.name)) ? REASONS.entity : REASONS.layer);
        const left = { reason: reason.code, by: reason.by, count: l.count, message: reason.sentence(l.count), locations: [] };
        return { source: s.name, layer: l.name, read: l.count, crossed: 0, left: l.count > 0 ? [left] : [], changed: [], missing: 0 };
      }),
    );
}

import type { FeatureBatch } from '../model/batch';
import { OPERATIONS } from './index';
import type { JoinReport } from './join';
import type { LayerRules } from './layer-rule';
import type { Effect, OperationContext, ReadBatches, Stage } from './operation';
import type { Retyping } from './retype';
import { settleTransfers, type TransferReport } from './text-transfer';

/** What the operations counted on one layer, by their id. */
export interface LayerReport {
  area?: { outside: number };
  where?: { filtered: number };
  join?: JoinReport;
  textTransfer?: TransferReport;
  dropDuplicates?: { dropped: number };
  blocks?: { apart: number; parts: number; outlined: number };
  fills?: { asLines: number };
  simplify_m?: { before: number; after: number; shift_m: number };
  values?: { mapped: number };
  retype?: { fields: Record<string, Retyping> };
}

/** What the operations on a source work with, and the rules of its layers. */
export interface SourceContext extends OperationContext {
  rules: LayerRules;
  /** Gets every batch before anything is done to it, and gives what the operations are to work on. */
  begin?: (batch: FeatureBatch) => FeatureBatch;
}

type AnyOperation = (typeof OPERATIONS)[number];

/** The operations that concern a layer, in their order. */
function operationsOn(layer: string, context: Pick<SourceContext, 'rules' | 'inArea'>): { operation: AnyOperation; parameters: unknown }[] {
  return OPERATIONS.flatMap((operation) => {
    const parameters = operation.parameters(layer, context.rules, context);
    return parameters === undefined ? [] : [{ operation, parameters }];
  });
}

/** Whether some operation concerns a layer, so that its records are not those that were read. */
export const isReshaped = (layer: string, rules: LayerRules): boolean => operationsOn(layer, { rules }).length > 0;

/** Layers of a source whose records the rules change, among those that have rules or are named in them. */
export function reshapedLayers(rules: LayerRules): Set<string> {
  const named = Object.entries(rules).flatMap(([layer, rule]) => [layer, ...(rule.textTransfer ? [rule.textTransfer.layer] : [])]);
  return new Set(named.filter((layer) => isReshaped(layer, rules)));
}

/** The rules of a layer as sentences. */
export const sentencesOf = (layer: string, rules: LayerRules): string[] =>
  operationsOn(layer, { rules }).map(({ operation, parameters }) => operation.sentence(parameters));

/** What is said of a layer by what the operations counted on it. */
export function effectsOf(report: LayerReport): Effect[] {
  return OPERATIONS.flatMap((operation) => {
    const tally = report[operation.id as keyof LayerReport];
    return tally ? operation.effects(tally) : [];
  });
}

/**
 * The records of a source as its rules want them, in the same order whenever they are asked for.
 * @param read is asked more than once where texts look for objects
 * @param reports gets what was counted, by layer, when all is read
 */
export async function* applyOperations(
  read: ReadBatches,
  context: SourceContext,
  reports?: Map<string, LayerReport>,
): AsyncGenerator<FeatureBatch> {
  const transfers = await settleTransfers(read, context.rules, context);
  const stagesOf = new Map<string, Stage[]>();
  const begin = (layer: string): Stage[] => {
    const concerned = operationsOn(layer, context);
    const report: Record<string, object> = {};
    const stages = concerned.map(({ operation, parameters }) =>
      operation.stage(parameters, { ...context, layer, transfers }, (report[operation.id] = operation.tally())),
    );
    if (stages.length > 0) reports?.set(layer, report);
    return stages;
  };
  for await (const came of read()) {
    const batch = context.begin?.(came) ?? came;
    let stages = stagesOf.get(batch.layer);
    if (!stages) stagesOf.set(batch.layer, (stages = begin(batch.layer)));
    yield* through(batch, stages, 0);
  }
  for (const stages of stagesOf.values()) for (const stage of stages) stage.end?.();
}

function* through(batch: FeatureBatch, stages: readonly Stage[], k: number): Generator<FeatureBatch> {
  if (k === stages.length) yield batch;
  else for (const next of stages[k]!.apply(batch)) yield* through(next, stages, k + 1);
}

import { z } from 'zod';

/** A layer of a source. */
const LayerOf = z.object({ source: z.string(), layer: z.string() });
export type LayerOf = z.infer<typeof LayerOf>;

/** An operation, the layers that have each role in it, and its settings; lengths are metres. */
export const DerivationRule = z.object({
  operation: z.string(),
  /** What its layers are called, or begin with where there are several. */
  name: z.string().trim().min(1).max(60),
  roles: z.record(z.string(), z.array(LayerOf).max(5000)),
  settings: z.record(z.string(), z.union([z.string().max(100_000), z.number()])),
});
export type DerivationRule = z.infer<typeof DerivationRule>;

/** Two sources that are revisions of the same data, and how their records are told apart. */
export const ComparisonRule = z.object({
  /** Names of the older and of the newer one. */
  old: z.string(),
  next: z.string(),
  /** The field by which records are one; null where that is where they lie. */
  key: z.string().nullable().default(null),
  tolerance_m: z.number().positive().max(1000),
});
export type ComparisonRule = z.infer<typeof ComparisonRule>;

/** The same as a rule of a source; `crs` is the plane that is worked in. */
const OperationRule = DerivationRule.extend({ by: z.literal('operation'), crs: z.string() });
export type OperationRule = z.infer<typeof OperationRule>;

/** How the records of a source are worked out of those of others. */
export const WorkedOut = z.discriminatedUnion('by', [OperationRule, ComparisonRule.extend({ by: z.literal('comparison') })]);
export type WorkedOut = z.infer<typeof WorkedOut>;

/** The names of the sources that another one is worked out of. */
export const workedOutOf = (rule: WorkedOut): string[] =>
  rule.by === 'comparison' ? [rule.old, rule.next] : [...new Set(Object.values(rule.roles).flatMap((own) => own.map((l) => l.source)))];

/** The rule under the names that sources have now, and layers. */
export function renamedRule(rule: WorkedOut, named: (name: string) => string, layer: (of: LayerOf) => LayerOf = (of) => of): WorkedOut {
  if (rule.by === 'comparison') return { ...rule, old: named(rule.old), next: named(rule.next) };
  const roles = Object.entries(rule.roles).map(([role, own]) => [role, own.map((l) => layer({ ...l, source: named(l.source) }))]);
  return { ...rule, roles: Object.fromEntries(roles) as typeof rule.roles };
}

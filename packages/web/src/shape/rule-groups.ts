import type { LayerRule } from '@pontrel/core/operations/layer-rule';

/** The rules of a layer in the groups in which they stand on the page. */
export const RULE_GROUPS = [
  { id: 'records', title: 'Records', rules: ['leftOut', 'where', 'dropDuplicates', 'to'] },
  { id: 'geometry', title: 'Geometry', rules: ['blocks', 'fills', 'textTransfer', 'simplify_m'] },
  { id: 'fields', title: 'Fields', rules: ['fields', 'fieldOrder', 'computed', 'constants', 'join'] },
  { id: 'symbology', title: 'Symbology', rules: ['label', 'scales'] },
] as const satisfies readonly { id: string; title: string; rules: readonly (keyof LayerRule)[] }[];

export type RuleGroupId = (typeof RULE_GROUPS)[number]['id'];

/** How many things a rule changes: of a list or a table of them each one counts. A rule that says what holds anyway changes none. */
export function changesOf(rule: LayerRule, names: readonly (keyof LayerRule)[]): number {
  return names.reduce((n, name) => {
    const value = rule[name];
    if (value === undefined || value === false) return n;
    if (name === 'fields') return n + Object.values(rule.fields!).filter((f) => Object.values(f).some((v) => v !== undefined)).length;
    if (Array.isArray(value) && name !== 'fieldOrder') return n + value.length;
    if (name === 'blocks') return n + Object.keys(rule.blocks!).length;
    return n + 1;
  }, 0);
}

/** Whether anything is changed on a layer besides whether it is taken. */
export const isChanged = (rule: LayerRule): boolean => RULE_GROUPS.some((g) => changesOf(rule, g.rules) > 0);

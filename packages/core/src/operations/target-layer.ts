import type { LayerRule } from '../crossing/recipe';
import { parseTemplate, type Template } from '../filter/template';

/** Layers that the records of one layer may be told apart into. */
export const MOST_LAYERS = 2000;

/** The layer of a rule as a text with fields in braces; null where none is named, a sentence where it cannot be read. */
export function targetLayer(rule: LayerRule): Template | string | null {
  return rule.to === undefined ? null : parseTemplate(rule.to);
}

/** Whether the records of a layer go into different ones, by their own fields. */
export function tellsApart(rule: LayerRule): boolean {
  const target = targetLayer(rule);
  return target !== null && typeof target !== 'string' && target.fields.length > 0;
}

/** The one layer that all records of a rule go into; undefined where it names none, or where each record says so itself. */
export function oneTarget(rule: LayerRule): string | undefined {
  const target = targetLayer(rule);
  return target === null || typeof target === 'string' || target.fields.length > 0 ? undefined : (target.text ?? undefined);
}

import { type Value, valueText } from '../model/value';
import type { TargetSet } from './format';

/** What the label of a set writes beside a record; null where it has none, or the record no value for it. @param at gives a field as the source calls it */
export function labelText(set: Pick<TargetSet, 'style' | 'fields'>, at: (name: string) => Value): string | null {
  const { label } = set.style;
  if (!label) return null;
  const value = at(set.fields.find((f) => f.to === label.field)?.from ?? label.field);
  return value === null || value === '' ? null : valueText(value);
}

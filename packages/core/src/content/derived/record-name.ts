import type { FormatOption } from '../../formats/format-option';
import type { FeatureBatch } from '../../model/batch';

/** What people call a record: the value of a field, or its layer and where it stands in its file. @param field "" for none */
export function recordName(batch: FeatureBatch, i: number, field: string): string {
  const value = field === '' ? null : (batch.columns.get(field)?.[i] ?? null);
  return value === null ? `${batch.layer} ${batch.locations[i]!}` : String(value);
}

/** The setting that says which field that is. @param label what asks for it */
export const namedBy = (label: string): FormatOption => ({ id: 'names', label, kind: 'text', asks: 'field', hint: 'layer and number' });

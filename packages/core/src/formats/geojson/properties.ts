import type { Value } from '../../model/value';
import type { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { looksOf } from './simplestyle';

/** The data of a feature: its id, its properties, and the looks that they tell. */
export function putProperties(out: BatchBuilder, id: unknown, properties: unknown, findings: Findings): void {
  if (typeof id === 'string' || typeof id === 'number') out.set('id', id);
  if (typeof properties !== 'object' || properties === null) return;
  for (const [name, value] of Object.entries(properties)) {
    if (typeof value === 'object' && value !== null) {
      findings.add({
        code: 'geojson-nested',
        severity: 'info',
        message: `Values of ${name} are lists or objects; they are kept as JSON text.`,
        count: 1,
      });
      out.set(name, JSON.stringify(value));
    } else if (typeof value === 'number' && !Number.isFinite(value))
      findings.add({
        code: 'geojson-number-too-large',
        severity: 'caution',
        message: `Numbers of ${name} are too large to be held: they are left empty.`,
        count: 1,
      });
    else out.set(name, value as Value);
  }
  const looks = looksOf(properties as Record<string, unknown>);
  out.drawnWith(looks);
  for (const [name, value] of Object.entries(looks)) if (!(name in properties)) out.set(name, value);
}

import type { Value } from '../../model/value';
import type { BatchBuilder } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { looksOf } from './simplestyle';

/** One half of a surrogate pair without the other: JSON can say it, no encoding of text can hold it. Source: RFC 8259, section 8.2. */
const HALF = /\p{Cs}/gu;

/** A text in characters only: half of one is kept as the letters of its escape, so that no two texts become the same. */
function inCharacters(text: string, findings: Findings): string {
  const kept = text.replace(HALF, (half) => `\\u${half.charCodeAt(0).toString(16)}`);
  if (kept !== text)
    findings.add({
      code: 'geojson-half-character',
      severity: 'caution',
      message:
        'A name or a text has half a character (an escape such as \\ud83d without its other half); it is kept as the letters of the escape.',
      count: 1,
    });
  return kept;
}

/** A list or an object as JSON text; null for one that is too deep to be written, which is told. */
function nestedText(value: object, name: string, findings: Findings): string | null {
  try {
    return JSON.stringify(value);
  } catch (error) {
    // its lists and objects lie in one another by the ten thousand
    if (!(error instanceof RangeError)) throw error;
    findings.add({
      code: 'geojson-too-deep',
      severity: 'wrong',
      message: `Values of ${name} are lists or objects too deep within one another to be kept: they are left empty.`,
      count: 1,
    });
    return null;
  }
}

/** The data of a feature: its id, its properties, and the looks that they tell. */
export function putProperties(out: BatchBuilder, id: unknown, properties: unknown, findings: Findings): void {
  if (typeof id === 'string') out.set('id', inCharacters(id, findings));
  else if (typeof id === 'number') out.set('id', id);
  if (typeof properties !== 'object' || properties === null) return;
  for (const [given, value] of Object.entries(properties)) {
    const name = inCharacters(given, findings);
    if (typeof value === 'object' && value !== null) {
      findings.add({
        code: 'geojson-nested',
        severity: 'info',
        message: `Values of ${name} are lists or objects; they are kept as JSON text.`,
        count: 1,
      });
      out.set(name, nestedText(value, name, findings));
    } else if (typeof value === 'number' && !Number.isFinite(value))
      findings.add({
        code: 'geojson-number-too-large',
        severity: 'caution',
        message: `Numbers of ${name} are too large to be held: they are left empty.`,
        count: 1,
      });
    else out.set(name, typeof value === 'string' ? inCharacters(value, findings) : (value as Value));
  }
  const looks = looksOf(properties as Record<string, unknown>);
  out.drawnWith(looks);
  for (const [name, value] of Object.entries(looks)) if (!(name in properties)) out.set(name, value);
}

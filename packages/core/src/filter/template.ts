import type { Value } from '../model/value';
import { plainComputed } from './computed-fields';
import { type FeatureBatch } from '../model/batch';

/** A text with fields in braces: `{NAME}`, or `{AREA:.1}` with so many decimals; "\n" begins a new line, "{{" is a brace. */
export interface Template {
  /** Names of the fields that it asks for. */
  fields: string[];
  /** The text itself where it asks for no field; null where it does. */
  text: string | null;
  /** The text for a record; null when none of its fields has a value. */
  of(batch: FeatureBatch, i: number): string | null;
}

interface Piece {
  text: string;
  field?: string;
  decimals?: number;
}

/** @returns what is wrong, as a sentence, where the braces do not close */
export function parseTemplate(source: string): Template | string {
  const pieces: Piece[] = [];
  let text = '';
  for (let i = 0; i < source.length; i++) {
    const two = source.slice(i, i + 2);
    if (two === '{{' || two === '}}') {
      text += two[0];
      i++;
    } else if (two === '\\n') {
      text += '\n';
      i++;
    } else if (source[i] === '}') return `"}" at character ${i + 1} closes nothing. A brace itself is written twice.`;
    else if (source[i] === '{') {
      const end = source.indexOf('}', i);
      if (end < 0) return `"{" at character ${i + 1} is not closed.`;
      const [, field, decimals] = /^([^:]+?)(?::\.(\d{1,2}))?$/.exec(source.slice(i + 1, end).trim()) ?? [];
      if (field === undefined) return `"${source.slice(i, end + 1)}" is no field. A field stands as {NAME}, with decimals as {NAME:.1}.`;
      pieces.push({ text }, { text: '', field, ...(decimals === undefined ? {} : { decimals: Number(decimals) }) });
      text = '';
      i = end;
    } else text += source[i];
  }
  pieces.push({ text });
  const fields = pieces.flatMap((p) => (p.field === undefined ? [] : [p.field]));
  return {
    fields,
    text: fields.length > 0 ? null : pieces.map((p) => p.text).join(''),
    of(batch, i) {
      let filled = false;
      const out = pieces
        .map((piece) => {
          if (piece.field === undefined) return piece.text;
          const value = valueOf(batch, i, piece.field);
          if (value === null) return '';
          filled = true;
          return typeof value === 'number' && piece.decimals !== undefined ? value.toFixed(piece.decimals) : String(value);
        })
        .join('');
      return fields.length > 0 && !filled ? null : out;
    },
  };
}

/** A field as the record has it, or worked out from its geometry; without regard to case where only that differs. */
function valueOf(batch: FeatureBatch, i: number, name: string): Value {
  const own = batch.columns.get(name);
  if (own) return own[i]!;
  const computed = plainComputed(name.toLowerCase());
  if (computed) return computed.value(batch, i);
  for (const [known, column] of batch.columns) if (known.toLowerCase() === name.toLowerCase()) return column[i]!;
  return null;
}

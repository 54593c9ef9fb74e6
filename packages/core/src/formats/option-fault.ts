import { isKnownField } from '../filter/evaluate';
import { parseTemplate } from '../filter/template';
import type { FormatOption } from './format-option';

/** Fields that are offered in one sentence. */
const OFFERED = 12;

/** What the fields are, as a sentence. */
function offered(fields: readonly string[]): string {
  if (fields.length === 0) return 'The records have no field.';
  return `The fields are ${fields.slice(0, OFFERED).join(', ')}${fields.length > OFFERED ? ` and ${fields.length - OFFERED} more` : ''}.`;
}

/**
 * What is wrong with the text of an option, as a sentence that offers what there is; null when nothing is.
 * @param fields names of the fields that the records have
 */
export function optionFault(option: FormatOption, value: string | number, fields: readonly string[]): string | null {
  const text = String(value).trim();
  if (option.kind !== 'text' || text === '') return null;
  switch (option.asks) {
    case 'words':
      return null;
    case 'color':
      return /^#[0-9a-f]{6}$/i.test(text) ? null : 'A colour stands as #rrggbb.';
    case 'field':
      return fields.some((f) => f === text) ? null : `No record has a value in a field ${text}. ${offered(fields)}`;
    case 'text':
    case 'template': {
      const parsed = parseTemplate(text);
      if (typeof parsed === 'string') return parsed;
      const unknown = parsed.fields.find((name) => !isKnownField(name, fields));
      if (unknown !== undefined) return `No record has a value in a field ${unknown}. ${offered(fields)}`;
      // one text for all is no name and no label, and most likely a field without its braces
      return option.asks === 'template' && parsed.fields.length === 0
        ? `"${text}" asks for no field, so that all would be called the same. A field stands in braces, as {${fields[0] ?? 'NAME'}}. ${offered(fields)}`
        : null;
    }
  }
}

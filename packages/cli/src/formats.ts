import type { Format, FormatOption } from '@pontrel/core/formats/format';
import { FORMATS, formatById } from '@pontrel/core/formats/index';
import { initialOf } from '@pontrel/core/formats/options';
import { type Result, Usage } from './result';

/** Says what is read and written, with the options of each format. */
export function formats(id: string | undefined): Result {
  const wanted = id === undefined ? FORMATS : [formatById(id)].filter((f) => f !== undefined);
  if (wanted.length === 0) throw new Usage(`There is no format "${id}". There are: ${FORMATS.map((f) => f.id).join(', ')}.`);
  return {
    json: { formats: wanted.map(formatJson) },
    text: wanted
      .map((f) => (id === undefined ? line(f) : [line(f), ...(f.features.write?.options ?? []).map(optionLine)].join('\n')))
      .join('\n'),
    exit: 0,
  };
}

function formatJson(f: Format): unknown {
  const { kinds, curves, heights, measures, verticalSystem, types } = f.features.carries;
  return {
    id: f.id,
    name: f.name,
    extensions: f.extensions,
    companions: f.companions,
    reads: true,
    writes: f.features.write !== undefined,
    carries: { kinds, curves, heights, measures, verticalSystem, types },
    options: (f.features.write?.options ?? []).map((o) => ({
      name: o.id,
      label: o.label,
      ...(o.kind === 'choice' ? { choices: o.choices } : { kind: o.kind }),
      initial: initialOf(o),
    })),
  };
}

const line = (f: Format): string =>
  `${f.id.padEnd(12)} ${f.features.write ? 'read, written' : 'read         '}  ${f.name} (${f.extensions.join(' ')})`;

function optionLine(o: FormatOption): string {
  const takes = o.kind === 'choice' ? o.choices.map((c) => c.value).join('|') : o.kind === 'length' ? 'METRES' : 'TEXT';
  return `  --option ${o.id}=${takes}  ${o.label}${initialOf(o) === '' ? '' : ` (${initialOf(o)} when nothing is said)`}`;
}

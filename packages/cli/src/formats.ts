import type { Format } from '@pontrel/core/formats/format';
import type { FormatOption } from '@pontrel/core/formats/format-option';
import { EVERY_FORMAT } from '@pontrel/core/formats/every-format';
import { formatOptions, initialOf, writeOptions } from '@pontrel/core/formats/options';
import { IMAGE_OPTIONS } from './image-settings';
import { type Result, Usage } from './result';

/** Says what is read and written, with the options of each format. */
export function formats(id: string | undefined): Result {
  const wanted = id === undefined ? EVERY_FORMAT : EVERY_FORMAT.filter((f) => f.id === id);
  if (wanted.length === 0) throw new Usage(`There is no format "${id}". There are: ${EVERY_FORMAT.map((f) => f.id).join(', ')}.`);
  return {
    json: { formats: wanted.map(formatJson) },
    text: wanted
      .map((f) => (id === undefined ? line(f) : [line(f), ...writeOptions(f).map(optionLine), ...imageLines(f)].join('\n')))
      .join('\n'),
    exit: 0,
  };
}

const isWritten = (f: Format): boolean => (f.features ?? f.images)?.write !== undefined;

function formatJson(f: Format): unknown {
  return {
    id: f.id,
    name: f.name,
    extensions: f.extensions,
    companions: f.companions,
    reads: true,
    writes: isWritten(f),
    carries: carriesJson(f),
    options: writeOptions(f).map((o) => ({
      name: o.id,
      label: o.label,
      ...(o.kind === 'choice' ? { choices: o.choices } : { kind: o.kind }),
      initial: initialOf(o),
    })),
  };
}

function carriesJson(f: Format): unknown {
  const { features, images } = f;
  if (features) {
    const { kinds, curves, heights, measures, verticalSystem, types } = features.carries;
    return { kinds, curves, heights, measures, verticalSystem, types };
  }
  const { sampleTypes, bands, alpha, nodata, palette } = images!.carries(formatOptions(f));
  return { sampleTypes, ...(bands ? { bands } : {}), alpha, nodata, palette };
}

const line = (f: Format): string =>
  `${f.id.padEnd(12)} ${isWritten(f) ? 'read, written' : 'read         '}  ${f.name} (${f.extensions.join(' ')})`;

const TAKES = { length: 'METRES', number: 'NUMBER', text: 'TEXT' } as const;

function optionLine(o: FormatOption): string {
  const takes = o.kind === 'choice' ? o.choices.map((c) => c.value).join('|') : TAKES[o.kind];
  return `  --option ${o.id}=${takes}  ${o.label}${initialOf(o) === '' ? '' : ` (${initialOf(o)} when nothing is said)`}`;
}

/** What may be said of any image that is written. */
const imageLines = (f: Format): string[] => (f.images?.write ? IMAGE_OPTIONS.map((o) => `  --option ${o.id}=TEXT  ${o.says}`) : []);

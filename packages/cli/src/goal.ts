import { stat } from 'node:fs/promises';
import path from 'node:path';
import { extensionOf } from '@pontrel/core/formats/extension';
import type { FeatureFormat, Format } from '@pontrel/core/formats/format';
import type { FormatOption, OptionValues } from '@pontrel/core/formats/format-option';
import { writeOptions } from '@pontrel/core/formats/options';
import { EVERY_FORMAT } from '@pontrel/core/formats/every-format';
import { Problem } from '@pontrel/core/model/problem';
import { Usage } from './result';

/** What an output is to be, as far as its name and the options say. */
export interface Goal<F extends Format> {
  format: F;
  folder: string;
  /** Stem of the files when the output names one file. */
  single: string | null;
  options: OptionValues;
}

/**
 * The format and folder of an output, and the stem of its files when it names one file.
 * @param written the formats that it may be of
 * @param input the first input, and what it is
 * @throws Usage when it is of none of them; Problem `other-content` when it is of one that holds something else
 */
export async function goalOf<F extends Format>(
  output: string,
  { format: id, option }: { format?: string; option?: string[] },
  written: readonly F[],
  input: { name: string; is: 'a picture' | 'no picture' },
): Promise<Goal<F>> {
  const extension = extensionOf(output);
  const isFolder =
    output.endsWith('/') ||
    (await stat(output).then(
      (s) => s.isDirectory(),
      () => false,
    ));
  const format = written.find((f) => (id === undefined ? f.extensions.includes(extension) : f.id === id));
  const names = written.map((f) => `${f.id} (${f.extensions[0]})`).join(', ');
  if (!format) {
    const other = EVERY_FORMAT.find((f) => (id === undefined ? f.extensions.includes(extension) : f.id === id));
    const writes = `What can be written: ${names}.`;
    if (other && !(other.features ?? other.images)?.write) throw new Usage(`${other.name} is only read, not written. ${writes}`);
    if (other)
      throw new Problem(
        'other-content',
        `${input.name} is ${input.is}, and ${other.name} holds ${input.is === 'a picture' ? 'records' : 'pictures'}. ` +
          (input.is === 'no picture' && other.images?.write ? 'To draw a map of the records, say its scale: --option scale=500. ' : '') +
          writes,
      );
    const what = id === undefined ? `The format of ${output} is not known, or cannot hold this` : `This cannot be written as "${id}"`;
    throw new Usage(`${what}. Give the output another extension, or --format. ${writes}`);
  }
  const options = { ...(format as Partial<FeatureFormat>).features?.write?.optionsOf?.(extension), ...optionsOf(format, option ?? []) };
  if (isFolder || !format.extensions.includes(extension)) return { format, folder: output, single: null, options };
  return { format, options, folder: path.dirname(output), single: path.basename(output).slice(0, -extension.length) };
}

/** Options of a format from NAME=VALUE, each checked against what there is. */
function optionsOf(format: Format, pairs: readonly string[]): OptionValues {
  const all = writeOptions(format);
  return Object.fromEntries(
    pairs.map((pair) => {
      const [, name, value] = /^([^=]+)=(.*)$/s.exec(pair) ?? [];
      const option = all.find((o) => o.id === name);
      const ids = all.map((o) => o.id).join(', ') || 'none';
      if (!option) throw new Usage(`--option ${pair}: ${format.name} has these options: ${ids}. Write NAME=VALUE.`);
      return [name!, valueOf(option, '--option', name!, value!)];
    }),
  );
}

/** A value of an option from its text. @param said what it is typed behind @throws Usage */
export function valueOf(option: FormatOption, said: '--option' | '--set', name: string, value: string): string | number {
  const number = Number(value);
  switch (option.kind) {
    case 'choice':
      if (!option.choices.some((c) => c.value === value))
        throw new Usage(`${said} ${name} takes ${option.choices.map((c) => c.value).join(', ')}; "${value}" is none of them.`);
      return value;
    case 'length':
      if (!(number > 0)) throw new Usage(`${said} ${name} wants a length in metres, such as ${option.initial_m}; "${value}" is none.`);
      return number;
    case 'number':
      if (!(number >= option.least && number <= option.most))
        throw new Usage(`${said} ${name} wants a number from ${option.least} to ${option.most}; "${value}" is none.`);
      return number;
    case 'text':
      return value;
  }
}

export type Box = [number, number, number, number];

/** @throws Usage */
export function boundsOf(text: string | undefined): Box | null {
  if (text === undefined) return null;
  const box = text.split(',').map(Number);
  if (box.length !== 4 || !box.every(Number.isFinite) || box[0]! >= box[2]! || box[1]! >= box[3]!)
    throw new Usage(`--bounds wants minx,miny,maxx,maxy in the output's system; "${text}" is none.`);
  return box as Box;
}

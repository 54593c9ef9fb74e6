import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FormatOption, OptionValues } from '@pontrel/core/formats/format-option';
import { FORMATS } from '@pontrel/core/formats/index';
import { formatOptions, prescribedCrs } from '@pontrel/core/formats/options';
import { dxfOf, feature, featuresOf, POINT } from '../odd/files';
import { Problem } from '@pontrel/core/model/problem';
import { temporaryFolder } from '../server/client';
import { crossInto, type Gathered, gather } from './cross-file';

const data = fileURLToPath(new URL('../../packages/demo/data/', import.meta.url));
/** What is carried across with each: drawings with blocks, texts and fills, areas, and texts that a spreadsheet would take for formulas. */
const SOURCES = [
  { file: path.join(data, 'street-survey.dxf'), crs: 'EPSG:2126' },
  { file: path.join(data, 'parcels.shp'), crs: 'EPSG:2193' },
  { file: path.join(data, 'quay-design.dxf'), crs: 'EPSG:2193', unit_m: 0.001 },
  { file: 'formulas.geojson', crs: 'EPSG:4326' },
  { file: 'valve.dxf', crs: 'EPSG:2193', unit_m: 1 },
];
/** A block with an attribute that its definition does not ask for. */
const VALVE = dxfOf(
  [0, 'INSERT', 8, '0', 2, 'VALVE', 66, 1, 10, 1464000, 20, 5101500, 0, 'ATTRIB', 8, '0', 2, 'NO', 1, 'V-1', 0, 'SEQEND', 8, '0'],
  { blocks: [0, 'BLOCK', 2, 'VALVE', 10, 0, 20, 0, 0, 'CIRCLE', 8, '0', 10, 0, 20, 0, 40, 1, 0, 'ENDBLK'] },
);
const FORMULAS = featuresOf(feature(POINT, '{"layer":"=1+1","n":1}'), feature(POINT, '{"layer":"-5","n":2}'));

/** Values of an option that is no choice, none of them its first one. */
const TYPED: Record<string, string[]> = {
  template: ['{layer}: {n}'],
  text: ['of {layer}'],
  field: ['n'],
  color: ['#a8492a'],
  words: ['Port Averil harbour'],
};
const valuesOf = (option: FormatOption): (string | number)[] =>
  option.kind === 'choice'
    ? option.choices.slice(1).map((c) => c.value)
    : option.kind === 'length'
      ? option.initial_m === 0
        ? [5, 12]
        : [option.initial_m * 20, option.initial_m / 20]
      : option.kind === 'number'
        ? [option.least, option.most]
        : option.id === 'image'
          ? ['layer']
          : TYPED[option.asks]!;

/** Values of the others with which an option has a meaning: the fewest that are not their first ones. */
function around(options: readonly FormatOption[], option: FormatOption, value: string | number): OptionValues {
  const first = formatOptions({ features: { write: { options } } } as unknown as Parameters<typeof formatOptions>[0], {});
  const means = (values: OptionValues): boolean => option.when?.({ ...first, ...values }) ?? true;
  let tried: OptionValues[] = [{}];
  for (let deep = 0; deep < 3; deep++) {
    const found = tried.find(means);
    if (found) return { ...found, [option.id]: value };
    tried = tried.flatMap((values) =>
      options.filter((o) => o !== option && !(o.id in values)).flatMap((o) => valuesOf(o).map((v) => ({ ...values, [o.id]: v }))),
    );
  }
  throw new Error(`${option.id} never has a meaning.`);
}

/** What lies in a folder, by name; of archives what is in them, since they hold the time at which they were made. */
function contents(folder: string): Record<string, string> {
  const out: Record<string, string> = {};
  const mark = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
  for (const name of readdirSync(folder).sort()) {
    const bytes = new Uint8Array(readFileSync(path.join(folder, name)));
    if (bytes[0] === 0x50 && bytes[1] === 0x4b)
      for (const [inner, unpacked] of Object.entries(unzipSync(bytes))) out[`${name}/${inner}`] = mark(unpacked);
    else out[name] = mark(bytes);
  }
  return out;
}

interface Case {
  format: string;
  values: OptionValues;
}

const cases = FORMATS.flatMap((format): Case[] => {
  const options = format.features.write?.options ?? [];
  return options.flatMap((option) => valuesOf(option).map((value) => ({ format: format.id, values: around(options, option, value) })));
});

describe('every option of every format, at every value', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const gathered: Gathered[] = [];
  beforeAll(async () => {
    writeFileSync(path.join(folder, 'formulas.geojson'), FORMULAS);
    writeFileSync(path.join(folder, 'valve.dxf'), VALVE);
    for (const { file } of SOURCES) gathered.push(await gather(path.resolve(folder, file)));
  });
  const plain = new Map<string, Record<string, string>>();

  /** Writes a source with these values, and compares what came of it with what was forecast. */
  async function written(k: number, format: string, options: OptionValues): Promise<Record<string, string>> {
    const own = path.join(folder, 'own');
    rmSync(own, { recursive: true, force: true });
    mkdirSync(own);
    const crs =
      prescribedCrs(
        FORMATS.find((f) => f.id === format)!,
        options,
      ) ?? 'EPSG:2193';
    const { crs: placed, unit_m = null } = SOURCES[k]!;
    const { report, prepared, proof } = await crossInto(own, gathered[k]!, { format, crs, options, placement: { crs: placed, unit_m } });
    expect([proof.status, proof.differences.filter((d) => !d.expected)]).toEqual(['match', []]);
    const { forecast } = prepared;
    // the files that were announced, and the records in them
    expect(readdirSync(own).sort()).toEqual(forecast.files.map((f) => f.name).sort());
    expect(report.written.reduce((n, w) => n + w, 0)).toBe(forecast.arriving);
    const sum = (of: (row: (typeof report.account)[number]) => number): number => report.account.reduce((n, row) => n + of(row), 0);
    const left = sum((row) => row.left.reduce((n, l) => n + l.count, 0));
    expect(left).toBe(forecast.totals.left);
    expect(sum((row) => row.read)).toBe(sum((row) => row.crossed) + left);
    return contents(own);
  }

  /** Whether an option changes what is written of a source, beside the others. */
  async function changes(k: number, format: string, others: OptionValues, id: string, value: string | number): Promise<boolean> {
    // a template of fields that this source does not have is refused before
    const changed = await written(k, format, { ...others, [id]: value }).catch((error: unknown) => {
      if (error instanceof Problem && error.code === 'deliverable-blocked') return null;
      throw error;
    });
    if (!changed) return false;
    const key = `${k} ${format} ${JSON.stringify(others)}`;
    if (!plain.has(key)) plain.set(key, await written(k, format, others));
    return JSON.stringify(changed) !== JSON.stringify(plain.get(key));
  }

  it('are some dozens', () => {
    expect(cases.length).toBeGreaterThan(60);
  });

  it.each(
    cases.map(
      (c) =>
        [
          `${c.format}: ${Object.entries(c.values)
            .map(([k, v]) => `${k}=${v}`)
            .join(' ')}`,
          c,
        ] as const,
    ),
  )('%s: does what the forecast says, and something', async (_name, { format, values }) => {
    const [[id, value], ...rest] = Object.entries(values).reverse() as [[string, string | number], ...[string, string | number][]];
    const others = Object.fromEntries(rest.reverse());
    const seen: boolean[] = [];
    for (const k of SOURCES.keys()) seen.push(await changes(k, format, others, id, value));
    // some have an effect only on what another option draws
    for (const [more, first] of [
      ['label', '{layer}'],
      ['points', 'block'],
    ] as const)
      if (!seen.includes(true) && id !== more) seen.push(await changes(2, format, { ...others, [more]: first }, id, value));
    expect(seen).toContain(true);
  });
});

import { cp, rename, stat } from 'node:fs/promises';
import path from 'node:path';
import type { Crs } from '@pontrel/core/crs/crs';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { label } from '@pontrel/core/crs/transform';
import { symbolKey } from '@pontrel/core/symbology/library';
import { styleBy } from '@pontrel/core/symbology/layer-style';
import { touching } from '@pontrel/core/crossing/area-of-interest';
import { makeCarrier } from '@pontrel/core/content/features/transform-batch';
import type { Region } from '@pontrel/core/geometry/within';
import type { ByteSource } from '@pontrel/core/io/bytes';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { fileSource } from '@pontrel/host-node/files';
import { hasPlaces, type LayerProfile, Profiler } from '@pontrel/core/content/features/profile';
import { reshaped } from '@pontrel/core/operations/reshape';
import { fileStem, makePlan, type Plan, type PlannedLayer } from '@pontrel/core/content/features/plan';
import type { Proof } from '@pontrel/core/content/features/prove';
import { crsOf } from '@pontrel/core/placement/route';
import { EMPTY_RECIPE } from '@pontrel/core/crossing/recipe';
import type { Feed, RunTarget } from '@pontrel/core/content/features/write';
import { formatOptions, type OptionValues, prescribedCrs } from '@pontrel/core/formats/options';
import { WGS84 } from '@pontrel/core/formats/globe';
import { extensionOf, FORMATS, formatById } from '@pontrel/core/formats/index';
import type { Format } from '@pontrel/core/formats/format';
import type { Finding } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import type { Spool } from '@pontrel/host-node/store/spool';
import { surveyAll, type Surveyed } from './survey';
import { type Options, type Result, Usage } from './usage';
import { convertByRecipe } from './convert-recipe';
import { writeProved, type Written } from './write-proved';

export async function convert(files: string[], options: Options): Promise<Result> {
  if (options.recipe !== undefined) return convertByRecipe(files, options.recipe);
  if (files.length < 2) throw new Usage('Name at least one input and the output.');
  const output = files.at(-1)!;
  const chord_m = chordOf(options.chord);
  const { format, folder, single, chosen } = await targetOf(output, options.format);
  const from = options.from === undefined ? undefined : readPositions(options.from, '--from');
  const prescribed = prescribedCrs(format, chosen);
  const to = options.to === undefined ? (prescribed === null ? undefined : crsOf(prescribed)!) : readPositions(options.to, '--to');
  if (prescribed !== null && to && to.id !== prescribed)
    throw new Usage(`${format.name} is written in ${prescribed} only: leave --to out, or give it that.`);

  return surveyAll(files.slice(0, -1), async (sources, spools) =>
    cross(sources, spools, {
      format,
      folder,
      single,
      output: path.basename(output),
      chosen,
      chord_m,
      from,
      to,
      layers: options.layer,
      bounds: boundsOf(options.bounds),
      base: options.append ? await baseOf(output, format) : undefined,
    }),
  );
}

interface Crossing {
  format: Format;
  folder: string;
  single: string | null;
  /** The output's own name. */
  output: string;
  /** What the output's extension says of the format's options. */
  chosen: OptionValues;
  chord_m: number;
  from: Crs | undefined;
  to: Crs | undefined;
  layers: string[] | undefined;
  /** In the target system; records that do not touch it stay behind. */
  bounds: Region | null;
  /** The file that tables are added to. */
  base: ByteSource | undefined;
}

async function cross(
  sources: Surveyed[],
  spools: Spool[],
  { format, folder, single, output, chosen, chord_m, from, to, layers: names, bounds, base }: Crossing,
): Promise<Result> {
  const somewhere = sources.find((s) => hasPlaces(s.layers));
  // records without places need no system, but what they are written into may state one
  const target = to ?? (somewhere ? placeOf(somewhere, from, to) : (from ?? crsOf(WGS84)!));
  const placed = sources.map((s) => ({ surveyed: s, crs: hasPlaces(s.layers) ? placeOf(s, from, to) : target }));
  const carriers = new Map(
    placed.map(({ surveyed, crs }) => [
      surveyed.path,
      makeCarrier(surveyed.path, { crs, numbers: { unit_m: surveyed.facts.unit?.metres ?? null } }, target),
    ]),
  );
  const read = sources.map(
    (s, i) => () =>
      bounds
        ? reshaped(() => spools[i]!.batches(), {
            rules: {},
            library: null,
            unit_m: 1,
            keep: touching(carriers.get(s.path)!, bounds, chord_m),
          })
        : spools[i]!.batches(),
  );
  const layers = wantedLayers(
    bounds ? await Promise.all(sources.map(async (s, i) => ({ ...s, layers: await profiled(read[i]!()) }))) : sources,
    names,
  );
  const stem = single ?? fileStem(sources[0]!.name.replace(/\.[^.]*$/, ''));
  // what is added to others is told apart by its layers
  const plan = makePlan(format, layers, {
    grouping: single && !base ? 'kind' : 'layer',
    stem,
    chord_m,
    unit_m: (s) => carriers.get(s)!.unit_m,
    sizes: (s) => carriers.get(s)!.sizes,
  });
  if (plan.sets.length === 0)
    throw new Problem(
      'nothing-to-convert',
      `There is no record to convert in ${sources.map((s) => s.name).join(', ')}${bounds ? ' within --bounds' : ''}.`,
    );

  const feeds: Feed[] = sources.map((s, i) => ({ carrier: carriers.get(s.path)!, library: s.open.library?.() ?? null, read: read[i]! }));
  const goal: RunTarget = { crs: target, stem, options: formatOptions(format, chosen), chord_m, base };
  const total = layers.reduce((n, l) => n + l.profile.count, 0);
  if (base) await cp(path.join(folder, output), path.join(folder, copyName(output)));
  const { run, proof, files } = await writeProved(format, plan, feeds, goal, folder, total);
  const written = await namedAsAsked(files, single === null ? null : path.join(folder, output));
  const findings = [...sources.flatMap((s) => s.findings), ...planFindings(plan), ...run.findings.list(), ...proof.findings];
  return {
    json: resultJson(format, written, plan, run.written, proof, findings),
    text: resultText(written, proof, findings, target),
    exit: proof.status === 'failed' ? 1 : 0,
  };
}

/** The file that is to be added to. */
async function baseOf(output: string, format: Format): Promise<ByteSource> {
  if (!format.write?.adds) throw new Usage(`${format.name} cannot be added to: leave --append out.`);
  return fileSource(output).catch(() => {
    throw new Problem('file-missing', `${output} is not there, so nothing can be added to it. Leave --append out to make it.`, {
      file: output,
    });
  });
}

/** What a file is called as it was before something was added. */
const copyName = (name: string): string => `${name.slice(0, name.length - path.extname(name).length)}.before${path.extname(name)}`;

async function profiled(batches: AsyncIterable<FeatureBatch>): Promise<LayerProfile[]> {
  const profiler = new Profiler();
  for await (const batch of batches) profiler.add(batch);
  return profiler.layers();
}

function boundsOf(text: string | undefined): Region | null {
  if (text === undefined) return null;
  const box = text.split(',').map(Number);
  if (box.length !== 4 || !box.every(Number.isFinite) || box[0]! >= box[2]! || box[1]! >= box[3]!)
    throw new Usage(`--bounds wants minx,miny,maxx,maxy in the output's system; "${text}" is none.`);
  return { box: box as [number, number, number, number], rings: [] };
}

function chordOf(text: string | undefined): number {
  const chord = text === undefined ? EMPTY_RECIPE.chord_m : Number(text);
  if (!(chord > 0)) throw new Usage(`--chord wants a length in metres, such as 0.01; "${text}" is none.`);
  return chord;
}

/** The format and folder of an output, and the stem of its files when it names one file. */
async function targetOf(
  output: string,
  formatId: string | undefined,
): Promise<{ format: Format; folder: string; single: string | null; chosen: OptionValues }> {
  const extension = extensionOf(output);
  const isFolder =
    output.endsWith('/') ||
    (await stat(output).then(
      (s) => s.isDirectory(),
      () => false,
    ));
  const format = formatId === undefined ? FORMATS.find((f) => f.extensions.includes(extension)) : formatById(formatId);
  const writable = FORMATS.filter((f) => f.write)
    .map((f) => `${f.id} (${f.extensions[0]})`)
    .join(', ');
  if (!format) throw new Usage(`The format of ${output} is not known. Give --format; what is written: ${writable}.`);
  if (!format.write) throw new Usage(`${format.name} is only read, not written. What is written: ${writable}.`);
  const chosen = format.write.optionsOf?.(extension) ?? {};
  if (isFolder || !format.extensions.includes(extension)) return { format, folder: output, single: null, chosen };
  return { format, chosen, folder: path.dirname(output), single: path.basename(output).slice(0, -extension.length) };
}

/** What the coordinates of a source are in: told, stated by the file, or taken as the target's own. */
function placeOf(s: Surveyed, from: Crs | undefined, to: Crs | undefined): Crs {
  const crs = from ?? s.facts.crs;
  if (crs) return crs;
  throw new Problem(
    'crs-not-stated',
    to
      ? `${s.name} states no coordinate system. Say with --from which one its numbers are in (the same as --to when they are in ${label(to)} already).`
      : `${s.name} states no coordinate system. Say with --from which one its numbers are in, for example --from EPSG:2193.`,
  );
}

function wantedLayers(sources: Surveyed[], names: string[] | undefined): PlannedLayer[] {
  const all = sources.flatMap((s) =>
    s.layers.map((profile): PlannedLayer => ({
      source: s.path,
      profile,
      rule: {},
      style: styleBy({}, s.open.library?.()?.styles.get(symbolKey(profile.name))),
    })),
  );
  if (!names) return all;
  for (const name of names) {
    if (!all.some((l) => l.profile.name === name))
      throw new Problem('layer-unknown', `There is no layer "${name}". The layers are: ${all.map((l) => l.profile.name).join(', ')}.`);
  }
  return all.filter((l) => names.includes(l.profile.name));
}

/** One file that stands for the whole output has the name that was asked for; of several, each keeps its own. */
async function namedAsAsked(files: Written['files'], wanted: string | null): Promise<Written['files']> {
  const [only, ...others] = files;
  if (wanted === null || !only || others.length > 0 || path.extname(only.path) === path.extname(wanted)) return files;
  await rename(only.path, wanted);
  return [{ ...only, path: wanted }];
}

function planFindings(plan: Plan): Finding[] {
  return plan.sets.flatMap((set) =>
    set.fields.flatMap((f) =>
      f.changes.map((c) => ({
        code: `field-${c.code}`,
        severity: c.code === 'renamed' ? ('info' as const) : ('caution' as const),
        message: `${f.from}: ${c.note}.`,
        count: f.filled,
        place: set.name,
      })),
    ),
  );
}

function resultJson(
  format: Format,
  files: { path: string; sets: number[] }[],
  plan: Plan,
  counts: number[],
  proof: Proof,
  findings: Finding[],
): unknown {
  return {
    outputs: files.map((f) => ({
      path: f.path,
      format: format.id,
      layers: f.sets.map((k) => ({ name: plan.sets[k]!.name, count: counts[k]! })),
    })),
    proof: {
      status: proof.status,
      records: proof.records,
      maxDeviation_m: proof.maxDeviation_m,
      differences: proof.differences,
      ways: proof.ways,
    },
    findings,
  };
}

function resultText(files: { path: string }[], proof: Proof, findings: Finding[], target: Crs): string {
  const lines = files.map((f) => `wrote ${f.path}`);
  lines.push(
    `${label(target)}; proof: ${proof.status}, ${proof.records.out} of ${proof.records.in} records, at most ${(proof.maxDeviation_m * 1000).toPrecision(3)} mm off`,
  );
  for (const d of proof.differences)
    lines.push(`  ${d.expected ? 'as forecast' : 'differs'}: ${d.count} × ${d.message} (${d.set}${d.field ? `.${d.field}` : ''})`);
  for (const f of findings)
    if (f.severity !== 'info') lines.push(`  ${f.severity}: ${f.count} × ${f.message}${f.place ? ` (${f.place})` : ''}`);
  return lines.join('\n');
}

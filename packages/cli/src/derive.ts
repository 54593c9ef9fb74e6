import { access } from 'node:fs/promises';
import type { Derivation, Derived, Role } from '@pontrel/core/content/derived/derivation';
import { derivationById, DERIVATIONS } from '@pontrel/core/content/derived/derivations';
import { hasGeometry } from '@pontrel/core/content/features/profile';
import { SURFACE_OF } from '@pontrel/core/content/surfaces/ground-surface';
import { surfaceImage, usualPixel } from '@pontrel/core/content/surfaces/surface-image';
import type { Tin } from '@pontrel/core/content/surfaces/tin';
import { deriveRecords, type DerivationSource, layerRoles, type LayerRoles } from '@pontrel/core/crossing/derive-records';
import { derivedSource } from '@pontrel/core/crossing/derived-source';
import type { LayerOf } from '@pontrel/core/crossing/worked-out';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { type Crs, isOnEarth, isPlane } from '@pontrel/core/crs/crs';
import { localPlane, METRE } from '@pontrel/core/crs/local-plane';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { label } from '@pontrel/core/crs/transform';
import type { FeatureFormat, Format } from '@pontrel/core/formats/format';
import { IMAGE_FORMATS } from '@pontrel/core/formats/images';
import { FORMATS } from '@pontrel/core/formats/index';
import type { FormatOption } from '@pontrel/core/formats/format-option';
import { formatOptions, prescribedCrs } from '@pontrel/core/formats/options';
import { parseLength } from '@pontrel/core/io/length-text';
import type { Finding } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { proposedUnit } from '@pontrel/core/placement/unit-question';
import { runOwnImages, sizeOf } from './convert-images';
import { elevationSource, type WorkedSource } from './elevation-source';
import { checkLayers, gatherAll } from './gathered';
import { type Goal, goalOf, valueOf } from './goal';
import { imageFormatOf, type ImageInput } from './images';
import { resultOf, writeProved } from './output';
import { fromOf, isLocal, systemOf, unitOf } from './placing';
import { type Result, Usage } from './result';

/** The options of the command, as they were typed. */
export interface DeriveOptions {
  from?: string;
  unit?: string;
  to?: string;
  layer?: string[];
  set?: string[];
  pixelSize?: string;
  format?: string;
  option?: string[];
}

/** Faults that are printed as JSON. */
const MOST_LISTED = 10_000;

const FORMATS_WRITTEN = FORMATS.filter((f) => f.features.write);

/** Formats that an elevation model is written in: those that hold heights as they are. */
const ELEVATION_FORMATS = IMAGE_FORMATS.filter(
  (f) => f.images.write && f.images.carries(formatOptions(f, {})).sampleTypes.includes('float32'),
);

/** Works records out of the records of files, and writes them, proved. */
export async function derive([name, ...given]: readonly string[], options: DeriveOptions): Promise<Result> {
  const derivation = derivationById(name ?? '');
  if (!derivation) throw new Usage(`"${name}" is no operation. What there is: ${DERIVATIONS.map((d) => d.id).join(', ')}.`);
  if (given.length < 2) throw new Usage('Name at least one input and the output.');
  const inputs = given.slice(0, -1),
    output = given.at(-1)!;
  const said = saidBy(derivation, options.set ?? []);
  const written: readonly Format[] = derivation === SURFACE_OF ? [...FORMATS_WRITTEN, ...ELEVATION_FORMATS] : FORMATS_WRITTEN;
  const goal = await goalOf(output, options, written, { name: inputs[0]!, is: 'no picture' });
  if (options.pixelSize !== undefined && goal.format.features)
    throw new Usage(`--pixel-size is for an elevation model: ${goal.format.name} holds records. Leave it out, or write a GeoTIFF (.tif).`);
  const unit = unitOf(options.unit),
    from = fromOf(options.from, unit),
    to = options.to === undefined || isLocal(options.to) ? undefined : readPositions(options.to, '--to');
  const beside = await filesAmong(Object.values(said.roles).flat(), inputs);
  const files = [...inputs, ...beside];
  const images = (await Promise.all(files.map(async (file) => ({ file, format: await imageFormatOf(file) })))).filter(
    (i): i is ImageInput => i.format !== undefined,
  );
  const ofRecords = files.filter((file) => !images.some((i) => i.file === file));
  return gatherAll(ofRecords, async (read) => {
    const models = await Promise.all(images.map(elevationSource));
    // in the order in which they were given
    const gathered = files.map((file): WorkedSource => [...read, ...models].find((s) => s.path === file)!);
    // a table of bearings lies nowhere, and what is worked out of it does
    const needsNone = derivation.roles.every((r) => r.kinds.includes('none'));
    const lying = needsNone ? gathered : gathered.filter((s) => hasGeometry(s.layers));
    if (lying.length === 0) throw new Problem('nothing-lies', `There is nothing in ${inputs.join(', ')} that lies somewhere.`);
    checkLayers(gathered, options.layer);
    // figures are those of a plane: what is in degrees says with --to which
    const crs = to ?? systemOf(lying[0]!, from, to);
    if (isLocal(options.to) && isOnEarth(crs))
      throw new Usage(`--to local: ${lying[0]!.name} is in ${label(crs)}, and nothing leads from there into a local plane.`);
    if (!isPlane(crs))
      throw new Usage(
        `${lying[0]!.name} is in degrees, and lengths and areas want a plane: say with --to which, for example --to EPSG:2193.`,
      );
    const stem = goal.single ?? derivation.id;
    const sources = lying.map((s): DerivationSource => {
      const own = systemOf(s, from, to);
      const parameters = { unit_m: unit?.metres ?? proposedUnit(own, s.facts.unit, s.extent) };
      return { ...s, placed: { crs: own, parameters, extent: s.extent } };
    });
    const roles = rolesOf(derivation, said.roles, lying, inputs, options.layer);
    const told = await deriveRecords(derivation, sources, { roles, settings: said.settings, name: stem, crs });
    return told.surface && goal.format.images
      ? elevationModel(told, told.surface, stem, crs, goal, options)
      : writtenAs(told, stem, derivation.ownPlane ? localPlane(METRE) : crs, goal as Goal<FeatureFormat>);
  });
}

/** Writes what came of an operation, and tells of it. */
async function writtenAs(
  { records, figures, faults, findings }: Derived,
  stem: string,
  crs: Crs,
  goal: Goal<FeatureFormat>,
): Promise<Result> {
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: definitionOf(crs) },
    sources: { [stem]: { placement: { crs: definitionOf(crs), unit_m: null }, layers: {} } },
  };
  const deliverable: Deliverable = {
    id: 'derive',
    name: stem,
    stem,
    format: goal.format.id,
    crs: prescribedCrs(goal.format, goal.options) ?? definitionOf(crs),
    grouping: 'layer',
    options: goal.options,
  };
  const source = derivedSource(stem, records);
  const derived = { ...figures, faults: faults.slice(0, MOST_LISTED) };
  const { json, text, exit } =
    source.layers.length === 0
      ? nothingWritten(findings)
      : resultOf([await writeProved(recipe, deliverable, [source], goal.folder)], findings);
  return { json: { ...(json as object), derived }, text: [figuresText(figures), text].join('\n'), exit };
}

/** Writes a surface as an elevation model. */
async function elevationModel(
  { figures, faults, findings }: Derived,
  tin: Tin,
  stem: string,
  crs: Crs,
  goal: Goal<Format>,
  { pixelSize }: DeriveOptions,
): Promise<Result> {
  const [pixel, other] = sizeOf(pixelSize) ?? [usualPixel(tin), undefined];
  if (other !== undefined && other !== pixel) throw new Usage(`--pixel-size wants one size for a surface; "${pixelSize}" is two.`);
  const text = definitionOf(crs);
  const deliverable: Deliverable = {
    id: 'derive',
    name: stem,
    stem,
    format: goal.format.id,
    crs: text,
    grouping: 'kind',
    options: goal.options,
    image: { resampling: 'nearest' },
  };
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: text },
    sources: { [stem]: { placement: { crs: text, unit_m: null }, layers: {} } },
  };
  const image = { source: stem, name: stem, open: () => Promise.resolve(surfaceImage(tin, crs, pixel)) };
  const { json, text: told, exit } = await runOwnImages(recipe, deliverable, [image], goal.folder);
  const own = json as { findings: readonly Finding[] };
  const derived = { ...figures, pixelSize: pixel, faults: faults.slice(0, MOST_LISTED) };
  return { json: { ...own, findings: [...findings, ...own.findings], derived }, text: [figuresText(figures), told].join('\n'), exit };
}

/** What is told where no record came of an operation: nothing is at fault, say. */
const nothingWritten = (findings: readonly Finding[]): Result => ({
  json: { outputs: [], proof: { status: 'match', records: { in: 0, out: 0 }, maxDeviation_m: 0, differences: [] }, account: [], findings },
  text: 'No record came of it: no file was written.',
  exit: 0,
});

/** What --set says: values of settings, and names of layers or files for what the operation wants records for. */
interface Said {
  settings: Record<string, string | number>;
  roles: Record<string, string[]>;
}

function saidBy({ settings, roles }: Derivation, pairs: readonly string[]): Said {
  const said: Said = { settings: {}, roles: {} };
  for (const pair of pairs) {
    const [, name, text] = /^([^=]+)=(.*)$/s.exec(pair) ?? [];
    const setting = settings.find((s) => s.id === name),
      role = roles.find((r) => r.id === name);
    if (setting) said.settings[setting.id] = settingValue(setting, text!);
    else if (role) said.roles[role.id] = text!.split(',');
    else throw new Usage(`--set ${pair}: what can be set is ${[...settings, ...roles].map((s) => s.id).join(', ')}. Write NAME=VALUE.`);
  }
  return said;
}

function settingValue(setting: FormatOption, text: string): string | number {
  if (setting.kind !== 'length') return valueOf(setting, '--set', setting.id, text);
  const metres = parseLength(text, 'm', setting.orNone);
  if (metres === null) throw new Usage(`--set ${setting.id} wants a length, such as 0.02, 5mm or 0.1ft; "${text}" is none.`);
  return metres;
}

/** What is named for a role and is a file: an input as well. */
async function filesAmong(names: readonly string[], inputs: readonly string[]): Promise<string[]> {
  const there = await Promise.all(
    names.map((name) =>
      access(name).then(
        () => true,
        () => false,
      ),
    ),
  );
  return [...new Set(names.filter((name, k) => there[k] && !inputs.includes(name)))];
}

/** @param inputs files that are inputs; the others were named for a role */
function rolesOf(
  derivation: Derivation,
  said: Said['roles'],
  sources: readonly WorkedSource[],
  inputs: readonly string[],
  only: readonly string[] | undefined,
): LayerRoles {
  const all = sources.flatMap((s) => s.layers.map((profile) => ({ source: s.name, path: s.path, layer: profile.name, profile })));
  const named = ([role, names]: [string, readonly string[]]): [string, LayerOf[]] => [
    role,
    names.flatMap((name) => {
      const own = all.filter((l) => l.path === name || l.layer === name);
      if (own.length > 0) return own.map(({ source, layer }) => ({ source, layer }));
      const title = derivation.roles.find((r: Role) => r.id === role)!.title;
      throw new Problem(
        'layer-unknown',
        `${title}: there is no layer and no file "${name}". The layers are: ${all.map((l) => l.layer).join(', ')}.`,
      );
    }),
  ];
  const own = new Set(sources.filter((s) => inputs.includes(s.path)).map((s) => s.name));
  return layerRoles(
    derivation,
    all.filter((l) => own.has(l.source) && (!only || only.includes(l.layer))),
    Object.fromEntries(Object.entries(said).map(named)),
  );
}

/** Figures as a line for people. */
const figuresText = (figures: Derived['figures']): string =>
  Object.entries(figures)
    .map(([name, value]) => `${name} ${Number(value.toPrecision(9))}`)
    .join(', ');

import { cp, rename, stat } from 'node:fs/promises';
import path from 'node:path';
import { hasGeometry } from '@pontrel/core/content/features/profile';
import type { CrossingSource } from '@pontrel/core/crossing/crossing-source';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { type Crs, isOnEarth, northUp } from '@pontrel/core/crs/crs';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import type { Finding } from '@pontrel/core/model/finding';
import { label } from '@pontrel/core/crs/transform';
import type { FeatureFormat, Format } from '@pontrel/core/formats/format';
import { IMAGE_FORMATS } from '@pontrel/core/formats/images';
import { WGS84 } from '@pontrel/core/formats/globe';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { Problem } from '@pontrel/core/model/problem';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { findCandidates } from '@pontrel/core/placement/finder';
import { isSevere, statedDoubt } from '@pontrel/core/placement/stated-system';
import { proposedUnit } from '@pontrel/core/placement/unit-question';
import { crsOf } from '@pontrel/core/placement/route';
import { fileSource } from '@pontrel/host-node/files';
import { convertImages, type GatheredImages, gatherImages, runImage, settingsBelow } from './convert-images';
import { imageSettingsOf } from './image-settings';
import { imageFormatOf, type ImageInput } from './images';
import { checkLayers, gatherAll, type GatheredSource } from './gathered';
import type { ConvertOptions } from './convert-options';
import { type Box, boundsOf, goalOf } from './goal';
import { resultOf, writeProved, type Written } from './output';
import { fromOf, isLocal, systemOf, unitOf } from './placing';
import { runRecipe } from './run-recipe';
import { type Result, Usage } from './result';

/** Formats in which records are written, and those in which a map of them is. */
const WRITTEN = FORMATS.filter((f) => f.features.write),
  IMAGES_WRITTEN = IMAGE_FORMATS.filter((f) => f.images.write);

/** Converts files into one, or runs a recipe on them. Either way it is a recipe that runs. */
export async function convert(files: readonly string[], options: ConvertOptions): Promise<Result> {
  if (files.length < 2) throw new Usage('Name at least one input and the output.');
  if (options.source && options.recipe === undefined)
    throw new Usage('--source says which input takes the place of a source of a recipe: name the recipe with --recipe.');
  const inputs = files.slice(0, -1),
    output = files.at(-1)!;
  await refuseSource(inputs, output);
  const formats = await Promise.all(inputs.map(imageFormatOf));
  const images = inputs.flatMap((file, k) => (formats[k] ? [{ file, format: formats[k] }] : []));
  const records = inputs.filter((_, k) => !formats[k]);
  if (options.recipe !== undefined) return runRecipe(records, images, output, options.recipe, options.source ?? []);
  if (records.length > 0) return convertInto(records, output, options, images);
  return convertImages(images, output, options);
}

/** @throws Usage when the output is one of the inputs, by another path, link or case of letters as well: it would replace its own source */
async function refuseSource(inputs: readonly string[], output: string): Promise<void> {
  const same = async (a: string, b: string): Promise<boolean> => {
    const [x, y] = await Promise.all([a, b].map((file) => stat(file).catch(() => undefined)));
    return x !== undefined && x.dev === y?.dev && x.ino === y.ino;
  };
  for (const input of inputs)
    if ((await same(input, output)) && (await stat(output)).isFile())
      throw new Usage(`${output} is the input ${input} itself, which stays as it is. Name another output.`);
}

/** Options that only pictures have. */
const OF_IMAGES = ['pixelSize', 'resample', 'quality'] as const;

/** @param images that are to lie below the records */
async function convertInto(
  inputs: readonly string[],
  output: string,
  options: ConvertOptions,
  images: readonly ImageInput[],
): Promise<Result> {
  for (const name of OF_IMAGES)
    if (options[name] !== undefined && images.length === 0)
      throw new Usage(
        `--${name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`)} is for pictures, and ${inputs[0]} holds records: leave it out.`,
      );
  const asked = imageSettingsOf(options.option ?? []);
  const drawn = asked.settings.drawn !== undefined;
  const said = images.length > 0 || drawn ? asked : null;
  const written: readonly Format[] = drawn ? IMAGES_WRITTEN : WRITTEN;
  const goal = await goalOf(output, said ? { ...options, option: said.rest } : options, written, {
    name: path.basename(inputs[0]!),
    is: 'no picture',
  });
  if (drawn && options.append) throw new Usage('--append is for records: a map is a file of its own.');
  if (said && !drawn && !goal.format.features?.write?.showsPictures)
    throw new Usage(
      `${inputs[0]} is no picture, and ${images[0]!.file} is one: convert them one after the other, ` +
        `or both into a drawing (.dxf), which shows the picture below its records.`,
    );
  const below = await gatherImages(
    images,
    options.from === undefined || isLocal(options.from) ? null : readPositions(options.from, '--from'),
  );
  const prescribed = drawn ? (goal.format.images!.write!.prescribedCrs ?? null) : prescribedCrs(goal.format as FeatureFormat, goal.options);
  const to =
    options.to === undefined
      ? prescribed === null
        ? undefined
        : crsOf(prescribed)!
      : isLocal(options.to)
        ? undefined
        : readPositions(options.to, '--to');
  if (prescribed !== null && to && to.id !== prescribed)
    throw new Usage(`${goal.format.name} is written in ${prescribed} only: leave --to out, or give it that.`);
  const unit = unitOf(options.unit),
    from = fromOf(options.from, unit),
    chord_m = chordOf(options.chord),
    box = boundsOf(options.bounds);
  if (options.append) await checkAppend(output, goal.format as FeatureFormat);
  return gatherAll(inputs, async (gathered) => {
    const sources = (isLocal(options.from) && !unit ? gathered.map(withUnitTaken) : gathered).map((s) => (from ? s : withWhatFits(s)));
    const somewhere = sources.find((s) => hasGeometry(s.layers));
    // records without places need no system, but what they are written into may state one
    const target = to ?? (somewhere ? systemOf(somewhere, from, to) : (from?.(sources[0]!.facts) ?? crsOf(WGS84)!));
    if (isLocal(options.to) && isOnEarth(target))
      throw new Usage(
        `--to local: ${somewhere?.name ?? sources[0]!.name} is in ${label(target)}, and nothing leads from there into a local plane.`,
      );
    checkLayers(sources, options.layer);
    const deliverable: Deliverable = {
      id: 'convert',
      name: goal.single ?? sources[0]!.name.replace(/\.[^.]*$/, ''),
      ...(goal.single === null ? {} : { stem: goal.single }),
      format: goal.format.id,
      crs: definitionOf(target),
      // what is added to others is told apart by its layers
      grouping: goal.single !== null && !options.append ? 'kind' : 'layer',
      options: goal.options,
      ...(said
        ? {
            image: settingsBelow(
              options,
              said,
              below.files.map((f) => f.name),
            ),
          }
        : {}),
      ...(box ? { area: { kind: 'box', box: inFrame(box, target) } } : {}),
      ...(options.append ? { into: APPENDED } : {}),
    };
    const recipe: Recipe = {
      ...EMPTY_RECIPE,
      frame: { crs: definitionOf(target) },
      chord_m,
      sources: Object.fromEntries([
        ...Object.entries(below.sources),
        ...sources.map((s): [string, Recipe['sources'][string]] => {
          const placed = hasGeometry(s.layers) ? systemOf(s, from, to) : null;
          const { fit, unit: stated } = s.facts;
          const placement = placed && {
            crs: definitionOf(placed),
            unit_m: unit ? unit.metres : proposedUnit(placed, stated, s.extent),
            ...(unit && stated ? { settled_m: stated.metres } : {}),
            ...(fit && !from && !unit
              ? { fit: { kind: fit.kind, pairs: fit.pairs.map((p) => ({ ...p, from: [...p.from], to: [...p.to] })) } }
              : {}),
          };
          return [s.name, { placement, layers: rulesFor(s, options) } as Recipe['sources'][string]];
        }),
      ]),
      deliverables: [deliverable],
    };
    if (drawn) return runImage(stretchedBy(recipe, below, asked.stretch), deliverable, below.files, sources, goal.folder);
    const base = options.append ? appendedTo(output) : [];
    const before = options.append ? path.join(path.dirname(output), copyName(path.basename(output))) : null;
    if (before) await cp(output, before);
    const written = await writeProved(recipe, deliverable, [...sources, ...base], goal.folder, below.files).catch((error: unknown) => {
      throw nothingThere(error, sources, options);
    });
    return { ...resultOf([{ ...written, files: await namedAsAsked(written.files, goal.single === null ? null : output) }]) };
  });
}

/** The recipe with what is black and white on all images of a map. */
function stretchedBy(recipe: Recipe, { sources }: GatheredImages, stretch: [number, number] | null): Recipe {
  if (!stretch) return recipe;
  const shown = Object.entries(sources).map(([name, source]) => [name, { ...source, image: { ...source.image, shown: { stretch } } }]);
  return { ...recipe, sources: { ...recipe.sources, ...(Object.fromEntries(shown) as Recipe['sources']) } };
}

/** Name under which the file that is added to is a source of the recipe; no file can have it. */
const APPENDED = '(output)';

/** The file that sets are added to: a source of which nothing crosses. */
function appendedTo(output: string): CrossingSource[] {
  return [
    {
      name: APPENDED,
      layers: [],
      extent: null,
      unit: null,
      findings: [],
      library: null,
      records: () => [],
      reopen: () => Promise.reject(new Error('nothing crosses of it')),
      file: () => fileSource(output),
    },
  ];
}

async function checkAppend(output: string, format: FeatureFormat): Promise<void> {
  if (!format.features.write?.adds) throw new Usage(`${format.name} cannot be added to: leave --append out.`);
  if (
    !(await stat(output).then(
      (s) => s.isFile(),
      () => false,
    ))
  )
    throw new Problem('file-missing', `${output} is not there, so nothing can be added to it. Leave --append out to make it.`, {
      file: output,
    });
}

/** What a file is called as it was before something was added. */
const copyName = (name: string): string => `${name.slice(0, name.length - path.extname(name).length)}.before${path.extname(name)}`;

function rulesFor(source: GatheredSource, { layer, where }: ConvertOptions): Record<string, LayerRule> {
  return Object.fromEntries(
    source.layers.map((l): [string, LayerRule] => [
      l.name,
      { ...(layer && !layer.includes(l.name) ? { taken: false } : where === undefined ? {} : { where }) },
    ]),
  );
}

/** Nothing to write is said in the words of the command, since Gather and Shape are places of the page. */
function nothingThere(error: unknown, sources: readonly GatheredSource[], { bounds, where }: ConvertOptions): unknown {
  if (!(error instanceof Problem) || error.code !== 'deliverable-empty') return error;
  const why = [bounds === undefined ? '' : ' within --bounds', where === undefined ? '' : ' that --where takes'].join('');
  // numbers that have no place in the system that they are said to be in are why nothing is left
  const doubts = sources.flatMap((s) => {
    const doubt = statedDoubt(s.facts, s.extent);
    return doubt ? [doubt.message, ...s.findings.filter((f) => f.code === FITS).map((f) => f.message)] : [];
  });
  const unread = sources.flatMap((s) => s.findings.filter((f) => f.left).map((f) => `${f.count} × ${f.message}`));
  const records = sources.reduce((n, s) => n + s.layers.reduce((m, l) => m + l.count, 0), 0);
  const nowhere =
    records > 0 && [...doubts, ...unread].length === 0 && why === ''
      ? [
          `None of ${records === 1 ? 'its one record' : `its ${records} records`} has a position in the system of the output: check --from, --unit and --to.`,
        ]
      : [];
  return new Problem(
    'nothing-to-convert',
    [`There is no record to convert in ${sources.map((s) => s.name).join(', ')}${why}.`, ...doubts, ...unread, ...nowhere].join(' '),
  );
}

/** A box in the numbers of a system as one in the plane that is drawn north up. */
function inFrame([minx, miny, maxx, maxy]: Box, crs: Crs): Box {
  const drawn = northUp(crs);
  const turned = (axis: 'x' | 'y'): boolean =>
    crs.kind === 'projected' && drawn.kind === 'projected' && crs.axes[axis] !== drawn.axes[axis];
  const [x1, x2] = turned('x') ? [-maxx, -minx] : [minx, maxx];
  const [y1, y2] = turned('y') ? [-maxy, -miny] : [miny, maxy];
  return [x1, y1, x2, y2];
}

function chordOf(text: string | undefined): number {
  const chord = text === undefined ? EMPTY_RECIPE.chord_m : Number(text);
  if (!(chord > 0)) throw new Usage(`--chord wants a length in metres, such as 0.01; "${text}" is none.`);
  return chord;
}

/** A file of which nobody says in which unit the numbers of its local plane are. */
function withUnitTaken(source: GatheredSource): GatheredSource {
  if (source.facts.unit || !hasGeometry(source.layers)) return source;
  const finding: Finding = {
    code: 'local-unit-taken',
    severity: 'caution',
    message: `${source.name} states no unit: its numbers are taken for metres. Say with --unit if they are another.`,
    count: 1,
    location: source.name,
  };
  return { ...source, findings: [...source.findings, finding] };
}

/** Systems that are named where the stated one can hardly be true. */
const FITTING = 3;

const FITS = 'system-fits';

/** A file whose numbers hardly fit the system that it states, with those that they would fit. */
function withWhatFits(source: GatheredSource): GatheredSource {
  const { unit } = source.facts;
  if (!source.extent || !isSevere(statedDoubt(source.facts, source.extent))) return source;
  const found = findCandidates(
    source.extent,
    unit?.metres ?? null,
    { systems: new Set(), places: [], unit_m: unit?.metres ?? null },
    FITTING,
  );
  const finding: Finding = {
    code: FITS,
    severity: 'info',
    message:
      found.length > 0
        ? `Its numbers would fit ${found.map((c) => `${label(c.crs)} (${c.crs.name}${c.mistake ? `, ${c.mistake}` : ''})`).join(', ')}. Say with --from which it is.`
        : 'Its numbers lie in no system’s area of use: they may be those of a site grid (--from local).',
    count: 1,
    location: source.name,
  };
  return { ...source, findings: [...source.findings, finding] };
}

/** One file that stands for the whole output has the name that was asked for; of several, each keeps its own. */
async function namedAsAsked(files: Written['files'], wanted: string | null): Promise<Written['files']> {
  const [only, ...others] = files;
  if (wanted === null || !only || others.length > 0 || path.extname(only.path) === path.extname(wanted)) return files;
  await rename(only.path, wanted);
  return [{ ...only, path: wanted }];
}

import path from 'node:path';
import { accountTotals } from '@pontrel/core/content/account';
import { joinFields, type LayerProfile } from '@pontrel/core/content/features/profile';
import { fileStem } from '@pontrel/core/content/features/plan';
import { type CrossingImage, type ImageReport, runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { type Deliverable, EMPTY_RECIPE, type ImageSettings, type Recipe } from '@pontrel/core/crossing/recipe';
import type { CrossingSource } from '@pontrel/core/crossing/crossing-source';
import type { Crs } from '@pontrel/core/crs/crs';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { LOCAL, localPlane, METRE } from '@pontrel/core/crs/local-plane';
import { IMAGE_FORMATS } from '@pontrel/core/formats/images';
import { FreeNames } from '@pontrel/core/model/free-names';
import { Problem } from '@pontrel/core/model/problem';
import { RESAMPLINGS, type Resampling } from '@pontrel/core/raster/resample';
import { type FileImage, fileImage } from '@pontrel/host-node/file-image';
import { imageThreads } from '@pontrel/host-node/image-threads';
import { accountJson, accountLines, findingText } from './account-json';
import type { ConvertOptions } from './convert-options';
import { gatherAll, type GatheredSource } from './gathered';
import { boundsOf, goalOf } from './goal';
import { imageSettingsOf, type SaidOfImage } from './image-settings';
import { runInPlace } from './in-place';
import { type ImageInput, type KnownImage, knownImage, rasterJson } from './images';
import { type Result, Usage } from './result';

/** Formats in which pictures are written. */
const WRITTEN = IMAGE_FORMATS.filter((f) => f.images.write);

/** Options that pictures do not have. */
const OF_RECORDS = ['layer', 'where', 'chord', 'append', 'unit'] as const;

/** Makes one picture of some, the first of them on top, and proves it. */
export async function convertImages(inputs: readonly ImageInput[], output: string, options: ConvertOptions): Promise<Result> {
  for (const name of OF_RECORDS)
    if (options[name] !== undefined) throw new Usage(`--${name} is for records, and ${inputs[0]!.file} is a picture: leave it out.`);
  const { settings, outline, areas, packed, rest } = imageSettingsOf(options.option ?? []);
  if (packed) throw new Usage('--option packed is for an image below a drawing: the name of the output says how an image is packed.');
  if (outline !== null && options.bounds !== undefined)
    throw new Usage('--bounds and --option outline both say what is wanted: leave one of them out.');
  const goal = await goalOf(output, { ...options, option: rest }, WRITTEN, { name: path.basename(inputs[0]!.file), is: 'a picture' });
  const from = options.from === undefined ? null : systemNamed(options.from, '--from');
  const { files, systems, sources } = await gatherImages(inputs, from);
  const prescribed = goal.format.images.write!.prescribedCrs;
  const asked = options.to === undefined ? null : systemNamed(options.to, '--to');
  if (prescribed !== undefined && asked && asked.id !== prescribed)
    throw new Usage(`${goal.format.name} is written in ${prescribed} only: leave --to out, or give it that.`);
  const target = asked ?? (prescribed === undefined ? systems[0]! : readPositions(prescribed, '--to'));
  const box = boundsOf(options.bounds);
  const pixelSize = sizeOf(options.pixelSize);
  const deliverable: Deliverable = {
    id: 'convert',
    name: goal.single ?? fileStem(files[0]!.name.replace(/\.[^.]*$/, '')),
    ...(goal.single === null ? {} : { stem: goal.single }),
    format: goal.format.id,
    crs: definitionOf(target),
    grouping: 'kind',
    options: { ...goal.options, ...qualityOf(options.quality) },
    image: { resampling: resamplingOf(options.resample), ...settings, ...(pixelSize ? { pixelSize } : {}) },
    ...(box ? { area: { kind: 'box', box } } : {}),
  };
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: definitionOf(target) },
    sources,
    deliverables: [deliverable],
  };
  const run = (own: Recipe, records: readonly GatheredSource[]): Promise<Result> =>
    runImage(own, own.deliverables[0]!, files, records, goal.folder);
  if (outline === null) return run(recipe, []);
  return gatherAll([outline], ([own]) => run(areas ? tiledBy(recipe, own!, from, areas.field) : cutTo(recipe, own!, from), [own!]));
}

/** Runs a deliverable that is an image, and puts its files in their place. @param records sources that its areas may be taken from */
export async function runImage(
  recipe: Recipe,
  deliverable: Deliverable,
  files: readonly FileImage[],
  records: readonly CrossingSource[],
  folder: string,
): Promise<Result> {
  const { report, names } = await runInPlace(deliverable.name, folder, (partial, watches, at) =>
    runImageDeliverable(recipe, deliverable, files.map(fileImage), partial, {
      ...watches,
      records,
      threads: imageThreads(files, at),
    }),
  );
  return resultOf(
    report,
    inOrder(report, names).map((f) => path.join(folder, f)),
  );
}

/** The same of images that are no files. */
export async function runOwnImages(
  recipe: Recipe,
  deliverable: Deliverable,
  images: readonly CrossingImage[],
  folder: string,
): Promise<Result> {
  const { report, names } = await runInPlace(deliverable.name, folder, (partial, watches) =>
    runImageDeliverable(recipe, deliverable, images, partial, watches),
  );
  return resultOf(
    report,
    inOrder(report, names).map((f) => path.join(folder, f)),
  );
}

/** Images as they are gathered: their files, the systems of their numbers, and their part of a recipe. */
export interface GatheredImages {
  files: FileImage[];
  systems: Crs[];
  sources: Recipe['sources'];
}

/**
 * Gathers images, each placed by what it states.
 * @param from the system of their numbers, whatever they state
 * @throws Problem where one has no place
 */
export async function gatherImages(inputs: readonly ImageInput[], from: Crs | null): Promise<GatheredImages> {
  const known: KnownImage[] = [];
  for (const { file, format } of inputs) known.push(await knownImage(file, format));
  const free = new FreeNames([], (name, n) => `${name} (${n})`);
  const names = known.map(({ name }) => free.take(name));
  const systems = known.map((image) => systemOf(image, from));
  const sources = known.map(({ where: { pairs } }, k): [string, Recipe['sources'][string]] => [
    names[k]!,
    {
      placement: {
        crs: definitionOf(systems[k]!),
        unit_m: null,
        ...(pairs ? { fit: { kind: 'affine', pairs: pairs.map((p) => ({ from: [p.from[0], p.from[1]], to: [p.to[0], p.to[1]] })) } } : {}),
      },
      layers: {},
    },
  ]);
  return {
    systems,
    sources: Object.fromEntries(sources),
    files: known.map(({ path: file, format }, k) => ({ source: names[k]!, name: names[k]!, file, format: format.id })),
  };
}

/** How the image below the records of a drawing is worked out and packed. @throws Usage */
export function settingsBelow(options: ConvertOptions, said: SaidOfImage, names: readonly string[]): ImageSettings {
  if (said.outline !== null) throw new Usage('--option outline is for an image by itself: say with --bounds what of a drawing is wanted.');
  const size = sizeOf(options.pixelSize);
  return {
    resampling: resamplingOf(options.resample),
    ...said.settings,
    ...(size ? { pixelSize: size } : {}),
    ...qualityOf(options.quality),
    ...(said.packed ? { packed: said.packed } : {}),
    sources: [...names],
  };
}

/** The recipe of an image that is cut to the areas of a file. */
const cutTo = (recipe: Recipe, areas: GatheredSource, from: Crs | null): Recipe =>
  withAreas(recipe, areas, from, (deliverable, layer) => ({
    ...deliverable,
    area: { kind: 'layer', source: areas.name, layer: layer.name },
  }));

/** The recipe of an image that becomes a tile for each area of a file, named by a field where one is said. @throws Usage */
const tiledBy = (recipe: Recipe, areas: GatheredSource, from: Crs | null, field: string | undefined): Recipe =>
  withAreas(recipe, areas, from, (deliverable, layer) => {
    const fields = joinFields(layer.groups).map((f) => f.name);
    if (field !== undefined && !fields.includes(field))
      throw new Usage(`--option names=${field}: ${layer.name} of ${areas.name} has no such field. It has ${fields.join(', ') || 'none'}.`);
    return {
      ...deliverable,
      image: { ...deliverable.image!, split: { ...deliverable.image!.split, areas: { source: areas.name, layer: layer.name, field } } },
    };
  });

/** The recipe with the areas of a file at hand, and its deliverable as it is with the first of their layers that has some. */
function withAreas(
  recipe: Recipe,
  areas: GatheredSource,
  from: Crs | null,
  how: (deliverable: Deliverable, layer: LayerProfile) => Deliverable,
): Recipe {
  const layer = areas.layers.find((l) => l.groups.some((g) => g.kind === 'polygon'));
  if (!layer)
    throw new Problem('outline-empty', `${areas.name} holds no areas to cut to. Give a file with the outline as an area.`, {
      file: areas.name,
    });
  const crs = areas.facts.crs ?? from;
  if (!crs)
    throw new Problem('crs-not-stated', `${areas.name} states no coordinate system. Say with --from which one its numbers are in.`, {
      file: areas.name,
    });
  const [deliverable] = recipe.deliverables as [Deliverable];
  return {
    ...recipe,
    sources: {
      ...recipe.sources,
      [areas.name]: { placement: { crs: definitionOf(crs), unit_m: areas.facts.unit?.metres ?? null }, layers: {} },
    },
    // an outline has no pixels of its own: the edges lie on those of the pictures
    deliverables: [how({ ...deliverable, image: { ...deliverable.image!, aligned: true } }, layer)],
  };
}

/** The files that were written, those that the format names first. */
function inOrder({ files }: ImageReport, names: readonly string[]): string[] {
  return [...files.filter((f) => names.includes(f)), ...names.filter((n) => !files.includes(n))];
}

function systemNamed(text: string, option: string): Crs {
  return text.trim().toLowerCase() === LOCAL ? localPlane(METRE) : readPositions(text, option);
}

function systemOf({ name, where }: KnownImage, from: Crs | null): Crs {
  if (!where.grid && !where.pairs)
    throw new Problem(
      'image-unplaced',
      [
        `${name} does not say where it lies.`,
        `Put its world file beside it (${name.replace(/\.[^.]*$/, '')} with .tfw, .jgw or .pgw), or fit it to control points in Place.`,
      ].join(' '),
      { file: name },
    );
  const crs = from ?? where.crs;
  if (!crs)
    throw new Problem(
      'crs-not-stated',
      [
        `${name} states no coordinate system. Say with --from which one its numbers are in,`,
        'for example --from EPSG:2193, or --from local for those of a site grid.',
      ].join(' '),
      { file: name },
    );
  return crs;
}

/** Sizes of pixels along the axes; null where none is said. @throws Usage */
export function sizeOf(text: string | undefined): [number, number] | null {
  if (text === undefined) return null;
  const [x, y = x, ...more] = text.split(',').map(Number);
  if (more.length > 0 || !(x! > 0) || !(y! > 0))
    throw new Usage(`--pixel-size wants a size in units of the output, or two for x and y; "${text}" is none.`);
  return [x!, y!];
}

function resamplingOf(text: string | undefined): Resampling {
  const found = RESAMPLINGS.find((r) => r === (text ?? 'bilinear'));
  if (!found) throw new Usage(`--resample takes ${RESAMPLINGS.join(', ')}; "${text}" is none of them.`);
  return found;
}

function qualityOf(text: string | undefined): { quality?: number } {
  if (text === undefined) return {};
  const quality = Number(text);
  if (!(quality >= 1 && quality <= 100)) throw new Usage(`--quality wants a number from 1 to 100; "${text}" is none.`);
  return { quality };
}

/** Files that are named one by one. */
const MOST_TOLD = 12;

function resultOf({ plan, proof, findings }: ImageReport, files: readonly string[]): Result {
  const { target } = plan;
  const { registration, values, drawn } = proof;
  const drawnTotals = drawn && accountTotals(drawn.account);
  return {
    json: {
      outputs: files[0]
        ? [
            {
              path: files[0],
              files,
              format: plan.format.id,
              layers: [],
              raster: rasterJson({
                info: target.info,
                grid: target.grid,
                where: { grid: target.grid, pairs: null, crs: target.crs, crsText: null },
              }),
            },
          ]
        : [],
      proof: {
        status: proof.status,
        records: { in: drawnTotals?.read ?? 0, out: drawnTotals?.crossed ?? 0 },
        maxDeviation_m: proof.maxDeviation_m,
        differences: proof.differences,
        pixels: values,
        registration: { places: registration.places.length, rms_px: registration.rms_px, largest_px: registration.largest_px },
        corners: proof.corners,
        ...(drawn ? { drawn: { ...drawn.records, pixels: drawn.pixels, labels: drawn.labels } } : {}),
      },
      account: [...proof.account, ...(drawn?.account ?? [])].map((row) => ({ ...(accountJson(row) as object), missing: row.missing })),
      findings,
    },
    text: [
      ...files.slice(0, MOST_TOLD).map((f) => `wrote ${f}`),
      ...(files.length > MOST_TOLD ? [`wrote ${files.length - MOST_TOLD} more files beside them`] : []),
      `${target.crs.id ?? target.crs.name}; proof: ${proof.status}, ${target.info.width} by ${target.info.height} pixels, ${
        registration.rms_px === null
          ? 'too little texture to measure its registration'
          : `${registration.rms_px.toFixed(3)} pixels off its sources (RMS of ${registration.places.filter((p) => p.shift).length} places)`
      }`,
      ...proof.differences.map((d) => `  ${d.expected ? 'as forecast' : 'differs'}: ${d.message}`),
      ...accountLines(proof.account, ' pixels', ({ source, layer }) => (layer === 'image' ? source : `${source}, ${layer}`)),
      ...(drawn
        ? [`${drawn.records.drawn} records drawn, ${drawn.records.unseen} of them not to be seen; ${drawn.labels.placed} labels`]
        : []),
      ...accountLines(drawn?.account ?? []),
      ...findings.filter((f) => f.severity !== 'info').map(findingText),
    ].join('\n'),
    exit: proof.status === 'failed' ? 1 : 0,
  };
}

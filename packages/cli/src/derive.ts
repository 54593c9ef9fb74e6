import { polygonize, type Polygonized } from '@pontrel/core/content/parcels/polygonize';
import { placeBatch, sourceTransform, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { hasGeometry } from '@pontrel/core/content/features/profile';
import { DERIVED_CHORD_M, derivedSource } from '@pontrel/core/crossing/derived-source';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { type Crs, isPlane, metresPerUnit } from '@pontrel/core/crs/crs';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { parseLength } from '@pontrel/core/io/length-text';
import { curveLoad } from '@pontrel/core/geometry/flatten';
import type { Finding } from '@pontrel/core/model/finding';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { Problem } from '@pontrel/core/model/problem';
import { proposedUnit } from '@pontrel/core/placement/unit-question';
import { checkLayers, gatherAll, type GatheredSource } from './gathered';
import { goalOf } from './goal';
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
  format?: string;
  option?: string[];
}

/** What an operation gives: records, figures by name, and what a person should know. */
type Derived = Pick<Polygonized, 'findings'> & { records: FeatureBatch[]; figures: object };

interface Operation {
  /** What may be said with --set: lengths in metres, by name, with what holds when nothing is said. */
  lengths: Readonly<Record<string, number>>;
  /** @param batches in the system that is worked in, without curves */
  run(batches: AsyncIterable<FeatureBatch>, set: Readonly<Record<string, number>>, layer: string, unit_m: number): Promise<Derived>;
}

const OPERATIONS: Readonly<Record<string, Operation>> = {
  polygonize: {
    lengths: { tolerance: 0.001 },
    async run(batches, { tolerance }, layer, unit_m) {
      const { areas, figures, loose, findings } = await polygonize(batches, { layer, tolerance: tolerance! / unit_m, unit_m });
      return { records: areas, figures: { ...figures, loose: loose.slice(0, MOST_LISTED) }, findings };
    },
  },
};

/** Things of a list that are printed as JSON. */
const MOST_LISTED = 10_000;

const FORMATS_WRITTEN = FORMATS.filter((f) => f.features.write);

/** Works records out of the records of files, and writes them, proved. */
export async function derive([name, ...files]: readonly string[], options: DeriveOptions): Promise<Result> {
  const operation = OPERATIONS[name ?? ''];
  if (!operation) throw new Usage(`"${name}" is no operation. What there is: ${Object.keys(OPERATIONS).join(', ')}.`);
  if (files.length < 2) throw new Usage('Name at least one input and the output.');
  const inputs = files.slice(0, -1),
    output = files.at(-1)!;
  const set = lengthsOf(operation, options.set ?? []);
  const goal = await goalOf(output, options, FORMATS_WRITTEN, { name: inputs[0]!, is: 'no picture' });
  const unit = unitOf(options.unit),
    from = fromOf(options.from, unit),
    to = options.to === undefined || isLocal(options.to) ? undefined : readPositions(options.to, '--to');
  return gatherAll(inputs, async (sources) => {
    const lying = sources.filter((s) => hasGeometry(s.layers));
    if (lying.length === 0) throw new Problem('nothing-lies', `There is nothing in ${inputs.join(', ')} that lies somewhere.`);
    checkLayers(sources, options.layer);
    // figures are those of a plane: what is in degrees says with --to which
    const crs = to ?? systemOf(lying[0]!, from, to);
    if (!isPlane(crs))
      throw new Usage(
        `${lying[0]!.name} is in degrees, and lengths and areas want a plane: say with --to which, for example --to EPSG:2193.`,
      );
    const stem = goal.single ?? name!;
    const curved = { count: 0 };
    const batches = placedIn(lying, crs, options.layer, from, to, unit?.metres, curved);
    const told = await operation.run(batches, set, stem, metresPerUnit(crs, null));
    const source = derivedSource(stem, () => told.records);
    const prescribed = prescribedCrs(goal.format, goal.options);
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
      crs: prescribed ?? definitionOf(crs),
      grouping: 'layer',
      options: goal.options,
    };
    const findings = [...lying.flatMap((s) => s.findings.map(({ left: _left, ...f }) => f)), ...chordsOf(curved.count), ...told.findings];
    const written = await writeProved(recipe, deliverable, [source], goal.folder);
    const { json, text, exit } = resultOf([written], findings);
    return { json: { ...(json as object), derived: told.figures }, text: [figuresText(told.figures), text].join('\n'), exit };
  });
}

/** Every record of the chosen layers in the plane that is worked in, curves in chords. @param curved counts the records that have some */
async function* placedIn(
  sources: readonly GatheredSource[],
  crs: Crs,
  layers: readonly string[] | undefined,
  from: ReturnType<typeof fromOf>,
  to: Crs | undefined,
  unit_m: number | undefined,
  curved: { count: number },
): AsyncGenerator<FeatureBatch> {
  for (const source of sources) {
    const own = systemOf(source, from, to);
    const parameters = { unit_m: unit_m ?? proposedUnit(own, source.facts.unit, source.extent) };
    const way = sourceTransform(source.name, { crs: own, parameters, extent: source.extent }, crs);
    for await (const batch of source.records()) {
      if (layers && !layers.includes(batch.layer)) continue;
      for (let i = 0; i < batch.count; i++) if (curveLoad(batch, i)) curved.count++;
      yield transformBatch(placeBatch(batch, way, DERIVED_CHORD_M), way.transform).batch;
    }
  }
}

const chordsOf = (count: number): Finding[] =>
  count === 0
    ? []
    : [
        {
          code: 'curves-as-chords',
          severity: 'info',
          message: `Records have curves: chords stand for them, within ${DERIVED_CHORD_M * 1000} mm.`,
          count,
        },
      ];

/** What --set says, in metres. */
function lengthsOf({ lengths }: Operation, said: readonly string[]): Record<string, number> {
  const set: Record<string, number> = { ...lengths };
  for (const pair of said) {
    const [name, text] = [pair.slice(0, Math.max(0, pair.indexOf('='))), pair.slice(pair.indexOf('=') + 1)];
    const metres = parseLength(text, 'm');
    if (!(name in lengths)) throw new Usage(`--set ${pair}: what can be set is ${Object.keys(lengths).join(', ')}. Write NAME=VALUE.`);
    if (metres === null) throw new Usage(`--set ${name} wants a length, such as 0.02, 5mm or 0.1ft; "${text}" is none.`);
    set[name] = metres;
  }
  return set;
}

/** Figures as a line for people, without lists. */
const figuresText = (figures: object): string =>
  Object.entries(figures)
    .filter(([, v]) => typeof v === 'number')
    .map(([k, v]) => `${k} ${Number((v as number).toPrecision(9))}`)
    .join(', ');

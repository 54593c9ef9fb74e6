import type { AccountRow } from '../content/account';
import { type Forecast, forecast } from '../content/features/forecast';
import { fileStem, makePlan, type Plan, type PlannedLayer } from '../content/features/plan';
import type { Announced, Proof } from '../content/features/proof';
import { type ProofFeed, proveDeliverable } from '../content/features/prove';
import { sourceTransform } from '../content/features/transform-batch';
import { type Feed, writeDeliverable, type WriteTarget } from '../content/features/write';
import { type Crs, northUp } from '../crs/crs';
import type { FeatureFormat, ShownPicture } from '../formats/format';
import { formatById } from '../formats/index';
import { optionFault } from '../formats/option-fault';
import { formatOptions } from '../formats/options';
import type { Region } from '../geometry/within';
import type { FolderSink, FolderSource, Watch } from '../io/bytes';
import { UNWATCHED } from '../io/bytes';
import type { FeatureBatch } from '../model/batch';
import { type Finding, Findings } from '../model/finding';
import { Problem } from '../model/problem';
import { applyOperations, type SourceContext } from '../operations/apply';
import { crsOf, routeTo } from '../placement/route';
import { styleBy } from '../symbology/layer-style';
import { type SymbolLibrary, symbolKey } from '../symbology/library';
import { type Sizes, sizesBetween } from '../symbology/sizes';
import { regionOf } from './area-of-interest';
import { withChosenLayers } from './chosen-layers';
import type { CrossingSource, SourceSummary } from './crossing-source';
import { placementFindings } from './placement-findings';
import { placedFor, placementOf } from './placement-of';
import { type AreaOfInterest, type Deliverable, layerRule, type Recipe, sourceOfArea } from './recipe';
import { isReshaped, joinedSources, mayLackImage, rulesOf, type Shaped, shapedProfiles, shapeLayers, unitOfSource } from './shaped';
import { contextOf, readOnceMore, untaken } from './source-records';

/** A deliverable worked out: what goes where, and what becomes of it. */
export interface Prepared {
  format: FeatureFormat;
  target: WriteTarget;
  plan: Plan;
  forecast: Forecast;
  /** Records of the sources that have something in it, those that stay behind with them: what is gone through to write it. */
  total: number;
}

/** What a run reports, the same to whoever asked for it. */
export interface RunReport {
  prepared: Prepared;
  /** Records that went into each set of the plan. */
  written: number[];
  proof: Proof;
  account: AccountRow[];
  /** All that a person should know: of the sources, the forecast, the writing and the proof. */
  findings: Finding[];
}

/** How a run is watched, and what is shown of it. */
export interface RunOptions {
  /** Pictures that lie in the folder already, to be shown below the records. */
  shown?: readonly ShownPicture[];
  writing?: Watch;
  proving?: Watch;
  /** Gets every batch as it was read back, and what the records of a file are drawn with. */
  onReadBack?: { batch(set: Plan['sets'][number], batch: FeatureBatch): void; library(library: SymbolLibrary): void };
}

/**
 * Plans a deliverable and forecasts what becomes of its sources, from their summaries alone.
 * @param sources as {@link shapeSource} makes them, where rules change their records
 * @throws Problem when the deliverable names a format or a system that is not there
 */
export function prepare(all: Recipe, deliverable: Deliverable, sources: readonly SourceSummary[]): Prepared {
  const recipe = withChosenLayers(all, deliverable, sources);
  const format = formatById(deliverable.format);
  if (!format?.features.write)
    throw new Problem('format-unknown', `${deliverable.name}: "${deliverable.format}" is not a format that is written here.`);
  const target = targetOf(deliverable);
  const layers = sources.flatMap((s) =>
    s.layers.map((profile): PlannedLayer => {
      const rule = layerRule(recipe, s.name, profile.name);
      return { source: s.name, profile, rule, style: styleBy(rule, s.styles?.[symbolKey(profile.name)]) };
    }),
  );
  const unit_m = (source: string): number => unitOfSource(recipe, source);
  const sizes = (source: string): Sizes => {
    const placed = placementOf(recipe, { name: source, extent: null });
    return placed ? sizesBetween(placed.crs, unit_m(source), placed.parameters.fit !== undefined, target) : { ratio: 1, turns: false };
  };
  const options = formatOptions(format, deliverable.options);
  const stem = deliverable.stem ?? fileStem(deliverable.name);
  const plan = makePlan(format, layers, {
    grouping: deliverable.grouping,
    stem,
    stemByHand: deliverable.stem !== undefined,
    unit_m,
    chord_m: recipe.chord_m,
    sizes,
  });
  const known = sources.map((s) => ({
    ...s,
    placed: placedFor(recipe, s, target),
    unit_m: unit_m(s.name),
    doubts: placementFindings(recipe, s),
  }));
  const told = forecast(format, plan, layers, known, { crs: target, stem, options, chord_m: recipe.chord_m });
  const fields = told.fieldNames;
  for (const option of format.features.write.options) {
    const fault = !option.when || option.when(options) ? optionFault(option, options[option.id]!, fields) : null;
    if (fault !== null) told.blocked.push(`${option.label}: ${fault}`);
  }
  if (deliverable.image && !format.features.write.showsPictures?.(options))
    told.blocked.push(
      `${format.name}${options.version === undefined ? '' : ` of version ${options.version}`} cannot show images. ` +
        `Choose another version or format, or leave them out.`,
    );
  if (deliverable.into !== undefined && (!format.features.write.adds || !sources.some((s) => s.name === deliverable.into)))
    told.blocked.push(
      format.features.write.adds
        ? `${deliverable.into}, which it is to be added to, is not here. Choose another file, or a new one.`
        : `${format.name} cannot be added to a file that there is.`,
    );
  return {
    format,
    plan,
    target: { crs: target, stem, options, chord_m: recipe.chord_m },
    forecast: told,
    total: crossingSources(plan, sources).reduce((n, s) => n + s.layers.reduce((m, l) => m + l.count, 0), 0),
  };
}

/** The sources that have records in a set of a plan. */
function crossingSources<S extends { name: string }>(plan: Plan, sources: readonly S[]): S[] {
  return sources.filter((s) => plan.sets.some((set) => set.members.some((m) => m.source === s.name)));
}

function targetOf(deliverable: Deliverable): Crs {
  const target = crsOf(deliverable.crs);
  if (!target)
    throw new Problem('crs-unknown', `${deliverable.name}: ${deliverable.crs} is not in the registry. Choose another target system.`);
  return target;
}

/** Whether the layers of a source have to be summed up again for a deliverable: rules change its records, or some may have no image in its system. */
export function needsShaping(recipe: Recipe, deliverable: Deliverable, source: SourceSummary): boolean {
  const target = crsOf(deliverable.crs);
  return isReshaped(recipe, source.name, deliverable.area) || (target !== null && mayLackImage(recipe, source, target));
}

/** The sources whose records the shape of a source depends on, besides itself. */
export function shapedBy(recipe: Recipe, source: string, area: AreaOfInterest | undefined): string[] {
  const from = area ? sourceOfArea(area) : null;
  return [...new Set([...(from === null ? [] : [from]), ...joinedSources(recipe, source)])];
}

/**
 * The layers of a source that a deliverable's rules change, summed up again; null where they are as they came in.
 * @param sources all that {@link shapedBy} names, and the source itself
 * @throws Problem for a table or an area that is not there, and for a filter that cannot be read
 */
export async function shapeSource(
  recipe: Recipe,
  deliverable: Deliverable,
  source: CrossingSource,
  sources: readonly CrossingSource[],
): Promise<Shaped | null> {
  if (!needsShaping(recipe, deliverable, source)) return null;
  const region = await regionOfArea(recipe, deliverable.area, sources);
  return shapeWithin(recipe, deliverable, source, await contextOf(recipe, source, region, sources));
}

async function shapeWithin(recipe: Recipe, deliverable: Deliverable, source: CrossingSource, context: SourceContext): Promise<Shaped> {
  const target = targetOf(deliverable);
  const placed = placedFor(recipe, source, target);
  const transform = placed && mayLackImage(recipe, source, target) ? sourceTransform(source.name, placed, target) : null;
  return shapeLayers(source.records, context, transform, recipe.chord_m);
}

/** A source as its records will cross. */
export function withShapes<S extends SourceSummary>(recipe: Recipe, source: S, shaped: Shaped | null): S {
  return shaped
    ? {
        ...source,
        layers: shapedProfiles(source.layers, shaped, rulesOf(recipe, source.name)),
        reports: shaped.reports,
        noImage: shaped.noImage,
      }
    : source;
}

async function regionOfArea(recipe: Recipe, area: AreaOfInterest | undefined, sources: readonly CrossingSource[]): Promise<Region | null> {
  if (!area) return null;
  return regionOf(recipe, area, (name) => {
    const from = sources.find((s) => s.name === name);
    if (!from)
      throw new Problem(
        'source-unknown',
        `The area of interest is that of ${name}, which is not in this crossing any more. Choose another one.`,
      );
    return from;
  });
}

/**
 * Runs a deliverable: applies the operations, plans, forecasts, writes into `folder`, reads back and proves. Nothing else puts a
 * crossing together.
 *
 * @param sources every source of the crossing
 * @param folder an empty folder for the files; what is in it after a Problem is worth nothing
 * @throws Problem when the forecast says that it cannot run
 */
export async function runDeliverable(
  all: Recipe,
  deliverable: Deliverable,
  sources: readonly CrossingSource[],
  folder: FolderSink & FolderSource,
  { writing = UNWATCHED, proving = UNWATCHED, onReadBack, shown }: RunOptions = {},
): Promise<RunReport> {
  const recipe = withChosenLayers(all, deliverable, sources);
  const region = await regionOfArea(recipe, deliverable.area, sources);
  const contexts = new Map<string, SourceContext>();
  const shaped: SourceSummary[] = [];
  for (const source of sources) {
    const context = await contextOf(recipe, source, placementOf(recipe, source) ? region : null, sources);
    contexts.set(source.name, context);
    shaped.push(
      withShapes(
        recipe,
        source,
        needsShaping(recipe, deliverable, source) ? await shapeWithin(recipe, deliverable, source, context) : null,
      ),
    );
  }
  const prepared = prepare(recipe, deliverable, shaped);
  const { format, plan, total } = prepared;
  const target: WriteTarget = shown ? { ...prepared.target, shown } : prepared.target;
  if (prepared.forecast.arriving === 0)
    throw new Problem('deliverable-empty', `${deliverable.name} would hold nothing. ${prepared.forecast.blocked.join(' ')}`);
  if (prepared.forecast.blocked.length > 0)
    throw new Problem('deliverable-blocked', `${deliverable.name} cannot be written. ${prepared.forecast.blocked.join(' ')}`);
  const crossing = crossingSources(plan, sources);
  const feeds = crossing.map((s) => feedOf(recipe, s, contexts.get(s.name)!, target.crs));
  const base = deliverable.into === undefined ? undefined : await sources.find((s) => s.name === deliverable.into)?.file?.();
  const run = await writeDeliverable(format, plan, feeds, base ? { ...target, base } : target, folder, writing, total);
  const proof = await proveDeliverable(
    format,
    plan,
    crossing.map((s, k) => proofFeedOf(recipe, s, feeds[k]!, contexts.get(s.name)!)),
    run.lost,
    announcedBy(prepared.forecast, sources),
    target,
    folder,
    proving,
    total,
    onReadBack,
  );
  const account = [...(proof.account ?? []), ...untaken(recipe, sources, crossing)];
  const findings = new Findings();
  // what the written files have as the sources had it is said once
  const said = new Map(sources.flatMap((s) => s.findings.map((f) => [`${f.code}\n${f.message}`, f.count])));
  const isNew = (f: Finding): boolean => f.count > (said.get(`${f.code}\n${f.message}`) ?? 0);
  for (const finding of [
    ...sources.flatMap((s) => s.findings),
    ...prepared.forecast.findings,
    ...forecastFindings(prepared.forecast, sources),
    ...run.findings.list(),
    ...proof.findings.filter(isNew),
  ])
    findings.add(finding);
  proof.account = account;
  proof.findings = [...run.findings.list(), ...proof.findings];
  return { prepared, written: run.written, proof, account, findings: findings.list() };
}

function feedOf(recipe: Recipe, source: CrossingSource, context: SourceContext, target: Crs): Feed {
  const placed = placedFor(recipe, source, target)!;
  const frame = recipe.frame ? crsOf(recipe.frame.crs) : null;
  const show = frame ? routeTo(placed, northUp(frame)).transform : null;
  return {
    transform: sourceTransform(source.name, placed, target),
    library: source.library,
    locate(x, y) {
      const point = Float64Array.of(x, y);
      show?.apply(point, 0, 1, 2);
      return [point[0]!, point[1]!];
    },
    async *read(watch) {
      for await (const batch of applyOperations(source.records, context)) {
        watch.check();
        yield batch;
      }
    },
  };
}

/** The same source read from its file once more, with the account kept of everything in it. */
function proofFeedOf(recipe: Recipe, source: CrossingSource, feed: Feed, context: SourceContext): ProofFeed {
  let findings = new Findings();
  return {
    ...feed,
    layers: source.layers.map((l) => l.name),
    findings: () => findings.list(),
    read: (watch, account) => readOnceMore(recipe, source, context, account, watch, (own) => (findings = own)),
  };
}

/** What a forecast, or a source when it came in, said of records that stay behind. */
function announcedBy({ rows }: Forecast, sources: readonly SourceSummary[]): Announced {
  const counts = new Map<string, number>();
  const keyOf = (source: string, layer: string, reason: string): string => `${source}\n${layer}\n${reason}`;
  // the groups of a layer are told one by one
  for (const { source, layer, effects } of rows) {
    for (const e of effects) {
      const key = keyOf(source, layer, e.code);
      if (e.effect === 'left') counts.set(key, (counts.get(key) ?? 0) + e.count);
    }
  }
  // layers without a record have no row; several things of one code may stay behind of them
  const unread = new Map<string, number>();
  for (const { name, findings } of sources) {
    for (const f of findings) {
      const key = keyOf(name, f.location ?? '', f.code);
      if (f.left && !counts.has(key)) unread.set(key, (unread.get(key) ?? 0) + f.count);
    }
  }
  for (const [key, count] of unread) counts.set(key, count);
  return (source, layer, reason) => counts.get(keyOf(source, layer, reason)) ?? 0;
}

/** What a forecast says of layers, as findings: the command line says what the page shows. */
function forecastFindings({ rows, fields }: Forecast, sources: readonly SourceSummary[]): Finding[] {
  // what a reader said already is not said again
  const said = new Set(sources.flatMap(({ findings }) => findings.filter((f) => f.left).map((f) => `${f.code}\n${f.location}`)));
  const renamed = fields.renamed.map(({ from, to }): Finding => ({
    code: 'field-renamed',
    severity: 'info',
    message: `${from}: ${from} becomes ${to}.`,
    count: 1,
  }));
  return [
    ...rows.flatMap(({ layer, effects }) =>
      effects
        .filter((e) => !said.has(`${e.code}\n${layer}`))
        .map((e): Finding => ({
          code: e.code,
          severity: e.effect === 'told' && !e.loses ? 'info' : 'caution',
          message: `${e.message}.`,
          count: e.count,
          location: layer,
        })),
    ),
    ...renamed,
  ];
}

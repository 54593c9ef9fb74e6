import { createWriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Added, CompareRequest, Created, CrossingState, DeliverableForecast, RunProof, RunSummary } from '@pontrel/contract/crossing';
import { PREVIEW } from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import type { Crs } from '@pontrel/core/crs/crs';
import { crsOf } from '@pontrel/core/placement/route';
import type { SourceSummary } from '@pontrel/core/crossing/crossing-source';
import { needsShaping, prepare, shapedBy, withShapes } from '@pontrel/core/crossing/pipeline';
import type { Shaped } from '@pontrel/core/crossing/shaped';
import type { LookUps } from '../work/look-ups';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { readRecipe } from '@pontrel/core/crossing/recipe-upgrade';
import { underNamesOfNow } from '@pontrel/core/crossing/rename-source';
import type { WorkedOut } from '@pontrel/core/crossing/worked-out';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { imageBelow } from '@pontrel/core/crossing/drawing-images';
import { extensionOf } from '@pontrel/core/formats/extension';
import { imageFormatById } from '@pontrel/core/formats/images';
import { Problem } from '@pontrel/core/model/problem';
import type { Jobs } from '../jobs/jobs';
import type { Events } from '../jobs/events';
import type { Catalog } from '../store/catalog';
import type { CrossingRecord, RunRecord, SourceRecord } from '../store/records';
import type { DataFolder } from '../store/data-folder';
import { newId } from '../store/id';
import { Recent } from '../store/recent';
import { carrierOf, type TileSource } from '../tiles/cut-tile';
import type { ShapeRequest } from '../work/shape-source';
import { fieldsOfAll } from '@pontrel/core/crossing/compare-sources';
import type { Placement } from '@pontrel/core/placement/placement';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import { readBackSource } from './read-back';
import type { JobTask } from '../work/job';
import { type RunRequest } from '../work/run-records';
import { frameName } from './crs-names';
import { frameExtent, frameOf, layerExtents, placedSources, storedTileSources } from './frame';
import { inputsMark } from './inputs-mark';
import { discardTaken, type Taken } from './intake';
import { openSaved, savedCrossing } from './saved-crossing';
import { deliverableOf, storedSource } from './asked-for';
import type { PictureService } from './picture-service';
import type { SourceReader } from './source-reader';
import { withStoredRules } from './stored-rules';
import { rulesMark, runSummary, sameReading, sourceState, stampOf, summaryOf } from './views';

/** What can be done with crossings; the routes are a thin skin over it. */
export class CrossingService {
  private readonly shaped = new Recent<Promise<Shaped | null>>(MOST_SHAPED);

  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly jobs: Jobs,
    private readonly reader: SourceReader,
    private readonly lookUps: LookUps,
    private readonly pictures: PictureService,
    private readonly events: Events,
  ) {}

  state(id: string): CrossingState {
    const crossing = this.catalog.crossing(id);
    const sources = this.catalog.sources(id);
    const placed = placedSources(crossing.recipe, sources);
    const frame = frameOf(crossing.recipe);
    return {
      id,
      name: crossing.name,
      revision: crossing.revision,
      created: crossing.created,
      opened: crossing.opened,
      recipe: crossing.recipe,
      frame: frameName(crossing.recipe),
      tileStamp: stampOf(frame, storedTileSources(this.folder, crossing, sources)),
      frameExtent: frame ? frameExtent(frame, sources, placed) : null,
      layerExtents: frame ? layerExtents(frame, sources, placed) : {},
      pictures: this.pictures.placed(crossing, sources),
      sources: sources.map((s) => sourceState(s, crossing.recipe, sources)),
      revisions: this.catalog
        .binnedSourcesOf(id)
        .flatMap(({ source, binned, by }) =>
          !source.facts.images
            ? [{ id: source.id, name: source.name, binned, by, fields: fieldsOfAll(source.layers.map((l) => l.profile)) }]
            : [],
        ),
      runs: this.catalog.lastRuns(id).map((r) => runSummary(r, crossing, sources)),
      jobs: this.catalog.jobs(id),
    };
  }

  opened(id: string): void {
    this.catalog.openedCrossing(id, new Date().toISOString());
  }

  /** Starts a crossing with the files that were handed in, or opens one that was saved. */
  async create(taken: Taken, uploads: string): Promise<Created> {
    const { intakes, log, saved } = taken;
    if (saved.length > 0) return this.openSaved(taken, uploads);
    const id = newId();
    const first = intakes[0]?.name.replace(/\.[^.]+$/, '') ?? 'New crossing';
    const words = first.replace(/[_-]+/g, ' ').trim();
    this.catalog.addCrossing(id, words.charAt(0).toUpperCase() + words.slice(1), new Date().toISOString());
    return { id, jobs: intakes.map((intake) => this.reader.read(id, intake)), log };
  }

  private async openSaved(taken: Taken, uploads: string): Promise<Created> {
    const [archive, ...others] = taken.saved;
    try {
      if (others.length > 0 || taken.intakes.length > 0)
        throw new Problem('saved-several', 'One of these is a saved crossing. Open it by itself: it becomes a crossing of its own.');
      const { id, sources, left } = await openSaved(this.catalog, this.folder, archive!, uploads);
      return {
        id,
        jobs: sources.map(({ intake, kept }) => this.reader.read(id, intake, undefined, kept)),
        log: left.map((message) => ({ name: 'Saved crossing', outcome: 'refused' as const, message })),
      };
    } finally {
      await discardTaken(taken);
    }
  }

  async addSources(id: string, { intakes, log, saved }: Taken): Promise<Added> {
    this.catalog.crossing(id);
    await discardTaken({ intakes: [], saved });
    if (saved.length > 0) {
      const message = 'This is a saved crossing, and no source of another one. Go back to the list of crossings, and drop it there.';
      if (intakes.length === 0) throw new Problem('saved-crossing', message);
      log.push({ name: 'Saved crossing', outcome: 'refused', message });
    }
    return { jobs: intakes.map((intake) => this.reader.read(id, intake)), log };
  }

  /**
   * Puts another file in the place of a source, under all its rules. The source is what it was until the file is read.
   * @throws Problem `replace-several` when more than one source was handed in
   */
  async replaceSource(id: string, sourceId: string, taken: Taken): Promise<Added> {
    const { intakes, log } = taken;
    const source = this.catalog.source(id, sourceId);
    const [intake, ...others] = intakes;
    if (!intake || others.length > 0) {
      await discardTaken(taken);
      throw new Problem(
        'replace-several',
        `One file takes the place of ${source.name}, with those that belong to it; ${intakes.length} were handed in. Choose one.`,
      );
    }
    return { jobs: [this.reader.read(id, intake, source.name)], log };
  }

  /** Compares two sources; their differences become a source of their own. @throws Problem `source-unknown`, `compare-images` */
  compare(id: string, { old, next, key, tolerance_m }: CompareRequest): Job {
    const { recipe } = this.catalog.crossing(id);
    const chosen = (sourceId: string): { source: SourceRecord; placement: Placement | null } => {
      const inBin = this.catalog.binnedSource(sourceId);
      if (inBin && inBin.source.crossing === id) return { source: inBin.source, placement: inBin.rules?.placement ?? null };
      const source = this.catalog.source(id, sourceId);
      return { source, placement: recipe.sources[source.name]?.placement ?? null };
    };
    const both = [chosen(old), chosen(next)] as const;
    for (const { source } of both)
      if (source.facts.images)
        throw new Problem(
          'compare-images',
          `${source.name} holds images. Records are compared, and images are not: choose two sources of records.`,
        );
    const [before, after] = both.map(({ source }) => source.name) as [string, string];
    const stem = (name: string): string => name.slice(0, name.length - extensionOf(name).length);
    const rule: WorkedOut = { by: 'comparison', old: before, next: after, key, tolerance_m };
    return this.reader.workOut(id, `${stem(before)} to ${stem(after)}`, {
      rule,
      inputs: inputsMark(recipe, this.catalog.sources(id), rule),
      sources: both.map(({ source, placement }) => ({ source: storedSource(this.folder, source), placement })),
      models: [],
    });
  }

  rename(id: string, name: string): void {
    this.catalog.crossing(id);
    this.catalog.renameCrossing(id, name);
    this.events.emit({ type: 'crossing', id });
  }

  saveRecipe(id: string, given: Recipe, revision: number): CrossingState {
    const recipe = underNamesOfNow(
      given,
      this.catalog.sources(id).map((s) => ({ name: s.name, before: s.facts.replaces?.names ?? [] })),
    );
    for (const d of recipe.deliverables)
      if (!crsOf(d.crs))
        throw new Problem('crs-unknown', `${d.crs.slice(0, 40)} is not in the registry. Choose another target system for ${d.name}.`);
    if (recipe.frame && !crsOf(recipe.frame.crs))
      throw new Problem('crs-unknown', `${recipe.frame.crs.slice(0, 40)} is not in the registry. Choose another reference frame.`);
    const before = this.catalog.crossing(id).recipe;
    this.catalog.saveRecipe(id, withStoredRules(recipe, before), revision);
    for (const source of this.catalog.sources(id)) {
      const [wanted, asked] = [recipe.sources[source.name]?.reading, before.sources[source.name]?.reading];
      // a reading that was tried and failed is not tried again until it is another one
      if (!sameReading(wanted, source.facts.reading) && !sameReading(wanted, asked)) this.reader.readAgain(id, source, wanted);
    }
    // what a source shows follows it when it gets a place, and not when somebody takes its own place away
    if (Object.entries(recipe.sources).some(([name, s]) => s.placement && !before.sources[name]?.placement)) this.reader.placeShown(id);
    this.events.emit({ type: 'crossing', id, saved: true });
    return this.state(id);
  }

  /** What each deliverable will change or leave behind, by the rules as they are; a preview where there is none yet. */
  async forecasts(id: string): Promise<DeliverableForecast[]> {
    const crossing = this.catalog.crossing(id);
    const { deliverables, frame } = crossing.recipe;
    const asked: Deliverable[] =
      deliverables.length > 0 || !frame
        ? deliverables
        : [{ id: PREVIEW, name: 'preview', format: 'shapefile', crs: frame.crs, grouping: 'layer' }];
    return Promise.all(
      asked.map(async (d): Promise<DeliverableForecast> =>
        imageFormatById(d.format)
          ? { deliverable: d.id, ...(await this.pictureForecast(crossing, d)) }
          : { deliverable: d.id, forecast: await this.forecast(crossing, d), ...(await this.belowForecast(crossing, d)) },
      ),
    );
  }

  /** What becomes of the picture that lies below the records of a deliverable. */
  private async belowForecast(crossing: CrossingRecord, d: Deliverable): Promise<Pick<DeliverableForecast, 'picture' | 'problem'>> {
    const below = imageBelow(d);
    return below ? this.pictureForecast(crossing, below) : {};
  }

  private async pictureForecast(crossing: CrossingRecord, d: Deliverable): Promise<Pick<DeliverableForecast, 'picture' | 'problem'>> {
    try {
      return { picture: await this.pictures.forecast(crossing, d) };
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      return { problem: error.message };
    }
  }

  /** The sources of a crossing that hold records. */
  private recordSources(id: string): SourceRecord[] {
    return this.catalog.sources(id).filter((s) => !s.facts.images);
  }

  private async forecast(crossing: CrossingRecord, d: Deliverable): Promise<Forecast> {
    try {
      return prepare(crossing.recipe, d, await this.shapedSources(crossing, d)).forecast;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      // an area or a rule that cannot be worked out stands in the way; the rest is told as if there were none
      const { forecast } = prepare(crossing.recipe, d, this.recordSources(crossing.id).map(summaryOf));
      return { ...forecast, blocked: [error.message, ...forecast.blocked] };
    }
  }

  /** The sources as their rules shape them, the places of texts in the frame. What was worked out is kept while the rules are the same. */
  private async shapedSources(crossing: CrossingRecord, deliverable: Deliverable): Promise<SourceSummary[]> {
    const { recipe } = crossing;
    const { area, crs } = deliverable;
    const records = this.recordSources(crossing.id);
    const placed = new Map(storedTileSources(this.folder, crossing, records).map((s) => [s.name, s]));
    const frame = frameOf(recipe);
    return Promise.all(
      records.map(async (record) => {
        const source = summaryOf(record);
        // a source that is not placed has nothing in an area, which the forecast says in its own words
        if (!needsShaping(recipe, deliverable, source) || (area && !placed.has(source.name))) return source;
        const asked = [source.name, ...shapedBy(recipe, source.name, area)];
        const own = {
          ...recipe,
          deliverables: [],
          sources: Object.fromEntries(asked.flatMap((name) => (recipe.sources[name] ? [[name, recipe.sources[name]]] : []))),
        };
        const key = JSON.stringify([record.id, own, area, crs]);
        const shaped = this.shaped.get(key, () => {
          const sources = records.filter((r) => asked.includes(r.name)).map((r) => storedSource(this.folder, r));
          const request: ShapeRequest = { recipe: own, deliverable, source: source.name, sources };
          const made = this.lookUps.ask('shape', request).then((done) => {
            const tiles = placed.get(source.name);
            return done && tiles && frame ? inFrame(done, tiles, frame) : done;
          });
          made.catch(() => this.shaped.forget(key));
          return made;
        });
        return withShapes(recipe, source, await shaped);
      }),
    );
  }

  async run(id: string, deliverableId: string): Promise<Job> {
    const crossing = this.catalog.crossing(id);
    const deliverable = deliverableOf(crossing.recipe, deliverableId);
    const sources = this.catalog.sources(id);
    const { task, unit, total, blocked, ...work } = await this.workOf(crossing, deliverable);
    if (blocked.length > 0) throw new Problem('deliverable-blocked', `${deliverable.name} cannot run yet. ${blocked.join(' ')}`);
    const runId = newId();
    const final = this.folder.run(id, runId);
    const partial = this.folder.partial(final);
    const started = Date.now();
    const request: RunRequest = {
      recipe: crossing.recipe,
      deliverable,
      folder: partial,
      ...work,
    };
    return this.jobs.start<Pick<RunRecord, 'files' | 'proof'>>({
      crossing: id,
      kind: 'run',
      subject: deliverable.name,
      subjectId: deliverable.id,
      unit,
      total,
      task,
      input: { request },
      finish: async ({ files, proof }) => {
        const run: RunRecord = {
          id: runId,
          crossing: id,
          deliverable: deliverable.id,
          name: deliverable.name,
          finished: new Date().toISOString(),
          revision: crossing.revision,
          rules: rulesMark(crossing.recipe, deliverable.id, sources),
          files,
          target: deliverable.crs,
          proof,
          seconds: (Date.now() - started) / 1000,
          pinned: false,
          recipe: crossing.recipe,
        };
        this.catalog.tellRun(run, partial);
        await rename(partial, final);
        const older = await this.folder.orRemoved(final, () => this.catalog.addRun(run));
        for (const old of older) await this.folder.remove(this.folder.run(id, old));
        return runId;
      },
      discard: () => rm(partial, { recursive: true, force: true }),
    });
  }

  /** What the process of a run is asked for. */
  private async workOf(
    crossing: CrossingRecord,
    deliverable: Deliverable,
  ): Promise<{ task: JobTask; unit: Job['unit']; total: number; blocked: string[] } & Pick<RunRequest, 'sources' | 'pictures'>> {
    if (imageFormatById(deliverable.format)) {
      const { info, blocked } = await this.pictures.forecast(crossing, deliverable);
      const { sources, pictures } = this.pictures.request(crossing, deliverable);
      return { task: 'pictures', unit: 'pixels', total: info.width * info.height, blocked, sources, pictures };
    }
    const { total, forecast } = prepare(crossing.recipe, deliverable, await this.shapedSources(crossing, deliverable));
    const sources = this.recordSources(crossing.id).map((s) => storedSource(this.folder, s));
    const below = imageBelow(deliverable);
    const { picture, problem } = await this.belowForecast(crossing, deliverable);
    return {
      task: 'run',
      unit: 'records',
      total,
      blocked: [...forecast.blocked, ...(picture?.blocked ?? []), ...(problem === undefined ? [] : [problem])],
      sources,
      pictures: below ? this.pictures.request(crossing, below).pictures : [],
    };
  }

  /** A crossing as one archive. */
  saved(id: string): ReturnType<typeof savedCrossing> & { called: string } {
    return Object.assign(savedCrossing(this.catalog, this.folder, id), { called: this.catalog.crossing(id).name });
  }

  /** A crossing once more, with its files, its rules and its runs, under another name. */
  async copy(id: string, uploads: string): Promise<Created> {
    const { name } = this.catalog.crossing(id);
    const file = path.join(uploads, newId());
    await mkdir(uploads, { recursive: true });
    await pipeline(savedCrossing(this.catalog, this.folder, id).outputStream, createWriteStream(file));
    const made = await this.openSaved({ intakes: [], log: [], saved: [file] }, uploads);
    this.rename(made.id, `${name}, copy`.slice(0, 80));
    return made;
  }

  /** Runs of before and the last ones, the last first. */
  runs(id: string): RunSummary[] {
    const [crossing, sources] = [this.catalog.crossing(id), this.catalog.sources(id)];
    return this.catalog.runs(id).map((r) => runSummary(r, crossing, sources));
  }

  pinRun(runId: string, pinned: boolean): void {
    const { crossing } = this.catalog.run(runId);
    this.catalog.pinRun(runId, pinned);
    this.events.emit({ type: 'crossing', id: crossing });
  }

  /** The rules that a run was made by. @throws Problem `run-without-rules` */
  runRecipe(runId: string): Recipe {
    const recipe = readRecipe(this.catalog.run(runId).recipe);
    if (!recipe.success)
      throw new Problem('run-without-rules', 'The rules of this run are not known: they were not kept, or cannot be read any more.');
    return recipe.data;
  }

  runProof(runId: string): RunProof {
    const run = this.catalog.run(runId);
    const crossing = this.catalog.crossing(run.crossing);
    const places = this.pictures.measuredAt(crossing, run);
    return { run: runSummary(run, crossing, this.catalog.sources(run.crossing)), proof: run.proof, ...(places ? { places } : {}) };
  }

  runRecord(runId: string): RunRecord & { folder: string } {
    const run = this.catalog.run(runId);
    return { ...run, folder: this.folder.run(run.crossing, run.id) };
  }

  /** A vector tile of everything placed, in the frame. */
  async tile(id: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const crossing = this.catalog.crossing(id);
    const sources = storedTileSources(this.folder, crossing, this.catalog.sources(id));
    if (!crossing.recipe.frame || sources.length === 0) return new Uint8Array(0);
    return this.lookUps.ask('tile', { sources, frame: crossing.recipe.frame.crs, z, x, y });
  }

  /** The vertex of the placed sources that is nearest to a place in the frame. */
  async vertex(id: string, x: number, y: number, reach: number): Promise<[number, number] | null> {
    const crossing = this.catalog.crossing(id);
    const sources = storedTileSources(this.folder, crossing, this.catalog.sources(id));
    if (!crossing.recipe.frame || sources.length === 0) return null;
    return this.lookUps.ask('nearest', { sources, frame: crossing.recipe.frame.crs, x, y, reach });
  }

  /** A vector tile of what a run's files read back as, in the frame. */
  async readBackTile(runId: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const run = this.runRecord(runId);
    const { frame } = this.catalog.crossing(run.crossing).recipe;
    if (!frame || isImageProof(run.proof)) return new Uint8Array(0);
    return this.lookUps.ask('tile', { sources: [readBackSource(run, run.folder)], frame: frame.crs, z, x, y });
  }

  dismissJob(id: string): void {
    this.catalog.deleteJob(id);
  }
}

/** Sources with rules of one state each that are kept worked out. */
const MOST_SHAPED = 64;

/** Places of texts, which come in the source's own numbers, as places on the map. */
function inFrame(shaped: Shaped, source: TileSource, frame: Crs): Shaped {
  const { placement: plane, transform } = carrierOf(source, frame);
  const place = <T extends { x: number; y: number }>(at: T): T => {
    const p = Float64Array.of(at.x, at.y);
    plane.forward(p, 0, 1, 2);
    transform.apply(p, 0, 1, 2);
    return { ...at, x: p[0]!, y: p[1]! };
  };
  return {
    ...shaped,
    reports: Object.fromEntries(
      Object.entries(shaped.reports).map(([layer, r]) => [
        layer,
        r.textTransfer
          ? {
              ...r,
              textTransfer: {
                ...r.textTransfer,
                unmatched: r.textTransfer.unmatched.map(place),
                matched: r.textTransfer.matched.map(place),
              },
            }
          : r,
      ]),
    ),
  };
}

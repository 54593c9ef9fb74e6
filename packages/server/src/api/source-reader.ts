import { mkdir, rename, rm, stat, writeFile } from 'node:fs/promises';
import path from 'node:path';
import type { Job } from '@pontrel/contract/job';
import { placeExternals } from '@pontrel/core/crossing/externals';
import type { Fault } from '@pontrel/core/content/derived/fault';
import type { ImageProfile } from '@pontrel/core/content/raster/profile';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { renameSource } from '@pontrel/core/crossing/rename-source';
import { slotOf, underOneLayer } from '@pontrel/core/crossing/slots';
import type { WorkedOut } from '@pontrel/core/crossing/worked-out';
import type { Reading } from '@pontrel/core/model/reading';
import type { Jobs } from '../jobs/jobs';
import type { Events } from '../jobs/events';
import type { Catalog } from '../store/catalog';
import type { SourceRecord } from '../store/records';
import type { DataFolder } from '../store/data-folder';
import { newId } from '../store/id';
import { DERIVED_FORMAT } from '@pontrel/core/crossing/derived-source';
import { formatById } from '@pontrel/core/formats/index';
import { mainFile, type ReadResult } from '../work/read-source';
import { readingAgain, readingOf, type ReadingWork } from '../work/reading-work';
import { FAULTS_FILE, type WorkOrder } from '../work/work-out-stored';
import { FreeNames } from '@pontrel/core/model/free-names';
import type { Intake } from './intake';
import type { SavedSource } from './saved-crossing';
import { statedPlacement } from './stated-placement';
import { extentOfSource, sameReading } from './views';

/** How a source comes to be. */
interface Beginning {
  sourceId: string;
  name: string;
  /** Name of the source in whose place it is put. */
  replaced?: string;
  /** What it keeps of a crossing that was saved. */
  kept?: SavedSource['kept'];
  work: ReadingWork;
  unit: Job['unit'];
  total: number;
  /** What else is to be so once it is there, under the name that it got. */
  settle?(name: string): void;
  /** Bytes of its file. @param folder where it lies by then */
  bytesOf(folder: string): Promise<number>;
}

/** Reads files into sources: new ones, those that take the place of others, and files that are read in another way. */
export class SourceReader {
  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly jobs: Jobs,
    private readonly events: Events,
  ) {}

  /**
   * @param replaced name of the source in whose place it is put
   * @param kept what it keeps of a crossing that was saved
   */
  read(id: string, intake: Intake, replaced?: string, kept?: SavedSource['kept']): Job {
    const sourceId = newId();
    const partial = this.folder.partial(this.folder.source(id, sourceId));
    const name = this.freeName(id, intake.name, replaced);
    const ruled = replaced ?? (kept ? intake.name : undefined);
    const reading = ruled === undefined ? undefined : this.catalog.crossing(id).recipe.sources[ruled]?.reading;
    return this.begin(id, {
      sourceId,
      name,
      ...(replaced === undefined ? {} : { replaced }),
      ...(kept ? { kept } : {}),
      work: withFaults(readingOf(intake, partial, name, reading), partial, kept?.faults ?? []),
      unit: 'bytes',
      total: intake.bytes,
      bytesOf: () => Promise.resolve(intake.bytes),
    });
  }

  /**
   * Works a source out of others. Deliverables that were there leave it out, but where it is made again.
   * @param title what it is to be called
   * @param again the source that was worked out before, in whose place it is put
   */
  workOut(id: string, title: string, order: Omit<WorkOrder, 'files'>, again?: SourceRecord): Job {
    const sourceId = newId();
    const folder = this.folder.partial(this.folder.source(id, sourceId));
    const extension = formatById(DERIVED_FORMAT)!.extensions[0]!;
    const name = this.freeName(id, again?.name ?? `${title}${extension}`, again?.name);
    const files = { folder, name, extension, companions: [] };
    return this.begin(id, {
      sourceId,
      name,
      ...(again ? { replaced: again.name } : {}),
      work: { task: 'workOut', input: { order: { ...order, files } satisfies WorkOrder }, bring: async () => {} },
      unit: 'records',
      total: order.sources.reduce((n, { source }) => n + source.layers.reduce((m, l) => m + l.count, 0), 0),
      settle: (own) => {
        if (!again) this.leaveOut(id, own);
        this.setRule(id, own, order.rule);
      },
      bytesOf: async (final) => (await stat(mainFile({ folder: final, extension }))).size,
    });
  }

  /** Says in the recipe how a source was worked out. */
  private setRule(id: string, name: string, workedOut: WorkedOut): void {
    const { recipe, revision } = this.catalog.crossing(id);
    const source = { ...(recipe.sources[name] ?? { placement: null, layers: {} }), workedOut };
    this.catalog.saveRecipe(id, { ...recipe, sources: { ...recipe.sources, [name]: source } }, revision);
  }

  /** Leaves a source out of the deliverables that there are: nobody asked for it there. */
  private leaveOut(id: string, name: string): void {
    const { recipe, revision } = this.catalog.crossing(id);
    if (recipe.deliverables.length === 0) return;
    const deliverables = recipe.deliverables.map((d) => ({ ...d, without: { ...d.without, [name]: true as const } }));
    this.catalog.saveRecipe(id, { ...recipe, deliverables }, revision);
  }

  private begin(id: string, { sourceId, name, replaced, kept, work, unit, total, settle, bytesOf }: Beginning): Job {
    const final = this.folder.source(id, sourceId);
    const partial = this.folder.partial(final);
    return this.jobs.start<ReadResult>({
      crossing: id,
      kind: 'read',
      subject: name,
      subjectId: sourceId,
      unit,
      total,
      task: work.task,
      input: work.input,
      prepare: async () => {
        await mkdir(partial, { recursive: true });
        await work.bring();
      },
      finish: async (result) => {
        // another file of this name may have come in while this one was read
        const free = this.freeName(id, name, replaced);
        const now = new Date().toISOString();
        const record: SourceRecord = {
          id: sourceId,
          crossing: id,
          name: free,
          format: result.format,
          bytes: await bytesOf(partial),
          added: kept?.added ?? now,
          facts: { ...result.facts, ...(kept?.replaces ? { replaces: kept.replaces } : {}), ...(kept?.made ? { made: kept.made } : {}) },
          layers: result.layers,
          findings: result.findings,
        };
        const before = this.catalog.sources(id).find((s) => s.name === replaced);
        if (!before) this.catalog.tellSource(record, partial);
        await rename(partial, final);
        await this.folder.orRemoved(final, () =>
          this.catalog.atOnce(() => {
            if (before) this.putInPlace(before, record, now);
            else this.catalog.addSource(record);
            this.adoptStated(id, free, result);
            this.placeShown(id);
            settle?.(free);
          }),
        );
        if (before) this.events.emit({ type: 'crossing', id });
        return sourceId;
      },
      discard: () => rm(partial, { recursive: true, force: true }),
    });
  }

  /** A source in the place of another one, which goes into the bin; whatever the rules called that one they call it now. */
  private putInPlace(before: SourceRecord, record: SourceRecord, at: string): void {
    const { crossing } = record;
    const names = [...new Set([...(before.facts.replaces?.names ?? []), before.name])].filter((name) => name !== record.name);
    const { recipe, revision } = this.catalog.crossing(crossing);
    this.catalog.binSource(before.id, { binned: at, by: record.name, rules: recipe.sources[before.name] ?? null });
    this.catalog.addSource({ ...record, added: before.added, facts: { ...record.facts, replaces: { names, at } } });
    const renamed = renameSource(recipe, before.name, record.name);
    const [old, now] = [before, record].map(({ name, format, layers }) => slotOf({ name, format, layers: layers.map((l) => l.profile) }));
    this.catalog.saveRecipe(crossing, underOneLayer(renamed, record.name, old!, now!), revision);
  }

  /** Reads the file of a source once more, in another way; the source is what it was until that is done. */
  readAgain(id: string, source: SourceRecord, reading: Reading | undefined): void {
    const before = this.folder.source(id, source.id);
    const sourceId = newId();
    const final = this.folder.source(id, sourceId);
    const partial = this.folder.partial(final);
    const { task, input, bring } = readingAgain(source, before, partial, reading);
    this.jobs.start<ReadResult>({
      crossing: id,
      kind: 'read',
      subject: source.name,
      subjectId: sourceId,
      unit: 'bytes',
      total: source.bytes,
      task,
      input,
      prepare: async () => {
        await mkdir(partial, { recursive: true });
        await bring();
      },
      finish: async (result) => {
        const wanted = this.catalog.crossing(id).recipe.sources[source.name]?.reading;
        // it was settled differently meanwhile, and is being read that way
        if (!sameReading(wanted, reading) || !this.catalog.sources(id).some((s) => s.id === source.id)) {
          await rm(partial, { recursive: true, force: true });
          return source.id;
        }
        await rename(partial, final);
        await this.folder.orRemoved(final, () =>
          this.catalog.atOnce(() => {
            this.catalog.replaceSource(source.id, {
              ...source,
              id: sourceId,
              facts: {
                ...result.facts,
                ...(source.facts.replaces ? { replaces: source.facts.replaces } : {}),
                ...(source.facts.made ? { made: source.facts.made } : {}),
              },
              layers: result.layers,
              findings: result.findings,
            });
            this.adoptStated(id, source.name, result);
          }),
        );
        await this.folder.remove(before);
        return sourceId;
      },
      discard: () => rm(partial, { recursive: true, force: true }),
    });
  }

  /** Reads the files of sources again whose stores are of an earlier layout. */
  readOlderStores(): void {
    for (const source of this.catalog.sourcesOfOlderLayout())
      this.readAgain(source.crossing, source, this.catalog.crossing(source.crossing).recipe.sources[source.name]?.reading);
  }

  /** Puts sources that other sources show where those show them. */
  placeShown(id: string): void {
    const { recipe, revision } = this.catalog.crossing(id);
    const placed = placeExternals(
      recipe,
      this.catalog
        .sources(id)
        .map((s) => ({ name: s.name, externals: s.facts.externals, pictures: s.facts.pictures, images: s.facts.images })),
    );
    if (placed !== recipe) this.catalog.saveRecipe(id, placed, revision);
  }

  /** A source that states its system is placed by it, if its numbers can be those of that system, and gives the crossing its frame when there is none. */
  private adoptStated(id: string, name: string, result: ReadResult): void {
    const placement = statedPlacement(result.facts, extentOfSource(result));
    const { images } = result.facts;
    if (images) this.putAmongImages(id, name, images);
    // where pixels without a position lie, a fit has to say
    const nowhere = images?.members.some((m) => m.unfit === null && m.map === null) && !result.facts.fit;
    const { recipe: known, revision } = this.catalog.crossing(id);
    if (!placement || nowhere || known.sources[name]) return;
    const recipe: Recipe = {
      ...known,
      frame: known.frame ?? { crs: placement.crs },
      sources: {
        ...known.sources,
        [name]: { placement, layers: {} },
      },
    };
    this.catalog.saveRecipe(id, recipe, revision);
  }

  /** New images lie over those that there are; values such as heights under all that is to be looked at. */
  private putAmongImages(id: string, name: string, { members }: ImageProfile): void {
    const { recipe, revision } = this.catalog.crossing(id);
    const order = recipe.images ?? [];
    if (order.includes(name)) return;
    const values = members[0]!.info.sampleType !== 'uint8';
    this.catalog.saveRecipe(id, { ...recipe, images: values ? [...order, name] : [name, ...order] }, revision);
  }

  private freeName(id: string, name: string, replaced?: string): string {
    return freeSourceName(
      this.catalog.sources(id).flatMap((s) => (s.name === replaced ? [] : [s.name])),
      name,
    );
  }
}

/** The same work for a source of a saved crossing that was worked out, whose faults are kept. */
const withFaults = (work: ReadingWork, folder: string, faults: readonly Fault[]): ReadingWork =>
  faults.length === 0
    ? work
    : {
        ...work,
        async bring() {
          await work.bring();
          await writeFile(path.join(folder, FAULTS_FILE), JSON.stringify(faults));
        },
      };

/** The name itself, or with a number before its extension when it is taken already. */
export function freeSourceName(taken: readonly string[], name: string): string {
  const dot = name.lastIndexOf('.');
  const [stem, extension] = dot < 0 ? [name, ''] : [name.slice(0, dot), name.slice(dot)];
  return new FreeNames(taken, (_name, n) => `${stem} (${n})${extension}`).take(name);
}

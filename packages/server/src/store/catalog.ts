import Database from 'better-sqlite3';
import type { Job } from '@pontrel/contract/job';
import { Deliverable, EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { STORE_LAYOUT } from '@pontrel/host-node/store/feature-store';
import type { CrossingManifest, Manifests, ToldCrossing } from './manifests';
import { binnedOf, jobOf, jsonOf, type Raw, recipeOf, runOf, sourceOf, text } from './catalog-rows';
import { Recent } from './recent';
import type { BinnedSource, CrossingRecord, DamagedCrossing, RunRecord, SourceRecord } from './records';
import crossings from './migrations/001-crossings.sql';
import definitions from './migrations/002-definitions.sql';
import rulesOfRuns from './migrations/003-rules-of-runs.sql';
import layoutsOfStores from './migrations/004-layouts-of-stores.sql';
import runsKept from './migrations/005-runs-kept.sql';
import binnedSources from './migrations/006-binned-sources.sql';
import templates from './migrations/007-templates.sql';
import rulesOfComparisons from './migrations/008-rules-of-comparisons.sql';

/** In order; the number of those applied is the database's user_version. */
const MIGRATIONS = [crossings, definitions, rulesOfRuns, layoutsOfStores, runsKept, binnedSources, templates, rulesOfComparisons];

/** That a column is not the JSON that it should be. */
const not = (column: string, type: 'object' | 'array'): string =>
  `CASE WHEN json_valid(${column}) THEN json_type(${column}) <> '${type}' ELSE 1 END`;

/** What rows of the catalog cannot be read any more. */
const UNREADABLE = {
  sources: [not('facts', 'object'), not('layers', 'array'), not('findings', 'array')].join(' OR '),
  runs: [not('files', 'array'), not('proof', 'object')].join(' OR '),
  binned_sources: not('source', 'object'),
};

/** Runs of a deliverable that are kept beside those that are pinned. */
const RUNS_KEPT = 10;

/** Crossings, sources, runs and jobs. */
export class Catalog {
  private readonly db: Database.Database;

  // a revision of a recipe never changes, nor does a source that was read
  private readonly recipes = new Recent<Recipe>(64);
  private readonly knownSources = new Recent<SourceRecord>(64);

  /**
   * @param manifests where crossings and sources tell of themselves beside their files
   * @throws Problem `catalog-damaged`; `catalog-newer` when a newer program has made it
   */
  constructor(
    file: string,
    private readonly manifests: Manifests | null = null,
  ) {
    try {
      this.db = new Database(file);
      this.db.pragma('journal_mode = WAL');
      this.db.pragma('foreign_keys = ON');
      const [check] = this.db.pragma('quick_check(1)') as { quick_check: string }[];
      if (check!.quick_check !== 'ok') throw new Error(check!.quick_check);
    } catch (error) {
      throw new Problem(
        'catalog-damaged',
        `${file} is damaged (${messageOf(error)}). Put the newest of the copies in the folder backups beside it in its place; or move it away with its -wal and -shm: the crossings are then found again by their folders.`,
        { file },
      );
    }
    const done = this.db.pragma('user_version', { simple: true }) as number;
    if (done > MIGRATIONS.length) {
      this.db.close();
      throw new Problem(
        'catalog-newer',
        `${file} was made by a newer Pontrel than this one. Start that one, or choose another data folder with --data.`,
        { file },
      );
    }
    for (let k = done; k < MIGRATIONS.length; k++) {
      this.db.transaction(() => {
        this.db.exec(MIGRATIONS[k]!);
        this.db.pragma(`user_version = ${k + 1}`);
      })();
    }
  }

  /** Copies it as it is at this moment, while it is in use. */
  async backup(file: string): Promise<void> {
    await this.db.backup(file);
  }

  /**
   * Brings the catalog and what folders tell of themselves together: takes up again what it does not know, as after it was lost or put back to
   * an earlier one, and writes down what no folder tells of yet.
   * @returns how many crossings and sources were taken up
   */
  reconcile(): number {
    const { manifests } = this;
    if (!manifests) return 0;
    const told = manifests.all();
    this.dropUnreadable(manifests);
    const adopted = this.adopt(told, manifests);
    const byId = new Map(told.map((t) => [t.crossing.id, t]));
    for (const crossing of this.crossings()) {
      const own = byId.get(crossing.id);
      if (JSON.stringify(own?.crossing) !== JSON.stringify(crossing)) manifests.putCrossing(crossing);
      // a source never changes; only its store may get another layout, and it may go into the bin and come back
      const written = new Map(own?.sources.map((m) => [m.source.id, m]));
      for (const source of this.sources(crossing.id)) {
        const layout = this.layoutOf(source.id);
        const known = written.get(source.id);
        if (known?.layout !== layout || known.inBin) manifests.putSource({ source, layout });
      }
      for (const { source, layout, ...inBin } of this.binnedSources())
        if (source.crossing === crossing.id && !written.get(source.id)?.inBin) manifests.putSource({ source, layout, inBin });
      const runs = new Set(own?.runs);
      for (const id of this.runIds(crossing.id)) if (!runs.has(id)) manifests.putRun(this.run(id));
    }
    return adopted;
  }

  /** Does several things or none of them. */
  atOnce<T>(work: () => T): T {
    try {
      return this.db.transaction(work)();
    } catch (error) {
      // what was read within it may never have been
      this.recipes.clear();
      this.knownSources.clear();
      throw error;
    }
  }

  /** Takes away what of sources and runs cannot be read any more: their folders tell of them, or are set aside. A run gets its place again. */
  private dropUnreadable(manifests: Manifests): void {
    for (const r of this.db.prepare<[], Raw>(`SELECT id FROM sources WHERE ${UNREADABLE.sources}`).all()) this.deleteSource(text(r.id));
    this.db.exec(`DELETE FROM binned_sources WHERE ${UNREADABLE.binned_sources}`);
    for (const r of this.db.prepare<[], Raw>(`SELECT rowid, id, crossing FROM runs WHERE ${UNREADABLE.runs}`).all()) {
      this.deleteRun(text(r.id));
      const kept = manifests.run(text(r.crossing), text(r.id));
      if (kept) this.taken(() => this.insertRun(kept, r.rowid as number));
    }
  }

  private adopt(told: readonly ToldCrossing[], manifests: Manifests): number {
    const [crossings, sources, known] = [this.allCrossingIds(), this.allSourceIds(), this.allRunIds()];
    let adopted = 0;
    for (const { crossing, sources: own, runs } of told) {
      if (!crossings.has(crossing.id)) adopted += Number(this.taken(() => this.insertCrossing(crossing)));
      const names = new Set(this.sources(crossing.id).map((s) => s.name));
      for (const { source, layout, inBin } of own) {
        if (sources.has(source.id)) continue;
        if (inBin) this.taken(() => this.insertBinned({ source, layout, ...inBin }));
        else if (!names.has(source.name)) adopted += Number(this.taken(() => this.insertSource(source, layout)));
      }
      const unknown = runs.flatMap((id) => (known.has(id) ? [] : (manifests.run(crossing.id, id) ?? [])));
      for (const run of unknown.sort((a, b) => a.finished.localeCompare(b.finished))) this.taken(() => this.insertRun(run));
    }
    return adopted;
  }

  /** Whether what a folder says of itself could be taken up; what it says may be damaged, and is set aside with its folder then. */
  private taken(insert: () => void): boolean {
    try {
      insert();
      return true;
    } catch {
      return false;
    }
  }

  private insertCrossing(crossing: CrossingManifest): void {
    recipeOf(crossing.recipe);
    this.db
      .prepare('INSERT INTO crossings (id, name, recipe, revision, created, opened, binned) VALUES (?, ?, ?, ?, ?, ?, ?)')
      .run(
        crossing.id,
        crossing.name,
        JSON.stringify(crossing.recipe),
        crossing.revision,
        crossing.created,
        crossing.opened,
        crossing.binned ?? null,
      );
  }

  /** Writes down beside the files of a crossing what the catalog says of it; one whose rules cannot be read keeps what was written. */
  private tell(id: string): void {
    const crossing = this.readable(id);
    if (this.manifests && crossing) this.manifests.putCrossing(crossing);
  }

  private readable(id: string): CrossingRecord | null {
    try {
      return this.crossing(id);
    } catch (error) {
      if (error instanceof Problem && error.code !== 'crossing-unknown') return null;
      throw error;
    }
  }

  private layoutOf(source: string): number {
    return this.db.prepare<[string], number>('SELECT layout FROM sources WHERE id = ?').pluck().get(source)!;
  }

  /** Systems that were saved under a name of their own, by name. */
  definitions(): { name: string; text: string }[] {
    return this.db.prepare<[], { name: string; text: string }>('SELECT name, text FROM definitions ORDER BY name').all();
  }

  saveDefinition(name: string, text: string, now: string): void {
    this.db
      .prepare(
        'INSERT INTO definitions (name, text, saved) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET text = excluded.text, saved = excluded.saved',
      )
      .run(name, text, now);
  }

  /** Deliverables that are kept under a name; one that can no longer be understood is none. */
  templates(): Deliverable[] {
    return this.db
      .prepare<[], { deliverable: string }>('SELECT deliverable FROM templates WHERE json_valid(deliverable) ORDER BY name COLLATE NOCASE')
      .all()
      .flatMap((row) => {
        const read = Deliverable.safeParse(JSON.parse(row.deliverable));
        return read.success ? [read.data] : [];
      });
  }

  /** Keeps a deliverable under its name, in the place of one that has it already. */
  saveTemplate(deliverable: Deliverable, now: string): void {
    this.db
      .prepare(
        'INSERT INTO templates (name, deliverable, saved) VALUES (?, ?, ?) ON CONFLICT (name) DO UPDATE SET deliverable = excluded.deliverable, saved = excluded.saved',
      )
      .run(deliverable.name, JSON.stringify(deliverable), now);
  }

  deleteTemplate(name: string): void {
    this.db.prepare('DELETE FROM templates WHERE name = ?').run(name);
  }

  close(): void {
    this.db.close();
  }

  /** Those whose rules can be read, the one that was opened last first. */
  crossings(): CrossingRecord[] {
    return this.crossingsOrDamaged().flatMap((c) => ('why' in c ? [] : [c]));
  }

  /** All, the one that was opened last first; one that is damaged takes none of the others with it. */
  crossingsOrDamaged(): (CrossingRecord | DamagedCrossing)[] {
    return this.db
      .prepare<[], Raw>('SELECT * FROM crossings ORDER BY opened DESC')
      .all()
      .map((r) => {
        try {
          return this.crossingOf(r);
        } catch (error) {
          return {
            id: text(r.id),
            name: text(r.name),
            created: text(r.created),
            opened: text(r.opened),
            binned: r.binned as string | null,
            why: messageOf(error),
          };
        }
      });
  }

  /** @throws Problem `crossing-newer`, `crossing-damaged` */
  private crossingOf(r: Raw): CrossingRecord {
    const [id, revision] = [text(r.id), r.revision as number];
    return {
      id,
      name: text(r.name),
      recipe: this.recipes.get(`${id} ${revision}`, () => recipeOf(jsonOf(text(r.recipe)))),
      revision,
      created: text(r.created),
      opened: text(r.opened),
      binned: r.binned as string | null,
    };
  }

  /** Crossings that were begun with files of which none could be read, and in which nothing was done since. */
  refused(): Set<string> {
    return new Set(
      this.db
        .prepare<[], string>(
          `SELECT c.id FROM crossings c WHERE c.revision = 1 AND NOT EXISTS (SELECT 1 FROM sources s WHERE s.crossing = c.id)
  AND EXISTS (SELECT 1 FROM jobs j WHERE j.crossing = c.id) AND NOT EXISTS (SELECT 1 FROM jobs j WHERE j.crossing = c.id AND j.status NOT IN ('failed', 'cancelled'))`,
        )
        .pluck()
        .all(),
    );
  }

  /** @throws Problem `crossing-unknown`, `crossing-newer`, `crossing-damaged` */
  crossing(id: string): CrossingRecord {
    return this.crossingOf(this.rowOf(id));
  }

  /** @throws Problem `crossing-unknown` */
  checkKnown(id: string): void {
    this.rowOf(id);
  }

  private rowOf(id: string): Raw {
    const row = this.db.prepare<[string], Raw>('SELECT * FROM crossings WHERE id = ?').get(id);
    if (!row) throw new Problem('crossing-unknown', 'This crossing is not here any more. Go back to the list of crossings.');
    return row;
  }

  addCrossing(id: string, name: string, now: string): void {
    this.db
      .prepare('INSERT INTO crossings (id, name, recipe, created, opened) VALUES (?, ?, ?, ?, ?)')
      .run(id, name, JSON.stringify(EMPTY_RECIPE), now, now);
    this.tell(id);
  }

  renameCrossing(id: string, name: string): void {
    this.db.prepare('UPDATE crossings SET name = ? WHERE id = ?').run(name, id);
    this.tell(id);
  }

  openedCrossing(id: string, now: string): void {
    this.db.prepare('UPDATE crossings SET opened = ? WHERE id = ?').run(now, id);
  }

  /** Puts a crossing into the bin, or takes it out with null. */
  binCrossing(id: string, at: string | null): void {
    this.db.prepare('UPDATE crossings SET binned = ? WHERE id = ?').run(at, id);
    this.tell(id);
  }

  /** @throws Problem `crossing-unknown` */
  isBinned(id: string): boolean {
    return this.rowOf(id).binned !== null;
  }

  deleteCrossing(id: string): void {
    this.db.prepare('DELETE FROM crossings WHERE id = ?').run(id);
  }

  /** Puts a new recipe in the place of the one of `revision`. @throws Problem `recipe-stale` when that is not the present one */
  saveRecipe(id: string, recipe: Recipe, revision: number): void {
    const { changes } = this.db
      .prepare('UPDATE crossings SET recipe = ?, revision = revision + 1 WHERE id = ? AND revision = ?')
      .run(JSON.stringify(recipe), id, revision);
    if (changes === 0)
      throw new Problem(
        'recipe-stale',
        'The rules were changed in another window in the meantime. They are shown again as they are now; make the change once more.',
      );
    this.tell(id);
  }

  sources(crossing: string): SourceRecord[] {
    return this.db
      .prepare<[string], Raw>('SELECT * FROM sources WHERE crossing = ? ORDER BY added, rowid')
      .all(crossing)
      .map((r) => this.knownSources.get(text(r.id), () => sourceOf(r)));
  }

  /** Sources whose stores are of an earlier layout. */
  sourcesOfOlderLayout(): SourceRecord[] {
    return this.db.prepare<[number], Raw>('SELECT * FROM sources WHERE layout < ?').all(STORE_LAYOUT).map(sourceOf);
  }

  addSource(s: SourceRecord): void {
    this.insertSource(s, STORE_LAYOUT);
    this.manifests?.putSource({ source: s, layout: STORE_LAYOUT });
  }

  /** Writes down what a source or a run is in the folder that it was made in, before that gets its place: from then on it is not lost. */
  tellSource(source: SourceRecord, folder: string): void {
    this.manifests?.putSource({ source, layout: STORE_LAYOUT }, folder);
  }

  tellRun(run: RunRecord, folder: string): void {
    this.manifests?.putRun(run, folder);
  }

  private insertSource(s: SourceRecord, layout: number): void {
    this.db
      .prepare(
        'INSERT INTO sources (id, crossing, name, format, bytes, added, facts, layers, findings, layout) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
      )
      .run(
        s.id,
        s.crossing,
        s.name,
        s.format,
        s.bytes,
        s.added,
        JSON.stringify(s.facts),
        JSON.stringify(s.layers),
        JSON.stringify(s.findings),
        layout,
      );
  }

  /** Puts a source in the place of another one. */
  replaceSource(id: string, by: SourceRecord): void {
    this.db.transaction(() => {
      this.deleteSource(id);
      this.addSource(by);
    })();
  }

  /** Moves a source into the bin. */
  binSource(id: string, inBin: Omit<BinnedSource, 'source' | 'layout'>): void {
    const row = this.db.prepare<[string], Raw>('SELECT * FROM sources WHERE id = ?').get(id)!;
    const binned: BinnedSource = { source: sourceOf(row), layout: row.layout as number, ...inBin };
    this.db.transaction(() => {
      this.deleteSource(id);
      this.insertBinned(binned);
      this.manifests?.putSource({ source: binned.source, layout: binned.layout, inBin });
    })();
  }

  /** Moves a source out of the bin, as what it is called now. */
  unbinSource(source: SourceRecord, layout: number): void {
    this.db.transaction(() => {
      this.deleteBinnedSource(source.id);
      this.insertSource(source, layout);
      this.knownSources.forget(source.id);
      this.manifests?.putSource({ source, layout });
    })();
  }

  private insertBinned({ source, layout, binned, by, rules }: BinnedSource): void {
    this.db
      .prepare('INSERT INTO binned_sources (id, crossing, source, layout, binned, by, rules) VALUES (?, ?, ?, ?, ?, ?, ?)')
      .run(source.id, source.crossing, JSON.stringify(source), layout, binned, by, JSON.stringify(rules));
  }

  /** All sources in the bin. */
  /** A source of a crossing by its id. @throws Problem `source-unknown` */
  source(crossing: string, id: string): SourceRecord {
    const source = this.sources(crossing).find((s) => s.id === id);
    if (!source) throw new Problem('source-unknown', 'This source is not in the crossing any more.');
    return source;
  }

  /** Those of one crossing that lie in the bin. */
  binnedSourcesOf(crossing: string): BinnedSource[] {
    return this.db.prepare<[string], Raw>('SELECT * FROM binned_sources WHERE crossing = ?').all(crossing).map(binnedOf);
  }

  binnedSources(): BinnedSource[] {
    return this.db.prepare<[], Raw>('SELECT * FROM binned_sources').all().map(binnedOf);
  }

  /** Null for one that is not there. */
  binnedSource(id: string): BinnedSource | null {
    const row = this.db.prepare<[string], Raw>('SELECT * FROM binned_sources WHERE id = ?').get(id);
    return row ? binnedOf(row) : null;
  }

  deleteBinnedSource(id: string): void {
    this.db.prepare('DELETE FROM binned_sources WHERE id = ?').run(id);
  }

  deleteSource(id: string): void {
    this.db.prepare('DELETE FROM sources WHERE id = ?').run(id);
  }

  private runIds(crossing: string): string[] {
    return this.db.prepare<[string], string>('SELECT id FROM runs WHERE crossing = ?').pluck().all(crossing);
  }

  /** All runs of a crossing that are kept, the last one first. */
  runs(crossing: string): RunRecord[] {
    return this.db.prepare<[string], Raw>('SELECT * FROM runs WHERE crossing = ? ORDER BY rowid DESC').all(crossing).map(runOf);
  }

  /** Of each deliverable the run that was added last: its clock may have been wrong. */
  lastRuns(crossing: string): RunRecord[] {
    return this.db
      .prepare<[string], Raw>(
        `SELECT * FROM runs r WHERE crossing = ? AND rowid = (SELECT max(rowid) FROM runs WHERE crossing = r.crossing AND deliverable = r.deliverable) ORDER BY rowid`,
      )
      .all(crossing)
      .map(runOf);
  }

  /** The last runs of all crossings, the last first. */
  recentRuns(most: number): RunRecord[] {
    return this.db.prepare<[number], Raw>('SELECT * FROM runs ORDER BY finished DESC LIMIT ?').all(most).map(runOf);
  }

  /** @throws Problem `run-unknown` */
  run(id: string): RunRecord {
    const row = this.db.prepare<[string], Raw>('SELECT * FROM runs WHERE id = ?').get(id);
    if (!row) throw new Problem('run-unknown', 'This run is not here any more. Run the deliverable again.');
    return runOf(row);
  }

  allRunIds(): Set<string> {
    return new Set(this.db.prepare<[], string>('SELECT id FROM runs').pluck().all());
  }

  allCrossingIds(): Set<string> {
    return new Set(this.db.prepare<[], string>('SELECT id FROM crossings').pluck().all());
  }

  /** Those in the bin as well. */
  allSourceIds(): Set<string> {
    return new Set(this.db.prepare<[], string>('SELECT id FROM sources UNION ALL SELECT id FROM binned_sources').pluck().all());
  }

  /** Adds a run, and forgets those of its deliverable beyond the last few that are not pinned. @returns the ids of these */
  addRun(r: RunRecord): string[] {
    return this.db.transaction(() => {
      this.insertRun(r);
      const older = this.db
        .prepare<[string, string, number], string>(
          'SELECT id FROM runs WHERE crossing = ? AND deliverable = ? AND pinned = 0 ORDER BY rowid DESC LIMIT -1 OFFSET ?',
        )
        .pluck()
        .all(r.crossing, r.deliverable, RUNS_KEPT);
      for (const id of older) this.deleteRun(id);
      return older;
    })();
  }

  deleteRun(id: string): void {
    this.db.prepare('DELETE FROM runs WHERE id = ?').run(id);
  }

  pinRun(id: string, pinned: boolean): void {
    this.db.prepare('UPDATE runs SET pinned = ? WHERE id = ?').run(Number(pinned), id);
    this.manifests?.putRun(this.run(id));
  }

  /** @param place among the runs; after all others when absent */
  private insertRun(r: RunRecord, place: number | null = null): void {
    this.db
      .prepare(
        'INSERT INTO runs (rowid, id, crossing, deliverable, name, finished, revision, rules, files, target, proof, seconds, pinned, recipe) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)',
      )
      .run(
        place,
        r.id,
        r.crossing,
        r.deliverable,
        r.name,
        r.finished,
        r.revision,
        r.rules,
        JSON.stringify(r.files),
        r.target,
        JSON.stringify(r.proof),
        r.seconds,
        Number(r.pinned),
        JSON.stringify(r.recipe),
      );
  }

  /** Jobs that are under way or whose end has not been read yet. */
  jobs(crossing: string): Job[] {
    return this.db
      .prepare<[string], Raw>("SELECT * FROM jobs WHERE crossing = ? AND status <> 'done' ORDER BY started")
      .all(crossing)
      .map(jobOf);
  }

  saveJob(j: Job): void {
    this.db
      .prepare(
        `INSERT INTO jobs (id, crossing, kind, subject, subject_id, status, phase, done, total, unit, message, started, ended, result)
      VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
      ON CONFLICT (id) DO UPDATE SET status = excluded.status, phase = excluded.phase, done = excluded.done, total = excluded.total, message = excluded.message, ended = excluded.ended, result = excluded.result`,
      )
      .run(
        j.id,
        j.crossing,
        j.kind,
        j.subject,
        j.subjectId,
        j.status,
        j.phase,
        j.done,
        j.total,
        j.unit,
        j.message,
        j.started,
        j.ended,
        j.result,
      );
  }

  deleteJob(id: string): void {
    this.db.prepare("DELETE FROM jobs WHERE id = ? AND status NOT IN ('waiting', 'running')").run(id);
  }

  /** Jobs that a stop of the server cut off: marks them and returns them. */
  markInterrupted(now: string, messageOf: (job: Job) => string): Job[] {
    const cut = this.db.prepare<[], Raw>("SELECT * FROM jobs WHERE status IN ('waiting', 'running')").all().map(jobOf);
    const marked = cut.map((job): Job => ({ ...job, status: 'interrupted', ended: now, message: messageOf(job) }));
    for (const job of marked) this.saveJob(job);
    return marked;
  }
}

import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import Database from 'better-sqlite3';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Job } from '@pontrel/contract/job';
import type { Proof } from '@pontrel/core/content/features/proof';
import { EMPTY_RECIPE } from '@pontrel/core/crossing/recipe';
import { Catalog } from '../src/store/catalog';
import type { RunRecord, SourceRecord } from '../src/store/records';
import { DataFolder } from '../src/store/data-folder';
import { newId } from '../src/store/id';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), 'pontrel-catalog-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const NOW = '2026-03-01T10:00:00.000Z';
const proof: Proof = {
  status: 'match',
  records: { in: 3, out: 3 },
  maxDeviation_m: 1e-9,
  tolerance_m: 0.001,
  worst: null,
  histogram: [],
  sets: [],
  differences: [],
  findings: [],
};

const source = (id: string, name = 'quay.dxf'): SourceRecord => ({
  id,
  crossing: 'c1',
  name,
  format: 'dxf',
  bytes: 12,
  added: NOW,
  facts: {
    crs: null,
    crsText: null,
    unit: { name: 'millimetre', metres: 0.001 },
    outliers: { count: 0, records: [] },
    core: null,
    version: 'R2013',
  },
  layers: [],
  findings: [],
});

const run = (id: string, finished: string): RunRecord => ({
  id,
  crossing: 'c1',
  deliverable: 'd1',
  name: 'Council',
  finished,
  revision: 1,
  rules: 'mark',
  files: [{ name: 'quay.shp', bytes: 100 }],
  target: 'EPSG:2193',
  pinned: false,
  recipe: EMPTY_RECIPE,
  proof,
  seconds: 0.5,
});

const job = (id: string, status: Job['status']): Job => ({
  id,
  crossing: 'c1',
  kind: 'run',
  subject: 'Council',
  subjectId: 'd1',
  status,
  phase: 'Writing',
  done: 1,
  total: 3,
  unit: 'records',
  message: null,
  started: NOW,
  ended: null,
  result: null,
});

describe('the catalog', () => {
  const open = (): Catalog => new Catalog(path.join(folder, 'catalog.sqlite'));

  it('keeps everything over a restart, and applies a migration once', () => {
    let catalog = open();
    catalog.addCrossing('c1', 'Ferry quay', NOW);
    catalog.addSource(source('s1'));
    catalog.addRun(run('r1', NOW));
    catalog.close();
    catalog = open();
    expect(catalog.crossings()).toEqual([expect.objectContaining({ id: 'c1', name: 'Ferry quay', revision: 1 })]);
    expect(catalog.sources('c1')).toEqual([source('s1')]);
    expect(catalog.lastRuns('c1')).toEqual([run('r1', NOW)]);
    catalog.close();
  });

  it('takes into the recipe what a comparison was made of, whatever is damaged beside it', () => {
    const compared = { old: 'a.dxf', next: 'b "2".dxf', key: null, tolerance_m: 0.001 };
    let catalog = open();
    for (const id of ['c1', 'c2', 'c3']) {
      catalog.addCrossing(id, 'Ferry quay', NOW);
      const s = { ...source(`s-${id}`), crossing: id };
      const { recipe, revision } = catalog.crossing(id);
      catalog.addSource({ ...s, facts: { ...s.facts, ...(id === 'c2' ? {} : { compared }) } });
      catalog.saveRecipe(id, { ...recipe, sources: { [s.name]: { placement: null, layers: {} } } }, revision);
    }
    catalog.close();
    const db = new Database(path.join(folder, 'catalog.sqlite'));
    db.prepare("UPDATE crossings SET recipe = '{' WHERE id = 'c3'").run();
    db.prepare("UPDATE sources SET facts = '{' WHERE crossing = 'c3'").run();
    db.pragma('user_version = 7');
    db.close();
    catalog = open();
    const rule = (id: string) => Object.values(catalog.crossing(id).recipe.sources)[0];
    expect(rule('c1')).toEqual({ placement: null, layers: {}, workedOut: { by: 'comparison', ...compared } });
    expect(rule('c2')).toEqual({ placement: null, layers: {} });
    catalog.close();
  });

  it('refuses a recipe that was made on an older revision, and keeps the newer one', () => {
    const catalog = open();
    catalog.addCrossing('c1', 'Ferry quay', NOW);
    const { recipe, revision } = catalog.crossing('c1');
    catalog.saveRecipe('c1', { ...recipe, chord_m: 0.02 }, revision);
    expect(() => catalog.saveRecipe('c1', { ...recipe, chord_m: 0.5 }, revision)).toThrow(/changed in another window/);
    expect(catalog.crossing('c1')).toMatchObject({ revision: revision + 1, recipe: { chord_m: 0.02 } });
    catalog.close();
  });

  it('keeps the last ten runs of a deliverable and those that are pinned, and tells which others are to be deleted', () => {
    const catalog = open();
    catalog.addCrossing('c1', 'Ferry quay', NOW);
    const at = (k: number): string => `2026-03-01T11:${String(k).padStart(2, '0')}:00.000Z`;
    for (let k = 0; k < 10; k++) expect(catalog.addRun(run(`r${k}`, at(k)))).toEqual([]);
    catalog.pinRun('r1', true);
    // one that is pinned does not count
    expect(catalog.addRun(run('r10', at(10)))).toEqual([]);
    expect(catalog.addRun(run('r11', at(11)))).toEqual(['r0']);
    expect(catalog.addRun(run('r12', at(12)))).toEqual(['r2']);
    catalog.pinRun('r1', false);
    expect(catalog.addRun(run('r13', at(13)))).toEqual(['r3', 'r1']);
    expect(catalog.lastRuns('c1').map((r) => r.id)).toEqual(['r13']);
    expect(catalog.runs('c1').map((r) => r.id)).toEqual([13, 12, 11, 10, 9, 8, 7, 6, 5, 4].map((k) => `r${k}`));
    expect(catalog.run('r13').recipe).toEqual(EMPTY_RECIPE);
    expect(() => catalog.run('r1')).toThrow(/not here any more/);
    catalog.close();
  });

  it('marks what a stop cut off, and shows no job that is done', () => {
    const catalog = open();
    catalog.addCrossing('c1', 'Ferry quay', NOW);
    for (const [id, status] of [
      ['j1', 'running'],
      ['j2', 'waiting'],
      ['j3', 'done'],
      ['j4', 'failed'],
    ] as const)
      catalog.saveJob(job(id, status));
    const cut = catalog.markInterrupted(NOW, (j) => `${j.subject} was cut off.`);
    expect(cut.map((j) => j.id)).toEqual(['j1', 'j2']);
    expect(catalog.jobs('c1').map((j) => [j.id, j.status])).toEqual([
      ['j1', 'interrupted'],
      ['j2', 'interrupted'],
      ['j4', 'failed'],
    ]);
    expect(catalog.markInterrupted(NOW, () => '')).toEqual([]);
    catalog.deleteJob('j4');
    expect(catalog.jobs('c1')).toHaveLength(2);
    catalog.close();
  });

  it('lets a running job not be dismissed', () => {
    const catalog = open();
    catalog.addCrossing('c1', 'Ferry quay', NOW);
    catalog.saveJob(job('j1', 'running'));
    catalog.deleteJob('j1');
    expect(catalog.jobs('c1')).toHaveLength(1);
    catalog.close();
  });

  it('forgets all of a crossing with it', () => {
    const catalog = open();
    catalog.addCrossing('c1', 'Ferry quay', NOW);
    catalog.addSource(source('s1'));
    catalog.addRun(run('r1', NOW));
    catalog.saveJob(job('j1', 'failed'));
    catalog.deleteCrossing('c1');
    expect(catalog.sources('c1')).toEqual([]);
    expect(catalog.allRunIds().size + catalog.allSourceIds().size + catalog.jobs('c1').length).toBe(0);
    expect(() => catalog.crossing('c1')).toThrow(/not here any more/);
    // a job that still runs for it has nowhere to be written
    expect(() => catalog.saveJob(job('j2', 'running'))).toThrow(/FOREIGN KEY/);
    catalog.close();
  });
});

describe('the data folder', () => {
  it('makes paths of its own ids only', () => {
    const data = new DataFolder(folder);
    const id = newId();
    expect(id).toMatch(/^[0-9a-z]{12}$/);
    expect(data.run(id, id)).toBe(path.join(folder, 'crossings', id, 'runs', id));
    for (const bad of ['..', '../../etc', 'a/b', '', 'ABCDEFGHIJKL', `${id}x`]) {
      expect(() => data.crossing(bad)).toThrow(/is not an id/);
      expect(() => data.source(id, bad)).toThrow(/is not an id/);
    }
  });

  it('sweeps away what is half made, and sets aside what nothing tells of', () => {
    const data = new DataFolder(folder);
    const [crossing, kept, lost] = [newId(), newId(), newId()];
    for (const place of [
      data.run(crossing, kept),
      data.run(crossing, lost),
      data.partial(data.run(crossing, newId())),
      data.source(crossing, kept),
      data.partial(data.source(crossing, lost)),
    ]) {
      mkdirSync(place, { recursive: true });
      writeFileSync(path.join(place, 'file'), 'x');
    }
    data.sweep();
    expect(readdirSync(path.join(data.crossing(crossing), 'runs')).sort()).toEqual([kept, lost].sort());
    expect(data.setUnknownAside(new Set([crossing]), new Set([kept]), new Set([kept]))).toBe(1);
    expect(readFileSync(path.join(data.setAside, crossing, 'runs', lost, 'file'), 'utf8')).toBe('x');
    expect(readdirSync(path.join(data.crossing(crossing), 'runs'))).toEqual([kept]);
    expect(readdirSync(path.join(data.crossing(crossing), 'sources'))).toEqual([kept]);
  });
});

import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { AccountRow } from '@pontrel/core/content/account';
import type { Proof } from '@pontrel/core/content/features/proof';
import type { Deliverable, Recipe } from '@pontrel/core/crossing/recipe';
import { FORMATS } from '@pontrel/core/formats/index';
import { formatOptions, prescribedCrs } from '@pontrel/core/formats/options';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { crsOf } from '@pontrel/core/placement/route';
import { pontrel } from '../reference/python';
import { TestServer, temporaryFolder } from '../server/client';
import { type Thing, geojsonOf, things, tokenOf } from './things';
import { heldBy } from './tokens';

const NZTM = 'EPSG:2193',
  WGS84 = 'EPSG:4326';
const WRITTEN = FORMATS.filter((f) => f.features.write);

/** What a rule leaves behind, by our own reckoning. */
interface Rule {
  rule: LayerRule;
  leaves(t: Thing, k: number, all: readonly Thing[]): string | null;
}

const RULES: readonly Rule[] = [
  { rule: {}, leaves: () => null },
  { rule: { where: 'value > 0' }, leaves: (t) => (t.value > 0 ? null : 'filtered') },
  { rule: { where: 'name IS NULL' }, leaves: (t) => (t.name === null ? null : 'filtered') },
  {
    rule: { leftOut: ['Point'] },
    // what is a point and something else besides crosses in part
    leaves: (t) => ((t.geometry as { type?: string } | null)?.type === 'Point' ? 'left-out' : null),
  },
  { rule: { to: 'STEP {value}', constants: [{ name: 'job', value: 'B-7' }], simplify_m: 0.5 }, leaves: () => null },
  {
    rule: {
      fields: { name: { shape: { type: 'integer' } }, value: { shape: { type: 'text', width: 2 } } },
      fieldOrder: ['value', 'name'],
    },
    leaves: () => null,
  },
];

const caseOf = fc.record({
  list: things,
  rule: fc.constantFrom(...RULES),
  grouping: fc.constantFrom('layer' as const, 'kind' as const),
  projected: fc.boolean(),
  choices: fc.array(fc.nat(20), { minLength: 12, maxLength: 12 }),
});

/** Options of a format, each by one of its own choices. */
function chosen(format: (typeof WRITTEN)[number], choices: readonly number[]): NonNullable<Deliverable['options']> {
  return Object.fromEntries(
    format.features.write!.options.flatMap((o, k) =>
      o.kind === 'choice' ? [[o.id, o.choices[choices[k % choices.length]! % o.choices.length]!.value]] : [],
    ),
  );
}

/** What must become of each thing, by the rules and what the format declares; null where it crosses. */
function expectedFates(format: (typeof WRITTEN)[number], { list, rule }: { list: readonly Thing[]; rule: Rule }): (string | null)[] {
  return list.map((t, k) => {
    const left = rule.leaves(t, k, list);
    if (left !== null) return left;
    if (t.kinds.every((kind) => format.features.carries.kinds[kind] === null)) return 'no-geometry';
    return t.nowhere ? 'no-image' : null;
  });
}

/** Generated sources a format; a failure is told by what it is, since making smaller ones takes a run of the program each. */
const CASES = 8;

const { folder, remove } = temporaryFolder();
afterAll(remove);
let made = 0;

function recipeOf(
  name: string,
  format: (typeof WRITTEN)[number],
  { rule, grouping, projected, choices }: { rule: Rule; grouping: 'layer' | 'kind'; projected: boolean; choices: readonly number[] },
): { recipe: Recipe; crs: string } {
  const options = chosen(format, choices);
  const isAble = (crs: string): boolean => !format.features.write!.crsFindings(crsOf(crs)!, options).some((f) => f.severity === 'wrong');
  const crs = prescribedCrs(format, formatOptions(format, options)) ?? (projected || !isAble(WGS84) ? NZTM : WGS84);
  const layer = name.replace(/\.[^.]+$/, '');
  return {
    crs,
    recipe: {
      version: 2,
      frame: { crs: NZTM },
      chord_m: 0.005,
      sources: { [name]: { placement: { crs: WGS84, unit_m: null }, layers: { [layer]: rule.rule } } },
      deliverables: [{ id: 'd', name: 'Out', format: format.id, crs, grouping, options }],
    },
  };
}

/** Whether an account is what the law says that it is, and what the files hold, as others see them. */
async function holds(
  list: readonly Thing[],
  fates: readonly (string | null)[],
  told: {
    account: readonly Pick<AccountRow, 'read' | 'crossed' | 'left'>[];
    proof: Pick<Proof, 'status' | 'differences' | 'records'>;
    said: readonly string[];
    files: readonly string[];
  },
): Promise<void> {
  const { account, proof, said, files } = told;
  expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
  expect(proof.status).toBe('match');
  const [row, ...others] = account;
  expect(others).toEqual([]);
  expect(row!.read).toBe(list.length);
  expect(row!.crossed + row!.left.reduce((n, l) => n + l.count, 0)).toBe(row!.read);
  // each reason with its count, and where the things stand in the file
  for (const reason of new Set(fates)) {
    if (reason === null) continue;
    const numbers = fates.flatMap((f, k) => (f === reason ? [k + 1] : []));
    const left = row!.left.find((l) => l.reason === reason);
    expect(left && { count: left.count, locations: left.locations }).toEqual({ count: numbers.length, locations: numbers.slice(0, 20) });
    expect(said).toContain(reason);
  }
  expect(row!.crossed).toBe(fates.filter((f) => f === null).length);
  // the files hold what the account says
  const held = await heldBy(files);
  expect(held.records).toBe(proof.records.out);
  expect([...new Set(held.tokens)].sort()).toEqual(fates.flatMap((f, k) => (f === null ? [tokenOf(k)] : [])).sort());
}

describe('what is read is what crossed and what was left, on the command line', () => {
  it.each(WRITTEN.map((f) => [f.name, f] as const))('into %s', async (_name, format) => {
    let ran = 0;
    for (const one of fc.sample(caseOf, CASES)) {
      const work = path.join(folder, String(++made));
      mkdirSync(work);
      const input = path.join(work, 'things.geojson');
      writeFileSync(input, geojsonOf(one.list));
      const { recipe } = recipeOf('things.geojson', format, one);
      writeFileSync(path.join(work, 'recipe.json'), JSON.stringify(recipe));
      const fates = expectedFates(format, one);
      const { status, json } = pontrel('convert', input, path.join(work, 'out'), '--recipe', path.join(work, 'recipe.json'));
      if (fates.every((f) => f !== null)) {
        expect([status, json.error?.code]).toEqual([1, 'deliverable-empty']);
        continue;
      }
      expect(json.error).toBeUndefined();
      ran++;
      await holds(one.list, fates, {
        account: json.account,
        proof: json.proof,
        said: json.findings.map((f: { code: string }) => f.code),
        files: json.outputs.map((o: { path: string }) => o.path),
      });
    }
    expect(ran).toBeGreaterThan(3);
  });
});

describe('the same through the server', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start(path.join(folder, 'data'));
  });
  afterAll(() => server.stop());

  it.each(WRITTEN.map((f) => [f.name, f] as const))('into %s', async (_name, format) => {
    for (const one of fc.sample(caseOf, 3)) {
      const { body } = await server.upload('api/crossings', ['things.geojson', geojsonOf(one.list)]);
      const state = await server.until(body.id, (s) => s.sources.length > 0);
      const { recipe } = recipeOf('things.geojson', format, one);
      const saved = await server.call('PUT', `api/crossings/${body.id}/recipe`, { recipe, revision: state.revision });
      expect(saved.body.error).toBeUndefined();
      const fates = expectedFates(format, one);
      const forecast = await server.call<{ forecast: { rows: { effects: { code: string }[] }[] } }[]>(
        'GET',
        `api/crossings/${body.id}/forecasts`,
      );
      expect(forecast.body).toBeInstanceOf(Array);
      const started = await server.call('POST', `api/crossings/${body.id}/runs`, { deliverable: 'd' });
      if (fates.every((f) => f !== null)) {
        expect(started.body.error!.code).toBe('deliverable-blocked');
        continue;
      }
      const done = await server.until(body.id, (s) => s.runs.length > 0 || s.jobs.some((j) => j.status === 'failed'));
      expect(done.jobs).toEqual([]);
      const run = done.runs[0]!;
      const { body: proved } = await server.call<{ proof: Proof }>('GET', `api/runs/${run.id}`);
      const files = path.join(folder, 'data', 'crossings', body.id, 'runs', run.id, 'files');
      const main =
        format.features.write!.options.length >= 0
          ? run.files.map((f) => f.name).filter((name) => !/\.(shx|dbf|prj|cpg|sld|sidecar|xsd)$/.test(name))
          : [];
      await holds(one.list, fates, {
        account: proved.proof.account!,
        proof: proved.proof,
        said: forecast.body.flatMap((f) => f.forecast.rows.flatMap((r) => r.effects.map((e) => e.code))),
        files: main.map((name) => path.join(files, name)),
      });
      await server.discard(body.id);
    }
  });
});

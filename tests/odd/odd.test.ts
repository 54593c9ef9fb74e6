import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { formatById, FORMATS } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import type { RunProof } from '@pontrel/contract/crossing';
import { temporaryFolder, TestServer } from '../server/client';
import { pontrel } from '../reference/python';
import { shareOf } from '../share';
import { CASES as FIRST, type OddCase } from './cases';
import { MORE_CASES } from './more-cases';

const CASES: readonly OddCase[] = [...FIRST, ...MORE_CASES];

interface Row {
  read: number;
  crossed: number;
  left: { reason: string; count: number }[];
}

const sum = <T>(list: readonly T[], of: (item: T) => number): number => list.reduce((n, item) => n + of(item), 0);

describe('odd files, as other programs, old devices and careless hands make them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);

  it.each(CASES.map((c, k) => [`${Object.keys(c.files)[0]!.slice(2)}: ${c.what}`, c, k] as const))('%s', (_name, odd, k) => {
    const own = path.join(folder, String(k));
    mkdirSync(own);
    for (const [name, text] of Object.entries(odd.files)) writeFileSync(path.join(own, name), text);
    const [input] = Object.keys(odd.files);
    const output = path.join(own, `out${odd.to ?? '.geojson'}`);
    const { status, json, stderr } = pontrel('convert', path.join(own, input!), output, ...(odd.args ?? []));
    // whatever the file is, the answer is a sentence and no trace of the program
    expect(stderr).not.toMatch(/at .*\.mjs:\d+/);
    if (process.env.ODD)
      console.log(
        odd.what,
        JSON.stringify(
          json.error ?? { s: json.proof.status, r: json.proof.records, d: json.proof.differences, a: json.account, f: json.findings },
        ).slice(0, 1500),
      );
    if (odd.refused) {
      expect(json.error?.message).toMatch(odd.refused);
      expect(json.error?.message).toMatch(/^[^{}]{10,400}$/);
      expect([status, json.error.code === 'failed']).toEqual([1, false]);
      return;
    }
    expect(json.error).toBeUndefined();
    // a match, or differences that the forecast announced
    expect([json.proof.status, json.proof.differences.filter((d: { expected: boolean }) => !d.expected)]).toEqual(['match', []]);
    const rows = json.account as Row[];
    for (const { read, crossed, left } of rows) expect(read).toBe(crossed + sum(left, (l) => l.count));
    // what was left is told, with its count
    const codes = (json.findings as { code: string; count: number }[]).reduce(
      (all, f) => all.set(f.code, (all.get(f.code) ?? 0) + f.count),
      new Map<string, number>(),
    );
    for (const { reason, count } of rows.flatMap((r) => r.left)) expect([reason, codes.get(reason) ?? 0]).toEqual([reason, count]);
    if (odd.read !== undefined) expect(sum(rows, (r) => r.read)).toBe(odd.read);
    if (odd.crossed !== undefined) expect(sum(rows, (r) => r.crossed)).toBe(odd.crossed);
    for (const [code, count] of Object.entries(odd.told ?? {})) {
      const found = codes.get(code) ?? 0;
      expect([code, count === true ? found > 0 : found]).toEqual([code, count]);
    }
    const written = readFileSync(json.outputs[0].path, 'latin1');
    const text = Buffer.from(written, 'latin1').toString('utf8');
    for (const wanted of odd.has ?? []) expect(text).toMatch(wanted);
    for (const unwanted of odd.hasNot ?? []) expect(text).not.toMatch(unwanted);
  });
});

/** Cases that say more to the command line than where their numbers lie. */
const isPlain = (odd: OddCase): boolean => !odd.args || (odd.args.length === 2 && odd.args[0] === '--from');

describe('the same files, dropped on the page', () => {
  const { folder, remove } = temporaryFolder();
  let server: TestServer;
  beforeAll(async () => {
    server = await TestServer.start(path.join(folder, 'data'));
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  it.each(shareOf(CASES.filter(isPlain), 3).map((c) => [`${Object.keys(c.files)[0]!.slice(2)}: ${c.what}`, c] as const))(
    '%s',
    async (_name, odd) => {
      const { body, status } = await server.upload('api/crossings', ...Object.entries(odd.files));
      if (body.error) {
        expect([odd.refused !== undefined, status]).toEqual([true, 400]);
        expect(body.error.message).toMatch(/^[^{}]{10,900}$/);
        return;
      }
      const read = await server.until(body.id, (s) => s.jobs.every((j) => j.status !== 'waiting' && j.status !== 'running'));
      const [failed] = read.jobs.filter((j) => j.status === 'failed');
      if (failed) {
        expect([odd.refused !== undefined, failed.message]).toEqual([true, expect.stringMatching(/^[^{}]{10,900}$/)]);
        // what could not be read leaves no crossing in the list
        expect((await server.call<{ id: string }[]>('GET', 'api/crossings')).body.map((c) => c.id)).not.toContain(body.id);
        return;
      }
      const [source] = read.sources;
      const from = odd.args?.[1];
      const own = read.recipe.sources[source!.name]?.placement ?? (from ? { crs: from, unit_m: null } : null);
      const format = FORMATS.find((f) => f.extensions.includes(odd.to ?? '.geojson'))!.id;
      // what states a system that cannot be true waits for a person, who takes it as stated here
      const placement = own ?? (source!.crs ? { crs: source!.crs.text, unit_m: null } : null);
      const crs = prescribedCrs(formatById(format)!) ?? placement?.crs ?? 'EPSG:4326';
      const recipe = {
        ...read.recipe,
        frame: { crs: placement?.crs ?? 'EPSG:4326' },
        sources: { ...read.recipe.sources, [source!.name]: { placement, layers: {} } },
        deliverables: [{ id: 'd', name: 'Out', format, crs, grouping: 'kind' as const }],
      };
      const put = await server.call('PUT', `api/crossings/${body.id}/recipe`, { recipe, revision: read.revision });
      expect(put.status, JSON.stringify(put.body)).toBe(200);
      const run = await server.call('POST', `api/crossings/${body.id}/runs`, { deliverable: 'd' });
      if (run.body.error) return expect([odd.refused !== undefined, run.body.error.message]).toEqual([true, expect.any(String)]);
      const done = await server.until(body.id, (s) => s.runs.length > 0 || s.jobs.some((j) => j.status === 'failed'));
      expect(done.jobs.filter((j) => j.status === 'failed').map((j) => j.message)).toEqual([]);
      const { proof } = (await server.call<RunProof>('GET', `api/runs/${done.runs[0]!.id}`)).body;
      expect([proof.status, proof.differences.filter((d) => !d.expected)]).toEqual(['match', []]);
      if (odd.read !== undefined) expect(sum(proof.account!, (r) => r.read)).toBe(odd.read);
      if (odd.crossed !== undefined) expect(sum(proof.account!, (r) => r.crossed)).toBe(odd.crossed);
    },
  );
});

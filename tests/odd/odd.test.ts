import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel } from '../reference/python';
import { CASES } from './cases';

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

import { existsSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { describe, expect, it } from 'vitest';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { Spool } from '../src/store/spool';

function batch(n: number, big = false): FeatureBatch {
  const b = new BatchBuilder(`LAYER-${n}`);
  for (let i = 0; i <= n; i++) {
    b.vertex(i + 0.1, n, i % 2 ? NaN : 5, i % 3 ? 0.5 : 0);
    b.endPart();
    b.set('color', '#ff0000'); // the same throughout
    b.set('handle', i.toString(16)); // never the same
    if (i % 4 === 0) b.set('note', big ? 'x'.repeat(100_000) : 'Whārangi');
    b.endFeature(i % 4, i % 2 ? 'LINE' : 'ARC', i);
  }
  return b.take();
}

describe('the spool', () => {
  it('gives back batches of any size in their order, as often as they are asked for', async () => {
    const spool = await Spool.create();
    // small ones, and one of several megabytes that spans many chunks
    const given = [batch(0), batch(1), batch(200, true), batch(4095), batch(3)];
    for (const b of given) await spool.add(b);
    await spool.finish();
    for (let k = 0; k < 2; k++) {
      const back: FeatureBatch[] = [];
      for await (const b of spool.batches()) back.push(b);
      expect(back).toEqual(given);
    }
    await spool.remove();
  });

  it('leaves nothing behind', async () => {
    const before = new Set(readdirSync(tmpdir()));
    const spool = await Spool.create();
    await spool.add(batch(10));
    const own = readdirSync(tmpdir()).filter((f) => f.startsWith('pontrel-') && !before.has(f));
    expect(own.length).toBeGreaterThan(0);
    await spool.remove();
    expect(own.filter((f) => existsSync(`${tmpdir()}/${f}/batches`))).toEqual([]);
  });

  it('of nothing is nothing', async () => {
    const spool = await Spool.create();
    await spool.finish();
    for await (const _ of spool.batches()) throw new Error('There was none.');
    await spool.remove();
  });
});

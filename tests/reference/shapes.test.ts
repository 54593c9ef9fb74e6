import { afterAll, describe, expect, it } from 'vitest';
import { dxf } from '@pontrel/core/formats/dxf/index';
import { flatten } from '@pontrel/core/geometry/flatten';
import { UNWATCHED } from '@pontrel/core/io/bytes';
import { eachPart, KINDS } from '@pontrel/core/model/batch';
import { Findings } from '@pontrel/core/model/finding';
import { fileSource } from '@pontrel/server/files/node-io';
import { temporaryFolder } from '../server/client';
import { python } from './python';

type Point = readonly number[];
const CHORD = 0.01;

/** Farthest that a point of one line lies from another line, in space. */
function farthest(a: readonly Point[], b: readonly Point[]): number {
  let worst = 0;
  for (const p of a) {
    let least = Infinity;
    for (let i = 0; i + 1 < b.length || i === 0; i++) {
      const q = b[i]!, r = b[i + 1] ?? q;
      const d = [0, 1, 2].map((k) => r[k]! - q[k]!);
      const size = d.reduce((s, v) => s + v * v, 0);
      const t = size === 0 ? 0 : Math.max(0, Math.min(1, d.reduce((s, v, k) => s + v * (p[k]! - q[k]!), 0) / size));
      least = Math.min(least, Math.hypot(...d.map((v, k) => p[k]! - q[k]! - t * v)));
    }
    worst = Math.max(worst, least);
  }
  return worst;
}

describe('curves, faces and hatches, against ezdxf live', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);

  it.each(['R2000', 'R2018'])('of %s: the same lines and rings, within the chord tolerance', async (version) => {
    const file = `${folder}/${version}.dxf`;
    const drawn = python<{ handle: string; type: string; rings: Point[][] }[]>('make_shapes.py', { file, version, seed: 11, distance: CHORD / 4 });
    const findings = new Findings();
    const read = new Map<string, { kind: string; rings: Point[][] }>();
    const open = await dxf.open(await fileSource(file));
    for await (const batch of open.read(findings, UNWATCHED)) {
      const flat = flatten(batch, CHORD);
      for (let i = 0; i < flat.count; i++) {
        const rings: Point[][] = [];
        eachPart(flat, i, (s, e) => rings.push(Array.from({ length: e - s }, (_, k) => [0, 1, 2].map((c) => flat.coords[3 * (s + k) + c]!))));
        read.set(String(flat.columns.get('handle')![i]), { kind: KINDS[flat.kinds[i]!]!, rings });
      }
    }
    expect(findings.list()).toEqual([]);
    expect(read.size).toBe(drawn.length);
    const counts: Record<string, number> = {};
    let worst = 0;
    for (const { handle, type, rings } of drawn) {
      counts[type] = (counts[type] ?? 0) + 1;
      const own = read.get(handle)!;
      expect(own.kind).toBe(type === 'ELLIPSE' || type === 'SPLINE' || type === 'LEADER' ? 'line' : 'polygon');
      expect(own.rings.length, `${type} ${handle}`).toBe(rings.length);
      expect([...rings, ...own.rings].every((r) => r.length > 0), `${type} ${handle} ${JSON.stringify(rings).slice(0, 200)}`).toBe(true);
      for (const ring of rings) {
        const off = Math.min(...own.rings.map((r) => Math.max(farthest(ring, r), farthest(r, ring))));
        worst = Math.max(worst, off);
        expect(off, `${type} ${handle}`).toBeLessThan(1.5 * CHORD);
      }
    }
    console.log(`${version}: ${Object.entries(counts).map(([t, n]) => `${n} ${t}`).join(', ')}; at most ${(worst * 1000).toFixed(2)} mm apart with chords within ${CHORD * 1000} mm`);
  });
});

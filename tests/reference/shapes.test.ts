import { readFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { dxf } from '@pontrel/core/formats/dxf/index';
import { flatten } from '@pontrel/core/geometry/flatten';
import { type ByteSource, UNWATCHED } from '@pontrel/core/io/bytes';
import { eachPart, KINDS } from '@pontrel/core/model/batch';
import { Findings } from '@pontrel/core/model/finding';
import { fileSource } from '@pontrel/server/files/node-io';
import { temporaryFolder } from '../server/client';
import { python } from './python';

type Point = readonly number[];
const CHORD = 0.01;
const KIND_OF: Record<string, string> = { ELLIPSE: 'line', SPLINE: 'line', HELIX: 'line', LEADER: 'line', MLINE: 'line', MESH: 'line', POLYLINE: 'line', DIMENSION: 'line', INSERT: 'point' };

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
        // an array of blocks is as many records
        const handle = String(flat.columns.get('handle')![i]);
        const known = read.get(handle);
        if (known) known.rings.push(...rings);
        else read.set(handle, { kind: KINDS[flat.kinds[i]!]!, rings });
      }
    }
    expect(findings.list().map((f) => f.code)).toEqual(['dxf-picture']);
    expect(read.size).toBe(drawn.length);
    const counts: Record<string, number> = {};
    let worst = 0;
    for (const { handle, type, rings } of drawn) {
      counts[type] = (counts[type] ?? 0) + 1;
      const own = read.get(handle)!;
      expect(own.kind).toBe(KIND_OF[type] ?? 'polygon');
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

  it.each(['R12', 'R2000', 'R2007', 'R2018'])('a binary drawing of %s holds what the same one in text does, however its bytes come', async (version) => {
    const [file, binary] = [`${folder}/text-${version}.dxf`, `${folder}/binary-${version}.dxf`];
    python('make_drawing.py', { file, binary, version });
    const recordsOf = async (source: ByteSource): Promise<string[]> => {
      const records: string[] = [];
      const open = await dxf.open(source);
      for await (const batch of open.read(new Findings(), UNWATCHED)) {
        for (let i = 0; i < batch.count; i++) {
          const own: number[] = [];
          eachPart(batch, i, (s, e) => own.push(...batch.coords.subarray(3 * s, 3 * e)));
          records.push(JSON.stringify([batch.layer, batch.entities[i], own.map((v) => Number(v.toFixed(9))), Object.fromEntries([...batch.columns].filter(([name]) => name !== 'handle').map(([name, column]) => [name, column[i] ?? null]))]));
        }
      }
      return records;
    };
    const text = await recordsOf(await fileSource(file));
    expect(text.length).toBeGreaterThan(60);
    const source = await fileSource(binary);
    expect(await recordsOf(source)).toEqual(text);
    const bytes = readFileSync(binary);
    expect(await recordsOf({ ...source, stream: async function* () { for (let i = 0; i < bytes.length; i += 7) yield bytes.subarray(i, i + 7); } })).toEqual(text);
    await expect(recordsOf({ ...source, stream: async function* () { yield bytes.subarray(0, bytes.length - 300); } })).rejects.toThrow(/breaks off/);
  });
});

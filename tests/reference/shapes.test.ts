import { readFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { dxf } from '@pontrel/core/formats/dxf/index';
import { flatten } from '@pontrel/core/geometry/flatten';
import { type ByteSource, UNWATCHED } from '@pontrel/core/io/bytes';
import { eachPart, KINDS } from '@pontrel/core/model/batch';
import { Findings } from '@pontrel/core/model/finding';
import { fileSource } from '@pontrel/host-node/files';
import { temporaryFolder } from '../server/client';
import { python } from './python';

type Point = readonly number[];
const CHORD = 0.01;
const KIND_OF: Record<string, string> = {
  POINT: 'point',
  INSERT: 'point',
  TEXT: 'text',
  MTEXT: 'text',
  LINE: 'line',
  ARC: 'line',
  ELLIPSE: 'line',
  SPLINE: 'line',
  HELIX: 'line',
  LEADER: 'line',
  MLINE: 'line',
  MESH: 'line',
  DIMENSION: 'line',
};

/** Farthest that a point of one line lies from another line, in space. */
function farthest(a: readonly Point[], b: readonly Point[]): number {
  let worst = 0;
  for (const p of a) {
    let least = Infinity;
    for (let i = 0; i + 1 < b.length || i === 0; i++) {
      const q = b[i]!,
        r = b[i + 1] ?? q;
      const [dx, dy, dz] = [r[0]! - q[0]!, r[1]! - q[1]!, r[2]! - q[2]!];
      const [px, py, pz] = [p[0]! - q[0]!, p[1]! - q[1]!, p[2]! - q[2]!];
      const size = dx * dx + dy * dy + dz * dz;
      const t = size === 0 ? 0 : Math.max(0, Math.min(1, (dx * px + dy * py + dz * pz) / size));
      least = Math.min(least, (px - t * dx) ** 2 + (py - t * dy) ** 2 + (pz - t * dz) ** 2);
    }
    worst = Math.max(worst, least);
  }
  return Math.sqrt(worst);
}

describe('curves, faces and hatches, against ezdxf live', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);

  it.each(['R12', 'R2000', 'R2004', 'R2007', 'R2010', 'R2013', 'R2018'])(
    'of %s: the same lines, rings, colours and texts, within the chord tolerance, in text and in binary',
    async (version) => {
      const [file, binary] = [`${folder}/${version}.dxf`, `${folder}/${version}-binary.dxf`];
      const drawn = python<{ handle: string; type: string; layer: string; color: number[]; text: string | null; rings: Point[][] }[]>(
        'make_shapes.py',
        { file, binary, version, seed: 11, distance: CHORD / 4 },
      );
      const counts: Record<string, number> = {};
      let worst = 0;
      for (const form of [file, binary]) {
        const findings = new Findings();
        const read = new Map<string, { kind: string; layer: string; color: string; text: string | null; rings: Point[][] }>();
        const open = await dxf.features.open(await fileSource(form));
        for await (const batch of open.read(findings, UNWATCHED)) {
          const flat = flatten(batch, CHORD);
          for (let i = 0; i < flat.count; i++) {
            const rings: Point[][] = [];
            eachPart(flat, i, (s, e) =>
              rings.push(Array.from({ length: e - s }, (_, k) => [0, 1, 2].map((c) => flat.coords[3 * (s + k) + c]!))),
            );
            // an array of blocks is as many records
            const at = (name: string): string => String(flat.columns.get(name)?.[i] ?? '');
            const known = read.get(at('handle'));
            if (known) known.rings.push(...rings);
            else read.set(at('handle'), { kind: KINDS[flat.kinds[i]!]!, layer: flat.layer, color: at('color'), text: at('text'), rings });
          }
        }
        expect(findings.list().map((f) => f.code)).toEqual(version === 'R12' ? [] : ['dxf-picture']);
        expect(read.size).toBe(drawn.length);
        for (const { handle, type, layer, color, text, rings } of drawn) {
          counts[type] = (counts[type] ?? 0) + 0.5;
          const own = read.get(handle)!;
          const closed = rings.every((r) => r.length > 3 && Math.hypot(...[0, 1, 2].map((k) => r[0]![k]! - r.at(-1)![k]!)) < 1e-6);
          expect(own.kind, type).toBe(
            KIND_OF[type] ??
              (type === 'LWPOLYLINE' || (type === 'POLYLINE' && rings.length === 1)
                ? closed
                  ? 'polygon'
                  : 'line'
                : type === 'POLYLINE'
                  ? 'line'
                  : 'polygon'),
          );
          expect(own.layer).toBe(layer);
          expect(own.color, `${type} ${handle}`).toBe(`#${color.map((c) => c.toString(16).padStart(2, '0')).join('')}`);
          if (text !== null) expect(own.text).toBe(text);
          expect(own.rings.length, `${type} ${handle}`).toBe(rings.length);
          for (const ring of rings) {
            const off = Math.min(...own.rings.map((r) => Math.max(farthest(ring, r), farthest(r, ring))));
            worst = Math.max(worst, off);
            expect(off, `${type} ${handle}`).toBeLessThan(1.5 * CHORD);
          }
        }
      }
      console.log(
        `${version}: ${Object.entries(counts)
          .map(([t, n]) => `${n} ${t}`)
          .join(', ')}; at most ${(worst * 1000).toFixed(2)} mm apart with chords within ${CHORD * 1000} mm`,
      );
    },
  );

  it.each(['R12', 'R2000', 'R2007', 'R2018'])(
    'a binary drawing of %s holds what the same one in text does, however its bytes come',
    async (version) => {
      const [file, binary] = [`${folder}/text-${version}.dxf`, `${folder}/binary-${version}.dxf`];
      python('make_drawing.py', { file, binary, version });
      const recordsOf = async (source: ByteSource): Promise<string[]> => {
        const records: string[] = [];
        const open = await dxf.features.open(source);
        for await (const batch of open.read(new Findings(), UNWATCHED)) {
          for (let i = 0; i < batch.count; i++) {
            const own: number[] = [];
            eachPart(batch, i, (s, e) => own.push(...batch.coords.subarray(3 * s, 3 * e)));
            records.push(
              JSON.stringify([
                batch.layer,
                batch.entities[i],
                own.map((v) => Number(v.toFixed(9))),
                Object.fromEntries(
                  [...batch.columns].filter(([name]) => name !== 'handle').map(([name, column]) => [name, column[i] ?? null]),
                ),
              ]),
            );
          }
        }
        return records;
      };
      const text = await recordsOf(await fileSource(file));
      expect(text.length).toBeGreaterThan(60);
      const source = await fileSource(binary);
      expect(await recordsOf(source)).toEqual(text);
      const bytes = readFileSync(binary);
      expect(
        await recordsOf({
          ...source,
          stream: async function* () {
            for (let i = 0; i < bytes.length; i += 7) yield bytes.subarray(i, i + 7);
          },
        }),
      ).toEqual(text);
      await expect(
        recordsOf({
          ...source,
          stream: async function* () {
            yield bytes.subarray(0, bytes.length - 300);
          },
        }),
      ).rejects.toThrow(/breaks off/);
    },
  );
});

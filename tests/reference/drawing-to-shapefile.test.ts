import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { indexColor } from '@pontrel/core/formats/dxf/colors';
import { fileURLToPath } from 'node:url';
import { pontrel, python } from './python';

interface DrawnRecord {
  layer: string;
  handle: string;
  type: string;
  color: string;
  points: [number, number, number][];
  curved: boolean;
  closed: boolean;
  center: [number, number] | null;
  radius: number | null;
  text: string | null;
  block: string | null;
  attributes: Record<string, string>;
}

interface Drawing {
  records: DrawnRecord[];
  left: Record<string, number>;
  errors: string[];
  fixes: string[];
}

interface Set {
  path: string;
  type: string;
  count: number;
  fields: [string, string, number, number][];
  records: { points: [number, number, number | null][]; values: Record<string, string | number | null> }[];
  clockwise: boolean | null;
}

const work = mkdtempSync(path.join(tmpdir(), 'pontrel-reference-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

const QUAY = fileURLToPath(new URL('../../packages/demo/data/quay-design.dxf', import.meta.url));
const CHORD_M = 0.005;

/** Compares what pyshp reads of the written sets with what ezdxf and PROJ say of the drawing. */
function compare(file: string, factor: number, from: string, to: string): { drawing: Drawing; sets: Set[]; worst: number } {
  const out = path.join(work, `${path.basename(file, '.dxf')}-${to.replace(':', '')}`) + path.sep;
  const { status, json } = pontrel('convert', file, out, '--format', 'shapefile', '--from', from, '--to', to);
  expect(json.error).toBeUndefined();
  expect(status).toBe(0);
  expect(json.proof.status).toBe('match');
  const drawing = python<Drawing>('read_drawing.py', { file, factor, from, to });
  const sets = python<Set[]>('read_shapefiles.py', { files: json.outputs.map((o: { path: string }) => o.path) });
  // nothing is missing from the sum, and what stays behind is counted by type and layer
  expect(sets.reduce((n, s) => n + s.count, 0)).toBe(drawing.records.length);
  expect(json.outputs.map((o: { layers: { count: number }[] }) => o.layers[0]!.count)).toEqual(sets.map((s) => s.count));
  const found = Object.fromEntries(
    json.findings
      .filter((f: { code: string }) => f.code === 'dxf-entity-not-read')
      .map((f: { message: string; location: string; count: number }) => [`${f.message.split(' ')[0]} ${f.location}`, f.count]),
  );
  expect(found).toEqual(drawing.left);
  const byHandle = new Map(sets.flatMap((set) => set.records.map((r) => [String(r.values.handle), { set, r }] as const)));
  let worst = 0;
  for (const drawn of drawing.records) {
    const hit = byHandle.get(drawn.handle)!;
    const { values, points } = hit.r;
    expect(values).toMatchObject({ layer: drawn.layer, entity: drawn.type, color: drawn.color });
    if (drawn.text !== null) expect(String(values.text).replaceAll('\u00a0', ' ')).toBe(drawn.text.trimEnd());
    if (drawn.block !== null) expect(values.block).toBe(drawn.block);
    // names over ten bytes are found by the plan's own rule: same value, unique name
    for (const [tag, value] of Object.entries(drawn.attributes)) if (tag.length <= 10) expect(String(values[tag] ?? '')).toBe(value);
    // vertices that are drawn straight stand exactly; a curve's ends do, and its chords keep to the tolerance
    const expected = drawn.closed && !drawn.center ? [...drawn.points, drawn.points[0]!] : drawn.points;
    const off = (p: readonly (number | null)[], q: readonly (number | null)[]): number => Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!);
    if (!drawn.curved) {
      expect(points.length).toBe(expected.length);
      const forward = expected.map((p, i) => off(p, points[i]!)),
        backward = expected.map((p, i) => off(p, points[points.length - 1 - i]!));
      worst = Math.max(worst, Math.min(Math.max(...forward), Math.max(...backward)));
      if (drawn.type !== 'LWPOLYLINE') expected.forEach((p, i) => points[i]![2] !== null && expect(points[i]![2]).toBeCloseTo(p[2]!, 6));
    } else for (const p of drawn.points) worst = Math.max(worst, Math.min(...points.map((q) => off(p, q))));
    if (drawn.center && from === to) {
      for (const q of points) expect(Math.abs(off(q, drawn.center) - drawn.radius!)).toBeLessThan(1e-6);
      for (let i = 1; i < points.length; i++) {
        const middle = [(points[i]![0] + points[i - 1]![0]) / 2, (points[i]![1] + points[i - 1]![1]) / 2];
        expect(drawn.radius! - off(middle, drawn.center)).toBeLessThan(CHORD_M * 1.0001);
      }
    }
  }
  return { drawing, sets, worst };
}

describe('a drawing as shapefiles, against ezdxf, PROJ and pyshp live', () => {
  it.each([
    ['EPSG:2193', 'its own system'],
    ['EPSG:2126', 'the local circuit'],
    ['EPSG:4167', 'degrees'],
  ])('the quay in %s, %s', (to) => {
    const { drawing, sets, worst } = compare(QUAY, 0.001, 'EPSG:2193', to);
    console.log(
      `${drawing.records.length} records in ${sets.length} sets, worst vertex ${to === 'EPSG:4167' ? `${worst}°` : `${worst} m`} from PROJ`,
    );
    expect(worst).toBeLessThan(to === 'EPSG:4167' ? 1e-9 : 1e-3);
    expect(sets.filter((s) => s.clockwise === false)).toEqual([]);
    for (const set of sets) {
      const names = set.fields.map((f) => f[0]);
      expect(new Set(names.map((n) => n.toLowerCase())).size).toBe(names.length);
      for (const name of names) expect(Buffer.byteLength(name)).toBeLessThanOrEqual(10);
    }
    const bollards = sets.find((s) => s.path.endsWith('bollard.shp'))!;
    expect(bollards.fields.map((f) => f[0])).toEqual(expect.arrayContaining(['INST_YEAR', 'INST_CREW', 'BOLLARD_ID', 'MATERIAL']));
    const quay = drawing.records.find((r) => r.block === 'BOLLARD-T')!;
    expect(bollards.records.find((r) => r.values.handle === quay.handle)!.values).toMatchObject({
      INST_CREW: quay.attributes.INSTALLATION_CREW,
      INST_YEAR: quay.attributes.INSTALLATION_YEAR,
    });
  });

  it.each(['R12', 'R2000', 'R2004', 'R2007', 'R2010', 'R2013', 'R2018'])('a drawing that ezdxf wrote as %s', (version) => {
    const file = path.join(work, `made-${version}.dxf`);
    python('make_drawing.py', { file, version });
    expect(compare(file, 1, 'EPSG:2193', 'EPSG:2193').worst).toBeLessThan(1e-6);
  });
});

describe('the demo drawings', () => {
  it('are sound: ezdxf finds nothing to mend', () => {
    const { errors, fixes } = python<Drawing>('read_drawing.py', { file: QUAY, factor: 0.001, from: 'EPSG:2193', to: 'EPSG:2193' });
    expect({ errors, fixes }).toEqual({ errors: [], fixes: [] });
  });
});

describe('colour indexes', () => {
  it('are those of ezdxf, all of 1 to 255', () => {
    const reference = python<string[]>('palette.py', {});
    const apart = reference.flatMap((color, i) => (i > 0 && color !== indexColor(i) ? [[i, color]] : []));
    expect(apart).toEqual([]);
  });
});

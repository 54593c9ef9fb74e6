import { readFileSync } from 'node:fs';
import { generic } from 'flatgeobuf';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Geometry } from 'wkx';
import { pontrel, python } from './python';
import { temporaryFolder } from '../server/client';

type Measure = number | null;
interface Shape {
  points: [number, number][];
  m: Measure[];
  z: number[] | null;
}

/** The measures of a shape, or none where no vertex of it has one. */
const measuresOf = ({ m }: { m: Measure[] }): Measure[] => (m.every((v) => v === null) ? [] : m);

/** Every position of a geometry of the package wkx, which reads well-known text and binary with measures. */
function positions(g: Geometry): { x: number; y: number; z?: number; m?: number }[] {
  const { points, lineStrings, polygons, exteriorRing, interiorRings } = g as unknown as Record<string, any>;
  if (exteriorRing) return [...exteriorRing, ...(interiorRings as any[]).flat()];
  return points ?? (lineStrings ?? polygons)?.flatMap(positions) ?? [g];
}

const told = (v: number | undefined): Measure => (v === undefined || Number.isNaN(v) ? null : v);

/** What a program that is not ours finds in a written file: the positions of every record, in the order of the records. */
const READERS: Record<string, (file: string) => Promise<{ x: number; y: number; z: Measure; m: Measure }[][]>> = {
  async gpkg(file) {
    return python<string[]>('read_wkb.py', { file }).map((hex) =>
      positions(Geometry.parse(Buffer.from(hex, 'hex'))).map(({ x, y, z, m }) => ({ x, y, z: told(z), m: told(m) })),
    );
  },
  async csv(file) {
    return python<string[]>('read_wkt_column.py', { file }).map((text) =>
      positions(Geometry.parse(text)).map(({ x, y, z, m }) => ({ x, y, z: told(z), m: told(m) })),
    );
  },
  xlsx: (file) => READERS.csv!(file),
  async fgb(file) {
    const rows: { x: number; y: number; z: Measure; m: Measure }[][] = [];
    const runs = (g: any): { x: number; y: number; z: Measure; m: Measure }[] =>
      g.partsLength() > 0
        ? Array.from({ length: g.partsLength() }, (_, k) => runs(g.parts(k))).flat()
        : Array.from({ length: g.xyLength() / 2 }, (_, k) => ({
            x: g.xy(2 * k),
            y: g.xy(2 * k + 1),
            z: g.zLength() > 0 ? told(g.z(k)) : null,
            m: g.mLength() > 0 ? told(g.m(k)) : null,
          }));
    const fromFeature = (_id: number, feature: any): void => void rows.push(runs(feature.geometry()));
    for await (const _ of generic.deserialize(new Uint8Array(readFileSync(file)), { fromFeature } as never));
    return rows;
  },
  async shp(file) {
    const shapes = python<{ points: [number, number][]; m: Measure[]; z: number[] | null }[]>('read_measures.py', { file });
    return shapes.map(({ points, m, z }) => points.map(([x, y], k) => ({ x, y, z: z?.[k] ?? null, m: m[k] ?? null })));
  },
};

const NAMES = ['routes', 'rising', 'noughts', 'paddock', 'wells', 'gauges'];

describe('measures (M) of shapefiles that pyshp wrote come back as they were, by way of every format that has room for them', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  let shapes: Record<string, Shape[]>;
  beforeAll(() => {
    shapes = python('make_measures.py', { folder });
  });

  function cross(input: string, output: string): { file: string; json: any } {
    const { status, json } = pontrel('convert', input, `${folder}/${output}`, '--from', 'EPSG:2193');
    expect(json.error).toBeUndefined();
    expect([status, json.proof.status, json.proof.differences]).toEqual([0, 'match', []]);
    return { file: json.outputs[0].path, json };
  }

  /** By position: rings may run the other way in another format. */
  const byPosition = (rows: { x: number; y: number; z: Measure; m: Measure }[][]): unknown[][] =>
    rows.map((row) => row.map(({ x, y, z, m }) => [x, y, z, m]).sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]! || a[3]! - b[3]!));
  const wanted = (name: string, heights: boolean): unknown[][] =>
    byPosition(
      shapes[name]!.map(({ points, m, z }) => points.map(([x, y], k) => ({ x, y, z: heights ? (z?.[k] ?? null) : null, m: m[k] ?? null }))),
    );

  it.each(Object.keys(READERS).flatMap((form) => NAMES.map((name) => [form, name] as const)))(
    'in .%s, %s: every measure, and back into a shapefile',
    async (form, name) => {
      const { file } = cross(`${folder}/${name}.shp`, `${form}-${name}.${form}`);
      expect(byPosition(await READERS[form]!(file))).toEqual(wanted(name, true));
      const back = cross(file, `${form}-${name}-back.shp`);
      expect(byPosition(await READERS.shp!(back.file))).toEqual(wanted(name, true));
    },
  );

  it.each(['geojson', 'kml', 'gml', 'dxf'])('in .%s, which has no room for them, they are a field, and that is announced', (form) => {
    for (const name of ['routes', 'paddock', 'wells', 'rising']) {
      const { file, json } = cross(`${folder}/${name}.shp`, `${form}-${name}.${form}`);
      const measured = shapes[name]!.filter((s) => measuresOf(s).length > 0);
      expect(json.findings).toContainEqual(expect.objectContaining({ code: 'measures-as-field', count: measured.length }));
      if (form !== 'geojson') continue;
      const { features } = JSON.parse(readFileSync(file, 'utf8')) as { features: { properties: { measures: string | null } }[] };
      expect(features.map((f) => (f.properties.measures === null ? [] : (JSON.parse(f.properties.measures) as Measure[])))).toEqual(
        shapes[name]!.map(measuresOf),
      );
    }
  });
});

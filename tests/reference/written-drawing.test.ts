import { mkdirSync, writeFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { quayDesign } from '@pontrel/demo/quay-design';
import { temporaryFolder } from '../server/client';
import { crossInto, gather, type Job } from './cross-file';
import { python } from './python';

interface Found {
  version: string;
  errors: string[];
  fixes: string[];
  units: number;
  crs: [number, boolean] | null;
  layers: Record<string, { color: number; rgb: number[] | null }>;
  blocks: string[];
  groups: Record<string, number>;
  linetypes: string[];
  extents: [number[], number[]];
  types: Record<string, number>;
  records: {
    type: string;
    layer: string;
    color: number;
    rgb: number[] | null;
    xdata: [number, unknown][] | null;
    points?: number[][];
    rings?: number[][][];
    text?: string;
    height?: number;
    block?: string;
    attribs?: Record<string, string>;
  }[];
}

const VERSIONS = ['R12', 'R2000', 'R2010', 'R2018'];
const NZTM = 'EPSG:2193';

describe('written drawings, opened by ezdxf', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  writeFileSync(`${folder}/quay.dxf`, quayDesign(1987));

  it.each(VERSIONS)('of %s: the demo quay is sound, proved and holds what went in', async (version) => {
    const into = `${folder}/${version}`;
    mkdirSync(into);
    const source = await gather(`${folder}/quay.dxf`);
    // millimetres, so that symbols and lettering have to follow
    const job: Job = {
      format: 'dxf',
      crs: NZTM,
      placement: { crs: NZTM, unit_m: 0.001 },
      options: { version, areas: 'both', points: 'block', symbol: 'POINT_MARK', label: '{MARK}{area:.1}', label_height: 0.8 },
    };
    const { proof, report, prepared } = await crossInto(into, source, job);
    expect(report.proof.findings.filter((f) => f.severity !== 'info')).toEqual([]);
    expect(proof.differences).toEqual([]);
    expect(proof.status).toBe('match');
    expect(proof.records.in).toBe(prepared.forecast.arriving);
    const [found] = python<Found[]>('read_written.py', { files: [`${into}/plan.dxf`] });
    expect(found!.errors).toEqual([]);
    expect(found!.fixes).toEqual([]);
    expect(found!.version).toBe(version);
    if (version >= 'R2010') expect(found!.crs).toEqual([2193, true]);
    const records = found!.records.filter((r) => r.xdata?.[0]?.[1] !== 'drawn' && r.xdata?.[0]?.[1] !== 'part');
    expect(records.length).toBe(prepared.forecast.arriving);
    expect(found!.records.some((r) => r.xdata?.[0]?.[1] === 'drawn')).toBe(true);
    // bollards stand as the blocks they were, with their data, at a scale of their own unit
    const bollards = records.filter((r) => r.layer === 'BOLLARD');
    expect(bollards.every((r) => r.type === 'INSERT' && r.block === 'BOLLARD-T' && typeof r.attribs!.INSTALLATION_YEAR === 'string')).toBe(
      true,
    );
    const texts = source.batches.flatMap((b) =>
      Array.from({ length: b.count }, (_, i) => b.columns.get('text')?.[i]).filter((t) => typeof t === 'string'),
    );
    const written = new Set(found!.records.flatMap((r) => (r.text === undefined ? [] : [r.text])));
    for (const text of texts)
      for (const line of version === 'R12' ? text.split('\n') : [text]) expect(written.has(line), `"${line}"`).toBe(true);
    // every layer with the colour that most of its objects have
    for (const set of prepared.plan.sets) expect(found!.layers[set.name], set.name).toBeDefined();
    expect(found!.extents[0]![0]).toBeCloseTo(
      Math.min(
        ...found!.records.flatMap((r) => [...(r.points ?? []), ...(r.rings?.flat() ?? [])].map((p) => p[0]!)).filter(Number.isFinite),
      ),
      0,
    );
  });

  it.each(['R12', 'R2018'])(
    'of %s: layers by the values of a field, made valid; records without a value stay on their own',
    async (version) => {
      const into = `${folder}/by-field-${version}`;
      mkdirSync(into);
      const source = await gather(`${folder}/quay.dxf`);
      const rules = {
        VALVE: { to: 'VALVES {VALVE_STATE}/{DIAMETER_MM}' },
        MANHOLE: { to: 'MH {NO_SUCH_FIELD}' },
        BOLLARD: { to: '{{FIXED}}' },
      };
      const { proof, prepared } = await crossInto(into, source, {
        format: 'dxf',
        crs: NZTM,
        placement: { crs: NZTM, unit_m: 0.001 },
        options: { version },
        rules,
      });
      expect(proof.differences).toEqual([]);
      expect(proof.records.in).toBe(prepared.forecast.arriving);
      const [found] = python<Found[]>('read_written.py', { files: [`${into}/plan.dxf`] });
      expect([found!.errors, found!.fixes]).toEqual([[], []]);
      const counted = (layer: string): number => found!.records.filter((r) => r.layer === layer).length;
      const wanted = new Map<string, number>();
      for (const batch of source.batches.filter((b) => b.layer === 'VALVE')) {
        for (let i = 0; i < batch.count; i++) {
          const name = `VALVES ${batch.columns.get('VALVE_STATE')![i]}_${batch.columns.get('DIAMETER_MM')![i]}`;
          const valid = version === 'R12' ? name.toUpperCase().replaceAll(' ', '_') : name;
          wanted.set(valid, (wanted.get(valid) ?? 0) + 1);
        }
      }
      expect(wanted.size).toBeGreaterThan(3);
      for (const [layer, n] of wanted) expect(counted(layer), layer).toBe(n);
      const ownName = (name: string): number => source.batches.filter((b) => b.layer === name).reduce((n, b) => n + b.count, 0);
      expect([counted('VALVE'), counted('MANHOLE'), counted(version === 'R12' ? '_FIXED_' : '{FIXED}')]).toEqual([
        0,
        ownName('MANHOLE'),
        ownName('BOLLARD'),
      ]);
      expect(prepared.forecast.rows.find((r) => r.layer === 'VALVE')!.effects.map((e) => e.message)).toContain(
        `goes into ${wanted.size} layers by ${rules.VALVE.to}`,
      );
    },
  );

  it.each(['R2000', 'R2018'])(
    'of %s: groups and a stated order of drawing are told of their objects, and groups are written as such',
    async (version) => {
      const file = `${folder}/groups-${version}.dxf`;
      const made = python<{ groups: Record<string, string[]>; order: Record<string, number> }>('make_groups.py', { file, version });
      const source = await gather(file);
      const told = (field: string): Record<string, unknown> =>
        Object.fromEntries(
          source.batches
            .flatMap((b) =>
              Array.from({ length: b.count }, (_, i) => [b.columns.get('handle')![i], b.columns.get(field)?.[i] ?? null] as const),
            )
            .filter(([, value]) => value !== null),
        );
      expect(told('group')).toEqual(Object.fromEntries(Object.entries(made.groups).map(([handle, names]) => [handle, names.join(', ')])));
      expect(told('draw_order')).toEqual(made.order);
      expect(source.findings).toEqual([]);
      const into = `${folder}/grouped-${version}`;
      mkdirSync(into);
      const { proof } = await crossInto(into, source, { format: 'dxf', crs: NZTM, options: { version } });
      expect([proof.status, proof.differences]).toEqual(['match', []]);
      const [found] = python<Found[]>('read_written.py', { files: [`${into}/plan.dxf`] });
      expect([found!.errors, found!.fixes]).toEqual([[], []]);
      expect(found!.groups).toEqual({ 'Berth 1': 6, 'Ōhau wharf': 7 });
    },
  );

  it('drawing to shapefile to drawing: blocks, layers, colours, lettering, data and names come back as they were', async () => {
    const [direct, shapes, back] = ['direct', 'shapes', 'back'].map((name) => `${folder}/${name}`);
    for (const path of [direct, shapes, back]) mkdirSync(path!);
    const quay = await gather(`${folder}/quay.dxf`);
    const placement = { crs: NZTM, unit_m: 0.001 };
    await crossInto(direct!, quay, { format: 'dxf', crs: NZTM, placement });
    for (const grouping of ['layer', 'kind'] as const) {
      const out = await crossInto(shapes!, quay, { format: 'shapefile', crs: NZTM, placement, grouping });
      expect(out.proof.differences.filter((d) => !d.expected)).toEqual([]);
      const sources = await Promise.all(out.prepared.plan.sets.map((set) => gather(`${shapes}/${set.name}.shp`)));
      const home = await crossInto(back!, sources, { format: 'dxf', crs: NZTM });
      expect(home.report.findings).toEqual([]);
      expect(home.proof.status).toBe('match');
      const [one, two] = python<Found[]>('read_written.py', { files: [`${direct}/plan.dxf`, `${back}/plan.dxf`] });
      expect(two!.errors.concat(two!.fixes)).toEqual([]);
      expect(two!.blocks).toEqual(one!.blocks);
      expect(Object.keys(two!.layers).sort()).toEqual(Object.keys(one!.layers).sort());
      const byHandle = (f: Found): Map<string, Found['records'][number]> =>
        new Map(f.records.map((r) => [JSON.stringify(fieldsOf(r).get('handle')), r]));
      const [first, second] = [byHandle(one!), byHandle(two!)];
      expect(second.size).toBe(first.size);
      for (const [handle, record] of first) {
        const again = second.get(handle)!;
        expect({ ...again, xdata: null, points: null, rings: null }).toEqual({ ...record, xdata: null, points: null, rings: null });
        expect(Object.fromEntries(fieldsOf(again))).toEqual(Object.fromEntries(fieldsOf(record)));
        // a ring may run the other way round, as the format wants it
        const order = (points: number[][] = []): number[][] =>
          [...points].map((p) => p.map((v) => Number(v.toFixed(6)))).sort((a, b) => a[0]! - b[0]! || a[1]! - b[1]! || a[2]! - b[2]!);
        expect(order(again.points)).toEqual(order(record.points));
      }
    }
  });
});

/** The fields that stand behind an object: names in braces with their values. */
function fieldsOf({ xdata }: Found['records'][number]): Map<string, unknown> {
  const fields = new Map<string, unknown>();
  for (let i = 0; xdata && i < xdata.length; i++) {
    if (xdata[i]![0] !== 1002 || xdata[i]![1] !== '{') continue;
    const end = xdata.findIndex(([code], k) => k > i && code === 1002);
    fields.set(
      String(xdata[i + 1]![1]),
      xdata.slice(i + 2, end).map(([, v]) => v),
    );
    i = end;
  }
  return fields;
}

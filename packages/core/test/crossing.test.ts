import type { Proof } from '../src/content/features/proof';
import type { Finding } from '../src/model/finding';
import { prepare, type Prepared, type RunReport } from '../src/crossing/pipeline';
import { memoryCrossingSource, runInMemory } from './memory-crossing';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Deliverable, EMPTY_RECIPE, type Recipe } from '../src/crossing/recipe';
import { openShapefile } from '../src/formats/shapefile/read';
import { UNWATCHED } from '../src/io/bytes';
import { type FeatureBatch, LINE, POINT, POLYGON, TEXT } from '../src/model/batch';
import { BatchBuilder } from '../src/model/batch-builder';
import { Findings } from '../src/model/finding';
import { Profiler } from '../src/content/features/profile';
import { plain } from './drawing';
import { memorySource, MemoryFolder } from './memory-files';

const NZTM = 'EPSG:2193',
  TIMARU = 'EPSG:2126';

/** One of each kind, with a curve, heights, a long name and text that is not Latin; millimetres of NZTM. */
function quay(): FeatureBatch[] {
  const b = new BatchBuilder('QUAY');
  b.vertex(1464_000_000, 5101_500_000, 3200);
  b.endPart();
  b.set('BOLLARD_ID', 'QB-001');
  b.set('INSTALLATION_YEAR', 2025);
  b.set('INSTALLATION_CREW', 'Kāpene, 港');
  b.endFeature(POINT, 'INSERT', 1);
  b.vertex(1464_000_000, 5101_500_000, 0, 0.4);
  b.vertex(1464_020_000, 5101_500_000, 0);
  b.endPart();
  b.endFeature(LINE, 'LWPOLYLINE', 2);
  for (const [x, y] of [
    [0, 0],
    [9000, 0],
    [9000, 9000],
    [0, 9000],
    [0, 0],
  ])
    b.vertex(1464_000_000 + x!, 5101_500_000 + y!, 0);
  b.endPart();
  b.set('area_given', 81.123456789012345);
  b.endFeature(POLYGON, 'LWPOLYLINE', 3);
  b.vertex(1464_001_000, 5101_501_000, 0);
  b.endPart();
  b.set('text', 'x'.repeat(300));
  b.endFeature(TEXT, 'MTEXT', 4);
  return [b.take()];
}

interface Done {
  report: RunReport;
  prepared: Prepared;
  folder: MemoryFolder;
  proof: Proof;
}

const NOT_READ: Finding = {
  code: 'dxf-entity-not-read',
  severity: 'caution',
  message: 'HATCH is not read and stays behind.',
  count: 2,
  location: 'QUAY',
  left: true,
};

function rulesFor(target: string, change: (r: Recipe) => void): { recipe: Recipe; deliverable: Deliverable } {
  const deliverable: Deliverable = { id: 'd', name: 'Council', format: 'shapefile', crs: target, grouping: 'layer' };
  const recipe: Recipe = {
    ...structuredClone(EMPTY_RECIPE),
    frame: { crs: NZTM },
    sources: { 'quay.dxf': { placement: { crs: NZTM, unit_m: 0.001 }, layers: {} } },
    deliverables: [deliverable],
  };
  change(recipe);
  return { recipe, deliverable };
}

async function cross(
  batches: FeatureBatch[],
  target: string,
  change: (r: Recipe) => void = () => {},
  tamper: (files: Map<string, Uint8Array>) => void = () => {},
): Promise<Done> {
  const { recipe, deliverable } = rulesFor(target, change);
  const { report, folder } = await runInMemory(
    recipe,
    deliverable,
    [memoryCrossingSource('quay.dxf', batches, { findings: [NOT_READ] })],
    tamper,
  );
  return { report, prepared: report.prepared, folder, proof: report.proof };
}

describe('a crossing into shapefiles', () => {
  it('forecasts what it then does, and the proof agrees', async () => {
    const { prepared, folder, proof } = await cross(quay(), TIMARU);
    const { forecast } = prepared;
    expect(forecast.totals).toEqual({ records: 6, unchanged: 1, changed: 3, left: 2 });
    expect(forecast.rows[0]!.effects.map((e) => e.code).sort()).toEqual(
      ['block-as-point', 'curves-as-chords', 'dxf-entity-not-read', 'split-by-kind', 'text-as-point'].sort(),
    );
    expect([...folder.files.keys()].sort()).toEqual(forecast.files.map((f) => f.name).sort());
    expect(proof.status).toBe('match');
    expect(proof.records).toEqual({ in: 4, out: 4 });
    expect(proof.maxDeviation_m).toBeLessThan(1e-6);
    // the text over 254 bytes is cut, and that was announced
    expect(proof.differences).toEqual([expect.objectContaining({ code: 'value', expected: true, count: 1 })]);
    expect(forecast.findings).toContainEqual(expect.objectContaining({ code: 'field-text-cut' }));
    for (const file of forecast.files)
      expect(Math.abs(file.bytes - folder.files.get(file.name)!.length)).toBeLessThan(60 + 0.3 * file.bytes);
  });

  it('shortens names so that people can still read them, and flags what a person typed wrongly', async () => {
    const { recipe, deliverable } = rulesFor(NZTM, (r) => {
      r.sources['quay.dxf']!.layers.QUAY = {
        fields: { BOLLARD_ID: { to: 'INST_YEAR' }, text: { to: 'much_too_long' } },
        computed: ['x', 'length', 'area'],
      };
    });
    const prepared = prepare(recipe, deliverable, [memoryCrossingSource('quay.dxf', quay())]);
    const points = prepared.plan.sets.find((s) => s.kind === 'point')!;
    const to = Object.fromEntries(points.fields.map((f) => [f.from, f.to]));
    expect(to.INSTALLATION_CREW).toBe('INST_CREW');
    expect(to.INSTALLATION_YEAR).not.toBe('INST_YEAR'); // taken by hand
    expect(points.fields.find((f) => f.from === 'text')!.fault).toMatch(/13 bytes; at most 10/);
    expect(prepared.forecast.blocked[0]).toMatch(/1 field name has a fault/);
    expect(prepared.plan.sets.find((s) => s.kind === 'polygon')!.fields.map((f) => f.from)).toEqual(
      expect.arrayContaining(['length', 'area']),
    );
  });

  it('leaves behind what it is told to, and counts it', async () => {
    const { prepared, proof } = await cross(quay(), NZTM, (r) => {
      r.sources['quay.dxf']!.layers.QUAY = { leftOut: ['MTEXT', 'LWPOLYLINE'] };
    });
    expect(prepared.forecast.totals).toMatchObject({ records: 6, left: 5 });
    expect(proof.records).toEqual({ in: 1, out: 1 });
  });

  it('cannot run while a source is not placed', async () => {
    const recipe: Recipe = { ...structuredClone(EMPTY_RECIPE), frame: { crs: NZTM } };
    const profiler = new Profiler();
    for (const batch of quay()) profiler.add(batch);
    const { forecast } = prepare(recipe, { id: 'd', name: 'x', format: 'shapefile', crs: NZTM, grouping: 'kind' }, [
      { name: 'quay.dxf', layers: profiler.layers(), extent: null, unit: null, findings: [] },
    ]);
    expect(forecast.blocked).toEqual([expect.stringContaining('quay.dxf has no coordinate system yet')]);
  });
});

describe('the proof finds what was done to the files', () => {
  const tampered = async (
    change: (files: Map<string, Uint8Array>) => void,
    batches = quay(),
    rules: (r: Recipe) => void = () => {},
  ): Promise<Proof> => {
    return (await cross(batches, NZTM, rules, change)).proof;
  };
  const bytesOf = (files: Map<string, Uint8Array>, name: string): DataView =>
    new DataView(files.get(name)!.buffer, files.get(name)!.byteOffset);

  it('a vertex moved by two millimetres', async () => {
    const proof = await tampered((files) => {
      const view = bytesOf(files, 'quay_polygon.shp');
      const at = 100 + 8 + 44 + 4 + 16; // second vertex of the first record
      view.setFloat64(at, view.getFloat64(at, true) + 0.002, true);
    });
    expect(proof.status).toBe('differs');
    expect(proof.maxDeviation_m).toBeCloseTo(0.002, 6);
    expect(proof.differences).toContainEqual(expect.objectContaining({ code: 'geometry', set: 'quay_polygon', expected: false }));
  });

  it('a value changed by one letter', async () => {
    const proof = await tampered((files) => {
      const dbf = files.get('quay_point.dbf')!;
      const at = Buffer.from(dbf).indexOf('QB-001');
      dbf[at + 5] = 0x39;
    });
    expect(proof.differences).toContainEqual(
      expect.objectContaining({
        code: 'value',
        field: 'BOLLARD_ID',
        samples: [expect.objectContaining({ source: 'QB-001', readBack: 'QB-009' })],
        expected: false,
      }),
    );
  });

  it('a record gone', async () => {
    const proof = await tampered((files) => {
      files.set('quay_line.shp', files.get('quay_line.shp')!.slice(0, 100));
    });
    expect(proof.status).toBe('differs');
    expect(proof.differences).toContainEqual(expect.objectContaining({ code: 'records', set: 'quay_line', count: 1 }));
  });

  it('another coordinate system stated', async () => {
    const other = (await cross(quay(), TIMARU)).folder.files.get('quay_line.prj')!;
    const proof = await tampered((files) => void files.set('quay_line.prj', other));
    expect(proof.differences).toContainEqual(expect.objectContaining({ code: 'crs', expected: false }));
  });

  it('another system stated, where neither has a number in the register', async () => {
    // Transverse Mercator of this project alone, and the same a hundred metres beside it
    const own = (easting: number): string =>
      `+proj=tmerc +lat_0=-44 +lon_0=171.3 +k=1 +x_0=${easting} +y_0=500000 +ellps=GRS80 +towgs84=0,0,0 +units=m`;
    const prj = async (easting: number): Promise<Uint8Array> => (await cross(quay(), own(easting))).folder.files.get('quay_line.prj')!;
    const [same, other] = [await prj(400_000), await prj(400_100)];
    const proofOf = async (stated: Uint8Array): Promise<Proof> =>
      (
        await cross(
          quay(),
          own(400_000),
          () => {},
          (files) => void files.set('quay_line.prj', stated),
        )
      ).proof;
    expect((await proofOf(same)).status).toBe('match');
    expect((await proofOf(other)).differences).toContainEqual(expect.objectContaining({ code: 'crs', expected: false }));
  });

  it('another unit stated, where a drawing lies in a plane of its own', async () => {
    const local = 'LOCAL_CS["Site",UNIT["millimetre",0.001]]';
    const site = (r: Recipe): void => {
      r.frame = { crs: local };
      r.sources['quay.dxf']!.placement = { crs: local, unit_m: null };
      r.deliverables[0]!.format = 'dxf';
    };
    expect((await cross(quay(), local, site)).proof.status).toBe('match');
    const lied = await cross(quay(), local, site, (files) => {
      for (const [name, bytes] of files) {
        const text = new TextDecoder().decode(bytes);
        const stated = /(\$INSUNITS\r?\n *70\r?\n *)4/;
        expect(text).toMatch(stated);
        files.set(name, new TextEncoder().encode(text.replace(stated, '$16')));
      }
    });
    expect(lied.proof.differences).toContainEqual(expect.objectContaining({ code: 'crs', expected: false }));
  });

  /** Two kinds of pipes, drawn apart. */
  const pipes = (): FeatureBatch[] => {
    const b = new BatchBuilder('PIPE');
    for (let k = 0; k < 6; k++) {
      b.vertex(1464_000_000 + 1000 * k, 5101_500_000, 0);
      b.vertex(1464_000_000 + 1000 * k, 5101_510_000, 0);
      b.endPart();
      b.set('color', k < 4 ? '#1f5f8b' : '#a8492a');
      b.set('lineweight_mm', 0.35);
      b.set('name', `P${k}`);
      b.endFeature(LINE, 'LINE', k + 1);
    }
    return [b.take()];
  };
  const label = (r: Recipe): void => void (r.sources['quay.dxf']!.layers.PIPE = { label: { field: 'name' }, scales: { max: 5000 } });
  const styleOf = (files: Map<string, Uint8Array>, change: (text: string) => string): void =>
    void files.set('pipe.sld', new TextEncoder().encode(change(new TextDecoder().decode(files.get('pipe.sld')))));

  it('another colour, a width or a label gone from the style', async () => {
    expect(await tampered(() => {}, pipes(), label)).toMatchObject({ status: 'match', sets: [{ symbology: { same: 6, of: 6 } }] });
    // one of the two colours, where it is drawn and not where it is asked for
    const recoloured = await tampered((files) => styleOf(files, (t) => t.replace('"stroke">#a8492a', '"stroke">#a8492b')), pipes(), label);
    expect(recoloured.differences).toEqual([
      expect.objectContaining({
        code: 'symbology',
        set: 'pipe',
        count: 2,
        expected: false,
        message: 'Records are drawn without their colour.',
      }),
    ]);
    expect(recoloured.differences[0]!.samples[0]).toMatchObject({ record: 5, x: 1464_004_000 / 1000 });
    expect(recoloured.sets[0]!.symbology).toEqual({ same: 4, of: 6 });
    const thinned = await tampered(
      (files) => styleOf(files, (t) => t.replace(/<se:SvgParameter name="stroke-width">[^<]*<.se:SvgParameter>/g, '')),
      pipes(),
      label,
    );
    expect(thinned.differences).toEqual([
      expect.objectContaining({ code: 'symbology', count: 6, message: 'Records are drawn without their line width.' }),
    ]);
    const unlabelled = await tampered(
      (files) => styleOf(files, (t) => t.replace(/<se:TextSymbolizer>.*?<.se:TextSymbolizer>/g, '')),
      pipes(),
      label,
    );
    expect(unlabelled.differences).toEqual([expect.objectContaining({ code: 'symbology', message: 'The file labels nothing by name.' })]);
    const unscaled = await tampered(
      (files) => styleOf(files, (t) => t.replace(/<se:MaxScaleDenominator>.*?<.se:MaxScaleDenominator>/g, '')),
      pipes(),
      label,
    );
    expect(unscaled.differences).toEqual([
      expect.objectContaining({ code: 'symbology', message: 'The file does not say at which scales it is shown.' }),
    ]);
    expect((await tampered((files) => void files.delete('pipe.sld'), pipes())).differences).toEqual([
      expect.objectContaining({ code: 'symbology', count: 6, expected: false }),
    ]);
  });

  it('looks that cannot be told apart, which the forecast announced', async () => {
    const proof = await tampered(
      () => {},
      pipes(),
      (r) => void (r.sources['quay.dxf']!.layers.PIPE = { fields: { color: { taken: false } } }),
    );
    expect([proof.status, proof.differences.map((d) => [d.code, d.count, d.expected])]).toEqual(['match', [['symbology', 2, true]]]);
  });

  it('a file cut off', async () => {
    const proof = await tampered((files) => void files.set('quay_polygon.shp', files.get('quay_polygon.shp')!.slice(0, 150)));
    expect(proof.status).toBe('failed');
    expect(proof.differences.find((d) => d.code === 'unreadable')!.message).toMatch(/breaks off inside record 1/);
  });
});

describe('shapefiles', () => {
  it('give back any records as they went in', async () => {
    const value = fc.oneof(
      fc.constant(null),
      fc.string({ maxLength: 40, unit: 'grapheme' }).map((s) => s.trimEnd() || null),
      fc.integer({ min: -1e9, max: 1e9 }),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            n: fc.integer({ min: 2, max: 9 }),
            z: fc.boolean(),
            a: value,
            b: fc.option(fc.double({ min: -1e6, max: 1e6, noNaN: true }).map((v) => Number(v.toFixed(4)))),
          }),
          { minLength: 1, maxLength: 20 },
        ),
        async (rows) => {
          const b = new BatchBuilder('L');
          rows.forEach((row, i) => {
            for (let k = 0; k < row.n; k++) b.vertex(1464_000_000 + 1000 * k * (i + 1), 5101_500_000 + 700 * k * k, row.z ? k : 0);
            b.endPart();
            b.set('name', typeof row.a === 'number' ? String(row.a) : row.a);
            b.set('depth', row.b);
            b.endFeature(LINE, 'LINE', i + 1);
          });
          const { folder, proof } = await cross([b.take()], NZTM);
          expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
          expect(proof.records.out).toBe(rows.length);
          const files = folder.files;
          const source = memorySource(
            'l.shp',
            files.get('l.shp')!,
            { '.dbf': files.get('l.dbf')!, '.prj': files.get('l.prj')!, '.cpg': files.get('l.cpg')! },
            13,
          );
          const back = [];
          for await (const batch of (await openShapefile(source)).read(new Findings(), UNWATCHED)) back.push(...plain(batch));
          expect(back.map((r) => r.attributes.name ?? null)).toEqual(rows.map((r) => (typeof r.a === 'number' ? String(r.a) : r.a)));
        },
      ),
      { numRuns: 60 },
    );
  });
});

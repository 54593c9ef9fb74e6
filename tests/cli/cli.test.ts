import { spawn, spawnSync } from 'node:child_process';
import { linkSync, mkdtempSync, readdirSync, readFileSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, describe, expect, it, vi } from 'vitest';
import { writeManyLines } from '../../bench/many-lines.mjs';
import { feature, featuresOf, POINT } from '../odd/files';
import { pontrel } from '../reference/python';
import { QUAY, SURVEY, temporaryFolder } from '../server/client';

const { folder, remove } = temporaryFolder();
afterAll(remove);
const CLI = fileURLToPath(new URL('../../dist/cli.mjs', import.meta.url));

describe('pontrel inspect', () => {
  it('tells what is in a drawing', () => {
    const { status, json } = pontrel('inspect', QUAY);
    expect(status).toBe(0);
    const [source] = json.sources;
    expect(source).toMatchObject({ path: QUAY, format: 'dxf', crs: { id: null, name: null, origin: 'none' }, units: 'millimetre' });
    const water = source.layers.find((l: { name: string }) => l.name === 'WATER-MAIN');
    expect(water).toMatchObject({ count: 169, kinds: { point: 0, line: 169, polygon: 0, text: 0 } });
    expect(water.fields).toContainEqual({ name: 'handle', type: 'text' });
    expect(source.layers.find((l: { name: string }) => l.name === 'BOLLARD').fields.map((f: { name: string }) => f.name)).toEqual(
      expect.arrayContaining(['block', 'block_angle', 'scale_x', 'BOLLARD_ID', 'INSTALLATION_CREW']),
    );
    expect(source.findings).toContainEqual(expect.objectContaining({ code: 'dxf-entity-not-read', severity: 'caution', count: 4 }));
  });
});

describe('pontrel convert', () => {
  it('never writes over its own source, by whatever name, and leaves nothing behind when it is stopped', async () => {
    const own = mkdtempSync(path.join(folder, 'own-'));
    const file = path.join(own, 'parcels.geojson');
    writeFileSync(
      file,
      '{"type":"FeatureCollection","features":[{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[171,-44]}}]}',
    );
    const before = readFileSync(file);
    symlinkSync(file, path.join(own, 'link.geojson'));
    linkSync(file, path.join(own, 'hard.geojson'));
    for (const output of [
      file,
      path.join(own, '.', '..', path.basename(own), 'parcels.geojson'),
      path.join(own, 'link.geojson'),
      path.join(own, 'hard.geojson'),
    ]) {
      const { status, json } = pontrel('convert', file, output);
      expect([status, json.error.code]).toEqual([2, 'usage']);
      expect(json.error.message).toMatch(/is the input .* itself/);
    }
    expect(readFileSync(file)).toEqual(before);

    const out = mkdtempSync(path.join(folder, 'out-'));
    const temporary = mkdtempSync(path.join(folder, 'tmp-'));
    const lines = path.join(own, 'lines.dxf');
    await writeManyLines(lines, 200_000);
    const child = spawn(process.execPath, [CLI, 'convert', lines, path.join(out, 'lines.gpkg'), '--from', 'EPSG:2193'], {
      stdio: 'ignore',
      env: { ...process.env, TMPDIR: temporary },
    });
    await vi.waitUntil(() => readdirSync(out).length > 0, { timeout: 30_000, interval: 20 });
    child.kill('SIGTERM');
    const status = await new Promise((resolve) => child.once('exit', resolve));
    expect([status, readdirSync(out), readdirSync(temporary)]).toEqual([143, [], []]);
  });

  it('writes one drawing, of what touches the bounds only, and reads it again as what it is', () => {
    const plan = path.join(folder, 'part.dxf');
    const box = '1464200,5101300,1464260,5101400';
    const whole = pontrel('convert', QUAY, path.join(folder, 'all.dxf'), '--from', 'EPSG:2193', '--to', 'EPSG:2126');
    const part = pontrel('convert', QUAY, plan, '--from', 'EPSG:2193', '--bounds', box);
    expect([whole.status, part.status]).toEqual([0, 0]);
    expect(whole.json.proof).toMatchObject({ status: 'match', records: { in: 1064, out: 1064 } });
    expect(part.json.outputs[0].layers.length).toBeGreaterThan(5);
    const { in: n } = part.json.proof.records;
    expect(n).toBeGreaterThan(20);
    expect(n).toBeLessThan(600);
    const [seen] = pontrel('inspect', plan).json.sources;
    expect(seen.crs).toMatchObject({ id: 'EPSG:2193', origin: 'declared' });
    expect(seen.units).toBe('metre');
    expect(seen.layers.reduce((sum: number, l: { count: number }) => sum + l.count, 0)).toBe(n);
    expect(pontrel('convert', QUAY, plan, '--from', 'EPSG:2193', '--bounds', '1,2,3').status).toBe(2);
    expect(pontrel('convert', QUAY, plan, '--from', 'EPSG:2193', '--bounds', '0,0,1,1').json.error.code).toBe('nothing-to-convert');
  });

  it('writes one set a kind into the named file, and proves it', () => {
    const out = path.join(folder, 'one', 'quay.shp');
    const { status, json } = pontrel(
      'convert',
      QUAY,
      out,
      '--from',
      'EPSG:2193',
      '--layer',
      'WATER-MAIN',
      '--layer',
      'VALVE',
      '--chord',
      '0.02',
    );
    expect(status).toBe(0);
    expect(json.outputs).toEqual([
      { path: path.join(folder, 'one', 'quay_line.shp'), format: 'shapefile', layers: [{ name: 'quay_line', count: 169 }] },
      { path: path.join(folder, 'one', 'quay_point.shp'), format: 'shapefile', layers: [{ name: 'quay_point', count: 66 }] },
    ]);
    expect(json.proof).toMatchObject({ status: 'match', records: { in: 235, out: 235 }, differences: [] });
    expect(readdirSync(path.join(folder, 'one')).sort()).toEqual(
      ['line', 'point'].flatMap((k) => ['cpg', 'dbf', 'prj', 'shp', 'shx', 'sidecar', 'sld'].map((e) => `quay_${k}.${e}`)),
    );
    // what was written is read again as a source, its system known by content
    const again = pontrel('inspect', path.join(folder, 'one', 'quay_line.shp')).json.sources[0];
    expect(again.crs).toEqual({ id: 'EPSG:2193', name: 'NZGD2000 / New Zealand Transverse Mercator 2000', origin: 'declared' });
    expect(again.layers[0]).toMatchObject({ count: 169, kinds: { line: 169 } });
  });

  it.each(['shp', 'fgb', 'csv', 'geojson', 'gpkg', 'dxf', 'xlsx'])('writes a .%s under the very name that was asked for', (extension) => {
    const output = path.join(folder, `Quay Läge 2.${extension}`);
    const { status, json } = pontrel('convert', SURVEY, output, '--from', 'EPSG:2126', '--layer', 'SPOT-HEIGHT');
    expect(json.error).toBeUndefined();
    expect([status, json.proof.status, json.outputs.map((o: { path: string }) => o.path)]).toEqual([0, 'match', [output]]);
    expect(statSync(output).size).toBeGreaterThan(100);
  });

  it('runs the rules of a crossing on the next revision of its file, and says what of them no longer fits', () => {
    const recipe = path.join(folder, 'recipe.json');
    const rules = {
      version: 1,
      frame: { crs: 'EPSG:2193' },
      chord_m: 0.005,
      sources: {
        'quay-design.dxf': {
          placement: { crs: 'EPSG:2193', unit_m: 0.001 },
          layers: {
            'TITLE-BLOCK': { taken: false },
            VALVE: { where: "VALVE_STATE = 'shut'", to: 'VALVES {VALVE_STATE}', fields: { NO_SUCH: { taken: false } } },
            GONE: { taken: false },
            BOLLARD: { blocks: { 'BOLLARD-T': 'apart' } },
          },
        },
      },
      deliverables: [
        {
          id: 'a',
          name: 'Council upload',
          format: 'geopackage',
          crs: 'EPSG:2126',
          grouping: 'layer',
          area: { kind: 'layer', source: 'quay-design.dxf', layer: 'LEASE-PARCEL' },
        },
        { id: 'b', name: 'For the globe', format: 'kml', crs: 'EPSG:4326', grouping: 'layer', options: { container: 'kmz' } },
      ],
    };
    writeFileSync(recipe, JSON.stringify(rules));
    const revision = path.join(folder, 'quay-design-B.dxf');
    writeFileSync(revision, readFileSync(QUAY));
    const out = path.join(folder, 'handed-over');
    const { status, json } = pontrel('convert', revision, out, '--recipe', recipe);
    expect([status, json.proof.status, json.proof.differences.filter((d: { expected: boolean }) => !d.expected)]).toEqual([0, 'match', []]);
    expect(json.outputs.map((o: { path: string }) => path.relative(out, o.path))).toEqual([
      'council_upload/council_upload.gpkg',
      'for_the_globe/for_the_globe.kmz',
    ]);
    const counts = (k: number): Record<string, number> =>
      Object.fromEntries(json.outputs[k].layers.map((l: { name: string; count: number }) => [l.name, l.count]));
    const shut = readFileSync(QUAY, 'utf8').match(/\r?\n\s*1\r?\nshut\r?\n/g)!.length;
    expect([counts(1)['VALVES shut'], counts(1).BOLLARD, counts(1)['TITLE-BLOCK']]).toEqual([shut, 99, undefined]);
    // only what lies in the leases crosses into the container
    expect(counts(0)['LEASE-PARCEL']).toBe(7);
    expect(json.outputs[0].layers.reduce((n: number, l: { count: number }) => n + l.count, 0)).toBeLessThan(
      json.outputs[1].layers.reduce((n: number, l: { count: number }) => n + l.count, 0),
    );
    expect(
      json.findings.filter((f: { code: string }) => /^recipe-(layer|field|source)/.test(f.code)).map((f: { message: string }) => f.message),
    ).toEqual([
      'A rule is about a field NO_SUCH, which no record has.',
      'The recipe has rules for a layer GONE, which is not in this source any more.',
    ]);
    writeFileSync(recipe, JSON.stringify({ ...rules, chord_m: -1 }));
    expect(pontrel('convert', revision, out, '--recipe', recipe)).toMatchObject({ status: 1, json: { error: { code: 'recipe-unread' } } });
  });

  it('puts deliverables whose names are alike into folders of their own', () => {
    const source = path.join(folder, 'alike.geojson');
    writeFileSync(
      source,
      '{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[171,-44]},"properties":{"v":1}}]}',
    );
    const recipe = path.join(folder, 'alike.json');
    const deliverable = (id: string, name: string, format: string) => ({ id, name, format, crs: 'EPSG:4326', grouping: 'layer' });
    writeFileSync(
      recipe,
      JSON.stringify({
        version: 2,
        frame: { crs: 'EPSG:4326' },
        chord_m: 0.01,
        sources: { 'alike.geojson': { placement: { crs: 'EPSG:4326', unit_m: null }, layers: {} } },
        deliverables: [
          deliverable('1', 'A', 'csv'),
          deliverable('2', 'a', 'csv'),
          deliverable('3', 'A ', 'csv'),
          deliverable('4', 'NUL', 'csv'),
        ],
      }),
    );
    const { status, json } = pontrel('convert', source, path.join(folder, 'alike'), '--recipe', recipe);
    expect([status, json.proof.status, json.proof.records]).toEqual([0, 'match', { in: 4, out: 4 }]);
    const paths = json.outputs.map((o: { path: string }) => path.relative(folder, o.path));
    expect(paths).toEqual(['a', 'a_2', 'a_3', 'nul_layer'].map((f) => path.join('alike', f, 'alike.csv')));
    for (const file of paths) expect(statSync(path.join(folder, file)).size).toBeGreaterThan(5);
  });

  it('puts inputs into the places of a recipe’s sources, each by name', () => {
    const rule = (to: string) => ({ placement: { crs: 'EPSG:2193', unit_m: 0.001 }, layers: { BOLLARD: { to } } });
    const file = path.join(folder, 'two.json');
    writeFileSync(
      file,
      JSON.stringify({
        version: 2,
        frame: { crs: 'EPSG:2193' },
        chord_m: 0.005,
        sources: { 'north.dxf': rule('north'), 'south.dxf': rule('south') },
        deliverables: [{ id: 'a', name: 'Both', format: 'geopackage', crs: 'EPSG:2193', grouping: 'layer' }],
      }),
    );
    const [n, s] = ['n-2.dxf', 's-2.dxf'].map((name) => path.join(folder, name)) as [string, string];
    for (const input of [n, s]) writeFileSync(input, readFileSync(QUAY));
    const { json } = pontrel(
      'convert',
      n,
      s,
      path.join(folder, 'both'),
      '--recipe',
      file,
      '--source',
      'north.dxf=n-2.dxf',
      'south.dxf=s-2.dxf',
    );
    expect([json.error, json.proof.status]).toEqual([undefined, 'match']);
    const names = json.outputs[0].layers.map((l: { name: string }) => l.name);
    expect(names).toEqual(expect.arrayContaining(['north', 'south']));
    const wrong = pontrel('convert', n, path.join(folder, 'no'), '--recipe', file, '--source', 'east.dxf=n-2.dxf');
    expect([wrong.status, wrong.json.error.message]).toEqual([2, expect.stringContaining('north.dxf, south.dxf')]);
  });

  it('puts files of other names into the slots that expect their layers and fields, and none where two would do', () => {
    const made = (name: string, ...records: string[]): string => {
      const [json, shp] = ['geojson', 'shp'].map((e) => path.join(folder, `${name}.${e}`)) as [string, string];
      writeFileSync(json, featuresOf(...records.map((r) => feature(POINT, r))));
      expect(pontrel('convert', json, shp).status).toBe(0);
      return shp;
    };
    const [lots, trees] = [made('lots-2027', '{"lot":"1","zone":"A"}'), made('trees-2027', '{"kind":"elm","girth":2.5}')];
    const [other, third] = [made('survey', '{"lot":"2","zone":"B"}'), made('count', '{"kind":"oak","girth":1.5,"seen":"yes"}')];
    const slot = (layer: string, fields: string[], rule: object) => ({
      placement: { crs: 'EPSG:4326', unit_m: null },
      layers: { [layer]: rule },
      slot: { format: 'shapefile', layers: [{ name: layer, fields }] },
    });
    const file = path.join(folder, 'slots.json');
    writeFileSync(
      file,
      JSON.stringify({
        version: 2,
        frame: { crs: 'EPSG:4326' },
        chord_m: 0.005,
        sources: {
          'lots.shp': slot('lots', ['lot', 'zone'], { to: 'Parcels' }),
          'trees.shp': slot('trees', ['kind', 'girth', 'seen'], { to: 'Trees', where: 'girth > 1' }),
          'gone.shp': slot('gone', ['quite', 'other'], { to: 'Gone' }),
        },
        deliverables: [
          {
            id: 'a',
            name: 'All',
            format: 'geopackage',
            crs: 'EPSG:4326',
            grouping: 'layer',
            without: { 'trees.shp': ['gone'], 'lots.shp': [] },
          },
        ],
      }),
    );
    const run = (...inputs: string[]) => pontrel('convert', ...inputs, path.join(folder, 'slotted'), '--recipe', file).json;
    const told = run(lots, third);
    expect([told.error, told.proof.status]).toEqual([undefined, 'match']);
    expect(told.outputs[0].layers).toEqual(
      expect.arrayContaining([
        { name: 'Parcels', count: 1 },
        { name: 'Trees', count: 1 },
      ]),
    );
    expect(told.findings.filter((f: { code: string }) => f.code.startsWith('recipe-so'))).toMatchObject([{ location: 'gone.shp' }]);
    // the one that is more like it, and neither of two that are equally so
    expect(run(lots, trees, third).account.filter((r: { crossed: number }) => r.crossed > 0)).toMatchObject([
      { source: 'lots-2027.shp' },
      { source: 'count.shp' },
    ]);
    const drawn = run(lots, other, third);
    expect(drawn.account.filter((r: { crossed: number }) => r.crossed > 0)).toMatchObject([{ source: 'count.shp' }]);
    expect(
      drawn.findings.filter((f: { code: string }) => f.code === 'recipe-new-source').map((f: { location: string }) => f.location),
    ).toEqual(['lots-2027.shp', 'survey.shp']);
  });

  it('leaves an older file as it was when the input is bad', () => {
    const old = path.join(folder, 'kept.shp');
    writeFileSync(old, 'old');
    const cut = path.join(folder, 'cut.dxf');
    writeFileSync(cut, readFileSync(QUAY).subarray(0, 200_000));
    const { status, json } = pontrel('convert', cut, old, '--from', 'EPSG:2193');
    expect(status).toBe(1);
    expect(json.error.code).toBe('dxf-cut');
    expect(json.error.message).toMatch(/cut\.dxf breaks off at line \d+/);
    expect(readFileSync(old, 'utf8')).toBe('old');
    expect(readdirSync(folder).filter((f) => f.startsWith('.pontrel'))).toEqual([]);
  });

  it.each([
    [['convert', QUAY, 'x.shp'], 1, 'crs-not-stated', /states no coordinate system.*--from/],
    [['convert', QUAY, 'x.shp', '--from', 'EPSG:99999'], 1, 'crs-unknown', /EPSG:99999 is not in the registry/],
    [['inspect', 'no-such.dxf'], 1, 'file-missing', /no-such\.dxf is not there/],
    [['convert', QUAY, 'x.xyz', '--from', 'EPSG:2193'], 2, 'usage', /format of x\.xyz is not known/],
    [['convert', QUAY, 'x.shp', '--from', 'EPSG:2193', '--chord', 'wide'], 2, 'usage', /--chord wants a length/],
    [
      ['convert', QUAY, 'x.shp', '--from', 'EPSG:2193', '--layer', 'NONE'],
      1,
      'layer-unknown',
      /no layer "NONE". The layers are: QUAY-EDGE/,
    ],
    [['fly'], 2, 'usage', /unknown command 'fly'/],
  ])('%j ends with %i and says why', (args, exit, code, message) => {
    const { status, json } = pontrel(...args);
    expect(status).toBe(exit);
    expect(json.error.code).toBe(code);
    expect(json.error.message).toMatch(message);
  });
});

describe('pontrel formats', () => {
  it('says what is read and written, what each has room for, and every option with its choices', () => {
    const { status, json } = pontrel('formats');
    expect(status).toBe(0);
    const by = new Map<string, any>(json.formats.map((f: { id: string }) => [f.id, f]));
    const pictures = [...by.values()].filter((f) => f.carries.sampleTypes);
    expect(pictures.map((f) => f.id)).toEqual([
      'geotiff',
      'jpeg',
      'png',
      'jpeg2000',
      'bmp',
      'ground-overlay',
      'geopackage-tiles',
      'mbtiles',
      'dxf-picture',
    ]);
    expect([...by.values()].filter((f) => f.writes && !pictures.includes(f))).toHaveLength(11);
    expect([...by.values()].filter((f) => !f.writes).map((f) => f.id)).toEqual(['topojson', 'dbf', 'bmp']);
    expect([...by.values()].filter((f) => f.carries.measures && f.writes).map((f) => f.id)).toEqual([
      'shapefile',
      'geopackage',
      'flatgeobuf',
      'csv',
      'spreadsheet',
    ]);
    expect(by.get('dxf').carries.verticalSystem).toBe(false);
    for (const format of by.values())
      for (const option of format.options)
        if (option.choices) expect(option.choices.map((c: { value: string }) => c.value)).toContain(option.initial);
    expect(pontrel('formats', 'kml').json.formats).toEqual([by.get('kml')]);
    expect(pontrel('formats', 'nothing')).toMatchObject({ status: 2 });
  });
});

describe('memory', () => {
  it('does not grow with the file: 500 000 lines, about 70 MB, cross in under 700 MB', async () => {
    const file = path.join(folder, 'lines.dxf');
    await writeManyLines(file, 500_000);
    expect(statSync(file).size).toBeGreaterThan(60e6);
    const peak = 'data:text/javascript,process.on("exit",()=>console.error("peak",process.resourceUsage().maxRSS))';
    const result = spawnSync(
      process.execPath,
      ['--import', peak, CLI, 'convert', file, path.join(folder, 'lines.shp'), '--from', 'EPSG:2193', '--to', 'EPSG:2126', '--json'],
      { encoding: 'utf8' },
    );
    const kilobytes = Number(/peak (\d+)/.exec(result.stderr)![1]);
    console.log(`peak resident memory ${Math.round(kilobytes / 1024)} MB`);
    expect(JSON.parse(result.stdout).proof).toMatchObject({ status: 'match', records: { in: 500_000, out: 500_000 } });
    expect(kilobytes / 1024).toBeLessThan(700);
  });
});

describe('pontrel crs', () => {
  const crs = (input: string, ...args: string[]): { status: number; text: string; json: any } => {
    const { status, stdout } = spawnSync(process.execPath, [CLI, 'crs', ...args], { encoding: 'utf8', input });
    return { status: status!, text: stdout.trimEnd(), json: args.includes('--json') ? JSON.parse(stdout) : null };
  };

  it('transforms points by the best operation, a named one, or one without grids; `* *` where there is no image', () => {
    const way = ['transform', '--from', 'EPSG:4272', '--to', 'EPSG:2193'];
    const lines = crs('172 -41\n1000 95\n', ...way);
    expect(lines.status).toBe(0);
    expect(lines.text.split('\n')[1]).toBe('* *');
    const best = crs('172 -41', ...way, '--json').json;
    expect(best.operation).toMatchObject({ id: 'EPSG:1568', accuracy_m: 0.2, grids: ['nzgd2kgrid0005.gsb'] });
    // full precision in both
    expect(lines.text.split('\n')[0]).toBe(best.points[0].join(' '));
    expect(crs('172 -41', ...way, '--no-grids', '--json').json.operation).toMatchObject({ id: 'EPSG:1701', accuracy_m: 4, grids: [] });
    expect(crs('172 -41', ...way, '--operation', 'EPSG:1566', '--json').json.operation.id).toBe('EPSG:1566');
    expect(crs('1600000 5400000 12.5', 'transform', '--from', '2193', '--to', 'EPSG:4326', '--json').json.points[0]).toHaveLength(3);
  });

  it('shows a system in every form, identifies a file by its content, and finds one for an extent', () => {
    expect(crs('', 'show', 'EPSG:2193', '--as', 'proj').text).toMatch(/^\+proj=tmerc .*\+lon_0=173 .*\+ellps=GRS80 \+units=m/);
    const file = path.join(folder, 'other-name.prj');
    writeFileSync(file, crs('', 'show', 'EPSG:2193', '--as', 'prj').text.replace(/PROJCS\["[^"]*"/, 'PROJCS["Something"'));
    expect(crs('', 'identify', file, '--json').json.matches[0]).toMatchObject({ id: 'EPSG:2193', confidence: 90 });
    expect(crs('', 'find', '--extent', '1463700,5101000,1464400,5102000', '--near', '171.3,-44.2', '--json').json.candidates[0].id).toBe(
      'EPSG:2193',
    );
    expect(
      crs('', 'find', '--extent', '-72000,-2847400,-71900,-2847300', '--near', '28.3,-25.7', '--json').json.candidates.some(
        (c: any) => c.id === 'EPSG:2053' && c.parameters.signReversed,
      ),
    ).toBe(true);
  });

  it('exits 1 for bad input and 2 for wrong usage, and says what to do', () => {
    expect(crs('', 'show', 'EPSG:99999', '--json')).toMatchObject({
      status: 1,
      json: { error: { code: 'crs-unknown', message: expect.stringMatching(/not in the registry/) } },
    });
    expect(crs('1 x', 'transform', '--from', '2193', '--to', '4326', '--json')).toMatchObject({
      status: 1,
      json: { error: { message: expect.stringMatching(/Line 1, "1 x", is no point/) } },
    });
    expect(crs('1 1', 'transform', '--from', 'EPSG:5464', '--to', 'EPSG:2193', '--json').json.error.code).toBe('crs-no-datum-path');
    expect(crs('', 'show', 'PROJCS["x"', '--json').json.error.message).toMatch(/breaks off at character/);
    expect(crs('', 'find', '--extent', '1,2').status).toBe(2);
    expect(crs('', 'turn').status).toBe(2);
  });
});

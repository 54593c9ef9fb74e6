import { readFileSync, writeFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/**
 * A file as the schema has it: LandXML-1.2.xsd, which the registries do not carry, so that its elements are from memory. A straight of 100 m,
 * a quarter circle of 50 m, a clothoid of 40 m; a sewer in feet by inches; a tetrahedron's three upper faces.
 */
const spiralEnd = ((): [number, number] => {
  // Fresnel's series for a clothoid of length 40 to a radius of 80 that turns left from due north; Abramowitz and Stegun, 7.3.11 and 7.3.13
  const [length, radius] = [40, 80];
  const angle = length / (2 * radius);
  const along = length * (1 - angle ** 2 / 10 + angle ** 4 / 216 - angle ** 6 / 9360);
  const across = length * (angle / 3 - angle ** 3 / 42 + angle ** 5 / 1320 - angle ** 7 / 75600);
  return [along, across];
})();

const file = (units: string, system = '<CoordinateSystem epsgCode="2193" name="NZTM"/>'): string => `<?xml version="1.0" encoding="UTF-8"?>
<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" version="1.2" date="2026-12-01" time="08:00:00">
  ${units}
  ${system}
  <CgPoints><CgPoint name="A" code="PEG">5101500 1464000 3.5</CgPoint><CgPoint name="B">5101500 1464020</CgPoint><CgPoint name="odd">north</CgPoint></CgPoints>
  <Surfaces><Surface name="Ground"><SourceData><Breaklines><Breakline brkType="standard" desc="kerb"><PntList3D>5101500 1464000 3 5101510 1464000 4</PntList3D></Breakline></Breaklines>
    <Contours><Contour elev="12"><PntList2D>5101500 1464000 5101501 1464001</PntList2D></Contour></Contours></SourceData>
    <Definition surfType="TIN"><Pnts><P id="1">5101500 1464000 0</P><P id="2">5101500 1464030 0</P><P id="3">5101530 1464000 0</P><P id="4">5101510 1464010 9</P></Pnts>
    <Faces><F>1 2 4</F><F>2 3 4</F><F>3 1 4</F><F i="1">1 2 3</F><F>1 2 77</F></Faces></Definition></Surface></Surfaces>
  <Parcels><Parcel name="Lot 1" area="400"><CoordGeom>
    <Line><Start pntRef="A"/><End pntRef="B"/></Line><Line><Start pntRef="B"/><End>5101520 1464020</End></Line>
    <Line><Start>5101520 1464020</Start><End pntRef="late"/></Line><Line><Start pntRef="late"/><End pntRef="A"/></Line></CoordGeom>
    <Feature code="deed"><Property label="deed" value="D 17"/></Feature></Parcel>
    <Parcel name="Lot 2"><CoordGeom><Line><Start pntRef="nowhere"/><End pntRef="A"/></Line></CoordGeom></Parcel></Parcels>
  <CgPoints><CgPoint name="late">5101520 1464000</CgPoint></CgPoints>
  <Alignments><Alignment name="Road" length="178.54" staStart="0"><CoordGeom>
    <Line><Start>5101500 1464000</Start><End>5101600 1464000</End></Line>
    <Curve rot="cw" radius="50"><Start>5101600 1464000</Start><Center>5101600 1464050</Center><End>5101650 1464050</End></Curve></CoordGeom>
    <Profile><ProfAlign name="p"><PVI>0 0</PVI></ProfAlign></Profile></Alignment>
    <Alignment name="Ramp"><CoordGeom><Spiral length="40" radiusStart="INF" radiusEnd="80" rot="ccw" spiType="clothoid">
      <Start>5101500 1464000</Start><PI>5101526 1464000</PI><End>${5101500 + spiralEnd[0]} ${1464000 - spiralEnd[1]}</End></Spiral></CoordGeom></Alignment></Alignments>
  <PipeNetworks><PipeNetwork name="Sewer" pipeNetType="sanitary"><Structs>
    <Struct name="MH1" elevRim="10" elevSump="7"><Center>5101500 1464000</Center><CircStruct diameter="1050" material="concrete"/><Invert elev="8" refPipe="P1" flowDir="out"/></Struct>
    <Struct name="MH2" elevRim="9"><Center>5101500 1464050</Center><RectStruct length="900" width="600"/><Invert elev="7.5" refPipe="P1" flowDir="in"/></Struct></Structs>
    <Pipes><Pipe name="P1" refStart="MH1" refEnd="MH2" length="50" slope="1"><CircPipe diameter="225" material="PVC"/></Pipe>
      <Pipe name="P2" refStart="MH2" refEnd="MH9"><CircPipe diameter="300"/></Pipe></Pipes></PipeNetwork></PipeNetworks>
</LandXML>`;
const METRIC =
  '<Units><Metric linearUnit="meter" areaUnit="squareMeter" volumeUnit="cubicMeter" temperatureUnit="celsius" pressureUnit="HPA" diameterUnit="millimeter"/></Units>';
const IMPERIAL =
  '<Units><Imperial linearUnit="USSurveyFoot" areaUnit="squareFoot" volumeUnit="cubicYard" temperatureUnit="fahrenheit" pressureUnit="inchHG" diameterUnit="inch"/></Units>';

describe('LandXML', () => {
  const { folder, remove } = temporaryFolder();
  afterAll(remove);
  const put = (name: string, text: string): string => {
    writeFileSync(`${folder}/${name}`, text);
    return `${folder}/${name}`;
  };

  it('is read with its points, surface, parcels, alignments and pipes, and what cannot be taken is counted', () => {
    const { status, json } = pontrel('inspect', put('site.xml', file(METRIC)));
    expect(status).toBe(0);
    const [source] = json.sources;
    expect(source).toMatchObject({ format: 'landxml', crs: { id: 'EPSG:2193', origin: 'declared' } });
    expect(Object.fromEntries(source.layers.map((l: { name: string; count: number }) => [l.name, l.count]))).toEqual({
      Points: 3,
      Ground: 3,
      'Ground breaklines': 1,
      'Ground contours': 1,
      Parcels: 1,
      Alignments: 2,
      'Sewer structures': 2,
      'Sewer pipes': 2,
    });
    const told = new Map((source.findings as { code: string; count: number }[]).map((f) => [f.code, f.count]));
    for (const [code, count] of [
      ['landxml-point', 1],
      ['landxml-face', 1],
      ['landxml-hidden', 1],
      ['landxml-line', 1],
      ['landxml-spiral', 1],
      ['landxml-pipe-loose', 1],
      ['landxml-unread', 1],
    ] as const)
      expect([code, told.get(code)]).toEqual([code, count]);
    const noUnits = pontrel('inspect', put('bare.xml', file('', ''))).json.sources[0];
    expect(noUnits.findings).toContainEqual(expect.objectContaining({ code: 'landxml-no-units' }));
    expect(noUnits.crs).toMatchObject({ origin: 'none' });
  });

  it('keeps curves as curves, spirals to the millimetre, and the lengths that a road has', () => {
    const { json } = pontrel(
      'convert',
      `${folder}/site.xml`,
      `${folder}/roads.geojson`,
      '--layer',
      'Alignments',
      '--chord',
      '0.001',
      '--to',
      'EPSG:4326',
    );
    expect(json.proof.status).toBe('match');
    const { json: plan } = pontrel(
      ...['convert', `${folder}/site.xml`, `${folder}/roads.csv`, '--layer', 'Alignments', '--chord', '0.0005'],
    );
    expect(plan.proof.status).toBe('match');
    const ways = readFileSync(plan.outputs[0].path, 'utf8')
      .split('\n')
      .flatMap((row) => {
        const wkt = /LINESTRING[^(]*\(([^)]*)\)/.exec(row)?.[1];
        return wkt ? [wkt.split(',').map((p) => p.trim().split(/\s+/).map(Number))] : [];
      });
    const alongOf = (way: readonly number[][]): number[] => {
      const along = [0];
      for (let k = 1; k < way.length; k++)
        along.push(along[k - 1]! + Math.hypot(way[k]![0]! - way[k - 1]![0]!, way[k]![1]! - way[k - 1]![1]!));
      return along;
    };
    expect(alongOf(ways[0]!).at(-1)).toBeCloseTo(100 + (Math.PI * 50) / 2, 2);
    const ramp = alongOf(ways[1]!);
    expect(ramp.at(-1)).toBeCloseTo(40, 3);
    // halfway along, a clothoid has gone 20^3 / (6 R L) to its side, but for terms of a tenth of a millimetre
    const half = ways[1]![ramp.findIndex((s) => s >= 20 - 0.1)]!;
    expect(1464000 - half[0]!).toBeCloseTo(20 ** 3 / (6 * 80 * 40), 3);
    const lines = pontrel(
      'derive',
      'contours',
      `${folder}/site.xml`,
      `${folder}/c.gpkg`,
      '--set',
      'surface=Ground',
      '--set',
      'interval=3',
    ).json;
    // a tetrahedron of 30 by 30 and 9 high: triangles a third and two thirds as large
    const around = 30 + 30 + Math.hypot(30, 30);
    expect(lines.derived.length_m).toBeCloseTo(around / 3 + (2 * around) / 3, 5);
    const volume = pontrel('derive', 'volume', `${folder}/site.xml`, `${folder}/v.gpkg`, '--set', 'surface=Ground').json;
    expect(volume.derived.cut_m3).toBeCloseTo((450 * 9) / 3, 6);
  });

  it('is a network with its inverts, sizes in millimetres whatever the file has them in, and its references', () => {
    const { json } = pontrel(
      'derive',
      'network',
      `${folder}/site.xml`,
      `${folder}/net.geojson`,
      '--layer',
      'Sewer pipes',
      '--layer',
      'Sewer structures',
    );
    expect(json.derived).toMatchObject({ structures: 2, pipes: 1, length_m: 50, parts: 1 });
    expect(json.derived.faults.map((f: { kind: string }) => f.kind)).toEqual([]);
    expect(json.findings).toContainEqual(expect.objectContaining({ code: 'no-place', count: 1 }));
    const feet = put('feet.xml', file(IMPERIAL, ''));
    const facts = pontrel('inspect', feet).json.sources[0];
    expect(facts.units).toMatch(/US survey foot/);
    const { json: out } = pontrel('convert', feet, `${folder}/feet.csv`, '--from', 'local', '--layer', 'Sewer pipes');
    expect(out.proof.status).toBe('match');
    const rows = pontrel('inspect', out.outputs[0].path).json.sources[0].layers[0].fields.map((f: { name: string }) => f.name);
    expect(rows).toEqual(expect.arrayContaining(['from_id', 'to_id', 'inv_start', 'diameter']));
  });

  /** Elements of a file as Python's ElementTree has them. */
  const seenIn = (name: string) => python<LandXmlFacts>('landxml_facts.py', { file: `${folder}/${name}` });
  const convert = (...words: string[]) => {
    const { status, json, stderr } = pontrel('convert', ...words);
    expect([words.at(-1), status, json?.proof?.status, stderr]).toEqual([words.at(-1), 0, 'match', '']);
    return json;
  };

  it.each([
    ['metres', METRIC, '<CoordinateSystem epsgCode="2193" name="NZTM"/>', 1, 1],
    ['US survey feet and inches', IMPERIAL, '<CoordinateSystem epsgCode="2225" name="California 1"/>', 25.4, 1200 / 3937],
  ])('is written as it was read: the same network, surface, parcels and alignments, in %s', (unit, units, system, size_mm, unit_m) => {
    const name = unit.replaceAll(' ', '-');
    put(`${name}.xml`, file(units, system));
    convert(`${folder}/${name}.xml`, `${folder}/${name}-1.landxml`);
    convert(`${folder}/${name}-1.landxml`, `${folder}/${name}-2.landxml`);
    const text = (k: number): string => readFileSync(`${folder}/${name}-${k}.landxml`, 'utf8').replace(/<Project[^>]*>/, '');
    expect(text(2)).toBe(text(1));
    const facts = seenIn(`${name}-1.landxml`);
    expect(facts).toMatchObject({
      points: [
        ['A', [5101500, 1464000, 3.5]],
        ['B', [5101500, 1464020]],
        ['late', [5101520, 1464000]],
      ],
      parcels: [['Lot 1', 400, { deed: 'D 17' }]],
      alignments: [
        // chords within 5 mm of the quarter circle: acos(1 - 0.005 / 50) of it each, at least
        ['Road', 178.54, { Line: 1 + Math.ceil(Math.PI / 4 / Math.acos(1 - 0.005 / (50 * unit_m))) }],
        ['Ramp', null, { Line: 128 }],
      ],
      structures: {
        MH1: {
          rim: 10,
          sump: 7,
          at: [5101500, 1464000],
          shape: ['CircStruct', { diameter: 1050 * size_mm, material: 'concrete' }],
          inverts: { P1: ['out', 8] },
        },
        MH2: {
          rim: 9,
          sump: null,
          at: [5101500, 1464050],
          shape: ['RectStruct', { length: 900 * size_mm, width: 600 * size_mm }],
          inverts: { P1: ['in', 7.5] },
        },
      },
      // a pipe that leads nowhere has no place, and stays behind
      pipes: {
        P1: {
          from: 'MH1',
          to: 'MH2',
          shape: ['CircPipe', { diameter: 225 * size_mm, material: 'PVC' }],
          course: false,
          length: 50,
          slope: 1,
        },
      },
      surfaces: { Ground: { points: 4, breaklines: [[5101500, 1464000, 3, 5101510, 1464000, 4]], contours: [12] } },
    });
    // three faces of four points, each edge in the middle in two of them
    const { faces, corners } = facts.surfaces.Ground!;
    const places = faces.map((f) => f.map((id) => corners[id]!.join(' ')).sort());
    expect(places).toHaveLength(3);
    for (const face of places) expect(face).toContain('5101510 1464010 9');
    const roundIn = (text: string): unknown => pontrel('inspect', text).json.sources[0].layers;
    expect(roundIn(`${folder}/${name}-2.landxml`)).toEqual(roundIn(`${folder}/${name}-1.landxml`));
  });

  it('keeps what contradicts itself: ids there twice, ends that meet nothing, a loop, pipes that bend and arcs', () => {
    const pipe = (id: string | null, from: string | null, to: string | null, line: number[][], more: object = {}) =>
      JSON.stringify({
        type: 'Feature',
        geometry: { type: 'LineString', coordinates: line },
        properties: { id, from_id: from, to_id: to, ...more },
      });
    const node = (id: string | number | null, at: number[], more: object = {}) =>
      JSON.stringify({ type: 'Feature', geometry: { type: 'Point', coordinates: at }, properties: { id, ...more } });
    const local = (features: string[]): string =>
      `{"type":"FeatureCollection","crs":{"type":"name","properties":{"name":"urn:ogc:def:crs:EPSG::2193"}},"features":[${features.join(',')}]}`;
    const [a, b, c] = [
      [1464000, 5101500, 10],
      [1464050, 5101500],
      [1464050, 5101550, 7],
    ] as [number[], number[], number[]];
    put(
      'odd-structures.geojson',
      local([node('A', a, { rim: 10, kind: 'x < "y" & z' }), node('A', b, { rim: null }), node('B', b, { rim: 'unknown' }), node(null, c)]),
    );
    put(
      'odd-pipes.geojson',
      local([
        pipe('P', 'A', 'B', [a, b], { inv_start: 8.25, inv_end: 7.5 }),
        pipe('Q', 'B', 'C', [b, c], { inv_start: 7.4, inv_end: 7.1, diameter: 225.4 }),
        pipe('Q', 'B', 'B', [b, [1464060, 5101500], b], { inv_start: 1, inv_end: 2, diameter: 'DN 300' }),
        pipe(
          null,
          null,
          null,
          [
            [1, 2],
            [3, 4],
          ],
          { inv_start: null },
        ),
        pipe('R', 'B', 'A', [[...b, 6.5], [1464025, 5101490, 6], a], { inv_start: 6.5, inv_end: 5 }),
      ]),
    );
    const made = convert(`${folder}/odd-structures.geojson`, `${folder}/odd-pipes.geojson`, `${folder}/odd.landxml`);
    expect(made.proof.records).toMatchObject({ in: 9, out: 9 });
    expect(made.findings).toContainEqual(expect.objectContaining({ code: 'landxml-network', count: 9 }));
    const facts = seenIn('odd.landxml');
    expect([Object.keys(facts.pipes).length, facts.structures.B!.inverts]).toEqual([4, {}]);
    const back = convert(`${folder}/odd.landxml`, `${folder}/odd.gpkg`);
    expect(back.proof.records).toMatchObject({ in: 9, out: 9 });
    convert(`${folder}/odd.landxml`, `${folder}/odd-2.landxml`);
    expect(seenIn('odd-2.landxml')).toEqual(facts);
  });

  it('states its system by code, by definition or as a plane of its own, and is refused in degrees and in units without a name', () => {
    put('lots.csv', 'lot,WKT\n1,"POLYGON((0 0,10 0,10 10,0 0))"\n2,"POLYGON Z((0 0 1,10 0 2,10 10 3,0 0 1))"\n');
    const crsOf = (name: string): unknown => pontrel('inspect', `${folder}/${name}`).json.sources[0].crs;
    convert(`${folder}/lots.csv`, `${folder}/site.landxml`, '--from', 'local', '--unit', 'ft');
    expect(crsOf('site.landxml')).toMatchObject({ id: null, origin: 'declared' });
    expect(readFileSync(`${folder}/site.landxml`, 'utf8')).toMatch(/<Imperial linearUnit="foot"/);
    convert(`${folder}/lots.csv`, `${folder}/height.landxml`, '--from', 'EPSG:2193+7839');
    expect(crsOf('height.landxml')).toMatchObject({ origin: 'declared', name: expect.stringContaining('NZVD2016') });
    const refused = (...words: string[]) => pontrel('convert', `${folder}/lots.csv`, `${folder}/no.landxml`, ...words).json.error.message;
    expect(refused('--from', 'EPSG:4326')).toContain('degrees');
    expect(refused('--from', 'local', '--unit', 'chain')).toContain('no name for the unit');
  });

  it('loses no point whose places do not follow it', () => {
    const points = (...of: string[]): string => `<CgPoints name="${of[0]}">${of.slice(1).join('')}</CgPoints>`;
    const several = '<CgPoint>5 1<Feature name="places" code="3"/></CgPoint>';
    const file = `<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" version="1.2">${METRIC}${points('a', several, '<CgPoint>6 1</CgPoint>')}${points('b', several, '<CgPoint>north</CgPoint>', '<CgPoint>7 1</CgPoint>')}</LandXML>`;
    const [source] = pontrel('inspect', put('places.landxml', file)).json.sources;
    expect(source.layers.map((l: { name: string; count: number }) => [l.name, l.count])).toEqual([
      ['a', 1],
      ['b', 2],
    ]);
    const count = (code: string): number =>
      (source.findings as { code: string; count: number }[]).reduce((n, f) => n + (f.code === code ? f.count : 0), 0);
    expect([count('landxml-places'), count('landxml-point')]).toEqual([2, 1]);
  });

  it('shares the points of a surface of 20,000 triangles, and takes triangles with values for parcels', () => {
    const xs = Array.from({ length: 101 }, (_, k) => k);
    put(
      'points.csv',
      ['x,y,z', ...xs.flatMap((x) => xs.map((y) => `${1464000 + x},${5101500 + y},${Math.sin(x / 9) + y / 50}`))].join('\n'),
    );
    const { json } = pontrel('derive', 'surface', `${folder}/points.csv`, `${folder}/ground.landxml`, '--from', 'EPSG:2193');
    expect(json.proof).toMatchObject({ status: 'match', records: { in: 20_000, out: 20_000 } });
    const [surface] = Object.values(seenIn('ground.landxml').surfaces);
    expect([surface!.points, surface!.faces.length]).toEqual([101 * 101, 20_000]);
    put('valued.csv', 'kind,WKT\na,"POLYGON Z((0 0 1,10 0 2,10 10 3,0 0 1))"\n');
    const valued = convert(`${folder}/valued.csv`, `${folder}/valued.landxml`, '--from', 'EPSG:2193');
    expect(valued.findings).toContainEqual(expect.objectContaining({ code: 'landxml-triangles', count: 1 }));
    const back = pontrel('derive', 'volume', `${folder}/ground.landxml`, `${folder}/volume.csv`).json;
    const direct = pontrel('derive', 'volume', `${folder}/points.csv`, `${folder}/volume.csv`, '--from', 'EPSG:2193').json;
    expect(back.derived.cut_m3).toBeCloseTo(direct.derived.cut_m3, 3);
  });
});

/** What `landxml_facts.py` finds in a file. */
interface LandXmlFacts {
  points: [string, number[]][];
  parcels: [string, number, Record<string, string>][];
  alignments: [string, number | null, Record<string, number>][];
  structures: Record<string, { inverts: Record<string, [string, number]> }>;
  pipes: Record<string, unknown>;
  surfaces: Record<
    string,
    { points: number; corners: Record<string, number[]>; faces: string[][]; breaklines: number[][]; contours: number[] }
  >;
}

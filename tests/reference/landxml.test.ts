import { readFileSync, writeFileSync } from 'node:fs';
import { afterAll, describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel } from './python';

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
});

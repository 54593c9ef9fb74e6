import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** GML in JPEG 2000. Source: OGC 08-085r8 (GMLJP2 2.1), section 7; the picture by Pillow and OpenJPEG's own tool. */
const { folder } = temporaryFolder();
const [W, H] = [64, 40];
python('make_ground.py', {
  pictures: [{ kind: 'texture', stem: `${folder}/plain`, size: [W, H], origin: [0, 0], pixel: [1, 1], seed: 2 }],
});
spawnSync('opj_compress', ['-i', `${folder}/plain.tif`, '-o', `${folder}/plain.jp2`]);

const grid = (srs: string, pos: string, column: string, row: string): string => `<?xml version="1.0"?>
<gml:FeatureCollection xmlns:gml="http://www.opengis.net/gml"><gml:featureMember><gml:FeatureCollection><gml:featureMember>
<gml:RectifiedGridCoverage><gml:rectifiedGridDomain><gml:RectifiedGrid dimension="2">
<gml:limits><gml:GridEnvelope><gml:low>0 0</gml:low><gml:high>${W - 1} ${H - 1}</gml:high></gml:GridEnvelope></gml:limits>
<gml:axisName>x</gml:axisName><gml:axisName>y</gml:axisName>
<gml:origin><gml:Point gml:id="p" srsName="${srs}"><gml:pos>${pos}</gml:pos></gml:Point></gml:origin>
<gml:offsetVector srsName="${srs}">${column}</gml:offsetVector><gml:offsetVector srsName="${srs}">${row}</gml:offsetVector>
</gml:RectifiedGrid></gml:rectifiedGridDomain></gml:RectifiedGridCoverage></gml:featureMember>
</gml:FeatureCollection></gml:featureMember></gml:FeatureCollection>`;

/** The outer corner of the first pixel and the sizes of pixels, worked out by hand from the centre of the first one. */
const CASES: [name: string, gml: string, expected: { crs: string; origin: [number, number]; pixel: [number, number] }][] = [
  [
    'a system that counts north first',
    grid('urn:ogc:def:crs:EPSG::2193', '5101999.75 1463000.25', '0 0.5', '-0.5 0'),
    { crs: 'EPSG:2193', origin: [1_463_000, 5_102_000], pixel: [0.5, 0.5] },
  ],
  [
    'a system that counts east first',
    grid('http://www.opengis.net/def/crs/EPSG/0/32759', '350005 5104995', '10 0', '0 -10'),
    { crs: 'EPSG:32759', origin: [350_000, 5_105_000], pixel: [10, 10] },
  ],
  [
    'degrees, latitude first',
    grid('urn:ogc:def:crs:EPSG::4326', '-44.2001 171.3001', '0 0.0002', '-0.0002 0'),
    { crs: 'EPSG:4326', origin: [171.3, -44.2], pixel: [0.0002, 0.0002] },
  ],
];

describe('a JPEG 2000 with GML in it', () => {
  const files = CASES.map(([, gml], k) => ({ file: path.join(folder, `case${k}.jp2`), gml }));
  python('make_gmljp2.py', { picture: `${folder}/plain.jp2`, files });

  it.each(CASES.map(([name, , expected], k) => [name, k, expected] as const))('lies where that says: %s', (_, k, expected) => {
    const { sources, error } = pontrel('inspect', files[k]!.file).json;
    expect(error?.message).toBe(undefined);
    const [{ crs, raster }] = sources;
    expect(crs).toMatchObject({ id: expected.crs, origin: 'declared' });
    expect([raster.width, raster.height]).toEqual([W, H]);
    raster.origin.forEach((v: number, i: number) => expect(v).toBeCloseTo(expected.origin[i]!, 7));
    raster.pixelSize.forEach((v: number, i: number) => expect(v).toBeCloseTo(expected.pixel[i]!, 9));
  });

  it('may be turned', () => {
    const [ux, uy] = [0.5 * Math.cos(0.3), 0.5 * Math.sin(0.3)];
    const turned = path.join(folder, 'turned.jp2');
    const gml = grid('http://www.opengis.net/def/crs/EPSG/0/32759', '350000 5105000', `${ux} ${uy}`, `${uy} ${-ux}`);
    python('make_gmljp2.py', { picture: `${folder}/plain.jp2`, files: [{ file: turned, gml }] });
    const [{ raster }] = pontrel('inspect', turned).json.sources;
    raster.pixelSize.forEach((v: number) => expect(v).toBeCloseTo(0.5, 9));
    expect(raster.origin[0]).toBeCloseTo(350_000 - (ux + uy) / 2, 7);
    expect(raster.origin[1]).toBeCloseTo(5_105_000 - (uy - ux) / 2, 7);
  });

  it.each([
    ['no numbers', grid('urn:ogc:def:crs:EPSG::2193', 'here there', '0 0.5', '-0.5 0')],
    ['one step', grid('urn:ogc:def:crs:EPSG::2193', '1 2', '0 0.5', '')],
    ['no sound document', '<gml:RectifiedGrid><gml:origin>'],
  ])('is told of when it says nothing that can be used: %s', (name, gml) => {
    const odd = path.join(folder, `${name.replace(/ /g, '-')}.jp2`);
    python('make_gmljp2.py', { picture: `${folder}/plain.jp2`, files: [{ file: odd, gml }] });
    const { sources, error } = pontrel('inspect', odd).json;
    expect(error?.message).toBe(undefined);
    expect(sources[0].raster.origin).toBe(null);
    expect(sources[0].findings).toContainEqual(expect.objectContaining({ code: 'gml-unread' }));
  });
});

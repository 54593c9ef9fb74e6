import { spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/**
 * What the command line writes of pictures, by others: tiffinfo and tiffcp (libtiff) for structure and values, listgeo (libgeotiff) for the
 * place and the world file, Pillow for PNG, OpenJPEG's own tools for JPEG 2000, the markers of ITU-T T.81 for JPEG; and the real pictures of
 * Debian's r-cran-stars.
 */
interface Facts {
  tiffinfo: string;
  complaints: string[];
  listgeo: string;
  corners: Record<string, [number, number]>;
  pcs: string | null;
  gcs: string | null;
  world: { listgeo: number[]; ours: number[] | null };
  same?: boolean;
  markers?: number[];
  scans?: number;
  dump?: string;
}

const { folder } = temporaryFolder();
python('make_images.py', { folder });
const [W, H] = [201, 133];
const WORLD = '0.5\n0\n0\n-0.5\n1463000.25\n5101999.75\n';
/** The types of numpy of the kinds that are made. */
const KINDS = {
  rgb: 'u1',
  grey: 'u1',
  grey16: '<u2',
  rgb16: '<u2',
  signed16: '<i2',
  long: '<u4',
  float: '<f4',
  double: '<f8',
  five: 'u1',
  palette: 'u1',
  rgba: 'u1',
};
for (const kind of Object.keys(KINDS)) writeFileSync(`${folder}/${kind}.tfw`, WORLD);

const facts = (file: string, more: object = {}): Facts =>
  python<Record<string, Facts>>('image_facts.py', { files: [file], ...more })[file]!;
const convert = (...args: string[]) => {
  const report = pontrel('convert', ...args).json as {
    error?: { message: string };
    outputs: { files: string[]; raster: { width: number; height: number; extent: number[] } }[];
    proof: { status: string; registration: { rms_px: number | null } };
    account: { read: number; crossed: number; missing: number; left: { reason: string; count: number }[] }[];
    findings: { code: string; count: number }[];
  };
  expect(report.error?.message).toBe(undefined);
  return report;
};

const cases = Object.keys(KINDS).flatMap((kind) => ['deflate', 'lzw', 'none'].map((packing) => [kind, packing] as const));

describe('a GeoTIFF', () => {
  it.each(cases)('of %s, packed by %s, is sound, lies where it should and holds the values', (kind, packing) => {
    const out = `${folder}/out-${kind}-${packing}.tif`;
    const args = ['--from', 'EPSG:2193', '--option', `packing=${packing}`, '--option', 'world=yes'];
    expect(convert(`${folder}/${kind}.tif`, out, ...args).proof.status).toBe('match');
    const own = facts(out, { against: `${folder}/${kind}.bin` });
    expect(own.complaints).toEqual([]);
    expect(own.same).toBe(true);
    expect(own.pcs).toBe('2193');
    expect(own.corners).toMatchObject({
      'Upper Left': [1463000, 5102000],
      'Lower Right': [1463000 + W / 2, 5102000 - H / 2],
    });
    expect(own.tiffinfo).toContain({ deflate: 'AdobeDeflate', lzw: 'LZW', none: 'None' }[packing]);
    // the six lines mean the centre of the first pixel
    own.world.ours!.forEach((v, k) => expect(v).toBeCloseTo(own.world.listgeo[k]!, 6));
  });

  it('states a system of its own by its parameters, and one in degrees, feet and a turned grid as they are', () => {
    const own = '+proj=tmerc +lat_0=-44.2 +lon_0=171.3 +k=0.9998 +x_0=40000 +y_0=80000 +ellps=GRS80 +units=m';
    const [a, b, c] = ['own', 'degrees', 'feet'].map((n) => `${folder}/${n}.tif`) as [string, string, string];
    expect(convert(`${folder}/rgb.tif`, a, '--from', own).proof.status).toBe('match');
    const said = facts(a).listgeo;
    expect(said).toContain('CT_TransverseMercator');
    expect(said).toMatch(/ProjScaleAtNatOriginGeoKey[^\n]*0\.9998/);
    expect(said).toMatch(/ProjNatOriginLongGeoKey[^\n]*171\.3/);
    expect(said).toMatch(/ProjFalseNorthingGeoKey[^\n]*80000/);
    expect(convert(`${folder}/rgb.tif`, b, '--from', 'EPSG:2193', '--to', 'EPSG:4167').proof.status).toBe('match');
    expect(facts(b)).toMatchObject({ gcs: '4167', complaints: [] });
    writeFileSync(`${folder}/turned.tfw`, '0.3\n0.4\n0.4\n-0.3\n6489000\n1842000\n');
    copyFileSync(`${folder}/rgb.tif`, `${folder}/turned.tif`);
    expect(convert(`${folder}/turned.tif`, c, '--from', 'EPSG:2229').proof.status).toBe('match');
    const turned = facts(c, { against: `${folder}/rgb.bin` });
    expect(turned).toMatchObject({ pcs: '2229', same: true, complaints: [] });
    // centres: 6489000, and half a pixel along rows and columns before it the corner
    const [x, y] = turned.corners['Upper Left']!;
    expect([x, y]).toEqual([6489000 - 0.35, 1842000 - 0.05].map((v) => expect.closeTo(v, 3)));
    expect(convert(`${folder}/rgb.tif`, `${folder}/site.tif`, '--from', 'local').proof.status).toBe('match');
  });
});

describe('what stands beside a picture', () => {
  it('is put in its place with it: a .prj where keys cannot state the system', () => {
    const out = `${folder}/own-method.tif`;
    const own = '+proj=aeqd +lat_0=-44 +lon_0=171 +x_0=0 +y_0=0 +ellps=GRS80';
    const report = convert(`${folder}/rgb.tif`, out, '--from', own);
    expect(report.outputs[0]!.files).toEqual([out, `${folder}/own-method.prj`]);
    const { sources } = pontrel('inspect', out).json as { sources: { crs: { name: string | null } }[] };
    expect(sources[0]!.crs.name).toContain('Azimuthal_Equidistant');
  });

  it('and what was found in a source is told once', () => {
    writeFileSync(`${folder}/bits.tfw`, WORLD);
    const { findings } = convert(`${folder}/bits.tif`, `${folder}/bits-out.tif`, '--from', 'EPSG:2193');
    expect(findings.filter((f) => f.code === 'bits-stretched')).toEqual([expect.objectContaining({ count: 1 })]);
  });
});

describe('a JPEG and a PNG', () => {
  it('is baseline, in one scan, with a world file that says where its pixels lie', () => {
    const out = `${folder}/card.jpg`;
    const report = convert(`${folder}/rgb.tif`, out, '--from', 'EPSG:2193', '--quality', '80');
    expect(report.proof.status).toBe('match');
    expect(report.proof.registration.rms_px).toBeLessThan(0.1);
    expect(report.outputs[0]!.files.map((f) => f.slice(folder.length + 1))).toEqual(['card.jpg', 'card.jgw', 'card.prj']);
    const { markers, scans } = facts(out);
    expect(markers).toContain(0xc0);
    expect(markers!.filter((m) => m > 0xc0 && m <= 0xcf && m !== 0xc4)).toEqual([]);
    expect(scans).toBe(1);
  });

  it.each(['rgb', 'grey', 'rgba', 'grey16'] as const)('holds %s as it is', (kind) => {
    const out = `${folder}/${kind}-out.png`;
    expect(convert(`${folder}/${kind}.tif`, out, '--from', 'EPSG:2193').proof.status).toBe('match');
    expect(facts(out, { against: `${folder}/${kind}.bin`, type: KINDS[kind] }).same).toBe(true);
  });
});

describe('a JPEG 2000', () => {
  it.each([
    ['rgb', 3, 8],
    ['grey', 1, 8],
    ['grey16', 1, 16],
  ] as const)('without loss holds %s as it is, as OpenJPEG reads it', (kind, bands, bits) => {
    const out = `${folder}/${kind}.jp2`;
    expect(convert(`${folder}/${kind}.tif`, out, '--from', 'EPSG:2193').proof.status).toBe('match');
    const { same, dump } = facts(out, { against: `${folder}/${kind}.bin`, type: KINDS[kind], bands });
    expect(same).toBe(true);
    expect(dump).toContain(`numcomps=${bands}`);
    expect(dump).toContain(`prec=${bits}`);
    // its box says where it lies, and so do the files beside it
    for (const beside of [true, false]) {
      if (!beside) for (const end of ['.j2w', '.prj']) rmSync(`${folder}/${kind}${end}`);
      const known = pontrel('inspect', out).json as { sources: { crs: { id: string }; raster: { extent: number[] } }[] };
      expect(known.sources[0]!.crs.id).toBe('EPSG:2193');
      expect(known.sources[0]!.raster.extent).toEqual([1463000, 5102000 - H / 2, 1463000 + W / 2, 5102000]);
    }
  });

  it('is as many times smaller as is wanted, which the proof tells and takes', () => {
    const out = `${folder}/smaller.jp2`;
    const report = convert(`${folder}/rgb.tif`, out, '--from', 'EPSG:2193', '--option', 'packing=smaller', '--option', 'ratio=8');
    expect(report.proof.status).toBe('match');
    expect(report.findings.map((f) => f.code)).toContain('values-packed');
    expect((W * H * 3) / statSync(out).size).toBeGreaterThan(7);
  });

  it('of another program lies where the world file beside it says', () => {
    spawnSync('opj_compress', ['-i', `${folder}/rgb.tif`, '-o', `${folder}/other.jp2`]);
    writeFileSync(`${folder}/other.j2w`, WORLD);
    const out = `${folder}/other-out.tif`;
    expect(convert(`${folder}/other.jp2`, out, '--from', 'EPSG:2193').proof.status).toBe('match');
    expect(facts(out, { against: `${folder}/rgb.bin` })).toMatchObject({ same: true, pcs: '2193' });
  });
});

describe('a drawing with a picture', () => {
  const LINES = { jpeg: '.jpg', png: '.png', tiff: '.tif' };
  it.each([
    ['jpeg', 'R2010', false],
    ['png', 'R2018', true],
    ['tiff', 'R2000', true],
    ['png', 'R2000', false],
  ] as const)('of %s in %s, turned: %s, shows it in its place, as ezdxf reads it', (picture, version, turned) => {
    const source = `${folder}/${turned ? 'turned-too' : 'rgb'}.tif`;
    if (turned) {
      copyFileSync(`${folder}/rgb.tif`, source);
      writeFileSync(`${folder}/turned-too.tfw`, '0.3\n-0.4\n-0.4\n-0.3\n1463000\n5102000\n');
    }
    const own = mkdtempSync(`${folder}/drawing-`);
    const out = `${own}/site.dxf`;
    const args = ['--from', 'EPSG:2193', '--option', `picture=${picture}`, '--option', `version=${version}`, '--quality', '90'];
    expect(convert(source, out, ...args).proof.status).toBe('match');
    const read = python<{ errors: string[]; images: { file: string; size: number[]; corners: [number, number][] }[] }>('read_images.py', {
      file: out,
    });
    expect(read.errors).toEqual([]);
    const [shown] = read.images;
    expect(shown).toMatchObject({ file: `site${LINES[picture]}`, size: [W, H] });
    expect(existsSync(`${own}/${shown!.file}`)).toBe(true);
    // the lower left corner and those after it, counter-clockwise, of pixels whose centres the world file tells
    const at = turned
      ? (c: number, r: number) => [1463000 + 0.3 * (c - 0.5) - 0.4 * (r - 0.5), 5102000 - 0.4 * (c - 0.5) - 0.3 * (r - 0.5)]
      : (c: number, r: number) => [1463000 + 0.5 * c, 5102000 - 0.5 * r];
    const wanted = [at(0, H), at(W, H), at(W, 0), at(0, 0)];
    shown!.corners.forEach((c, k) => c.forEach((v, j) => expect(v).toBeCloseTo(wanted[k]![j]!, 6)));
  });
});

describe('a picture on the ground of a globe', () => {
  it('lies in the box that it states, in degrees, and its archive holds it', () => {
    const out = `${folder}/globe.kmz`;
    const report = convert(`${folder}/rgb.tif`, out, '--from', 'EPSG:2193');
    expect(report.proof.status).toBe('match');
    const { raster } = report.outputs[0]!;
    const read = python<{ first: string; box: number[]; size: number[]; href: string; bands: number }>('read_overlay.py', { file: out });
    expect(read.first).toBe('doc.kml');
    expect(read.size).toEqual([raster.width, raster.height]);
    expect(read.bands).toBe(4);
    read.box.forEach((v, k) => expect(v).toBeCloseTo(raster.extent[k]!, 12));
  });

  it('that is turned about its middle is read as it would be seen', () => {
    const file = `${folder}/turned.kmz`;
    const { corners } = python<{ corners: [number, number][] }>('read_overlay.py', {
      make: file,
      box: [171, -44.5, 171.4, -44.3],
      rotation: 30,
    });
    const { sources } = pontrel('inspect', file).json as { sources: { format: string; raster: { extent: number[] } }[] };
    expect(sources[0]!.format).toBe('ground-overlay');
    const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
    [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)].forEach((v, k) =>
      expect(sources[0]!.raster.extent[k]).toBeCloseTo(v, 9),
    );
  });
});

describe('pieces', () => {
  it('of a picture, joined, are the picture again, and every pixel has its account', () => {
    const source = `${folder}/rgb.tif`;
    const piece = (k: number, ...box: number[]): string => {
      const file = `${folder}/piece${k}.tif`;
      expect(convert(source, file, '--from', 'EPSG:2193', '--bounds', box.join(',')).proof.status).toBe('match');
      return file;
    };
    const [x0, x1, y1, y0] = [1463000, 1463000 + W / 2, 5102000, 5102000 - H / 2];
    const pieces = [
      piece(1, x0, 5101970, 1463060, y1),
      piece(2, 1463050, 5101970, x1, y1),
      piece(3, x0, y0, 1463040, 5101975),
      piece(4, 1463040, y0, x1, 5101980),
    ];
    const out = `${folder}/joined.tif`;
    const report = convert(...pieces, out);
    expect(report.proof.status).toBe('match');
    expect(facts(out, { against: `${folder}/rgb.bin` }).same).toBe(true);
    for (const row of report.account) {
      expect(row.missing).toBe(0);
      expect(row.crossed + row.left.reduce((n, l) => n + l.count, 0)).toBe(row.read);
    }
    expect(report.account.reduce((n, row) => n + row.crossed, 0)).toBe(W * H);
    expect(report.account[1]!.left).toMatchObject([{ reason: 'covered', count: 20 * 60 }]);
  });

  it.each([
    ['2x3', 6, 'tiles_r2_c3.tif', 'row-column'],
    ['64 px', 12, 'tiles_12.tif', 'number'],
    ['30x40 m', 8, 'tiles_8.tif', 'number'],
  ])('that a picture is split into by %s are each sound, and together the picture again', (into, count, last, names) => {
    const tiles = `${folder}/split ${into}`;
    mkdirSync(tiles);
    const options = ['--option', `split=${into}`, '--option', 'overlap=5', '--option', `names=${names}`];
    const report = convert(
      `${folder}/rgb.tif`,
      tiles,
      '--format',
      'geotiff',
      '--from',
      'EPSG:2193',
      '--option',
      'overviews=no',
      ...options,
    );
    expect(report.proof.status).toBe('match');
    expect(report.account[0]).toMatchObject({ read: W * H, crossed: W * H, missing: 0 });
    const files = readdirSync(tiles).sort();
    expect(files.length).toBe(count);
    expect(files.at(-1)!.replace(/^rgb/, 'tiles')).toBe(last);
    for (const file of files) expect(facts(`${tiles}/${file}`)).toMatchObject({ complaints: [], pcs: '2193' });
    const out = `${folder}/rejoined ${into}.tif`;
    expect(convert(...files.map((f) => `${tiles}/${f}`), out).proof.status).toBe('match');
    expect(facts(out, { against: `${folder}/rgb.bin` }).same).toBe(true);
  });

  it('of a picture that is cut to an outline lie within it by their centres, as shapely has it', () => {
    const ring = [
      [1463010.2, 5101990.7],
      [1463090.1, 5101980.3],
      [1463070.6, 5101940.9],
      [1463031.3, 5101960.2],
      [1463010.2, 5101990.7],
    ];
    const outline = `${folder}/outline.geojson`;
    const properties = { name: 'site' };
    const crs = { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::2193' } };
    const feature = { type: 'Feature', properties, geometry: { type: 'Polygon', coordinates: [ring] } };
    writeFileSync(outline, JSON.stringify({ type: 'FeatureCollection', crs, features: [feature] }));
    const out = `${folder}/cut.tif`;
    const report = convert(`${folder}/rgb.tif`, out, '--from', 'EPSG:2193', '--option', `outline=${outline}`);
    expect(report.proof.status).toBe('match');
    const held = python<number>('pixels_within.py', { ring, west: 1463000, north: 5102000, pixel: 0.5, width: W, height: H });
    expect(held).toBeGreaterThan(1000);
    expect(report.account[0]!.crossed).toBe(held);
    expect(report.account[0]!.left).toEqual([expect.objectContaining({ reason: 'outside', count: W * H - held })]);
  });

  it('of two kinds do not make one picture', () => {
    const report = pontrel('convert', `${folder}/rgb.tif`, `${folder}/five.tif`, `${folder}/no.tif`, '--from', 'EPSG:2193').json as {
      error: { code: string; message: string };
    };
    expect(report.error.code).toBe('deliverable-blocked');
    expect(report.error.message).toContain('five.tif has 5 bands and not 3');
    expect(existsSync(`${folder}/no.tif`)).toBe(false);
  });
});

describe('real pictures', () => {
  const STARS = '/usr/lib/R/site-library/stars/tif';
  const files = readdirSync(STARS).filter((f) => f.endsWith('.tif'));

  it.each(files)('%s is copied as it is and warped into degrees', (name) => {
    const source = `${STARS}/${name}`;
    const known = pontrel('inspect', source).json as { sources: { crs: { id: string | null }; raster: { extent: number[] | null } }[] };
    const { crs, raster } = known.sources[0]!;
    const [copy, warped] = [`${folder}/copy-${name}`, `${folder}/warped-${name}`];
    const from = crs.id ? [] : ['--from', 'EPSG:32618'];
    expect(raster.extent ?? 'tied').toBeTruthy();
    expect(convert(source, copy, ...from).proof.status).toBe('match');
    // libgeotiff reads the same corners from both
    if (crs.id) {
      const [a, b] = [facts(source), facts(copy)];
      for (const [corner, at] of Object.entries(a.corners)) expect(b.corners[corner]).toEqual(at.map((v) => expect.closeTo(v, 2)));
    }
    expect(convert(source, warped, ...from, '--to', 'EPSG:4326').proof.status).toBe('match');
    expect(spawnSync('tiffinfo', [warped]).status).toBe(0);
  });
});

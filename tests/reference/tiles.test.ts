import { spawnSync } from 'node:child_process';
import { copyFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/**
 * Tiles of images as others read them: Python's sqlite3 and Pillow for the tiles, pyproj for where they lie. Sources: MBTiles Specification 1.3;
 * OGC 12-128r18 (GeoPackage 1.3), section 2.2; OGC 17-083r4 (Two Dimensional Tile Matrix Set), annex D.1.
 */
const { folder } = temporaryFolder();
python('make_images.py', { folder });
const [W, H, WEST, NORTH, PIXEL] = [201, 133, 1463000, 5102000, 0.5];
writeFileSync(`${folder}/rgb.tfw`, '0.5\n0\n0\n-0.5\n1463000.25\n5101999.75\n');

const SOURCE = { against: `${folder}/rgb.bin`, width: W, height: H, west: WEST, north: NORTH, pixel: PIXEL };

interface Report {
  error?: { message: string; code: string };
  proof: { status: string };
  findings: { code: string }[];
}
/** Runs statements on a container, as another program would. */
function changed(file: string, sql: string): void {
  const { status, stderr } = spawnSync(
    '/usr/bin/python3',
    ['-c', 'import sqlite3,sys; sqlite3.connect(sys.argv[1]).executescript(sys.argv[2])', file, sql],
    { encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
}
const convert = (...args: string[]): Report => pontrel('convert', ...args).json as Report;

describe('MBTiles', () => {
  const out = `${folder}/town.mbtiles`;

  it('lie where the scheme of tiles and PROJ say, clear where the image is not', () => {
    const report = convert(`${folder}/rgb.tif`, out, '--from', 'EPSG:2193', '--resample', 'nearest', '--pixel-size', '0.3');
    expect([report.error?.message, report.proof.status]).toEqual([undefined, 'match']);
    expect(report.findings.map((f) => f.code)).toContain('pixel-by-format');
    const facts = python<{ share: number; clear: number; told: Record<string, string>; zooms: number[]; app: number }>('tiles_facts.py', {
      file: out,
      ...SOURCE,
    });
    // a position off by a tenth of a pixel may fall into the next one
    expect(facts.share).toBeGreaterThan(0.9);
    expect(facts.clear).toBeGreaterThan(20);
    expect(facts.told).toMatchObject({ format: 'png', name: 'town' });
    expect(facts.zooms).toEqual([18, 19]);
    expect([facts.told.minzoom, facts.told.maxzoom]).toEqual(['18', '19']);
    expect(facts.app).toBe(0x4d504258);
  });

  it('of another program, with its tiles in a view, are read as they are', () => {
    const other = `${folder}/viewed.mbtiles`;
    copyFileSync(out, other);
    // tiles that are alike are kept once, as many programs do (MBTiles Specification 1.3, "Tiles")
    const sql = `ALTER TABLE tiles RENAME TO images; CREATE VIEW tiles AS SELECT zoom_level, tile_column, tile_row, tile_data FROM images;`;
    changed(other, sql);
    const [a, b] = [`${folder}/from-table.tif`, `${folder}/from-view.tif`];
    expect([convert(out, a), convert(other, b)].map((r) => r.proof?.status)).toEqual(['match', 'match']);
    expect(spawnSync('cmp', [a, b]).status).toBe(0);
  });

  it('that lie outside the bounds that are stated are read all the same, which is told', () => {
    const other = `${folder}/narrow.mbtiles`;
    copyFileSync(out, other);
    changed(other, 'INSERT INTO tiles SELECT zoom_level, tile_column + 5, tile_row, tile_data FROM tiles WHERE zoom_level = 19;');
    const columns = (file: string): number =>
      (pontrel('inspect', file).json as { sources: [{ raster: { width: number } }] }).sources[0].raster.width;
    expect(columns(other)).toBeGreaterThan(columns(out) + 4 * 256);
    const report = convert(other, `${folder}/wide.tif`);
    expect([report.error?.message, report.proof?.status]).toEqual([undefined, 'match']);
    expect(report.findings.map((f) => f.code)).toContain('tiles-beyond');
  });

  it('of a place that only a smaller zoom shows are told, with their count', () => {
    const other = `${folder}/patchy.mbtiles`;
    copyFileSync(out, other);
    changed(other, 'INSERT INTO tiles SELECT zoom_level, tile_column + 3, tile_row, tile_data FROM tiles WHERE zoom_level = 18;');
    const { findings } = convert(other, `${folder}/patchy.tif`);
    expect(findings.find((f) => f.code === 'tiles-smaller-only')).toMatchObject({ severity: 'caution' });
    expect(convert(out, `${folder}/whole.tif`).findings.map((f) => f.code)).not.toContain('tiles-smaller-only');
  });

  it('in columns that are no numbers are refused', () => {
    const other = `${folder}/odd.mbtiles`;
    copyFileSync(out, other);
    changed(other, "INSERT INTO tiles SELECT zoom_level, 'x', tile_row, tile_data FROM tiles WHERE zoom_level = 19 LIMIT 1;");
    expect(convert(other, `${folder}/odd.tif`).error).toMatchObject({
      code: 'mbtiles-unread',
      message: expect.stringContaining('whole numbers'),
    });
  });

  it('of vectors are refused with what to do', () => {
    const vectors = `${folder}/vectors.mbtiles`;
    const sql = `CREATE TABLE metadata (name TEXT, value TEXT); INSERT INTO metadata VALUES ('format', 'pbf');
      CREATE TABLE tiles (zoom_level INTEGER, tile_column INTEGER, tile_row INTEGER, tile_data BLOB);`;
    changed(vectors, sql);
    expect(convert(vectors, `${folder}/no.tif`).error).toMatchObject({
      code: 'mbtiles-unread',
      message: expect.stringContaining('vector tiles'),
    });
  });
});

describe('tiles of a GeoPackage', () => {
  it('hold the very pixels of the image in its own system, by the rules of the standard', () => {
    const out = `${folder}/town.gpkg`;
    const report = convert(`${folder}/rgb.tif`, out, '--from', 'EPSG:2193', '--format', 'geopackage-tiles');
    expect([report.error?.message, report.proof.status]).toEqual([undefined, 'match']);
    const facts = python<object>('tiles_facts.py', { file: out, ...SOURCE });
    expect(facts).toEqual({
      equal: true,
      beyond: 0,
      box: [WEST, NORTH - H * PIXEL, WEST + W * PIXEL, NORTH],
      srs: 2193,
      fits: true,
      zooms: 1,
      pixel: PIXEL,
      check: 'ok',
    });
    const back = `${folder}/back.tif`;
    expect(convert(out, back).proof.status).toBe('match');
    const { sources } = pontrel('inspect', out).json as { sources: { crs: { id: string }; raster: object }[] };
    expect(sources[0]).toMatchObject({ crs: { id: 'EPSG:2193' }, raster: { width: W, height: H, bands: 4, pixelSize: [PIXEL, PIXEL] } });
  });

  it.each([
    ['JPEG, in its own system', ['--option', 'picture=jpeg', '--quality', '85']],
    ['PNG, in another system, from a turned grid', ['--to', 'EPSG:2126']],
  ])('packed as %s match', (_said, args) => {
    writeFileSync(`${folder}/turned.tfw`, '0.3\n0.4\n0.4\n-0.3\n1463000\n5102000\n');
    copyFileSync(`${folder}/rgb.tif`, `${folder}/turned.tif`);
    const report = convert(`${folder}/turned.tif`, `${folder}/turned.gpkg`, '--from', 'EPSG:2193', '--format', 'geopackage-tiles', ...args);
    expect([report.error?.message, report.proof?.status]).toEqual([undefined, 'match']);
  });

  it('of values are not taken for colours', () => {
    writeFileSync(`${folder}/float.tfw`, '0.5\n0\n0\n-0.5\n1463000.25\n5101999.75\n');
    for (const kind of ['float', 'five']) {
      copyFileSync(`${folder}/rgb.tfw`, `${folder}/${kind}.tfw`);
      const { error } = convert(`${folder}/${kind}.tif`, `${folder}/${kind}.gpkg`, '--from', 'EPSG:2193', '--format', 'geopackage-tiles');
      expect(error).toMatchObject({ code: 'deliverable-blocked' });
    }
  });
});

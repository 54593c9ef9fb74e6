import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** Records drawn as a map, looked at pixel by pixel with ezdxf, shapely and Pillow. */
const { folder } = temporaryFolder();
const drawing = path.join(folder, 'site.dxf');
const { records } = python<{ records: number }>('make_map_drawing.py', { file: drawing });

interface Report {
  error?: { code: string; message: string };
  outputs: { raster: { width: number; height: number; pixelSize: number[] } }[];
  proof: { status: string; records: { in: number; out: number }; drawn: { drawn: number; unseen: number } };
  findings: { code: string; count: number }[];
  account: { source: string; layer: string; read: number; crossed: number; missing: number; left: { reason: string; count: number }[] }[];
}

interface Facts {
  solid: number;
  solid_wrong: number;
  tinted: number;
  tinted_wrong: number;
  empty: number;
  empty_wrong: number;
  marks: [number, number][];
  texts: [number, number, number, number][];
  shown: Record<string, number>;
}

const drawn = (name: string, scale: number, dpi: number, ...more: string[]): { report: Report; file: string } => {
  const file = path.join(folder, name);
  const args = [drawing, file, '--from', 'EPSG:2193', '--option', `scale=${scale}`, '--option', `dpi=${dpi}`, ...more];
  const report = pontrel('convert', ...args).json as Report;
  expect(report.error?.message).toBe(undefined);
  expect(report.proof.status).toBe('match');
  for (const row of report.account) expect(row.crossed + row.left.reduce((n, l) => n + l.count, 0)).toBe(row.read);
  return { report, file };
};

describe('a map of a drawing', () => {
  it.each([
    [500, 200],
    [250, 254],
    [1000, 300],
  ])('has each record at its place, in its colour and as wide as it says: 1 to %i with %i dots an inch', (scale, dpi) => {
    const { report, file } = drawn(`map-${scale}.png`, scale, dpi);
    expect(report.proof.records).toEqual({ in: records, out: records });
    const facts = python<Facts>('map_facts.py', { drawing, picture: file, scale, dpi, box: null });
    expect(facts.solid).toBeGreaterThan(5000);
    expect(facts.tinted).toBeGreaterThan(5000);
    expect([facts.solid_wrong, facts.tinted_wrong, facts.empty_wrong]).toEqual([0, 0, 0]);
    expect(facts.marks).toHaveLength(8);
    // the ring of a mark is hardly two pixels wide: nearly all of it has its colour, and its inside is white
    for (const [ring, inside] of facts.marks) {
      expect(ring).toBeGreaterThan(0.9);
      expect(inside).toBe(1);
    }
    // letters begin at their place and are as high as they say, but for the tail of the Q and a pixel
    // those that reach over the edge of the picture are told
    const short = facts.texts.filter(([, to]) => to < 4.3).length;
    expect(short).toBe(scale === 1000 ? 0 : 1);
    expect(report.findings.find((f) => f.code === 'lettering-cut')?.count ?? 0).toBeGreaterThanOrEqual(short);
    for (const [from, to, low, high] of facts.texts) {
      expect(from).toBeGreaterThan(-0.15);
      expect(from).toBeLessThan(scale === 1000 ? 1 : 0.3);
      expect(to).toBeGreaterThan(1);
      expect(low).toBeGreaterThan(-0.45);
      expect(high).toBeGreaterThan(0.65);
      expect(high).toBeLessThan(1.2);
    }
  });

  it('leaves out what lies off the picture, as shapely counts it', () => {
    const box = [1_464_013, 5_101_020, 1_464_051.5, 5_101_061];
    const { report, file } = drawn('part.png', 500, 200, '--bounds', box.join(','));
    const facts = python<Facts>('map_facts.py', { drawing, picture: file, scale: 500, dpi: 200, box });
    expect([facts.solid_wrong, facts.tinted_wrong, facts.empty_wrong]).toEqual([0, 0, 0]);
    const crossed = Object.fromEntries(report.account.filter((r) => r.layer !== 'texts').map((r) => [r.layer, r.crossed]));
    const { texts: _, ...shown } = facts.shown;
    expect(crossed).toEqual(shown);
  });

  it('draws what reaches thousands of kilometres beyond it as finely as the rest', () => {
    const far = path.join(folder, 'far.dxf');
    python('make_map_drawing.py', { file: far, far: true });
    const file = path.join(folder, 'far.png');
    const box = [1_463_990, 5_100_980, 1_464_080, 5_101_040];
    const args = ['--from', 'EPSG:2193', '--option', 'scale=400', '--option', 'dpi=254', '--bounds', box.join(',')];
    const report = pontrel('convert', far, file, ...args).json as Report;
    expect([report.error?.message, report.proof?.status, report.proof?.drawn.unseen]).toEqual([undefined, 'match', 0]);
    const facts = python<Facts>('map_facts.py', { drawing: far, picture: file, scale: 400, dpi: 254, box });
    expect(facts.solid).toBeGreaterThan(10_000);
    // lines cross each other: a pixel where two do has the colour of the upper one
    expect(facts.solid_wrong / facts.solid).toBeLessThan(0.03);
    expect(facts.empty_wrong).toBe(0);
  });

  it('has an account of all that its file holds, as ezdxf and the account of a crossing count it', () => {
    const odd = path.join(folder, 'odd.dxf');
    python('make_drawing.py', { file: odd, version: 'R2010' });
    const args = ['--from', 'EPSG:2193'];
    const map = pontrel('convert', odd, path.join(folder, 'odd.png'), ...args, '--option', 'scale=2000', '--option', 'dpi=150')
      .json as Report;
    const records = pontrel('convert', odd, path.join(folder, 'odd.gpkg'), ...args).json as Report;
    const read = (report: Report): Record<string, number> => Object.fromEntries(report.account.map((r) => [r.layer, r.read]));
    expect(read(map)).toEqual(read(records));
    expect([map.proof.status, map.proof.drawn.unseen]).toEqual(['match', 0]);
    for (const row of map.account) expect(row.missing).toBe(0);
  });

  it('is refused where a scale has no meaning, and where nobody says one', () => {
    const refused = (file: string, ...more: string[]): string | undefined =>
      (pontrel('convert', drawing, path.join(folder, file), '--from', 'EPSG:2193', ...more).json as Report).error?.message;
    expect(refused('degrees.png', '--to', 'EPSG:4167', '--option', 'scale=500')).toMatch(/units are degrees/);
    expect(refused('none.png')).toMatch(/--option scale=500/);
    expect(refused('none.png', '--option', 'scale=0')).toMatch(/wants the scale of a map/);
    expect(refused('none.png', '--option', 'dpi=200')).toMatch(/say its scale|scale=500/);
  });
});

import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/** Pictures that lie over each other, against NumPy. */
const { folder } = temporaryFolder();
const FEATHERS = [3, 20, 60];
const PIXEL_M = 0.5;

interface Report {
  error?: { message: string };
  proof: { status: string };
  account: { source: string; read: number; crossed: number; missing: number; left: { reason: string; count: number }[] }[];
  findings: { code: string; count: number }[];
}

const convert = (...args: string[]): Report => {
  const report = pontrel('convert', ...args).json as Report;
  expect(report.error?.message).toBe(undefined);
  return report;
};

describe.each([
  ['pictures that are full', false],
  ['pictures of which one has a corner without values', true],
])('%s', (_, collar) => {
  const own = path.join(folder, String(collar));
  mkdirSync(own);
  const answers = python<Record<string, number[] | null>>('mosaic_seams.py', { folder: own, collar, feathers: FEATHERS });
  const inputs = ['a', 'b', 'c'].map((name) => path.join(own, `${name}.tif`));
  const joined = (name: string, ...options: string[]): Report => {
    const out = path.join(own, `${name.replace(' ', '-')}-out.tif`);
    const report = convert(...inputs, out, '--from', 'EPSG:2193', ...options.flatMap((o) => ['--option', o]));
    expect(report.proof.status).toBe('match');
    return report;
  };
  const off = (name: string): { off: number; wrong: number } =>
    python('seams_off.py', { file: path.join(own, `${name.replace(' ', '-')}-out.tif`), answer: path.join(own, `${name}.answer`) });
  const coveredIn = ({ account }: Report): number[] =>
    ['a', 'b', 'c'].map(
      (name) => account.find((row) => row.source === `${name}.tif`)!.left.find((l) => l.reason === 'covered')?.count ?? 0,
    );

  it.each(['order', 'newest', 'centre'])(
    'have the values of one of them at each pixel, by %s, and the account says what it covers',
    (first) => {
      const report = joined(first, `first=${first}`);
      expect(off(first)).toEqual({ off: 0, wrong: 0 });
      expect(coveredIn(report)).toEqual(answers[first]);
      for (const row of report.account) expect(row.crossed + row.left.reduce((n, l) => n + l.count, 0)).toBe(row.read);
      expect(report.findings.some((f) => f.code === 'image-undated' && f.count === 1)).toBe(first === 'newest');
    },
  );

  it.each(FEATHERS.flatMap((f) => [`order ${f}`, `centre ${f}`]))('pass into each other as wide as was said: %s pixels', (name) => {
    const [first, feather] = name.split(' ');
    const report = joined(name, `first=${first}`, `feather=${Number(feather) * PIXEL_M}`);
    const { off: most, wrong } = off(name);
    expect(wrong).toBe(0);
    expect(most).toBeLessThanOrEqual(0.5 + 1e-9);
    expect(report.findings.map((f) => f.code)).toContain('seam-blended');
  });

  it.each(['order', 'centre'])('are proved in another system as well, where masks and values are approximated: %s', (first) => {
    for (const feather of [0, 1, 5, 40]) {
      const out = path.join(own, `there-${first}-${feather}.tif`);
      const options = ['--option', `first=${first}`, ...(feather > 0 ? ['--option', `feather=${feather * PIXEL_M}`] : [])];
      const { proof } = convert(...inputs, out, '--from', 'EPSG:2193', '--to', 'EPSG:2126', ...options);
      expect(proof.status, `${feather}`).toBe('match');
    }
  });
});

describe('the newest picture', () => {
  it('is told by the Exif segment of a JPEG as well', async () => {
    const world = '0.5\n0\n0\n-0.5\n1463000.25\n5101999.75\n';
    const made = async (name: string, grey: number, date: string): Promise<string> => {
      const file = path.join(folder, `${name}.jpg`);
      await sharp({ create: { width: 40, height: 30, channels: 3, background: { r: grey, g: grey, b: grey } } })
        .withExif({ IFD0: { DateTime: date } })
        .jpeg({ quality: 95 })
        .toFile(file);
      writeFileSync(path.join(folder, `${name}.jgw`), world);
      return file;
    };
    const inputs = [await made('old', 40, '2011:01:02 03:04:05'), await made('new', 210, '2024:06:07 08:09:10')];
    const out = path.join(folder, 'newest.tif');
    expect(convert(...inputs, out, '--from', 'EPSG:2193', '--option', 'first=newest').proof.status).toBe('match');
    const { channels } = await sharp(out).stats();
    expect(channels[0]!.mean).toBeCloseTo(210, 0);
  });
});

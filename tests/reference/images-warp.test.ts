import { describe, expect, it } from 'vitest';
import path from 'node:path';
import { temporaryFolder } from '../server/client';
import { pontrel, python } from './python';

/**
 * A picture whose values are the positions of its own pixels, warped by the command line from one system into another; pyproj (PROJ) says what
 * those values should be. Systems and places are of the EPSG registry. Where a change of datum is part of the way, the pair is one between
 * which both take the same operation.
 */
interface Pair {
  from: string;
  to: string;
  origin: [number, number];
  pixel: [number, number];
  resample?: string;
}

const metres = (from: string, to: string, x: number, y: number, size = 2): Pair => ({ from, to, origin: [x, y], pixel: [size, size] });
const degrees = (from: string, to: string, x: number, y: number, size = 2e-5): Pair => ({ from, to, origin: [x, y], pixel: [size, size] });

const PAIRS: Pair[] = [
  metres('EPSG:2193', 'EPSG:2126', 1463000, 5102000),
  metres('EPSG:2193', 'EPSG:3857', 1463000, 5102000),
  metres('EPSG:2193', 'EPSG:4167', 1463000, 5102000),
  metres('EPSG:2193', 'EPSG:32759', 1463000, 5102000, 50),
  metres('EPSG:32633', 'EPSG:3857', 450000, 5400000, 100),
  metres('EPSG:32633', 'EPSG:4326', 450000, 5400000, 10),
  metres('EPSG:32633', 'EPSG:3035', 450000, 5400000, 500),
  metres('EPSG:25832', 'EPSG:25833', 600000, 5500000, 20),
  metres('EPSG:3035', 'EPSG:3857', 4300000, 3000000, 1000),
  metres('EPSG:2154', 'EPSG:4258', 650000, 6860000, 25),
  metres('EPSG:5514', 'EPSG:4156', -740000, -1040000, 10),
  metres('EPSG:28992', 'EPSG:4289', 155000, 463000, 5),
  metres('EPSG:3031', 'EPSG:4326', 500000, 500000, 200),
  metres('EPSG:3413', 'EPSG:3857', 400000, -2200000, 300),
  metres('EPSG:5070', 'EPSG:4269', -100000, 1800000, 300),
  metres('EPSG:2229', 'EPSG:4269', 6489000, 1842000, 10),
  metres('EPSG:26943', 'EPSG:26910', 1850000, 640000, 5),
  metres('EPSG:27700', 'EPSG:4277', 530000, 180000, 10),
  metres('EPSG:21781', 'EPSG:4149', 600000, 200000, 10),
  metres('EPSG:6677', 'EPSG:6668', -10000, -35000, 1),
  degrees('EPSG:4326', 'EPSG:3857', 171.2, -44.2),
  degrees('EPSG:4326', 'EPSG:32759', 171.2, -44.2),
  degrees('EPSG:4326', 'EPSG:3832', 171.2, -44.2, 0.001),
  degrees('EPSG:4326', 'EPSG:3995', -30, 75, 0.01),
];

const SIZE: [number, number] = [310, 270];

describe('a warped picture', () => {
  const { folder } = temporaryFolder();
  const stems = PAIRS.map((_, k) => path.join(folder, `ground${k}`));
  python('make_ground.py', {
    pictures: PAIRS.map(({ origin, pixel }, k) => ({ kind: 'ground', stem: stems[k], size: SIZE, origin, pixel })),
  });

  it.each(PAIRS.map((p, k) => [`${p.from} to ${p.to}`, p, k] as const))(
    '%s lies within a tenth of a pixel of where PROJ says',
    (_name, pair, k) => {
      const out = `${stems[k]}-out.tif`;
      const { json: report } = pontrel('convert', `${stems[k]}.tif`, out, '--from', pair.from, '--to', pair.to);
      expect(report.error).toBe(undefined);
      expect(report.proof.status).toBe('match');
      const { raster } = report.outputs[0];
      const [dx, dy] = raster.pixelSize;
      const [error] = python<{ pixels: number; valid: number; rms: number; largest: number }[]>('ground_error.py', {
        pictures: [
          {
            file: out,
            size: [raster.width, raster.height],
            map: [raster.origin[0], dx, 0, raster.origin[1], 0, -dy],
            crs: pair.to,
            source: pair.from,
            pixel: pair.pixel,
          },
        ],
      });
      expect(error!.pixels).toBeGreaterThan(0.4 * SIZE[0] * SIZE[1]);
      // asked for: 0.25 on the whole
      expect(error!.rms).toBeLessThan(0.07);
      expect(error!.largest).toBeLessThan(0.1);
      // what was read is accounted for to the pixel
      const [row] = report.account;
      expect(row.read).toBe(SIZE[0] * SIZE[1]);
      expect(row.crossed + row.left.reduce((n: number, l: { count: number }) => n + l.count, 0)).toBe(row.read);
      expect(row.crossed).toBeGreaterThan(0.98 * row.read);
    },
  );
});

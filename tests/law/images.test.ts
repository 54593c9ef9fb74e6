import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { ImageProof } from '@pontrel/core/content/raster/proof';
import { runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import type { ImageFormat } from '@pontrel/core/formats/format';
import type { OptionValues } from '@pontrel/core/formats/format-option';
import type { ImageWriter, TargetImage } from '@pontrel/core/formats/image-face';
import { IMAGE_FORMATS, imageFormatById } from '@pontrel/core/formats/images';
import type { Raster } from '@pontrel/core/model/raster';
import { crsOf } from '@pontrel/core/placement/route';
import { fileSource, folderAt } from '@pontrel/host-node/files';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { python } from '../reference/python';
import { temporaryFolder } from '../server/client';

registerNodeImageEngine();
const NZTM = 'EPSG:2193';
const SIZE: [number, number] = [420, 330];
const { folder, remove } = temporaryFolder();
afterAll(remove);
python('make_ground.py', {
  pictures: [
    { kind: 'texture', stem: `${folder}/left`, size: SIZE, origin: [1_463_000, 5_102_000], pixel: [0.5, 0.5], seed: 3 },
    { kind: 'texture', stem: `${folder}/right`, size: SIZE, origin: [1_463_150, 5_102_010], pixel: [0.5, 0.5], seed: 4 },
  ],
});

let runs = 0;

/** Joins the two pictures in a format, in the system of the sources or in another one. */
async function proofOf(format: ImageFormat, options: OptionValues, crs: string, split?: string): Promise<ImageProof> {
  const own = path.join(folder, `run${runs++}`);
  mkdirSync(own);
  const names = ['left.tif', 'right.tif'];
  const deliverable = {
    id: 'd',
    name: 'joined',
    format: format.id,
    crs,
    grouping: 'kind' as const,
    options,
    image: { resampling: 'bilinear' as const, ...(split ? { split: { into: split, overlap: 7 } } : {}) },
  };
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs },
    sources: Object.fromEntries(names.map((name) => [name, { placement: { crs: NZTM, unit_m: null }, layers: {} }])),
    deliverables: [deliverable],
  };
  const tiff = imageFormatById('geotiff')!;
  const sources = names.map((name) => ({
    source: name,
    name,
    open: async (findings: Parameters<typeof tiff.images.open>[1]) => tiff.images.open(await fileSource(path.join(folder, name)), findings),
  }));
  return (await runImageDeliverable(recipe, deliverable, sources, folderAt(own))).proof;
}

/** What a faulty writer makes of the picture that it is to write, and of its rows; `first` is the number of the first of these. */
interface Fault {
  image?(image: TargetImage): TargetImage;
  rows?(rows: Raster, first: number): Raster;
}

const moved =
  (columns: number, rows: number) =>
  (image: TargetImage): TargetImage => {
    const [x, a, b, y, d, e] = image.grid.map;
    return { ...image, grid: { ...image.grid, map: [x + a * columns + b * rows, a, b, y + d * columns + e * rows, d, e] } };
  };

/** The rows with the values of some of their pixels changed. */
const changed =
  (of: (column: number, row: number) => boolean, to: (value: number) => number) =>
  (rows: Raster, first: number): Raster => {
    const data = rows.data.slice();
    for (let r = 0; r < rows.height; r++)
      for (let c = 0; c < rows.width; c++)
        if (of(c, first + r))
          for (let b = 0; b < rows.bands; b++)
            data[(r * rows.width + c) * rows.bands + b] = to(data[(r * rows.width + c) * rows.bands + b]!);
    return { ...rows, data };
  };

/** Rows that lie so many pixels further to the right. */
const slid =
  (by: number) =>
  (rows: Raster): Raster => {
    const data = rows.data.slice();
    const perRow = rows.width * rows.bands;
    for (let r = 0; r < rows.height; r++) data.copyWithin(r * perRow + by * rows.bands, r * perRow, (r + 1) * perRow - by * rows.bands);
    return { ...rows, data };
  };

/** Faults of any writer. */
const GROSS: Record<string, Fault> = {
  'leaves a block of pixels grey': {
    rows: changed(
      (c, r) => c >= 200 && c < 330 && r >= 100 && r < 230,
      () => 128,
    ),
  },
  'puts all pixels one further to the right': { rows: slid(1) },
  'states its place half a pixel off': { image: moved(0.5, 0.5) },
  'states its place a twentieth of a pixel off': { image: moved(0.05, 0) },
  'states another system': { image: (image) => ({ ...image, crs: crsOf('EPSG:2126')! }) },
  'turns it into its negative': {
    rows: changed(
      () => true,
      (v) => 255 - v,
    ),
  },
};

/** Faults of a writer whose values arrive as they are. */
const FINE: Record<string, Fault> = {
  'changes one pixel by one': {
    rows: changed(
      (c, r) => c === 333 && r === 222,
      (v) => (v > 100 ? v - 1 : v + 1),
    ),
  },
  'writes one row twice': {
    rows: (rows) => {
      const perRow = rows.width * rows.bands;
      const data = rows.data.slice();
      data.copyWithin(50 * perRow, 49 * perRow, 50 * perRow);
      return { ...rows, data };
    },
  },
};

/** @param of which of the pictures that are written one after the other it is; all when absent */
async function withFault<T>(format: ImageFormat, fault: Fault, work: () => Promise<T>, of?: number): Promise<T> {
  const write = format.images.write!;
  const { create } = write;
  let count = 0;
  write.create = async (to, image): Promise<ImageWriter> => {
    if (of !== undefined && count++ !== of) return create(to, image);
    const writer = await create(to, fault.image?.(image) ?? image);
    let first = 0;
    return {
      rows: writer.rows,
      append(rows) {
        const own = fault.rows?.(rows, first) ?? rows;
        first += rows.height;
        return writer.append(own);
      },
      close: () => writer.close(),
    };
  };
  try {
    return await work();
  } finally {
    write.create = create;
  }
}

const CASES = IMAGE_FORMATS.filter((f) => f.images.write).flatMap(
  (format): { format: ImageFormat; options: OptionValues; said: string }[] => {
    const variants: Record<string, OptionValues[]> = {
      geotiff: [{}, { packing: 'jpeg', quality: 80 }],
      jpeg2000: [{}, { packing: 'smaller', ratio: 10 }],
      'ground-overlay': [
        { picture: 'png' },
        { picture: 'jpeg', quality: 80 },
        { layout: 'pyramid', picture: 'png' },
        { layout: 'pyramid', picture: 'jpeg', quality: 85 },
      ],
      'dxf-picture': [{ picture: 'png' }],
      'geopackage-tiles': [{ picture: 'png' }, { picture: 'jpeg', quality: 85 }],
    };
    return (variants[format.id] ?? [{}]).map((options) => ({ format, options, said: `${format.name} ${JSON.stringify(options)}` }));
  },
);

describe.each(CASES.map((c) => [c.said, c] as const))('a picture in %s', (_said, { format, options }) => {
  const prescribed = format.images.write!.prescribedCrs;
  const crs = prescribed ?? NZTM;

  it('matches when it is written as it should be, in the system of its sources and in another', async () => {
    for (const target of new Set([crs, prescribed ?? 'EPSG:2126'])) {
      const proof = await proofOf(format, options, target);
      expect(proof.differences).toEqual([]);
      expect(proof.status).toBe('match');
      expect(proof.registration.places.filter((p) => p.shift).length).toBeGreaterThan(10);
      for (const row of proof.account) {
        expect(row.missing).toBe(0);
        expect(row.crossed + row.left.reduce((n, l) => n + l.count, 0)).toBe(SIZE[0] * SIZE[1]);
      }
    }
  });

  const { packed } = format.images.carries({ ...options, quality: options.quality ?? 85, ratio: options.ratio ?? 10 });
  const faults = { ...GROSS, ...(packed === null ? FINE : {}) };
  it.each(Object.entries(faults))('is not taken for a match when its writer %s', async (_fault, fault) => {
    const { status } = await withFault(format, fault, () => proofOf(format, options, crs));
    // a format of one system cannot state another, and one whose pixels lie on lines of their own cannot state a part of one
    const cannot =
      (fault === GROSS['states another system'] && prescribed !== undefined) ||
      (fault === GROSS['states its place a twentieth of a pixel off'] && format.id === 'mbtiles');
    expect(status === 'match').toBe(cannot);
  });
});

describe('a picture in tiles', () => {
  const format = imageFormatById('geotiff')!;
  const faults: Record<string, Fault> = { ...GROSS, ...FINE };
  // a tile has other columns and rows than the whole
  faults['changes one pixel by one'] = {
    rows: changed(
      (c, r) => c === 33 && r === 22,
      (v) => (v > 100 ? v - 1 : v + 1),
    ),
  };
  faults['leaves a block of pixels grey'] = {
    rows: changed(
      (c, r) => c < 40 && r < 40,
      () => 128,
    ),
  };

  it('matches when all are as they should be', async () => {
    const proof = await proofOf(format, {}, 'EPSG:2126', '3x2');
    expect([proof.status, proof.differences]).toEqual(['match', []]);
  });

  it.each(Object.entries(faults))('is not taken for a match when the writer of one of them %s', async (_fault, fault) => {
    expect((await withFault(format, fault, () => proofOf(format, {}, NZTM, '3x2'), 4)).status).not.toBe('match');
  });

  it('is not taken for a match when one of them is wrong only where another lies over it', async () => {
    const edge: Fault = {
      rows: changed(
        (c, r) => c === 2 && r === 40,
        (v) => (v > 100 ? v - 1 : v + 1),
      ),
    };
    expect((await withFault(format, edge, () => proofOf(format, {}, NZTM, '3x2'), 1)).status).not.toBe('match');
  });

  it('is not taken for a match when one of them is missing', async () => {
    const drops: Fault = { image: (image) => ({ ...image, stem: `${image.stem}_elsewhere` }) };
    expect((await withFault(format, drops, () => proofOf(format, {}, NZTM, '3x2'), 2)).status).toBe('failed');
  });
});

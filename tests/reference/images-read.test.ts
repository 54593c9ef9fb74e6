import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { recogniseImage } from '@pontrel/core/formats/images';
import { Findings } from '@pontrel/core/model/finding';
import { SAMPLE_KINDS, type SampleType } from '@pontrel/core/model/raster';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { fileSource } from '@pontrel/host-node/files';
import { temporaryFolder } from '../server/client';
import { python } from './python';

/**
 * Every kind of TIFF and BMP that libtiff's tools (raw2tiff, tiffcp; Debian: libtiff-tools) and Pillow write, against the values that they were given.
 */
interface Made {
  width: number;
  height: number;
  made: { kind: string; way: string; file: string; lossless: boolean }[];
}

const TYPES: Record<string, [SampleType, number]> = {
  rgb: ['uint8', 3],
  grey: ['uint8', 1],
  grey16: ['uint16', 1],
  rgb16: ['uint16', 3],
  signed16: ['int16', 1],
  long: ['uint32', 1],
  float: ['float32', 1],
  float3: ['float32', 3],
  double: ['float64', 1],
  five: ['uint8', 5],
  palette: ['uint8', 1],
  bits: ['uint8', 1],
  rgba: ['uint8', 4],
};

registerNodeImageEngine();
const { folder } = temporaryFolder();
const { width, height, made } = python('make_images.py', { folder }) as Made;

describe('a picture', () => {
  it.each(made.map((m) => [`${m.kind}, ${m.way}`, m] as const))('reads %s', async (_name, { kind, file, lossless }) => {
    const [sampleType, bands] = TYPES[kind]!;
    const bytes = readFileSync(`${folder}/${kind}.bin`);
    // grey of one bit takes the whole range of a byte
    if (kind === 'bits') bytes.forEach((v, k) => (bytes[k] = 255 * v));
    const wanted = SAMPLE_KINDS[sampleType].view(new Uint8Array(bytes).buffer, 0, width * height * bands);
    const source = await fileSource(`${folder}/${file}`);
    const image = await (await recogniseImage(source))!.images.open(source, new Findings());
    try {
      expect(image.info).toMatchObject({ width, height, bands, sampleType, alpha: kind === 'rgba' });
      // windows that cut blocks, and the whole
      for (const window of [
        { x: 0, y: 0, width, height },
        { x: 37, y: 41, width: 100, height: 77 },
        { x: width - 1, y: height - 1, width: 1, height: 1 },
      ]) {
        const { data, valid } = await image.read(window);
        let [different, off] = [0, 0];
        for (let r = 0; r < window.height; r++)
          for (let c = 0; c < window.width; c++)
            for (let b = 0; b < bands; b++) {
              const a = wanted[((window.y + r) * width + window.x + c) * bands + b]!,
                own = data[(r * window.width + c) * bands + b]!;
              if (a !== own) different++;
              off += Math.abs(a - own);
            }
        if (lossless) expect(different).toBe(0);
        // one pixel may be far off where colours are stored coarsely
        else if (data.length > 1000) expect(off / data.length).toBeLessThan(5);
        if (kind === 'rgba') expect(valid === null ? data.every((v, k) => k % 4 !== 3 || v > 0) : valid.some((v) => v === 0)).toBe(true);
        else expect(valid).toBe(null);
      }
      if (kind === 'palette') expect([...image.info.palette!.subarray(0, 6)]).toEqual([0, 17, 34, 51, 68, 85]);
    } finally {
      await image.close();
    }
  });
});

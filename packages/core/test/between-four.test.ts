import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { betweenBytes, betweenWholes } from '@pontrel/core/raster/between-four';
import { halve } from '@pontrel/core/raster/halve';
import { emptyRaster, type Raster } from '@pontrel/core/model/raster';

/** A picture of random bytes, and random positions in and around it. */
const cases = fc
  .record({ width: fc.integer({ min: 1, max: 9 }), height: fc.integer({ min: 1, max: 9 }), bands: fc.integer({ min: 1, max: 4 }) })
  .chain(({ width, height, bands }) =>
    fc.record({
      raster: fc
        .uint8Array({ minLength: width * height * bands, maxLength: width * height * bands })
        .map((data): Raster => ({ width, height, bands, data, valid: null })),
      positions: fc
        .array(fc.tuple(fc.double({ min: -1, max: width + 1, noNaN: true }), fc.double({ min: -1, max: height + 1, noNaN: true })), {
          minLength: 1,
          maxLength: 20,
        })
        .map((list) => Float64Array.from([...list.flat(), NaN, 0.5])),
    }),
  );

function worked(work: typeof betweenBytes, { raster, positions }: { raster: Raster; positions: Float64Array }, alpha: boolean): Raster {
  const out = emptyRaster('uint8', positions.length / 2, 1, raster.bands);
  const moved = positions.map((v, k) => v + (k % 2 === 0 ? 100 : 200));
  work(out, moved, { window: { x: 100, y: 200, width: raster.width, height: raster.height }, raster }, alpha);
  return out;
}

describe('bytes between four pixels', () => {
  it('are those of the formula but for its rounding, at the same pixels', () => {
    fc.assert(
      fc.property(cases, (own) => {
        const [fast, plain] = [worked(betweenBytes, own, false), worked(betweenWholes, own, false)];
        expect(fast.valid).toEqual(plain.valid);
        fast.data.forEach((v, k) => expect(Math.abs(v - plain.data[k]!)).toBeLessThanOrEqual(1));
      }),
    );
  });

  it('are those of the pixel itself at its centre', () => {
    fc.assert(
      fc.property(cases, ({ raster }) => {
        const positions = Float64Array.from({ length: 2 * raster.width * raster.height }, (_, k) =>
          k % 2 === 0 ? ((k >> 1) % raster.width) + 0.5 : Math.floor((k >> 1) / raster.width) + 0.5,
        );
        expect(worked(betweenBytes, { raster, positions }, false).data).toEqual(raster.data);
      }),
    );
  });

  it('count colours by how much is seen of them where the four are not equally opaque', () => {
    fc.assert(
      fc.property(
        cases.filter(({ raster }) => raster.bands > 1),
        (own) => {
          const [fast, plain] = [worked(betweenBytes, own, true), worked(betweenWholes, own, true)];
          expect(fast.valid).toEqual(plain.valid);
          fast.data.forEach((v, k) => expect(Math.abs(v - plain.data[k]!)).toBeLessThanOrEqual(1));
        },
      ),
    );
  });
});

describe('a picture half as large', () => {
  it('has the mean of each four pixels, whether or not it has alpha', () => {
    fc.assert(
      fc.property(cases, ({ raster }) => {
        const { width, height, bands, data } = raster;
        const opaque = new Uint8Array(width * height * (bands + 1));
        for (let i = 0; i < width * height; i++) {
          opaque.set(data.subarray(i * bands, (i + 1) * bands), i * (bands + 1));
          opaque[i * (bands + 1) + bands] = 255;
        }
        const info = { nodata: null, palette: null, sampleType: 'uint8' as const };
        const plain = halve(raster, { ...info, bands, alpha: false });
        const seen = halve({ ...raster, bands: bands + 1, data: opaque }, { ...info, bands: bands + 1, alpha: true });
        for (let r = 0; r < plain.height; r++)
          for (let c = 0; c < plain.width; c++)
            for (let b = 0; b < bands; b++) {
              const four = [0, 1, 2, 3]
                .map((k) => [2 * c + (k & 1), 2 * r + (k >> 1)] as const)
                .filter(([x, y]) => x < width && y < height)
                .map(([x, y]) => data[(y * width + x) * bands + b]!);
              const mean = Math.round(four.reduce((n, v) => n + v, 0) / four.length);
              expect(plain.data[(r * plain.width + c) * bands + b]).toBe(mean);
              expect(seen.data[(r * plain.width + c) * (bands + 1) + b]).toBe(mean);
            }
      }),
    );
  });
});

import { describe, expect, it } from 'vitest';
import type { GridMap } from '@pontrel/core/raster/pixel-grid';
import { pixelUnder, qualityUnder } from '../src/deliver/SizeCurve';
import { worldLines } from '../src/deliver/WorldFile';
import { matching } from '../src/gather/AddImages';

const file = (path: string): File => Object.assign(new File(['x'], path.split('/').at(-1)!), {}) as File;
/** A file of a folder that was chosen, as a browser gives it. */
const inFolder = (path: string): File => {
  const made = file(path);
  Object.defineProperty(made, 'webkitRelativePath', { value: `flight/${path}` });
  return made;
};

describe('a folder of images', () => {
  const files = ['a_1.tif', 'a_1.tfw', 'a_2.TIF', 'b_1.tif', 'a_1.tif.aux.xml', 'notes.txt', 'more/a_3.tif', 'a_1.prj'].map(inFolder);
  const names = (list: File[]): string[] => list.map((f) => f.name);

  it('gives those that fit the mask with what says where they lie, and counts the rest', () => {
    const { images, beside, passed } = matching(files, 'a_*.tif', false);
    expect(names(images)).toEqual(['a_1.tif', 'a_2.TIF']);
    expect(names(beside)).toEqual(['a_1.tfw', 'a_1.prj']);
    expect(passed).toBe(4);
  });

  it('looks into folders within it where it is asked to', () => {
    expect(names(matching(files, '*', true).images)).toEqual(['a_1.tif', 'a_2.TIF', 'b_1.tif', 'a_3.tif']);
  });
});

describe('the pixels that keep a file under a size', () => {
  const plain = (bytes: number, limit: number): [number, number] => pixelUnder({ bytes, pieces: 1, curve: [] }, limit, [0.25, 0.25]);

  it('are so much larger that as many bytes fewer are left, rounded up', () => {
    // four times fewer pixels are twice as large, and a little more for what stands beside them
    expect(plain(80e6, 20e6)).toEqual([0.51, 0.51]);
    expect(plain(10e6, 20e6)).toEqual([0.25, 0.25]);
    expect(pixelUnder({ bytes: 40e6, pieces: 1, curve: [] }, 10e6, [0.0000031, 0.0000022])).toEqual([0.0000064, 0.0000045]);
  });

  it('go with a quality that is still good, where there is one to choose', () => {
    const curve = [30, 50, 85].map((quality) => ({ quality, bytes: quality * 1e6 }));
    expect(pixelUnder({ bytes: 5e6, pieces: 1, curve }, 12.5e6, [1, 1])).toEqual([2.1, 2.1]);
  });
});

describe('the quality that keeps a file under a size', () => {
  const curve = [
    { quality: 30, bytes: 300 },
    { quality: 50, bytes: 500 },
    { quality: 85, bytes: 1200 },
    { quality: 97, bytes: 4000 },
  ];
  const under = (limit: number): number | null => qualityUnder({ bytes: 0, pieces: 1, curve }, limit);

  it('is the largest one that does, and none where none does', () => {
    expect(under(500)).toBe(50);
    expect(under(849)).toBe(67);
    expect(under(1e9)).toBe(100);
    expect(under(10)).toBeNull();
  });
});

describe('the lines of a world file', () => {
  it('end with the centre of the first pixel (common practice, no source)', () => {
    const map: GridMap = [418_890, 0.125, 0, 819_700, 0, -0.125];
    expect(worldLines(map, 'm').map((l) => l.value)).toEqual([0.125, 0, 0, -0.125, 418_890.0625, 819_699.9375]);
  });
});

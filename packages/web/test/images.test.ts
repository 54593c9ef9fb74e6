import { describe, expect, it } from 'vitest';
import type { GridMap } from '@pontrel/core/raster/pixel-grid';
import { qualityUnder } from '../src/deliver/SizeCurve';
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

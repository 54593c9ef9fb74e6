import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { ImageProof } from '@pontrel/core/content/raster/proof';
import { runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { type Canvas, type CanvasMaker, canvasMaker, registerCanvas } from '@pontrel/core/io/canvas';
import { fileImage } from '@pontrel/host-node/file-image';
import { folderAt } from '@pontrel/host-node/files';
import { registerSkia } from '@pontrel/host-node/canvas';
import { registerNodeImageEngine } from '@pontrel/host-node/image-engine';
import { gather, sourceOf } from '../reference/cross-file';
import { python } from '../reference/python';
import { temporaryFolder } from '../server/client';

/** Faults of what draws a map: none of them may end in a match. */
const laid = vi.hoisted(() => ({ over: true }));
vi.mock(import('@pontrel/core/content/map/lay-over'), async (original) => {
  const real = await original();
  return {
    layOver: (raster, drawn, alpha) => real.layOver(raster, laid.over ? drawn : new Uint8ClampedArray(drawn.length), alpha),
  };
});

registerNodeImageEngine();
registerSkia();
const { folder, remove } = temporaryFolder();
afterAll(remove);
const drawing = path.join(folder, 'site.dxf');
const { records } = python<{ records: number }>('make_map_drawing.py', { file: drawing });
python('make_ground.py', {
  pictures: [{ kind: 'texture', stem: `${folder}/ground`, size: [420, 330], origin: [1_463_980, 5_101_100], pixel: [0.5, 0.5], seed: 3 }],
});
const gathered = await gather(drawing);
let runs = 0;

async function proofOf(format: string, below: boolean): Promise<ImageProof> {
  const own = path.join(folder, `run${runs++}`);
  mkdirSync(own);
  const deliverable = {
    id: 'd',
    name: 'map',
    format,
    crs: 'EPSG:2193',
    grouping: 'kind' as const,
    image: { resampling: 'bilinear' as const, drawn: { scale: 500, dpi: 120 } },
  };
  const source = sourceOf(gathered);
  const placement = { crs: 'EPSG:2193', unit_m: null };
  const recipe: Recipe = {
    ...EMPTY_RECIPE,
    frame: { crs: 'EPSG:2193' },
    sources: { 'site.dxf': { placement, layers: {} }, 'ground.tif': { placement, layers: {} } },
    deliverables: [deliverable],
  };
  const images = below ? [fileImage({ source: 'ground.tif', name: 'ground.tif', file: `${folder}/ground.tif`, format: 'geotiff' })] : [];
  return (await runImageDeliverable(recipe, deliverable, images, folderAt(own), { records: [source] })).proof;
}

/** A canvas that does something else with what it is asked to draw. */
function drawingOtherwise(otherwise: (real: Canvas, n: () => number) => Partial<Canvas>): void {
  const real = canvasMaker();
  let count = 0;
  const maker: CanvasMaker = {
    lengthOf: (text) => real.lengthOf(text),
    create: (...size) => {
      const canvas = real.create(...size);
      const faulty = otherwise(canvas, () => count++);
      return {
        line: (...a) => canvas.line(...a),
        area: (...a) => canvas.area(...a),
        letters: (...a) => canvas.letters(...a),
        pixels: () => canvas.pixels(),
        ...faulty,
        over: (other) => canvas.over((other as Canvas & { real?: Canvas }).real ?? other),
        real: canvas,
      } as Canvas;
    },
  };
  registerCanvas(maker);
}

const FORMATS = ['png', 'geotiff', 'jpeg'];

describe.each([
  ['on a white sheet', false],
  ['over an image', true],
])('a map %s', (_, below) => {
  beforeEach(() => {
    registerSkia();
    laid.over = true;
  });
  afterEach(() => registerSkia());

  it.each(FORMATS)('that is drawn as it should be matches: %s', async (format) => {
    const proof = await proofOf(format, below);
    expect(proof.differences.filter((d) => !d.expected)).toEqual([]);
    expect(proof.status).toBe('match');
    expect(proof.drawn!.records).toEqual({ drawn: records, unseen: 0 });
  });

  it.each([
    [
      'leaves out every fifteenth line',
      (real: Canvas, n: () => number): Partial<Canvas> => ({ line: (...a) => void (n() % 15 === 0 || real.line(...a)) }),
    ],
    ['leaves out all lettering', (): Partial<Canvas> => ({ letters: () => {} })],
    [
      'draws lines four pixels further to the right',
      (real: Canvas): Partial<Canvas> => ({
        line: (p, pen, closed) =>
          real.line(
            p.map((v, k) => v + (k % 2 === 0 ? 4 : 0)),
            { ...pen, width: 1 },
            closed,
          ),
      }),
    ],
    [
      'draws lines that can hardly be seen',
      (real: Canvas): Partial<Canvas> => ({ line: (p, pen, closed) => real.line(p, { ...pen, opacity: 0.04 }, closed) }),
    ],
  ])('whose painter %s is found out', async (__, otherwise) => {
    drawingOtherwise(otherwise);
    const proof = await proofOf('png', below);
    expect(proof.status).toBe('differs');
    expect(proof.differences.map((d) => d.code)).toContain('records');
  });

  it.each(FORMATS)('whose drawing never comes onto the picture is found out: %s', async (format) => {
    laid.over = false;
    const proof = await proofOf(format, below);
    expect(proof.status).toBe('differs');
    expect(proof.differences.map((d) => d.code)).toContain('drawing');
  });
});

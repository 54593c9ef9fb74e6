import type { FolderSink, FolderSource } from '../../io/bytes';
import type { OptionValues } from '../../formats/format-option';
import { Findings } from '../../model/finding';
import { emptyRaster, type PixelWindow, type Raster } from '../../model/raster';
import { put } from '../../raster/warp';
import type { ImagePlan } from './plan';
import { expectedWindow } from './expected';
import { appendAll } from './write';

/** Pixels along a side of a piece by which the size of a file is estimated; tiles of a TIFF are as large. */
const SIDE = 512;

/** Pieces spread over a picture, below one another in one raster. */
export async function samplePieces(plan: ImagePlan, most: number): Promise<Raster> {
  const { width, height, bands, sampleType } = plan.target.info;
  const [w, h] = [Math.min(SIDE, width), Math.min(SIDE, height)];
  const [across, down] = [Math.ceil(width / w), Math.ceil(height / h)];
  const count = Math.min(most, across * down);
  // as many along each side as the picture is long there
  const nx = Math.max(1, Math.min(across, Math.round(Math.sqrt((count * across) / down)))),
    ny = Math.max(1, Math.min(down, Math.floor(count / nx)));
  const out = emptyRaster(sampleType, w, h * nx * ny, bands);
  out.valid = null;
  const whole = { x: 0, y: 0, width: w, height: h * nx * ny };
  for (let j = 0; j < ny; j++)
    for (let k = 0; k < nx; k++) {
      const x = Math.round(((k + 0.5) / nx) * width - w / 2),
        y = Math.round(((j + 0.5) / ny) * height - h / 2);
      const window = { x: Math.min(width - w, Math.max(0, x)), y: Math.min(height - h, Math.max(0, y)), width: w, height: h };
      const { raster } = await expectedWindow(plan, window);
      put(out, whole, { ...raster, valid: null }, { x: 0, y: (j * nx + k) * h, width: w, height: h });
    }
  return out;
}

/** Writes a raster as the format of a plan would, with these options. @returns the bytes of all of its files */
async function writePiece(
  plan: ImagePlan,
  piece: Raster,
  options: OptionValues,
  folder: FolderSink & FolderSource,
  stem: string,
): Promise<number> {
  const { target, single } = plan;
  const { write } = single.images;
  const info = { ...target.info, width: piece.width, height: piece.height };
  const writer = await write!.create(folder, { ...target, info, grid: { ...target.grid, ...info }, stem, options });
  await appendAll(writer, piece);
  await writer.close();
  const sizes = await Promise.all(write!.files(stem, options).map(async (name) => (await folder.open(name)).size));
  return sizes.reduce((n, s) => n + s, 0);
}

/**
 * About how many bytes the files of a picture will have, by pieces of it that are really packed.
 * @param pieces as {@link samplePieces} gives them
 * @param folder a temporary one
 */
export async function estimatedBytes(
  plan: ImagePlan,
  pieces: Raster,
  options: OptionValues,
  folder: FolderSink & FolderSource,
  stem: string,
): Promise<number> {
  const bytes = await writePiece(plan, pieces, options, folder, stem);
  const { width, height } = plan.target.info;
  return Math.round((bytes * width * height) / (pieces.width * pieces.height));
}

/** A piece of a picture as it is to be, and as it is once it was packed and unpacked. @param folder a temporary one */
export async function pieceAsWritten(
  plan: ImagePlan,
  window: PixelWindow,
  options: OptionValues,
  folder: FolderSink & FolderSource,
): Promise<{ expected: Raster; written: Raster; bytes: number }> {
  const { raster: expected } = await expectedWindow(plan, window);
  const bytes = await writePiece(plan, { ...expected, valid: null }, options, folder, 'piece');
  const shown = await plan.single.images.write!.readBack(folder, { stem: 'piece', options }, new Findings());
  try {
    const written = await shown.read({ x: 0, y: 0, width: window.width, height: window.height });
    return { expected, written, bytes };
  } finally {
    await shown.close();
  }
}

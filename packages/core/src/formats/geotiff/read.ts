import type { Crs } from '../../crs/crs';
import type { ByteSource } from '../../io/bytes';
import { imageEngine } from '../../io/image-engine';
import { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { PixelWindow, Raster } from '../../model/raster';
import type { GridMap } from '../../raster/pixel-grid';
import { extensionOf } from '../extension';
import type { Georeference, OpenImage } from '../image-face';
import { tellDamage } from '../picture/damage';
import { dateOf } from '../picture/date-made';
import { worldFileBeside } from '../picture/world-file';
import { prjBeside } from '../prj';
import { Blocks } from './blocks';
import { readGeoKeys } from './geo-keys';
import { type Layout, layoutOf, needsEngine, PACKINGS } from './layout';
import { type Directory, readDirectories, TAG } from './structure';

/** Bits of NewSubfileType. Source: TIFF 6.0. */
const [REDUCED, MASK] = [1, 4];

/**
 * Opens a TIFF. Its first directory is the picture; those after it may be the same picture smaller, or its mask.
 * @throws Problem `tiff-damaged`, `image-unread`, `world-file-damaged`, `image-damaged`, `image-too-large`
 */
export async function openTiff(source: ByteSource, findings: Findings): Promise<OpenImage> {
  const file = await readDirectories(source);
  const [first, ...others] = file.directories as [Directory, ...Directory[]];
  const subfile = (d: Directory): number => d.number(TAG.subfileType) ?? 0;
  const pages = others.filter((d) => (subfile(d) & (REDUCED | MASK)) === 0).length;
  if (pages > 0)
    findings.add({
      code: 'image-pages',
      severity: 'caution',
      message: 'Only the first picture of the file is read; save the others as files of their own.',
      count: pages,
    });
  if ((first.number(TAG.orientation) ?? 1) !== 1)
    findings.add({
      code: 'image-orientation',
      severity: 'caution',
      message: 'The file says that its picture is to be shown turned or mirrored; it is read as its pixels are stored.',
      count: 1,
    });
  const where = await georeference(source, first, findings);
  const own = await pixelsOf(source, first, file.littleEndian, findings);
  const bits = first.number(TAG.bitsPerSample) ?? 1;
  if (bits < 8 && !own.layout.info.palette)
    findings.add({
      code: 'bits-stretched',
      severity: 'info',
      message: `Grey of ${bits} ${bits === 1 ? 'bit' : 'bits'} becomes grey of 8 bits, from 0 to 255.`,
      count: 1,
    });
  const masked = others.find((d) => (subfile(d) & MASK) !== 0 && (subfile(d) & REDUCED) === 0);
  const mask = masked
    ? await maskOf(source, masked, own.layout, file.littleEndian).catch(async (error: unknown) => {
        await own.close();
        throw error;
      })
    : null;
  const { layout } = own;
  const date = dateOf(first);
  return {
    info: { ...layout.info, masked: mask !== null },
    where: where.grid ? { ...where, grid: { ...where.grid, width: layout.info.width, height: layout.info.height } } : where,
    version: versionOf(first, file.big, layout),
    unpacked: needsEngine(first),
    ...(date === null ? {} : { date }),
    read: async (window) => {
      const raster = await own.blocks.read(window);
      return mask ? { ...raster, valid: await both(raster, mask.blocks, window) } : raster;
    },
    close: async () => {
      await own.close();
      await mask?.close();
    },
  };
}

interface Pixels {
  layout: Layout;
  blocks: Blocks;
  close(): Promise<void>;
}

async function pixelsOf(source: ByteSource, directory: Directory, littleEndian: boolean, findings: Findings): Promise<Pixels> {
  if (!needsEngine(directory)) {
    const layout = layoutOf(directory, source);
    const blocks = new Blocks(source, layout, littleEndian);
    return { layout, blocks, close: async () => blocks.close() };
  }
  const unpacked = await imageEngine().unpacked(source);
  tellDamage(unpacked.damage, findings);
  try {
    const inside = await readDirectories(unpacked.source);
    const layout = layoutOf(inside.directories[0]!, unpacked.source);
    const [width, height] = [directory.number(TAG.width), directory.number(TAG.height)];
    if (layout.info.width !== width || layout.info.height !== height)
      throw new Problem(
        'tiff-damaged',
        `${source.name} is damaged: it says that it is ${width} by ${height} pixels, and holds ${layout.info.width} by ${layout.info.height}.`,
        {
          file: source.name,
        },
      );
    const blocks = new Blocks(unpacked.source, layout, inside.littleEndian);
    return {
      layout,
      blocks,
      close: async () => {
        blocks.close();
        await unpacked.remove();
      },
    };
  } catch (error) {
    await unpacked.remove();
    throw error;
  }
}

async function maskOf(source: ByteSource, directory: Directory, { info }: Layout, littleEndian: boolean): Promise<Pixels | null> {
  const same = directory.number(TAG.width) === info.width && directory.number(TAG.height) === info.height;
  return same ? pixelsOf(source, directory, littleEndian, new Findings()) : null;
}

async function both(raster: Raster, mask: Blocks, window: PixelWindow): Promise<Uint8Array> {
  const { data } = await mask.read(window);
  const valid = raster.valid ?? new Uint8Array(data.length).fill(1);
  for (let i = 0; i < valid.length; i++) if (data[i] === 0) valid[i] = 0;
  return valid;
}

function versionOf(directory: Directory, big: boolean, { blockWidth, blockHeight, info }: Layout): string {
  const packing = PACKINGS[directory.number(TAG.compression) ?? 1]!.name;
  const tiled = directory.numbers(TAG.tileOffsets)
    ? `tiles of ${blockWidth} by ${blockHeight}`
    : `strips of ${Math.min(blockHeight, info.height)} rows`;
  return `${big ? 'BigTIFF, ' : ''}${packing === 'none' ? 'not packed' : packing}, ${tiled}`;
}

/** Where a TIFF lies. @throws Problem `tiff-damaged`, `world-file-damaged` */
export async function locateTiff(source: ByteSource, findings: Findings): Promise<Georeference> {
  const { directories } = await readDirectories(source);
  return georeference(source, directories[0]!, findings);
}

/** What the tags say of where it lies, and where they do not, a world file and a .prj beside it. */
export async function georeference(source: ByteSource, directory: Directory, findings: Findings): Promise<Georeference> {
  const keys = readGeoKeys(directory);
  const tagged = mapOf(directory, keys.pixelIsPoint);
  const beside = await worldFileBeside(source, extensionOf(source.name) || '.tif');
  if (tagged.map && beside) tellDifference(tagged.map, beside, directory, findings);
  const map = tagged.map ?? (tagged.pairs ? null : (beside?.map ?? null));
  const { crs, text } = keys.crs ? { crs: keys.crs, text: keys.text } : await statedBeside(source, keys.text, findings);
  return { grid: map && { map, width: 0, height: 0 }, pairs: tagged.pairs, crs, crsText: text };
}

async function statedBeside(
  source: ByteSource,
  keys: string | null,
  findings: Findings,
): Promise<{ crs: Crs | null; text: string | null }> {
  const prj = await prjBeside(source);
  if (keys !== null && !prj.crs)
    findings.add({
      code: 'crs-not-understood',
      severity: 'caution',
      message: `Its keys state a system that is not understood (${keys.slice(0, 200)}). Choose it in Place.`,
      count: 1,
    });
  if (prj.error !== null) findings.add({ code: 'crs-not-understood', severity: 'caution', message: prj.error, count: 1 });
  return { crs: prj.crs, text: prj.text ?? keys };
}

/** Source: OGC 19-008r4, annex B (the map from raster to model space). */
function mapOf(directory: Directory, pixelIsPoint: boolean): { map: GridMap | null; pairs: Georeference['pairs'] } {
  // raster space has its origin at the centre of the first pixel, or at its corner
  const shift = pixelIsPoint ? 0.5 : 0;
  const finite = (map: GridMap): GridMap | null => (map.every(Number.isFinite) && map[1] * map[5] - map[2] * map[4] !== 0 ? map : null);
  const t = directory.numbers(TAG.transformation);
  if (t && t.length >= 8) {
    const [a, b, , d, e, f, , h] = t as unknown as number[];
    return { map: finite([d! - shift * (a! + b!), a!, b!, h! - shift * (e! + f!), e!, f!]), pairs: null };
  }
  const ties = directory.numbers(TAG.tiePoints),
    scale = directory.numbers(TAG.pixelScale);
  if (ties && ties.length >= 6 && scale && scale.length >= 2) {
    const [i, j, , x, y] = ties as unknown as number[];
    const [sx, sy] = scale as unknown as number[];
    return { map: finite([x! - (i! + shift) * sx!, sx!, 0, y! + (j! + shift) * sy!, 0, -sy!]), pairs: null };
  }
  if (ties && ties.length >= 18) {
    const pairs = Array.from({ length: Math.floor(ties.length / 6) }, (_, k) => {
      const [i, j, , x, y] = ties.subarray(6 * k, 6 * k + 6) as unknown as number[];
      return { from: [i! + shift, -(j! + shift)] as [number, number], to: [x!, y!] as [number, number] };
    });
    return { map: null, pairs: pairs.every((p) => [...p.from, ...p.to].every(Number.isFinite)) ? pairs : null };
  }
  return { map: null, pairs: null };
}

/** A world file that says something else than the tags is told, since other programs may follow it. */
function tellDifference(tags: GridMap, beside: { map: GridMap; name: string }, directory: Directory, findings: Findings): void {
  const [w, h] = [directory.number(TAG.width) ?? 0, directory.number(TAG.height) ?? 0];
  const size = Math.hypot(tags[1], tags[4]);
  const off = Math.max(
    ...[
      [0, 0],
      [w, 0],
      [w, h],
      [0, h],
    ].map(([c, r]) =>
      Math.hypot(
        ...[0, 3].map(
          (k) => tags[k]! - beside.map[k]! + (tags[k + 1]! - beside.map[k + 1]!) * c! + (tags[k + 2]! - beside.map[k + 2]!) * r!,
        ),
      ),
    ),
  );
  if (off > 0.05 * size)
    findings.add({
      code: 'world-file-differs',
      severity: 'caution',
      message: `${beside.name} says that it lies up to ${(off / size).toPrecision(2)} pixels elsewhere than its own tags say. The tags are taken.`,
      count: 1,
    });
}

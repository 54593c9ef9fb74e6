import path from 'node:path';
import { writeFile } from 'node:fs/promises';
import { differenceOf } from '@pontrel/core/content/raster/plan';
import { mosaicLayout } from '@pontrel/core/content/raster/mosaic';
import { gridOf, type ImageMember, type ImageProfile, type Overlap, storedInfo } from '@pontrel/core/content/raster/profile';
import { writePyramid } from '@pontrel/core/content/raster/pyramid';
import type { Crs } from '@pontrel/core/crs/crs';
import { sameSystem } from '@pontrel/core/crs/registry/identify';
import { recogniseAny } from '@pontrel/core/formats/every-format';
import type { OpenImage } from '@pontrel/core/formats/image-face';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import type { ImageInfo, Raster } from '@pontrel/core/model/raster';
import { type Finding, Findings } from '@pontrel/core/model/finding';
import { Problem } from '@pontrel/core/model/problem';
import { gridOver, pixelSize } from '@pontrel/core/raster/pixel-grid';
import { folderAt } from '@pontrel/host-node/files';
import { picturedAsWebp, samplesOf } from '../tiles/image-tile';
import { type ImageFiles, openMember, pyramidFile, THUMBNAIL_FILE } from './image-files';
import { type ReadResult, statedFacts } from './read-source';
import { type Progress, watchOver } from './watch';

/** Pixels of the picture on a card. */
const THUMBNAIL = { width: 440, height: 264 };

/** Reads the pictures of a source from end to end: what they are, how their values lie, and smaller pictures of them for the map. */
export async function readImages(files: ImageFiles, report: (progress: Progress) => void): Promise<ReadResult> {
  const members: ImageMember[] = [];
  const findings = new Findings();
  let first: { crs: Crs | null; crsText: string | null; pairs: ImageMember['pairs']; info: ImageInfo; placed: boolean } | null = null;
  let format = '';
  for (const [k, member] of files.members.entries()) {
    const { name } = member;
    const source = await openMember(files.folder, k, member);
    const own = await recogniseAny(source);
    if (!own.images) throw new Problem('image-unread', `${name} is no picture.`, { file: name });
    const told = new Findings();
    const image = await own.images.open(source, told);
    try {
      const { info, where, version, unpacked, date } = image;
      const phase = files.members.length > 1 ? `Reading ${k + 1} of ${files.members.length}` : 'Reading';
      const summed = await writePyramid(
        image,
        await folderAt(files.folder).create(path.basename(pyramidFile(files.folder, k))),
        watchOver(report, phase),
      );
      const pairs = where.pairs && where.pairs.map((p) => ({ from: [...p.from] as [number, number], to: [...p.to] as [number, number] }));
      members.push({
        name,
        format: own.id,
        bytes: source.size,
        version,
        ...(date === undefined ? {} : { date }),
        info: storedInfo(info),
        map: where.grid?.map ?? null,
        pairs,
        bands: summed.bands,
        empty: summed.empty,
        unfit: first && unfitOf(first, { info, where }),
        unpacked,
      });
      first ??= { crs: where.crs, crsText: where.crsText, pairs, info, placed: where.grid !== null };
      if (format === '') format = own.id;
      for (const finding of told.list())
        findings.add(files.members.length > 1 ? { ...finding, message: `${name}: ${finding.message}` } : finding);
    } finally {
      await image.close();
    }
  }
  const { crs, crsText, pairs } = first!;
  const profile = await mosaicOf(files.folder, members);
  for (const finding of mosaicFindings(profile)) findings.add(finding);
  await writeFile(path.join(files.folder, THUMBNAIL_FILE), await picturedAsWebp(files.folder, members, THUMBNAIL));
  return {
    format,
    facts: {
      ...statedFacts(crs, crsText),
      ...(pairs ? { fit: { kind: 'affine', pairs } } : {}),
      unit: null,
      version: members[0]!.version,
      outliers: { count: 0, records: [] },
      core: null,
      images: profile,
    },
    layers: [],
    findings: findings.list(),
  };
}

/** Why a picture cannot be one with the first of its source; null where it can. */
function unfitOf(
  first: { crs: Crs | null; info: ImageInfo; placed: boolean },
  { info, where }: Pick<OpenImage, 'info' | 'where'>,
): string | null {
  const difference = differenceOf(first.info, info);
  if (difference !== null) return difference;
  if (where.grid === null && first.placed) return 'does not say where it lies';
  const same = where.crs === first.crs || (where.crs !== null && first.crs !== null && sameSystem(where.crs, first.crs));
  return same ? null : `states ${where.crs?.id ?? where.crs?.name ?? 'no system'} and not ${first.crs?.id ?? first.crs?.name ?? 'none'}`;
}

/** What a person should know of the tiles of a mosaic as a whole. */
function mosaicFindings({ members, overlaps, gaps }: ImageProfile): Finding[] {
  if (members.length < 2) return [];
  const findings: Finding[] = [];
  const unfit = members.filter((m) => m.unfit !== null);
  if (unfit.length > 0)
    findings.push({
      code: 'mosaic-unfit',
      severity: 'wrong',
      message: `${unfit.map((m) => `${m.name} ${m.unfit}`).join('; ')}. It is not taken with the others: remove it here and drop it by itself.`,
      count: unfit.length,
    });
  const fit = members.filter((m) => m.unfit === null);
  const sizes = fit.map((m) => pixelSize(gridOf(m))[0]);
  const [least, most] = [Math.min(...sizes), Math.max(...sizes)];
  if (most > least * 1.001)
    findings.push({
      code: 'mosaic-pixel-sizes',
      severity: 'info',
      message: `Its pictures have pixels from ${Number(least.toPrecision(4))} to ${Number(most.toPrecision(4))} units; they are brought to one size.`,
      count: fit.filter((_, k) => sizes[k]! > least * 1.001).length,
    });
  if (gaps.length > 0)
    findings.push({
      code: 'mosaic-gaps',
      severity: 'caution',
      message: [
        `Between its pictures there is none in ${gaps.length === 1 ? 'a place' : `${gaps.length} places`};`,
        `the largest is ${sized(largest(gaps))} units.`,
      ].join(' '),
      count: gaps.length,
    });
  const uneven = overlaps.filter((o) => brightest(o) >= UNEVEN);
  if (uneven.length > 0)
    findings.push({
      code: 'mosaic-uneven',
      severity: 'caution',
      message: [
        'Where they lie over each other, pictures differ in brightness',
        `by up to ${Math.round(Math.max(...uneven.map(brightest)))} of 255. They can be matched.`,
      ].join(' '),
      count: uneven.length,
    });
  return findings;
}

/** Values of 8 bits from which on a seam is seen; common practice, no source. */
const UNEVEN = 6;

const brightest = ({ brighter }: Overlap): number => Math.max(0, ...(brighter ?? []).map(Math.abs));

const largest = (boxes: readonly Bounds[]): Bounds =>
  boxes.reduce((a, b) => ((a[2] - a[0]) * (a[3] - a[1]) >= (b[2] - b[0]) * (b[3] - b[1]) ? a : b));

const sized = (b: Bounds): string => `${Number((b[2] - b[0]).toPrecision(4))} by ${Number((b[3] - b[1]).toPrecision(4))}`;

/** Pixels along a side by which an overlap is looked at. */
const LOOKED_AT = 96;

/** The pictures of a source with where they lie over each other and where between them there is none. */
async function mosaicOf(folder: string, members: ImageMember[]): Promise<ImageProfile> {
  const fit = members.filter((m) => m.unfit === null && m.map !== null);
  if (fit.length < 2) return { members, overlaps: [], gaps: [] };
  const { overlaps, gaps } = mosaicLayout(fit);
  const compared: Overlap[] = [];
  for (const { a, b, box } of overlaps) {
    const size = Math.max(box[2] - box[0], box[3] - box[1]) / LOOKED_AT;
    const [of, other] = await Promise.all([a, b].map((m) => samplesOf(folder, members, m, gridOver(box, [size, size]))));
    compared.push({ a: a.name, b: b.name, box, brighter: brighterBy(of!, other!) });
  }
  return { members, overlaps: compared, gaps };
}

/** By how much one piece is brighter than another, band by band, where both have values; null where they nowhere have. */
function brighterBy(a: Raster, b: Raster): number[] | null {
  const sums = new Float64Array(a.bands - 1);
  let seen = 0;
  for (let i = 0; i < a.width * a.height; i++) {
    if ((a.valid && !a.valid[i]) || (b.valid && !b.valid[i])) continue;
    seen++;
    for (let k = 0; k < sums.length; k++) sums[k]! += b.data[i * b.bands + k]! - a.data[i * a.bands + k]!;
  }
  return seen === 0 ? null : [...sums].map((s) => Number((s / seen).toFixed(2)));
}

import { HEADER_BYTES, RECORD_HEADER_BYTES } from './shapes';
import type { FolderSource } from '../../io/bytes';
import type { Finding } from '../../model/finding';
import type { FeatureFormat, OpenSource, TargetSet } from '../format';
import { createShapefiles, vertexBytes, MOST_BYTES, partName } from './write';
import { openShapefile } from './read';
import { chained } from './chained';
import { hasSheet, sheetFindings, SLD_LOOKS, STYLE } from '../styles';
import { SIDECAR } from './sidecar';

/** Shapefile sets. Source: "Shapefile Technical Description", 1998; limits of the table: dBASE III. */
export const shapefile: FeatureFormat = {
  id: 'shapefile',
  name: 'Shapefile',
  extensions: ['.shp'],
  companions: ['.shx', '.dbf', '.prj', '.cpg', STYLE, SIDECAR],
  sniff: (head, name) =>
    /\.shp$/i.test(name) ||
    (!/\.shx$/i.test(name) && head.length >= 4 && head[0] === 0 && head[1] === 0 && head[2] === 0x27 && head[3] === 0x0a),
  features: {
    counts: 'record',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: true,
      oneFile: false,
      curves: false,
      heights: true,
      measures: true,
      verticalSystem: true,
      symbology: false,
      fieldNames: { maxBytes: 10, caseMatters: false, valid: /[A-Za-z0-9_\u0080-\u{10ffff}]/u, replacement: '_' },
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small' },
      setCount: 5000,
      fieldCount: 255,
      text: { maxBytes: 254 },
      number: { maxWidth: 20, maxDecimals: 15 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date'],
      maxBytes: Infinity,
    },
    readings: ['code-page'],
    open: (source, reading) => openShapefile(source, { codePage: reading?.codePage }),
    write: {
      options: [],
      symbology: () => SLD_LOOKS,
      limits: (sets) => sets.flatMap((set) => [...sheetFindings(set), ...partFindings(set)]),
      files: (sets) =>
        sets.flatMap((set, k) => [
          { name: `${set.name}.shp`, bytes: HEADER_BYTES + shapeBytes(set), sets: [k] },
          { name: `${set.name}.shx`, bytes: HEADER_BYTES + 8 * set.count, sets: [] },
          {
            name: `${set.name}.dbf`,
            bytes: 34 + 32 * set.fields.length + set.count * (1 + set.fields.reduce((sum, f) => sum + f.width, 0)),
            sets: [],
          },
          { name: `${set.name}.prj`, bytes: 420, sets: [] },
          { name: `${set.name}.cpg`, bytes: 5, sets: [] },
          ...(hasSheet(set) ? [{ name: `${set.name}${STYLE}`, bytes: 600 + 420 * set.symbology.length, sets: [] }] : []),
          {
            name: `${set.name}${SIDECAR}`,
            bytes:
              110 + set.fields.reduce((sum, f) => sum + (f.to === f.from ? 0 : f.to.length + f.from.length + 6) + (f.cut ? 400 : 0), 0),
            sets: [],
          },
        ]),
      create: createShapefiles,
      // the table is proved as it stands, without what lies beside it
      readBack: (folder, sets) => Promise.all(sets.map(async (set, k) => ({ open: await openParts(folder, set), sets: [k] }))),
      crsFindings: () => [],
    },
  },
};

function shapeBytes({ vertices, parts, ...set }: TargetSet): number {
  if (set.kind === 'none') return set.count * (RECORD_HEADER_BYTES + 4);
  if (set.kind === 'point' && !set.several) return set.count * (RECORD_HEADER_BYTES + 4 + vertexBytes(set));
  const perVertex = vertexBytes(set);
  return set.count * (RECORD_HEADER_BYTES + 44 + (set.heights ? 32 : 0)) + 4 * parts + perVertex * vertices;
}

/** All parts of a set, one after the other, as they stand. */
async function openParts(folder: FolderSource, { name, measures }: TargetSet): Promise<OpenSource> {
  const parts: OpenSource[] = [];
  for (let part = 1; part === 1 || (await folder.has(`${partName(name, part)}.shp`)); part++)
    parts.push(await openShapefile(await folder.open(`${partName(name, part)}.shp`), { bare: true, measures }));
  return chained(parts);
}

function partFindings(set: TargetSet): Finding[] {
  const largest = Math.max(HEADER_BYTES + shapeBytes(set), set.count * (1 + set.fields.reduce((sum, f) => sum + f.width, 0)));
  const parts = Math.ceil(largest / MOST_BYTES);
  return parts > 1
    ? [
        {
          code: 'shp-parts',
          severity: 'info',
          message: `It will be in about ${parts} parts, as no file of a shapefile may be larger than 2 GB.`,
          count: parts,
          location: set.name,
        },
      ]
    : [];
}

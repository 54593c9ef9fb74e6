import type { FeatureFormat, TargetSet } from '../format';
import { lettersOf } from '../../io/letters';
import { WGS84 } from '../globe';
import { openGpx } from './read';
import { createGpx, fileNameOf } from './write';

/** GPX 1.1. Source: the GPX 1.1 schema, 2004. */
export const gpx: FeatureFormat = {
  id: 'gpx',
  name: 'GPX',
  extensions: ['.gpx'],
  companions: [],
  sniff: (head) => /<(\w+:)?gpx[\s>]/.test(lettersOf(head)),
  features: {
    counts: 'record',
    carries: {
      // a way has no inside
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'line', none: null },
      oneKindPerSet: true,
      oneFile: false,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: false,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldCount: Infinity,
      text: { maxBytes: Infinity, xml: true },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean'],
      fieldsByRecord: true,
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openGpx(source)),
    write: {
      options: [],
      prescribedCrs: () => WGS84,
      rounding_m: () => 0.0001,
      files: (sets) => sets.map((set, k) => ({ name: fileNameOf(set), bytes: 240 + wayBytes(set), sets: [k] })),
      create: createGpx,
      readBack: (folder, sets) =>
        Promise.all(sets.map(async (set, k) => ({ open: openGpx(await folder.open(fileNameOf(set))), sets: [k] }))),
      crsFindings: () => [],
    },
  },
};

/** Bytes of a way around its data, of a field besides its value, and of a vertex: measured, roughly. */
const WAY_BYTES = 90,
  FIELD_BYTES = 44,
  VERTEX_BYTES = 54;

function wayBytes(set: TargetSet): number {
  return (
    set.count * (WAY_BYTES + set.fields.reduce((n, f) => n + FIELD_BYTES + f.to.length + f.width / 2, 0)) + set.vertices * VERTEX_BYTES
  );
}

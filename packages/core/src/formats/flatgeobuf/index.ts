import type { FeatureFormat, TargetSet } from '../format';
import { MAGIC } from './layout';
import { openFlatGeobuf } from './read';
import { createFlatGeobuf } from './write';

/** FlatGeobuf. Source: FlatGeobuf specification, version 3. */
export const flatgeobuf: FeatureFormat = {
  id: 'flatgeobuf',
  name: 'FlatGeobuf',
  extensions: ['.fgb'],
  companions: [],
  sniff: (head) => MAGIC.slice(0, 3).every((v, k) => head[k] === v && head[k + 4] === v),
  features: {
    counts: 'feature',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: true,
      oneFile: false,
      curves: false,
      heights: true,
      measures: true,
      verticalSystem: true,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      // columns are counted in 16 bits
      fieldCount: 65_535,
      text: { maxBytes: Infinity },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date', 'datetime', 'bytes'],
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openFlatGeobuf(source)),
    write: {
      options: [],
      files: (sets) => sets.map((set, k) => ({ name: `${set.name}.fgb`, bytes: 1400 + featureBytes(set), sets: [k] })),
      create: createFlatGeobuf,
      readBack: (folder, sets) =>
        Promise.all(sets.map(async (set, k) => ({ open: openFlatGeobuf(await folder.open(`${set.name}.fgb`)), sets: [k] }))),
      crsFindings: () => [],
    },
  },
};

/** Bytes of a feature around its data, and of a value besides itself: measured, roughly. */
const FEATURE_BYTES = 80,
  VALUE_BYTES = 6;

function featureBytes(set: TargetSet): number {
  return (
    set.count * (FEATURE_BYTES + set.fields.reduce((n, f) => n + VALUE_BYTES + (f.type === 'text' ? f.width / 2 : 8), 0)) +
    set.vertices * (16 + (set.heights ? 8 : 0) + (set.measures ? 8 : 0))
  );
}

import type { FeatureFormat } from '../format';
import { lettersOf } from '../../io/letters';
import { openTopoJson } from './read';

/** TopoJSON, which is only read. Source: "The TopoJSON FeatureFormat Specification", 1.0. */
export const topojson: FeatureFormat = {
  id: 'topojson',
  name: 'TopoJSON',
  extensions: ['.topojson'],
  companions: [],
  sniff: (head) => /^\s*\{[^]*"type"\s*:\s*"Topology"/.test(lettersOf(head)),
  features: {
    counts: 'feature',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: false,
      oneFile: true,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: false,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldCount: Infinity,
      text: { maxBytes: Infinity },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean'],
      typesByValue: true,
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openTopoJson(source)),
  },
};

import { lettersOf } from '../../io/letters';
import type { FeatureFormat } from '../format';
import { openLandXml } from './read';

/** LandXML 1.2: points, surfaces, parcels, alignments and pipe networks; it is only read. Source: LandXML-1.2.xsd, 2008; from memory. */
export const landxml: FeatureFormat = {
  id: 'landxml',
  name: 'LandXML',
  extensions: ['.landxml'],
  companions: [],
  sniff: (head) => /<(\w+:)?LandXML[\s>]/.test(lettersOf(head)),
  features: {
    counts: 'record',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: false,
      oneFile: true,
      curves: true,
      heights: true,
      measures: false,
      verticalSystem: false,
      symbology: false,
      setNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldCount: Infinity,
      text: { maxBytes: Infinity, xml: true },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean'],
      fieldsByRecord: true,
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openLandXml(source)),
  },
};

import type { Format, SourceFacts } from '../format';
import { type DrawingFacts, readDxf, refuseOtherKinds } from './read';
import { statedBy } from './geo-location';
import { DRAWING_UNITS } from './units';
import { VERSIONS } from './header';

/** Drawing exchange format, ASCII and binary. Source: DXF Reference, as published for R12 to R2018. */
export const dxf: Format = {
  id: 'dxf',
  name: 'DXF drawing',
  extensions: ['.dxf', '.dwg'], // a DWG is taken in only to be told what to do instead
  companions: [],
  carries: {
    kinds: { point: 'point', line: 'line', polygon: 'polygon', text: 'text' },
    oneKindPerSet: false, curves: true, heights: true, symbology: true,
    fieldNames: { maxBytes: 255, caseMatters: true, valid: /[^\s]/u, replacement: '_' },
    fieldCount: Infinity, text: { maxBytes: 2049 }, number: { maxWidth: 24, maxDecimals: 17 }, types: ['text', 'integer', 'decimal'], maxBytes: Infinity,
  },
  sniff(head) {
    const text = new TextDecoder('latin1').decode(head.subarray(0, 512));
    return /^(\xef\xbb\xbf)?\s*(999\s*\r?\n[^\n]*\n\s*)*0\s*\r?\n\s*SECTION/.test(text) || /^AC1\d{3}/.test(text) || /^\S+ Binary DXF/.test(text);
  },
  refuse: refuseOtherKinds,
  open: (source) => {
    let facts: DrawingFacts | null = null;
    return Promise.resolve({
      read: (findings, watch) => readDxf(source, findings, watch, { facts: (f) => (facts = f) }),
      library: () => facts?.library ?? null,
      facts: (): SourceFacts => ({
        ...(facts?.geo ? statedBy(facts.geo) : { crs: null, crsText: null }),
        unit: facts ? (DRAWING_UNITS[facts.header.units] ?? null) : null,
        version: facts ? (VERSIONS[facts.header.version] ?? facts.header.version) : null,
      }),
    });
  },
};

import type { FeatureFormat, TargetSet } from '../format';
import { lettersOf } from '../../io/letters';
import { openGml } from './read';
import { GEOMETRY } from './schema';
import { srsNameOf } from './srs-name';
import { createGml } from './write';

/** Letters, digits and marks of a name in XML, and what it may begin with. Source: Namespaces in XML 1.0, section 3 (NCName). */
const LETTER = /[\p{L}\p{Nd}_.-]/u,
  FIRST = /^[\p{L}_]/u;

/** GML. Source: OGC 07-036 (3.2.1); OGC 10-100r3 (simple features profile) for what is written; OGC 02-069 and 03-105r1 for older files. */
export const gml: FeatureFormat = {
  id: 'gml',
  name: 'GML',
  extensions: ['.gml'],
  companions: ['.xsd'],
  sniff: (head) =>
    /opengis\.net\/(gml|wfs)|<(\w+:)?FeatureCollection[\s>]/.test(lettersOf(head)) && !/opengis\.net\/kml/.test(lettersOf(head)),
  features: {
    counts: 'feature',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: true,
      oneFile: false,
      namesInside: true,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: true,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small', first: FIRST },
      fieldNames: {
        maxBytes: 200,
        caseMatters: true,
        valid: LETTER,
        first: FIRST,
        replacement: '_',
        reserved: (name) => name === GEOMETRY || /^(boundedby|metadataproperty|additionalobjects|truncatedresponse|tuple)$/.test(name),
      },
      fieldCount: Infinity,
      text: { maxBytes: Infinity, xml: true },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean', 'date', 'time', 'datetime', 'bytes'],
      maxBytes: Infinity,
    },
    open: openGml,
    write: {
      options: [],
      files: (sets) =>
        sets.flatMap((set, k) => [
          { name: `${set.name}.gml`, bytes: 300 + featureBytes(set), sets: [k] },
          { name: `${set.name}.xsd`, bytes: 1900 + 70 * set.fields.length, sets: [] },
        ]),
      create: createGml,
      readBack: (folder, sets) =>
        Promise.all(sets.map(async (set, k) => ({ open: await openGml(await folder.open(`${set.name}.gml`)), sets: [k] }))),
      crsFindings: (crs) =>
        srsNameOf(crs) === null
          ? [
              {
                code: 'gml-crs-unregistered',
                severity: 'wrong',
                message: `GML states a system by its number in the registry, and ${crs.name} has none. Choose a registered target system.`,
                count: 1,
              },
            ]
          : [],
    },
  },
};

/** Bytes of a feature around its data, and of a vertex: measured, roughly. */
const FEATURE_BYTES = 240,
  VERTEX_BYTES = 34,
  HEIGHT_BYTES = 7;

function featureBytes(set: TargetSet): number {
  return (
    set.count * (FEATURE_BYTES + set.fields.reduce((n, f) => n + 2 * f.to.length + f.width / 2 + 9, 0)) +
    set.vertices * (VERTEX_BYTES + (set.heights ? HEIGHT_BYTES : 0))
  );
}

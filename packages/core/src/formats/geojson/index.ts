import { isOnEarth } from '../../crs/crs';
import type { FeatureFormat, TargetSet } from '../format';
import type { OptionValues } from '../format-option';
import { lettersOf } from '../../io/letters';
import { NO_SYMBOLOGY } from '../../symbology/carried';
import { WGS84 } from '../globe';
import { openGeoJson } from './read';
import { createGeoJson, fileNameOf, formOf } from './write';

/** GeoJSON. Source: RFC 7946; RFC 8142 for features one after the other; "The GeoJSON FeatureFormat Specification", 2008, for a named system. */
export const geojson: FeatureFormat = {
  id: 'geojson',
  name: 'GeoJSON',
  extensions: ['.geojson', '.json', '.geojsonl', '.ndjson', '.geojsons'],
  companions: [],
  sniff(head) {
    const text = lettersOf(head);
    return (
      /^\s*\x1e?\s*\{/.test(text) &&
      /"type"\s*:\s*"(FeatureCollection|Feature|GeometryCollection|(Multi)?(Point|LineString|Polygon))"/.test(text)
    );
  },
  features: {
    counts: 'feature',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: false,
      oneFile: false,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: false,
      symbology: false,
      setNames: { maxBytes: 60, caseMatters: false, valid: /[a-z0-9_]/, replacement: '_', letters: 'small' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldCount: Infinity,
      text: { maxBytes: Infinity },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean'],
      typesByValue: true,
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openGeoJson(source)),
    write: {
      options: [
        {
          id: 'form',
          label: 'Form',
          kind: 'choice',
          choices: [
            { value: 'rfc7946', label: 'RFC 7946, in WGS 84' },
            { value: 'lines', label: 'One feature a line, in WGS 84' },
            { value: 'named', label: 'Older, with a named system' },
          ],
        },
        { id: 'precision', label: 'Positions to', kind: 'length', initial_m: 0.0001 },
        {
          id: 'looks',
          label: 'Looks',
          kind: 'choice',
          choices: [
            { value: 'fields', label: 'As the fields that they are' },
            { value: 'simplestyle', label: 'As simplestyle properties too' },
          ],
        },
      ],
      optionsOf: (extension): OptionValues => (LINES.has(extension) ? { form: 'lines' } : {}),
      cutsAtAntimeridian: (options) => formOf(options) !== 'named',
      symbology: (options) =>
        options.looks === 'simplestyle'
          ? {
              color: true,
              fill: true,
              opacity: true,
              width: true,
              ground: false,
              dash: false,
              marker: 'none',
              size: false,
              label: false,
              scales: false,
              how: 'as simplestyle properties',
            }
          : NO_SYMBOLOGY,
      prescribedCrs: (options) => (formOf(options) === 'named' ? null : WGS84),
      rounding_m: (options) => Number(options.precision),
      files: (sets, { options }) => sets.map((set, k) => ({ name: fileNameOf(set, options), bytes: 80 + featureBytes(set), sets: [k] })),
      create: createGeoJson,
      readBack: (folder, sets, { options }) =>
        Promise.all(sets.map(async (set, k) => ({ open: openGeoJson(await folder.open(fileNameOf(set, options))), sets: [k] }))),
      crsFindings: (crs, options) =>
        isOnEarth(crs) || formOf(options) !== 'named'
          ? []
          : [
              {
                code: 'geojson-no-place',
                severity: 'wrong',
                message: `GeoJSON names a system of the register, and ${crs.name} has no place on earth. Fit it to control points in Place, or deliver it as GeoPackage, shapefile, drawing, table or FlatGeobuf.`,
                count: 1,
              },
            ],
    },
  },
};

/** Extensions of files with one feature a line. */
const LINES = new Set(['.geojsonl', '.ndjson', '.geojsons']);

/** Bytes of a feature around its data, and of a vertex: measured, roughly. */
const FEATURE_BYTES = 66,
  VERTEX_BYTES = 30,
  HEIGHT_BYTES = 7;

function featureBytes(set: TargetSet): number {
  return (
    set.count * (FEATURE_BYTES + set.fields.reduce((n, f) => n + f.to.length + f.width / 2 + 6, 0)) +
    set.vertices * (VERTEX_BYTES + (set.heights ? HEIGHT_BYTES : 0))
  );
}

import type { Value } from '@pontrel/core/model/value';
import { type FeatureBatch, KINDS, type Kind } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { Profiler } from '@pontrel/core/content/features/profile';
import type { Gathered } from './cross-file';

/** x, y, z and measure of each vertex; the latter two where it has them. */
type Part = readonly (readonly [x: number, y: number, z?: number, m?: number])[];

const E = 1_464_000,
  N = 5_101_500;
const square = (x: number, y: number, s: number, z?: number): Part => [
  [x, y, z],
  [x + s, y, z],
  [x + s, y + s, z],
  [x, y + s, z],
  [x, y, z],
];
const turned = (part: Part): Part => [...part].reverse();

const LONG = 'A value that is longer than a table of fixed widths holds: '.repeat(6);

type Rows = Record<string, { kind: Kind; entity: string; parts: Part[]; values: Record<string, Value> }[]>;

/** Records whose vertices have measures, some of them, noughts, and noughts beside heights. */
const MEASURED: Rows = {
  Chainage: [
    {
      kind: 'line',
      entity: 'LWPOLYLINE',
      parts: [
        [
          [0, 60, undefined, 0],
          [12.5, 61, undefined, 12.54],
          [20, 66, undefined],
        ],
        [
          [30, 60, undefined, 1e-7],
          [31, 60, undefined, 123456789.125],
        ],
      ],
      values: { route: 'Quay Road', direction: 'up' },
    },
    {
      kind: 'line',
      entity: 'LINE',
      parts: [
        [
          [0, 70, 1.5, -5],
          [9, 70, 2, 4],
        ],
      ],
      values: { route: 'Siding' },
    },
    {
      kind: 'line',
      entity: 'LINE',
      parts: [
        [
          [0, 80, 3, 0],
          [9, 80, 4, 0],
        ],
      ],
      values: { route: 'Not yet counted' },
    },
    { kind: 'point', entity: 'POINT', parts: [[[5, 75, undefined, 7.25]]], values: { route: null, direction: 'post' } },
    {
      kind: 'polygon',
      entity: 'LWPOLYLINE',
      parts: [square(60, 60, 4).map(([x, y], k) => [x, y, undefined, k])],
      values: { route: 'Yard' },
    },
  ],
};

/** Records of every kind, with and without heights, of several parts, with holes and islands, with nulls, long names, other scripts and looks. */
const ROWS: Rows = {
  'Water mains / Wai': [
    {
      kind: 'line',
      entity: 'LINE',
      parts: [
        [
          [0, 0],
          [25.125, 3.0625],
        ],
      ],
      values: { DIAMETER_MM: 150, MATERIAL_OF_THE_PIPE: 'PE', open: true, color: '#1f5f8b', lineweight_mm: 0.35 },
    },
    {
      kind: 'line',
      entity: 'LWPOLYLINE',
      parts: [
        [
          [0, 10],
          [5, 12],
          [9, 10],
        ],
        [
          [20, 10],
          [25, 12],
        ],
      ],
      values: { DIAMETER_MM: null, MATERIAL_OF_THE_PIPE: 'Whārangi 港 "quoted" <b>&amp;', open: false },
    },
  ],
  Levels: [
    { kind: 'point', entity: 'POINT', parts: [[[1, 1, 3.25]]], values: { level: 3.25, note: 'on the quay, above the sill' } },
    { kind: 'point', entity: 'POINT', parts: [[[2, 1, -0.5]]], values: { level: -0.5, note: '' } },
    { kind: 'point', entity: 'POINT', parts: [[[3.0001, 1, 0]]], values: { level: 1e-7 } },
  ],
  Zones: [
    {
      kind: 'polygon',
      entity: 'HATCH',
      parts: [square(0, 0, 100), turned(square(10, 10, 20)), turned(square(40, 40, 20)), square(45, 45, 5)],
      values: { name: 'Reserve', hectares: 1.0025, color: '#2c7a73', transparency: 0.4 },
    },
    {
      kind: 'polygon',
      entity: 'LWPOLYLINE',
      parts: [square(200, 0, 10), square(220, 0, 10)],
      values: { name: 'Two of them', hectares: 0.02 },
    },
    { kind: 'polygon', entity: 'LWPOLYLINE', parts: [turned(square(300, 0, 10, 2.5))], values: { name: null, hectares: 12345678.125 } },
  ],
  Register: [
    { kind: 'none', entity: 'row', parts: [], values: { PARCEL: 'A-1', holder: 'the harbour', rent: 1200.5, '2nd term': true } },
    { kind: 'none', entity: 'row', parts: [], values: { PARCEL: 'A-2', holder: null, rent: 0 } },
  ],
  Mixed: [
    {
      kind: 'text',
      entity: 'MTEXT',
      parts: [[[5, 5]]],
      values: { text: 'Shed 3\nŌtautahi', text_height: 1.5, text_angle: 30, color: '#a8492a' },
    },
    {
      kind: 'point',
      entity: 'INSERT',
      parts: [[[6, 6, 1]]],
      values: { block: 'VALVE', VALVE_ID: 'V-1', block_angle: 45, INSTALLATION_YEAR: 2025, INSTALLATION_CREW: 'Crew 2' },
    },
    {
      kind: 'line',
      entity: 'LINE',
      parts: [
        [
          [7, 7, 1],
          [8, 8, 2],
        ],
      ],
      values: { remarks: LONG },
    },
    { kind: 'polygon', entity: 'SOLID', parts: [square(9, 9, 1)], values: { remarks: 'short' } },
  ],
};

/** A source of the invented town that has every trouble at once. @param measured with a layer whose vertices have measures as well */
export function oddLayers(measured = false): Gathered {
  const profiler = new Profiler();
  const batches: FeatureBatch[] = Object.entries(measured ? { ...ROWS, ...MEASURED } : ROWS).map(([layer, rows]) => {
    const b = new BatchBuilder(layer);
    rows.forEach(({ kind, entity, parts, values }, k) => {
      for (const part of parts) {
        for (const [x, y, z, m] of part) b.vertex(E + x, N + y, z ?? NaN, 0, m ?? NaN);
        b.endPart();
      }
      for (const [name, value] of Object.entries(values)) b.set(name, value);
      b.endFeature(KINDS.indexOf(kind), entity, k + 1);
    });
    return b.take();
  });
  for (const batch of batches) profiler.add(batch);
  return { name: 'odd.dxf', batches, profiler, findings: [], library: null };
}

import fc from 'fast-check';

/** One feature of a generated source: what a file may hold, none of it made by our own writers. */
export interface Thing {
  geometry: unknown;
  /** The kinds of record that it becomes. */
  kinds: readonly ('point' | 'line' | 'polygon' | 'none')[];
  /** Lies where a projected system has no coordinates. */
  nowhere: boolean;
  value: number;
  name: string | null;
}

/** Degrees about the invented town. */
const place = fc
  .tuple(fc.integer({ min: 0, max: 4000 }), fc.integer({ min: 0, max: 4000 }))
  .map(([x, y]): [number, number] => [171.25 + x / 1e5, -44.24 + y / 1e5]);
const square = place.map(([x, y]) => [
  [x, y],
  [x + 1e-3, y],
  [x + 1e-3, y + 1e-3],
  [x, y + 1e-3],
  [x, y],
]);
const path = fc.array(place, { minLength: 2, maxLength: 6 }).filter((p) => new Set(p.map(String)).size === p.length);

const some = <G>(
  geometry: fc.Arbitrary<G>,
  ...kinds: Thing['kinds'][number][]
): fc.Arbitrary<Pick<Thing, 'geometry' | 'kinds' | 'nowhere'>> => geometry.map((g) => ({ geometry: g, kinds, nowhere: false }));

const shape = fc.oneof(
  some(
    place.map((coordinates) => ({ type: 'Point', coordinates })),
    'point',
  ),
  some(
    path.map((coordinates) => ({ type: 'LineString', coordinates })),
    'line',
  ),
  some(
    square.map((ring) => ({ type: 'Polygon', coordinates: [ring] })),
    'polygon',
  ),
  some(
    fc.array(place, { minLength: 2, maxLength: 3 }).map((coordinates) => ({ type: 'MultiPoint', coordinates })),
    'point',
  ),
  some(
    fc.tuple(path, path).map((coordinates) => ({ type: 'MultiLineString', coordinates })),
    'line',
  ),
  some(
    square.map((r) => ({ type: 'MultiPolygon', coordinates: [[r], [r.map(([x, y]) => [x! + 0.01, y!])]] })),
    'polygon',
  ),
  some(
    fc.tuple(place, path).map(([p, l]) => ({
      type: 'GeometryCollection',
      geometries: [
        { type: 'Point', coordinates: p },
        { type: 'LineString', coordinates: l },
      ],
    })),
    'point',
    'line',
  ),
  some(fc.constant(null), 'none'),
  some(
    fc.constantFrom(
      { type: 'MultiPoint', coordinates: [] },
      { type: 'LineString', coordinates: [] },
      { type: 'Polygon', coordinates: [] },
      { type: 'GeometryCollection', geometries: [] },
    ),
    'none',
  ),
  fc.constant({ geometry: { type: 'Point', coordinates: [171.26, 95] }, kinds: ['point' as const], nowhere: true }),
  fc.constant({
    geometry: {
      type: 'LineString',
      coordinates: [
        [171.26, -44.2],
        [171.26, 95],
      ],
    },
    kinds: ['line' as const],
    nowhere: true,
  }),
);

export const thing: fc.Arbitrary<Thing> = fc
  .tuple(shape, fc.integer({ min: -50, max: 50 }), fc.option(fc.constantFrom('Wharf', 'Ōtautahi', 'a "quoted" one', '007', 'two\nlines')))
  .map(([s, value, name]) => ({ ...s, value, name }));

export const things = fc.array(thing, { minLength: 1, maxLength: 24 });

export const tokenOf = (k: number): string => `rec-${k + 1}`;

/** A source as GeoJSON, made by nothing but JSON itself. Source: RFC 7946. */
export function geojsonOf(list: readonly Thing[]): string {
  return JSON.stringify({
    type: 'FeatureCollection',
    features: list.map(({ geometry, value, name }, k) => ({ type: 'Feature', properties: { token: tokenOf(k), value, name }, geometry })),
  });
}

/** The first bytes: "fgb", the version, "fgb", and a patch level. Source: FlatGeobuf specification 3, "Specification". */
export const MAGIC = [0x66, 0x67, 0x62, 3, 0x66, 0x67, 0x62, 0] as const;

/** Numbers of the fields of each table. Source: the same, header.fbs and feature.fbs. */
export const HEADER = {
  name: 0,
  envelope: 1,
  geometryType: 2,
  hasZ: 3,
  hasM: 4,
  hasT: 5,
  hasTm: 6,
  columns: 7,
  featuresCount: 8,
  indexNodeSize: 9,
  crs: 10,
  title: 11,
  description: 12,
  metadata: 13,
} as const;
/** Members of a column, by their place in its table. Source: header.fbs. */
export const COLUMN = { name: 0, type: 1, width: 4, precision: 5, scale: 6 } as const;
/** Members of the system. Source: header.fbs. */
export const CRS = { org: 0, code: 1, name: 2, description: 3, wkt: 4, codeString: 5 } as const;
/** Members of a feature. Source: feature.fbs. */
export const FEATURE = { geometry: 0, properties: 1, columns: 2 } as const;
/** Members of a geometry. Source: feature.fbs. */
export const GEOMETRY = { ends: 0, xy: 1, z: 2, m: 3, t: 4, tm: 5, type: 6, parts: 7 } as const;

/** Kinds of geometries. Source: the same, header.fbs, GeometryType. */
export const TYPE = {
  unknown: 0,
  point: 1,
  line: 2,
  polygon: 3,
  points: 4,
  lines: 5,
  polygons: 6,
  collection: 7,
  circular: 8,
  compound: 9,
  curvePolygon: 10,
  curves: 11,
  surfaces: 12,
  curve: 13,
  surface: 14,
  polyhedral: 15,
  tin: 16,
  triangle: 17,
} as const;

/** Kinds of values, and their bytes where they are of one size. Source: the same, ColumnType, and "properties" of feature.fbs. */
export const VALUE = {
  byte: 0,
  ubyte: 1,
  bool: 2,
  short: 3,
  ushort: 4,
  int: 5,
  uint: 6,
  long: 7,
  ulong: 8,
  float: 9,
  double: 10,
  string: 11,
  json: 12,
  dateTime: 13,
  binary: 14,
} as const;

/** Nodes of the index have this many children when nothing is said. */
export const NODE_SIZE = 16;

/** Bytes of the index of so many features: each node takes 40. Source: FlatGeobuf specification, "Index" (packed Hilbert R-tree). */
export function indexBytes(features: number, nodeSize: number): number {
  if (features === 0 || nodeSize === 0) return 0;
  const size = Math.max(nodeSize, 2);
  let level = features,
    nodes = features;
  while (level > 1) {
    level = Math.ceil(level / size);
    nodes += level;
  }
  // a single feature still has a root above it
  return 40 * (features === 1 ? 2 : nodes);
}

/** Shape types. Source: "Shapefile Technical Description", 1998, page 4. */
export const SHAPE = {
  null: 0,
  point: 1,
  polyline: 3,
  polygon: 5,
  multipoint: 8,
  pointZ: 11,
  polylineZ: 13,
  polygonZ: 15,
  multipointZ: 18,
  pointM: 21,
  polylineM: 23,
  polygonM: 25,
  multipointM: 28,
  multipatch: 31,
} as const;

/** Kinds of the parts of a multipatch. Source: the same, page 21. */
export const PATCH = { strip: 0, fan: 1, outer: 2, inner: 3, first: 4, ring: 5 } as const;

/** Measures below this stand for none. Source: the same, page 2. */
export const NO_MEASURE = -1e38;

/** Every file begins with this number, big-endian. */
export const FILE_CODE = 9994;
/** The version that every main file states. Source: Esri Shapefile Technical Description, "The Main File Header". */
export const FILE_VERSION = 1000;
/** Bytes of the header of a main file and of an index. Source: the same. */
export const HEADER_BYTES = 100;
/** Bytes before the content of each record. Source: the same, "Record Headers". */
export const RECORD_HEADER_BYTES = 8;

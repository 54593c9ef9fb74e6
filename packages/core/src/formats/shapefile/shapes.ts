/** Shape types. Source: "Shapefile Technical Description", 1998, page 4. */
export const SHAPE = { null: 0, point: 1, polyline: 3, polygon: 5, multipoint: 8, pointZ: 11, polylineZ: 13, polygonZ: 15, multipointZ: 18, pointM: 21, polylineM: 23, polygonM: 25, multipointM: 28 } as const;

/** Every file begins with this number, big-endian. */
export const FILE_CODE = 9994;
export const FILE_VERSION = 1000;
export const HEADER_BYTES = 100;
export const RECORD_HEADER_BYTES = 8;

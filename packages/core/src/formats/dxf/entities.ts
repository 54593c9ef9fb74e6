import { items, raw, type Read, value, values } from './entity-table';

/**
 * The entities that are read, each as a table of group codes with their defaults.
 * Source: DXF Reference, ENTITIES section, one page an entity.
 */

/** What every graphical object has. Colour 256 and line weight -1 are "by layer", 0 and -2 "by block". */
const COMMON = {
  handle: value(5, ''), layer: value(8, '0'), linetype: value(6, 'BYLAYER'), color: value(62, 256), trueColor: value(420, -1),
  lineweight: value(370, -1), paper: value(67, 0), nx: value(210, 0), ny: value(220, 0), nz: value(230, 1),
} as const;

const POINT_10 = { x: value(10, 0), y: value(20, 0), z: value(30, 0) } as const;

const TEXT_LIKE = {
  ...COMMON, ...POINT_10, height: value(40, 0), text: value(1, ''), rotation: value(50, 0), style: value(7, 'STANDARD'),
} as const;

const CORNERS = {
  ...COMMON, ...POINT_10, x2: value(11, 0), y2: value(21, 0), z2: value(31, 0), x3: value(12, 0), y3: value(22, 0), z3: value(32, 0), x4: value(13, NaN), y4: value(23, NaN), z4: value(33, NaN),
} as const;

export const ENTITIES = {
  POINT: { ...COMMON, ...POINT_10 },
  LINE: { ...COMMON, ...POINT_10, x2: value(11, 0), y2: value(21, 0), z2: value(31, 0) },
  CIRCLE: { ...COMMON, ...POINT_10, radius: value(40, 0) },
  ARC: { ...COMMON, ...POINT_10, radius: value(40, 0), start: value(50, 0), end: value(51, 360) },
  LWPOLYLINE: { ...COMMON, flags: value(70, 0), elevation: value(38, 0), vertices: items(10, 20, 42) },
  POLYLINE: { ...COMMON, ...POINT_10, flags: value(70, 0) },
  VERTEX: { ...COMMON, ...POINT_10, flags: value(70, 0), bulge: value(42, 0) },
  TEXT: TEXT_LIKE,
  ATTRIB: { ...TEXT_LIKE, tag: value(2, '') },
  MTEXT: {
    ...COMMON, ...POINT_10, height: value(40, 0), text: value(1, ''), chunks: values(3), rotation: value(50, 0),
    dx: value(11, 0), dy: value(21, 0),
  },
  INSERT: {
    ...COMMON, ...POINT_10, name: value(2, ''), sx: value(41, 1), sy: value(42, 1), sz: value(43, 1), rotation: value(50, 0),
    columns: value(70, 1), rows: value(71, 1), columnGap: value(44, 0), rowGap: value(45, 0), attributesFollow: value(66, 0),
  },
  ELLIPSE: { ...COMMON, ...POINT_10, mx: value(11, 1), my: value(21, 0), mz: value(31, 0), ratio: value(40, 1), start: value(41, 0), end: value(42, 2 * Math.PI) },
  SPLINE: { ...COMMON, flags: value(70, 0), degree: value(71, 3), knots: items(40), weights: items(41), points: items(10, 20, 30), fitted: items(11, 21, 31) },
  SOLID: CORNERS, TRACE: CORNERS, '3DFACE': CORNERS,
  LEADER: { ...COMMON, vertices: items(10, 20, 30) },
  MLINE: { ...COMMON, flags: value(71, 0), groups: raw() },
  MPOLYGON: { ...COMMON, elevation: value(30, 0), pattern: value(2, ''), groups: raw() },
  HATCH: { ...COMMON, elevation: value(30, 0), pattern: value(2, ''), groups: raw() },
  SEQEND: COMMON,
} as const;

/** Any other object: enough to say on which layer it was. */
export const OTHER = COMMON;

/** A record of the LAYER table. */
export const LAYER_RECORD = { name: value(2, ''), flags: value(70, 0), color: value(62, 7), trueColor: value(420, -1), linetype: value(6, 'CONTINUOUS'), lineweight: value(370, -3) } as const;

/** The head of a block definition. */
export const BLOCK_HEAD = { name: value(2, ''), layer: value(8, '0') } as const;

export type EntityName = keyof typeof ENTITIES;
export type Entity<N extends EntityName> = Read<(typeof ENTITIES)[N]>;
export type CommonEntity = Read<typeof COMMON>;
export type LayerRecord = Read<typeof LAYER_RECORD>;

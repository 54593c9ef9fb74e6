import { all, items, raw, type Read, value, values } from './entity-table';

/**
 * The entities that are read, each as a table of group codes with their defaults.
 * Source: DXF Reference, ENTITIES section, one page an entity.
 */

/** What every graphical object has. Colour 256 and line weight -1 are "by layer", 0 and -2 "by block". */
const COMMON = {
  handle: value(5, ''),
  layer: value(8, '0'),
  linetype: value(6, 'BYLAYER'),
  color: value(62, 256),
  trueColor: value(420, -1),
  lineweight: value(370, -1),
  paper: value(67, 0),
  nx: value(210, 0),
  ny: value(220, 0),
  nz: value(230, 1),
  thickness: value(39, 0),
  transparency: value(440, 0),
  patternScale: value(48, 1),
} as const;

const POINT_10 = { x: value(10, 0), y: value(20, 0), z: value(30, 0) } as const;

const TEXT_LIKE = {
  ...COMMON,
  ...POINT_10,
  height: value(40, 0),
  text: value(1, ''),
  rotation: value(50, 0),
  style: value(7, 'STANDARD'),
  across: value(72, 0),
  up: value(73, 0),
  x2: value(11, NaN),
  y2: value(21, NaN),
  z2: value(31, NaN),
} as const;

const CORNERS = {
  ...COMMON,
  ...POINT_10,
  x2: value(11, 0),
  y2: value(21, 0),
  z2: value(31, 0),
  x3: value(12, 0),
  y3: value(22, 0),
  z3: value(32, 0),
  x4: value(13, NaN),
  y4: value(23, NaN),
  z4: value(33, NaN),
} as const;

/** What is kept of each entity, by the group codes of the DXF Reference 2010, chapter ENTITIES. */
export const ENTITIES = {
  POINT: { ...COMMON, ...POINT_10 },
  LINE: { ...COMMON, ...POINT_10, x2: value(11, 0), y2: value(21, 0), z2: value(31, 0) },
  CIRCLE: { ...COMMON, ...POINT_10, radius: value(40, 0) },
  ARC: { ...COMMON, ...POINT_10, radius: value(40, 0), start: value(50, 0), end: value(51, 360) },
  LWPOLYLINE: { ...COMMON, flags: value(70, 0), elevation: value(38, 0), vertices: items(10, 20, 42) },
  POLYLINE: { ...COMMON, ...POINT_10, flags: value(70, 0), m: value(71, 0), n: value(72, 0), smoothM: value(73, 0), smoothN: value(74, 0) },
  VERTEX: {
    ...COMMON,
    ...POINT_10,
    flags: value(70, 0),
    bulge: value(42, 0),
    a: value(71, 0),
    b: value(72, 0),
    c: value(73, 0),
    d: value(74, 0),
  },
  TEXT: TEXT_LIKE,
  ATTRIB: { ...TEXT_LIKE, tag: value(2, ''), flags: value(70, 0) },
  ATTDEF: { ...TEXT_LIKE, tag: value(2, ''), prompt: value(3, ''), flags: value(70, 0) },
  MTEXT: {
    ...COMMON,
    ...POINT_10,
    height: value(40, 0),
    text: value(1, ''),
    chunks: values(3),
    rotation: value(50, 0),
    style: value(7, 'STANDARD'),
    anchor: value(71, 1),
    dx: value(11, 0),
    dy: value(21, 0),
  },
  INSERT: {
    ...COMMON,
    ...POINT_10,
    name: value(2, ''),
    sx: value(41, 1),
    sy: value(42, 1),
    sz: value(43, 1),
    rotation: value(50, 0),
    columns: value(70, 1),
    rows: value(71, 1),
    columnGap: value(44, 0),
    rowGap: value(45, 0),
    attributesFollow: value(66, 0),
  },
  ELLIPSE: {
    ...COMMON,
    ...POINT_10,
    mx: value(11, 1),
    my: value(21, 0),
    mz: value(31, 0),
    ratio: value(40, 1),
    start: value(41, 0),
    end: value(42, 2 * Math.PI),
  },
  SPLINE: {
    ...COMMON,
    flags: value(70, 0),
    degree: value(71, 3),
    knots: items(40),
    weights: items(41),
    points: items(10, 20, 30),
    fitted: items(11, 21, 31),
    start: items(12, 22, 32),
    end: items(13, 23, 33),
  },
  // a HELIX is a spline with the numbers of its turns behind it, under the same codes: the counts say where the spline ends
  HELIX: {
    ...COMMON,
    degree: value(71, 3),
    knotCount: value(72, 0),
    pointCount: value(73, 0),
    knots: items(40),
    points: items(10, 20, 30),
  },
  RAY: { ...COMMON, ...POINT_10, dx: value(11, 1), dy: value(21, 0), dz: value(31, 0) },
  XLINE: { ...COMMON, ...POINT_10, dx: value(11, 1), dy: value(21, 0), dz: value(31, 0) },
  MESH: { ...COMMON, groups: raw() },
  DIMENSION: { ...COMMON, ...POINT_10, block: value(2, ''), text: value(1, ''), measured: value(42, NaN) },
  ARC_DIMENSION: { ...COMMON, ...POINT_10, block: value(2, ''), text: value(1, ''), measured: value(42, NaN) },
  LARGE_RADIAL_DIMENSION: { ...COMMON, ...POINT_10, block: value(2, ''), text: value(1, ''), measured: value(42, NaN) },
  ACAD_TABLE: { ...COMMON, ...POINT_10, block: value(2, ''), dx: value(11, 1), dy: value(21, 0), cells: values(302), text: values(1) },
  TOLERANCE: { ...COMMON, ...POINT_10, text: value(1, ''), dx: value(11, 1), dy: value(21, 0) },
  MULTILEADER: { ...COMMON, groups: all() },
  MLEADER: { ...COMMON, groups: all() },
  IMAGE: {
    ...COMMON,
    ...POINT_10,
    ux: value(11, 1),
    uy: value(21, 0),
    uz: value(31, 0),
    vx: value(12, 0),
    vy: value(22, 1),
    vz: value(32, 0),
    width: value(13, 1),
    height: value(23, 1),
    picture: value(340, ''),
    clipped: value(280, 0),
    keepsOutside: value(290, 0),
    clip: items(14, 24),
  },
  WIPEOUT: {
    ...COMMON,
    ...POINT_10,
    ux: value(11, 1),
    uy: value(21, 0),
    uz: value(31, 0),
    vx: value(12, 0),
    vy: value(22, 1),
    vz: value(32, 0),
    width: value(13, 1),
    height: value(23, 1),
    picture: value(340, ''),
    clip: items(14, 24),
  },
  SOLID: CORNERS,
  TRACE: CORNERS,
  '3DFACE': CORNERS,
  LEADER: { ...COMMON, vertices: items(10, 20, 30) },
  MLINE: { ...COMMON, flags: value(71, 0), groups: raw() },
  MPOLYGON: { ...COMMON, elevation: value(30, 0), pattern: value(2, ''), solid: value(70, 0), groups: raw() },
  HATCH: { ...COMMON, elevation: value(30, 0), pattern: value(2, ''), solid: value(70, 0), gradient: value(450, 0), groups: raw() },
  SEQEND: COMMON,
} as const;

/** Any other object: enough to say on which layer it was. */
export const OTHER = COMMON;

/** A record of the LAYER table. */
export const LAYER_RECORD = {
  name: value(2, ''),
  flags: value(70, 0),
  color: value(62, 7),
  trueColor: value(420, -1),
  linetype: value(6, 'CONTINUOUS'),
  lineweight: value(370, -3),
  plots: value(290, 1),
} as const;

/** A record of the LTYPE table; complex elements (shapes, texts) are left aside. */
export const LTYPE_RECORD = { name: value(2, ''), description: value(3, ''), dashes: items(49) } as const;

/** The head of a block definition. */
export const BLOCK_HEAD = { name: value(2, ''), layer: value(8, '0'), ...POINT_10, flags: value(70, 0), path: value(1, '') } as const;

/** What a picture definition of the OBJECTS section says. */
export const IMAGE_DEFINITION = { handle: value(5, ''), path: value(1, '') } as const;

export type EntityName = keyof typeof ENTITIES;
/** An entity as it was read. */
export type Entity<N extends EntityName> = Read<(typeof ENTITIES)[N]>;
/** What all entities have. */
export type CommonEntity = Read<typeof COMMON>;
/** A record of the LAYER table as it was read. */
export type LayerRecord = Read<typeof LAYER_RECORD>;
/** A record of the LTYPE table as it was read. */
export type LtypeRecord = Read<typeof LTYPE_RECORD>;
/** The head of a block definition as it was read. */
export type BlockHead = Read<typeof BLOCK_HEAD>;

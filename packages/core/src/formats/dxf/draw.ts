import { type BatchBuilder } from '../../model/batch-builder';
import { LINE, POINT, POLYGON, TEXT } from '../../model/batch';
import type { BlockSymbol } from '../../symbology/library';
import { addMapped, type Affine, insertionMap } from '../../geometry/affine';
import { chordCount } from '../../geometry/arc';
import { type Emit, followCurve, sizeOf, Spline } from '../../geometry/curve';
import { followThrough } from '../../geometry/fit-curve';
import { ocs, type Ocs } from '../../geometry/ocs';
import { alignmentWords, ATTACHED } from './alignment';
import type { Entity, EntityName } from './entities';
import { hatchLoops } from './hatch';
import { meshFaces, polyfaceFaces, subdivisionFaces } from './meshes';
import { readMultiLeader } from './mleader';
import { MLINE_CLOSED, mlineElements } from './mline';
import { plainMtext, plainText } from './text';

/** An arc of a plane that is not level becomes an ellipse in plan; it is cut into chords this fine, drawing units a unit of radius. */
const TILTED_TOLERANCE = 1e-5;

/** What stands in a sequence behind its head: the vertices of a POLYLINE, the attributes of an INSERT. */
export interface Follower {
  vertices: Entity<'VERTEX'>[];
  attributes: Entity<'ATTRIB'>[];
}

/** What a drawing function may ask for beyond the entity itself. */
export interface Around extends Follower {
  /** The symbol of a block, or why there is none. */
  block(name: string): BlockSymbol | string;
}

/** Puts an entity's geometry and own properties into the builder. Returns its kind, or the reason why it cannot. */
type Draw<N extends EntityName> = (e: Entity<N>, out: BatchBuilder, around: Around) => number | string;

const planeOf = (e: { nx: number; ny: number; nz: number }): Ocs => ocs(e.nx, e.ny, e.nz);

/** A drawn circular arc from angle `a0` over `sweep` (radians), as two or three bulged vertices; the last one is left to the caller. */
function arc(out: BatchBuilder, plane: Ocs, e: { x: number; y: number; z: number; radius: number }, a0: number, sweep: number): void {
  const pieces = plane.level ? (Math.abs(sweep) > Math.PI ? 2 : 1) : chordCount(1, sweep, TILTED_TOLERANCE);
  const bulge = plane.level ? plane.hand * Math.tan(sweep / pieces / 4) : 0;
  for (let k = 0; k < pieces; k++) {
    const a = a0 + (sweep * k) / pieces;
    out.vertex(...plane.toWorld(e.x + e.radius * Math.cos(a), e.y + e.radius * Math.sin(a), e.z), bulge);
  }
}

interface Vertices {
  count: number;
  closed: boolean;
  at(i: number): [number, number, number];
  bulge(i: number): number;
}

/** A run of vertices as a line, or as a polygon when it is closed and has an inside. */
function polyline(out: BatchBuilder, plane: Ocs, v: Vertices): number | string {
  if (v.count === 0) return 'no vertices';
  if (v.count === 1) {
    out.vertex(...v.at(0));
    out.endPart();
    return POINT;
  }
  let curved = false;
  for (let i = 0; i < v.count; i++) {
    const bulge = v.bulge(i);
    if (bulge !== 0) curved = true;
    if (i === v.count - 1 && !v.closed) out.vertex(...v.at(i));
    else if (bulge === 0 || plane.level) out.vertex(...v.at(i), bulge * plane.hand);
    else tilted(out, plane, v, i);
  }
  if (v.closed) out.vertex(...v.at(0));
  out.endPart();
  return v.closed && (v.count > 2 || curved) ? POLYGON : LINE;
}

/** A bulged segment on a plane that is not level, in chords. */
function tilted(out: BatchBuilder, plane: Ocs, v: Vertices, i: number): void {
  // the chord is cut evenly in the plane's own frame
  const [x1, y1, z1] = plane.fromWorld(...v.at(i));
  const [x2, y2] = plane.fromWorld(...v.at((i + 1) % v.count));
  const bulge = v.bulge(i);
  const sweep = 4 * Math.atan(bulge);
  const k = (1 - bulge * bulge) / (4 * bulge);
  const cx = (x1 + x2) / 2 - k * (y2 - y1),
    cy = (y1 + y2) / 2 + k * (x2 - x1);
  const radius = Math.hypot(x1 - cx, y1 - cy);
  arc(out, plane, { x: cx, y: cy, z: z1, radius }, Math.atan2(y1 - cy, x1 - cx), sweep);
}

/** Ellipses and splines are followed by arcs within this share of their size: a tenth of a millimetre in a kilometre. */
const FOLLOWED = 1e-7;

type Corners = Entity<'SOLID'>;

/** Three or four corners as a ring, in the order in which they are given. */
function ring(out: BatchBuilder, corners: readonly (readonly [number, number, number])[]): number | string {
  // the last two are the same for a triangle
  const distinct = corners.filter((c, i) => i === 0 || c.some((v, k) => v !== corners[i - 1]![k]));
  if (distinct.length < 3) return 'fewer than three corners';
  for (const c of distinct) out.vertex(...c);
  out.vertex(...distinct[0]!);
  out.endPart();
  return POLYGON;
}

/** The corners of a filled shape; a SOLID has its third and fourth crosswise, and lies on a plane of its own. */
const filled = (e: Corners, out: BatchBuilder): number | string => {
  const plane = planeOf(e);
  const fourth: [number, number, number] = Number.isNaN(e.x4) ? [e.x3, e.y3, e.z3] : [e.x4, e.y4, e.z4];
  return ring(out, [
    plane.toWorld(e.x, e.y, e.z),
    plane.toWorld(e.x2, e.y2, e.z2),
    plane.toWorld(...fourth),
    plane.toWorld(e.x3, e.y3, e.z3),
  ]);
};

const CLOSED = 1,
  CURVE_FITTED = 2,
  SPLINE_FITTED = 4,
  THREE_D = 8,
  MESH = 16,
  POLYFACE = 64;
const SPLINE_FRAME = 16;

/** A HATCH, or an MPOLYGON, whose boundaries are told in the same way. */
function hatched(e: Entity<'HATCH'> | Entity<'MPOLYGON'>, out: BatchBuilder): number | string {
  const loops = hatchLoops(e.groups, FOLLOWED);
  if (!loops) return 'a boundary that breaks off';
  const plane = planeOf(e);
  const drawn = loops.filter((loop) => loop.length > 6 || loop.some((v, i) => i % 3 === 2 && v !== 0));
  if (drawn.length === 0) return 'no boundary';
  for (const loop of drawn) {
    polyline(out, plane, {
      count: loop.length / 3,
      closed: true,
      at: (i) => plane.toWorld(loop[3 * i]!, loop[3 * i + 1]!, e.elevation),
      bulge: (i) => loop[3 * i + 2]!,
    });
  }
  out.set('pattern', e.pattern);
  if ('gradient' in e && e.gradient === 1) out.set('fill', 'gradient');
  else if (e.solid === 1) out.set('fill', 'solid');
  return POLYGON;
}

/** Arcs that one curve is followed by at most. */
const MOST_ARCS = 500_000;
const ENOUGH = Symbol();

/** Puts the arcs that follow a curve into the builder. @returns why it cannot; null where it has */
function followed(out: BatchBuilder, follow: (emit: Emit) => void): string | null {
  let left = MOST_ARCS;
  try {
    follow((x, y, z, bulge) => {
      if (left-- === 0) throw ENOUGH;
      out.vertex(x, y, z, bulge);
    });
    return null;
  } catch (error) {
    if (error !== ENOUGH) throw error;
    return `a course that more than ${MOST_ARCS} arcs do not follow`;
  }
}

function drawSpline(spline: Spline, out: BatchBuilder): number | string {
  if (!spline.sound) return 'knots that do not go with its control points';
  const why = followed(out, (emit) => spline.follow(FOLLOWED * sizeOf(spline.points, 3), emit));
  if (why !== null) return why;
  const last = new Float64Array(3);
  spline.point(spline.end, last);
  out.vertex(last[0]!, last[1]!, last[2]!);
  out.endPart();
  return LINE;
}

function lines(each: readonly (readonly (readonly [number, number, number])[])[], out: BatchBuilder): number {
  for (const line of each) {
    for (const p of line) out.vertex(...p);
    out.endPart();
  }
  return LINE;
}

/** Faces of a mesh as closed lines: in plan they may overlap, so that they are no area. */
function faces(rings: readonly (readonly (readonly [number, number, number])[])[] | null, out: BatchBuilder): number | string {
  return rings ? lines(rings, out) : 'faces that do not go with its vertices';
}

/** Everything that a drawn block holds, as one record of lines with its lettering in `text`. */
function drawnBlock(
  name: string,
  map: Affine | null,
  at: readonly [number, number, number],
  out: BatchBuilder,
  { block }: Around,
): number | string {
  const symbol = name === '' ? 'no drawn block' : block(name);
  if (typeof symbol === 'string') return symbol;
  const { parts } = symbol;
  const texts: string[] = [];
  const place = map ?? insertionMap({ at: [0, 0, 0], angle: 0, scale: [1, 1, 1], normal: [0, 0, 1] }, symbol.base);
  let drawn = 0;
  for (let i = 0; i < parts.count; i++) {
    if (parts.kinds[i] === LINE || parts.kinds[i] === POLYGON) {
      addMapped(parts, i, place, out);
      drawn++;
    } else if (parts.kinds[i] === TEXT) texts.push(String(parts.columns.get('text')?.[i] ?? ''));
  }
  out.set('text', texts.filter((t) => t !== '').join('\n'));
  if (drawn > 0) return LINE;
  out.vertex(...at);
  out.endPart();
  return texts.length > 0 ? TEXT : POINT;
}

const dimension = (e: Entity<'DIMENSION'>, out: BatchBuilder, around: Around): number | string => {
  const kind = drawnBlock(e.block, null, [e.x, e.y, e.z], out, around);
  if (typeof kind === 'number' && !Number.isNaN(e.measured)) out.set('measurement', e.measured);
  return kind;
};

/** The corners of the clipping line of a picture, or of the picture itself where it has none: pixels, (0, 0) the centre of the upper left one. */
export function clippingCorners({ clip, width, height }: Pick<Entity<'IMAGE'>, 'clip' | 'width' | 'height'>): [number, number][] {
  if (clip.length === 4)
    return [
      [clip[0]!, clip[1]!],
      [clip[2]!, clip[1]!],
      [clip[2]!, clip[3]!],
      [clip[0]!, clip[3]!],
    ];
  if (clip.length >= 6) return Array.from({ length: Math.floor(clip.length / 2) }, (_, k) => [clip[2 * k]!, clip[2 * k + 1]!]);
  return [
    [-0.5, -0.5],
    [width - 0.5, -0.5],
    [width - 0.5, height - 0.5],
    [-0.5, height - 0.5],
  ];
}

/** The frame of a picture: its clipping line where it has one, in pixels from the upper left corner. */
function frame(e: Omit<Entity<'IMAGE'>, 'clipped' | 'keepsOutside'>, out: BatchBuilder): number | string {
  if (!(e.width > 0 && e.height > 0)) return 'a size of zero';
  const at = (px: number, py: number): [number, number, number] => {
    const u = px + 0.5,
      v = e.height - py - 0.5;
    return [e.x + u * e.ux + v * e.vx, e.y + u * e.uy + v * e.vy, e.z + u * e.uz + v * e.vz];
  };
  return ring(
    out,
    clippingCorners(e).map(([px, py]) => at(px, py)),
  );
}

function multiLeader(e: Entity<'MULTILEADER'>, out: BatchBuilder): number | string {
  const { lines: leaders, text, at } = readMultiLeader(e.groups);
  const drawn = leaders.filter((line) => line.length > 1);
  if (drawn.length === 0 && !at) return 'neither a leader nor a text';
  out.set('text', plainMtext(text));
  if (drawn.length > 0) return lines(drawn, out);
  out.vertex(...at!);
  out.endPart();
  return TEXT;
}

/** A text that is not set from its left end on the base line stands at its second point. */
function lettered(e: Entity<'TEXT'>, out: BatchBuilder): number {
  const words = Number.isNaN(e.x2) ? null : alignmentWords(e.across, e.up);
  out.vertex(...(words === null ? planeOf(e).toWorld(e.x, e.y, e.z) : planeOf(e).toWorld(e.x2, e.y2, Number.isNaN(e.z2) ? e.z : e.z2)));
  out.endPart();
  out.set('text_align', words);
  if (e.style.toUpperCase() !== 'STANDARD') out.set('text_style', e.style);
  out.set('text_height', e.height);
  out.set('text_angle', e.rotation);
  return TEXT;
}

/** One drawing function an entity type. */
export const DRAW: { [N in EntityName]?: Draw<N> } = {
  POINT(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.endPart();
    return POINT;
  },
  LINE(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.vertex(e.x2, e.y2, e.z2);
    out.endPart();
    return LINE;
  },
  CIRCLE(e, out) {
    if (!(e.radius > 0)) return 'a radius of zero';
    const plane = planeOf(e);
    arc(out, plane, e, 0, 2 * Math.PI);
    out.vertex(...plane.toWorld(e.x + e.radius, e.y, e.z));
    out.endPart();
    return POLYGON;
  },
  ARC(e, out) {
    if (!(e.radius > 0)) return 'a radius of zero';
    const plane = planeOf(e);
    let sweep = (e.end - e.start) % 360;
    if (sweep <= 0) sweep += 360;
    const a0 = (e.start * Math.PI) / 180;
    const a1 = a0 + (sweep * Math.PI) / 180;
    arc(out, plane, e, a0, a1 - a0);
    out.vertex(...plane.toWorld(e.x + e.radius * Math.cos(a1), e.y + e.radius * Math.sin(a1), e.z));
    out.endPart();
    return LINE;
  },
  ELLIPSE(e, out) {
    const size = Math.hypot(e.mx, e.my, e.mz);
    if (!(size > 0 && e.ratio > 0)) return 'an axis of zero';
    // the minor axis stands on the major one in the plane of the normal
    const n = Math.hypot(e.nx, e.ny, e.nz) || 1;
    const [ux, uy, uz] = [e.nx / n, e.ny / n, e.nz / n];
    const [bx, by, bz] = [(uy * e.mz - uz * e.my) * e.ratio, (uz * e.mx - ux * e.mz) * e.ratio, (ux * e.my - uy * e.mx) * e.ratio];
    const point = (t: number, p: Float64Array): void => {
      const c = Math.cos(t),
        s = Math.sin(t);
      p[0] = e.x + e.mx * c + bx * s;
      p[1] = e.y + e.my * c + by * s;
      p[2] = e.z + e.mz * c + bz * s;
    };
    let sweep = (e.end - e.start) % (2 * Math.PI);
    if (sweep <= 1e-12) sweep += 2 * Math.PI;
    const pieces = Math.max(1, Math.ceil(sweep / (Math.PI / 2) - 1e-9));
    for (let k = 0; k < pieces; k++)
      followCurve(point, e.start + (sweep * k) / pieces, e.start + (sweep * (k + 1)) / pieces, FOLLOWED * size, (x, y, z, bulge) =>
        out.vertex(x, y, z, bulge),
      );
    const last = new Float64Array(3);
    point(e.start + sweep, last);
    out.vertex(last[0]!, last[1]!, last[2]!);
    out.endPart();
    return LINE;
  },
  SPLINE(e, out) {
    const spline = new Spline(e.degree, e.knots, e.points, e.weights);
    if (spline.count === 0 && e.fitted.length >= 6) {
      const direction = (v: readonly number[]): [number, number, number] | null =>
        v.length === 3 && v.some((c) => c !== 0) ? [v[0]!, v[1]!, v[2]!] : null;
      const why = followed(out, (emit) =>
        followThrough(e.fitted, [direction(e.start), direction(e.end)], FOLLOWED * sizeOf(e.fitted, 3), emit),
      );
      if (why !== null) return why;
      const n = e.fitted.length;
      out.vertex(e.fitted[n - 3]!, e.fitted[n - 2]!, e.fitted[n - 1]!);
      out.endPart();
      return LINE;
    }
    return drawSpline(spline, out);
  },
  HELIX: (e, out) => drawSpline(new Spline(e.degree, e.knots.slice(0, e.knotCount), e.points.slice(0, 3 * e.pointCount), []), out),
  SOLID: filled,
  TRACE: filled,
  // a face has its corners in turn, and in the world's own frame
  '3DFACE': (e, out) =>
    ring(out, [[e.x, e.y, e.z], [e.x2, e.y2, e.z2], [e.x3, e.y3, e.z3], ...(Number.isNaN(e.x4) ? [] : [[e.x4, e.y4, e.z4] as const])]),
  LEADER(e, out) {
    const v = e.vertices;
    if (v.length < 6) return 'fewer than two vertices';
    for (let i = 0; i < v.length; i += 3) out.vertex(v[i]!, v[i + 1]!, v[i + 2]!);
    out.endPart();
    return LINE;
  },
  MLINE(e, out) {
    const elements = mlineElements(e.groups, (e.flags & MLINE_CLOSED) !== 0);
    return elements ? lines(elements, out) : 'vertices that break off';
  },
  MPOLYGON: hatched,
  HATCH: hatched,
  LWPOLYLINE(e, out) {
    const plane = planeOf(e);
    const v = e.vertices;
    return polyline(out, plane, {
      count: v.length / 3,
      closed: (e.flags & CLOSED) !== 0,
      at: (i) => plane.toWorld(v[3 * i]!, v[3 * i + 1]!, e.elevation),
      bulge: (i) => v[3 * i + 2]!,
    });
  },
  POLYLINE(e, out, { vertices }) {
    if (e.flags & MESH) return faces(meshFaces(e, vertices), out);
    if (e.flags & POLYFACE) return faces(polyfaceFaces(vertices), out);
    const fitted = (e.flags & (CURVE_FITTED | SPLINE_FITTED)) !== 0;
    const kept = fitted ? vertices.filter((v) => !(v.flags & SPLINE_FRAME)) : vertices;
    const flat = !(e.flags & THREE_D);
    const plane = flat ? planeOf(e) : ocs(0, 0, 1);
    return polyline(out, plane, {
      count: kept.length,
      closed: (e.flags & CLOSED) !== 0,
      // a flat polyline lies at the height of its head
      at: (i) => plane.toWorld(kept[i]!.x, kept[i]!.y, flat ? e.z : kept[i]!.z),
      bulge: (i) => (flat ? kept[i]!.bulge : 0),
    });
  },
  TEXT(e, out) {
    out.set('text', plainText(e.text));
    return lettered(e, out);
  },
  ATTRIB(e, out) {
    out.set('text', plainText(e.text));
    return lettered(e, out);
  },
  // outside of a block a definition shows its tag
  ATTDEF(e, out) {
    out.set('text', plainText(e.tag));
    out.set('prompt', plainText(e.prompt));
    out.set('default', plainText(e.text));
    return lettered(e, out);
  },
  MTEXT(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.endPart();
    out.set('text', plainMtext(e.chunks.join('') + e.text));
    out.set('text_height', e.height);
    // a direction vector takes the place of the angle
    out.set('text_angle', e.dx !== 0 || e.dy !== 0 ? (Math.atan2(e.dy, e.dx) * 180) / Math.PI : e.rotation);
    out.set('text_align', ATTACHED[e.anchor - 1] ?? 'top left');
    if (e.style.toUpperCase() !== 'STANDARD') out.set('text_style', e.style);
    return TEXT;
  },
  TOLERANCE(e, out) {
    out.vertex(e.x, e.y, e.z);
    out.endPart();
    out.set('text', plainMtext(e.text).replaceAll('%%v', ' | '));
    return TEXT;
  },
  MULTILEADER: multiLeader,
  MLEADER: multiLeader,
  MESH: (e, out) => faces(subdivisionFaces(e.groups), out),
  DIMENSION: dimension,
  ARC_DIMENSION: dimension,
  LARGE_RADIAL_DIMENSION: dimension,
  ACAD_TABLE(e, out, around) {
    const symbol = e.block === '' ? 'no drawn block' : around.block(e.block);
    if (typeof symbol === 'string') return symbol;
    const angle = (Math.atan2(e.dy, e.dx) * 180) / Math.PI;
    return drawnBlock(
      e.block,
      insertionMap({ at: [e.x, e.y, e.z], angle, scale: [1, 1, 1], normal: [0, 0, 1] }, symbol.base),
      [e.x, e.y, e.z],
      out,
      around,
    );
  },
  IMAGE: frame,
  WIPEOUT: frame,
  INSERT(e, out, { attributes, block }) {
    out.vertex(...planeOf(e).toWorld(e.x, e.y, e.z));
    out.endPart();
    out.set('block', e.name);
    out.set('block_angle', e.rotation);
    out.set('scale_x', e.sx);
    out.set('scale_y', e.sy);
    out.set('scale_z', e.sz);
    if (e.nx !== 0 || e.ny !== 0 || e.nz !== 1) out.set('extrusion', `${e.nx} ${e.ny} ${e.nz}`);
    const symbol = block(e.name);
    if (typeof symbol !== 'string') for (const constant of symbol.attributes) if (constant.constant) out.set(constant.tag, constant.value);
    for (const attribute of attributes) out.set(attribute.tag, plainText(attribute.text));
    return POINT;
  },
};

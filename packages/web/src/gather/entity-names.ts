import type { GroupProfile } from '@pontrel/core/content/features/profile';

/** What people call the objects of the formats: one and many. */
const NAMES: Record<string, [string, string]> = {
  POINT: ['point', 'points'],
  LINE: ['line', 'lines'],
  ARC: ['arc', 'arcs'],
  CIRCLE: ['circle', 'circles'],
  LWPOLYLINE: ['polyline', 'polylines'],
  POLYLINE: ['polyline', 'polylines'],
  TEXT: ['text', 'texts'],
  MTEXT: ['text block', 'text blocks'],
  INSERT: ['block', 'blocks'],
  ELLIPSE: ['ellipse', 'ellipses'],
  SPLINE: ['spline', 'splines'],
  HATCH: ['hatch', 'hatches'],
  MPOLYGON: ['hatched polygon', 'hatched polygons'],
  SOLID: ['filled face', 'filled faces'],
  TRACE: ['filled strip', 'filled strips'],
  '3DFACE': ['3D face', '3D faces'],
  DIMENSION: ['dimension', 'dimensions'],
  LEADER: ['leader', 'leaders'],
};

/** Entities of formats that know but kinds: "PolygonZ", "MultiLineString", "Placemark", the rows of a table. */
const KINDS_ONLY =
  /^(Multi)?(Point|PolyLine|LineString|Polygon)[ZM]*$|^Placemark$|^row$|^outline$|^line$|^Feature$|^Null$|^(MULTI)?(POINT|LINESTRING|POLYGON)$/;
const KINDS: Record<string, [string, string]> = {
  point: ['point', 'points'],
  line: ['line', 'lines'],
  polygon: ['area', 'areas'],
  text: ['text', 'texts'],
  none: ['row', 'rows'],
};

export function entityName(entity: string, n: number, kind?: string): string {
  if (kind === 'polygon' && /POLYLINE$/.test(entity)) return n === 1 ? 'closed polyline' : 'closed polylines';
  const [one, many] = (KINDS_ONLY.test(entity) && entity !== 'POINT' ? KINDS[kind ?? ''] : undefined) ?? NAMES[entity] ?? [entity, entity];
  return n === 1 ? one : many;
}

/** The objects of a layer, the most numerous first. */
export function groupNames(
  groups: readonly GroupProfile[],
): { name: string; count: number; curved: number; entity: string; kind: string }[] {
  return [...groups]
    .sort((a, b) => b.count - a.count)
    .map((g) => ({ name: entityName(g.entity, g.count, g.kind), count: g.count, curved: g.curved, entity: g.entity, kind: g.kind }));
}

import { Problem } from '../../model/problem';

/**
 * Shifts of latitude and longitude on a grid of several parts. Source: National Transformation version 2 (Geodetic Survey
 * of Canada, "NTv2 User's Guide", appendix B: binary form of the grid shift file).
 */
export interface ShiftGrid {
  /** Outer bounds of all parts: west, south, east, north, degrees. */
  bounds: [number, number, number, number];
  parts: number;
  /** System names that the file states. */
  from: string;
  to: string;
  /**
   * Degrees to add to longitude and latitude at a point, interpolated between four nodes in the finest part that holds it.
   * @returns false where no part does; `out` is untouched then
   */
  shiftAt(lon: number, lat: number, out: Float64Array): boolean;
}

interface Part {
  name: string;
  parent: string;
  west: number;
  south: number;
  east: number;
  north: number;
  dLon: number;
  dLat: number;
  columns: number;
  rows: number;
  /** Byte offset of the first node. */
  at: number;
  children: Part[];
}

const RECORD = 16;
/** Seconds of arc in what files call a unit, by GS_TYPE. */
const SECONDS: Record<string, number> = { SECONDS: 1, MINUTES: 60, DEGREES: 3600 };

/**
 * Reads a .gsb file. Nodes stay in the given bytes and are read as they are asked for.
 * @param name of the file, for messages
 * @throws Problem `grid-broken` when it is not one, or is cut short
 */
export function readNtv2(bytes: Uint8Array, name: string): ShiftGrid {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const broken = (what: string): Problem =>
    new Problem('grid-broken', `The grid file ${name} cannot be used: ${what}. Get it again from where it came from.`);
  if (bytes.length < 11 * RECORD) throw broken(`it is only ${bytes.length} bytes long`);
  const text = (at: number): string =>
    String.fromCharCode(...bytes.subarray(at, at + 8))
      .replace(/\0/g, ' ')
      .trim();
  const little = view.getInt32(8, true) === 11;
  if (text(0) !== 'NUM_OREC' || (!little && view.getInt32(8, false) !== 11)) throw broken('it does not begin like an NTv2 grid shift file');
  const real = (at: number): number => view.getFloat64(at + 8, little);
  const count = view.getInt32(2 * RECORD + 8, little);
  const type = text(3 * RECORD + 8);
  const seconds = SECONDS[type];
  if (seconds === undefined) throw broken(`its unit ${type} is not known`);
  const degrees = seconds / 3600;
  const parts: Part[] = [];
  let at = 11 * RECORD;
  for (let k = 0; k < count; k++) {
    if (at + 11 * RECORD > bytes.length) throw broken(`it ends within the header of part ${k + 1} of ${count}`);
    // longitudes are counted to the west in the file
    const [south, north, east, west, dLat, dLon] = [4, 5, 6, 7, 8, 9].map((r) => real(at + r * RECORD) * degrees) as [
      number,
      number,
      number,
      number,
      number,
      number,
    ];
    const nodes = view.getInt32(at + 10 * RECORD + 8, little);
    const columns = Math.round((west - east) / dLon) + 1,
      rows = Math.round((north - south) / dLat) + 1;
    if (!(columns > 1 && rows > 1) || columns * rows !== nodes)
      throw broken(`part ${text(at + 8)} says that it has ${nodes} nodes, but its bounds make ${columns * rows}`);
    const first = at + 11 * RECORD;
    if (first + nodes * RECORD > bytes.length)
      throw broken(`it is cut short: part ${text(at + 8)} needs ${first + nodes * RECORD} bytes and the file has ${bytes.length}`);
    parts.push({
      name: text(at + 8),
      parent: text(at + RECORD + 8),
      west: -west,
      south,
      east: -east,
      north,
      dLon,
      dLat,
      columns,
      rows,
      at: first,
      children: [],
    });
    at = first + nodes * RECORD;
  }
  const byName = new Map(parts.map((p) => [p.name, p]));
  const roots = parts.filter((p) => {
    const parent = byName.get(p.parent);
    if (parent && parent !== p) parent.children.push(p);
    return !parent || parent === p;
  });
  return {
    bounds: [
      Math.min(...parts.map((p) => p.west)),
      Math.min(...parts.map((p) => p.south)),
      Math.max(...parts.map((p) => p.east)),
      Math.max(...parts.map((p) => p.north)),
    ],
    parts: parts.length,
    from: text(5 * RECORD + 8),
    to: text(6 * RECORD + 8),
    shiftAt(lon, lat, out) {
      const part = finest(roots, lon, lat);
      if (!part) return false;
      // nodes run from east to west and from south to north
      const x = (part.east - lon) / part.dLon,
        y = (lat - part.south) / part.dLat;
      const column = Math.max(0, Math.min(part.columns - 2, Math.floor(x))),
        line = Math.max(0, Math.min(part.rows - 2, Math.floor(y)));
      const u = x - column,
        v = y - line;
      const at00 = part.at + (line * part.columns + column) * RECORD,
        at01 = at00 + RECORD;
      const at10 = at00 + part.columns * RECORD,
        at11 = at10 + RECORD;
      const blend = (field: number): number =>
        (1 - v) * ((1 - u) * view.getFloat32(at00 + field, little) + u * view.getFloat32(at01 + field, little)) +
        v * ((1 - u) * view.getFloat32(at10 + field, little) + u * view.getFloat32(at11 + field, little));
      out[0] = -blend(4) * degrees;
      out[1] = blend(0) * degrees;
      return true;
    },
  };
}

function finest(parts: readonly Part[], lon: number, lat: number): Part | null {
  for (const p of parts) {
    if (lon >= p.west - EDGE && lon <= p.east + EDGE && lat >= p.south - EDGE && lat <= p.north + EDGE)
      return finest(p.children, lon, lat) ?? p;
  }
  return null;
}

/** Degrees within which a point on the edge counts as inside; a tenth of a millimetre. */
const EDGE = 1e-9;

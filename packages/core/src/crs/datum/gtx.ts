import { Problem } from '../../model/problem';

/** Heights on a grid, metres. */
export interface HeightGrid {
  bounds: [number, number, number, number];
  /** Interpolated between four nodes; NaN outside and where a node has no value. */
  heightAt(lon: number, lat: number): number;
}

const HEADER = 40;
/** What nodes without a value hold. */
const EMPTY = -88.8888;

/**
 * Reads a .gtx file: latitude and longitude of the south-west node and the spacings (four doubles), rows and columns (two
 * integers), then heights from south to north, west to east; big-endian. Source: NOAA VDatum, description of the GTX
 * format. Nodes stay in the given bytes.
 * @throws Problem `grid-broken`
 */
export function readGtx(bytes: Uint8Array, name: string): HeightGrid {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const broken = (what: string): Problem =>
    new Problem('grid-broken', `The grid file ${name} cannot be used: ${what}. Get it again from where it came from.`);
  if (bytes.length < HEADER) throw broken(`it is only ${bytes.length} bytes long`);
  const south = view.getFloat64(0),
    west = view.getFloat64(8),
    dLat = view.getFloat64(16),
    dLon = view.getFloat64(24);
  const rows = view.getInt32(32),
    columns = view.getInt32(36);
  if (!(dLat > 0 && dLon > 0 && rows > 1 && columns > 1 && Math.abs(south) <= 90.5 && Math.abs(west) <= 360.5))
    throw broken('its header makes no sense for a GTX file');
  if (HEADER + rows * columns * 4 > bytes.length)
    throw broken(
      `it is cut short: ${rows} rows of ${columns} nodes need ${HEADER + rows * columns * 4} bytes and the file has ${bytes.length}`,
    );
  const around = Math.abs(columns * dLon - 360) < dLon * 0.5;
  const node = (line: number, column: number): number => {
    const v = view.getFloat32(HEADER + (line * columns + (around ? column % columns : column)) * 4);
    return Math.abs(v - EMPTY) < 1e-3 ? NaN : v;
  };
  return {
    bounds: [west, south, west + (columns - 1) * dLon, south + (rows - 1) * dLat],
    heightAt(lon, lat) {
      let x = (lon - west) / dLon;
      if (x < 0) x += 360 / dLon;
      else if (x > columns && !around) x -= 360 / dLon;
      if (around) x %= columns;
      const y = (lat - south) / dLat;
      if (!(x >= 0 && y >= 0 && (around || x <= columns - 1) && y <= rows - 1)) return NaN;
      const column = around ? Math.floor(x) : Math.min(columns - 2, Math.floor(x)),
        line = Math.min(rows - 2, Math.floor(y));
      const u = x - column,
        v = y - line;
      return (
        (1 - v) * ((1 - u) * node(line, column) + u * node(line, column + 1)) +
        v * ((1 - u) * node(line + 1, column) + u * node(line + 1, column + 1))
      );
    },
  };
}

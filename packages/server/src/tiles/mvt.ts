import Pbf from 'pbf';

/** Geometry types. Source: Mapbox Vector Tile Specification 2.1, section 4.3.4. */
export const MVT_POINT = 1;
export const MVT_LINE = 2;
export const MVT_POLYGON = 3;

export const MVT_EXTENT = 2048;

export interface TileFeature {
  id: number;
  type: typeof MVT_POINT | typeof MVT_LINE | typeof MVT_POLYGON;
  /** Parts of x, y pairs in the tile's grid, whole numbers; rings without their closing vertex. */
  parts: number[][];
  properties: Record<string, string | number>;
}

/** Encodes one layer. Source: Mapbox Vector Tile Specification 2.1, sections 4.1 to 4.4. */
export function encodeTile(layer: string, features: readonly TileFeature[]): Uint8Array {
  const keys = new Map<string, number>();
  const values = new Map<string | number, number>();
  const indexIn = <K>(map: Map<K, number>, key: K): number => {
    let index = map.get(key);
    if (index === undefined) map.set(key, (index = map.size));
    return index;
  };
  const pbf = new Pbf();
  pbf.writeMessage(
    3,
    (_, out) => {
      out.writeVarintField(15, 2);
      out.writeStringField(1, layer);
      for (const feature of features) {
        out.writeMessage(
          2,
          (f, o) => {
            o.writeVarintField(1, f.id);
            o.writePackedVarint(
              2,
              Object.entries(f.properties).flatMap(([k, v]) => [indexIn(keys, k), indexIn(values, v)]),
            );
            o.writeVarintField(3, f.type);
            o.writePackedVarint(4, commands(f));
          },
          feature,
        );
      }
      for (const key of keys.keys()) out.writeStringField(3, key);
      for (const value of values.keys()) {
        out.writeMessage(
          4,
          (v, o) => {
            if (typeof v === 'string') o.writeStringField(1, v);
            else o.writeDoubleField(3, v);
          },
          value,
        );
      }
      out.writeVarintField(5, MVT_EXTENT);
    },
    null,
  );
  return pbf.finish();
}

const MOVE = 1,
  LINE = 2,
  CLOSE = 7;
const zigzag = (n: number): number => (n << 1) ^ (n >> 31);

function commands({ type, parts }: TileFeature): number[] {
  const out: number[] = [];
  let px = 0,
    py = 0;
  const to = (x: number, y: number): void => {
    out.push(zigzag(x - px), zigzag(y - py));
    px = x;
    py = y;
  };
  if (type === MVT_POINT) {
    out.push((parts.length << 3) | MOVE);
    for (const [x, y] of parts) to(x!, y!);
    return out;
  }
  for (const part of parts) {
    const n = part.length / 2;
    out.push((1 << 3) | MOVE);
    to(part[0]!, part[1]!);
    out.push(((n - 1) << 3) | LINE);
    for (let i = 1; i < n; i++) to(part[2 * i]!, part[2 * i + 1]!);
    if (type === MVT_POLYGON) out.push((1 << 3) | CLOSE);
  }
  return out;
}

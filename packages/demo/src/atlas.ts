import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { compileTransform } from '@pontrel/core/crs/transform';
import { writePrj } from '@pontrel/core/crs/definitions/wkt1';
import { seeded } from './random';
import { alongShore, ground, place, type Point, STREETS } from './town';

/** The town in longitude and latitude of WGS 84, for what is shown on a globe. */
function onGlobe(): (p: Point) => [number, number] {
  const way = compileTransform(lookupCrs('EPSG:2193')!, lookupCrs('EPSG:4326')!);
  return ([x, y]) => {
    const p = Float64Array.of(x, y);
    way.apply(p, 0, 1, 2);
    return [Number(p[0]!.toFixed(8)), Number(p[1]!.toFixed(8))];
  };
}

/** Corners of a piece of the town between two distances from the shore and two along it, closed. */
function block(u1: number, u2: number, v1: number, v2: number): Point[] {
  const near = alongShore(u1, v1, v2, 30),
    far = alongShore(u2, v2, v1, 30);
  return [...near, ...far, near[0]!];
}

const ZONES = [
  { code: 'PORT', name: 'Working port', stroke: '#a8492a', height: 18, at: [-6, 50, -430, 190] },
  { code: 'TOWN', name: 'Town centre', stroke: '#8a5a9e', height: 12, at: [66, 264, -150, 270] },
  { code: 'RES', name: 'Dwellings', stroke: '#b97a12', height: 8, at: [280, 400, -425, 405] },
  { code: 'REC', name: 'Reserve', stroke: '#2c7a73', height: 4, at: [66, 264, 275, 405] },
  { code: 'IND', name: 'Yards and sheds', stroke: '#5e6a72', height: 15, at: [66, 264, -425, -158] },
] as const;

/** The zones of the plan as GeoJSON, one of them with a hole around the old church. */
export function zones(): string {
  const globe = onGlobe();
  const features = ZONES.map(({ code, name, stroke, height, at: [u1, u2, v1, v2] }) => {
    const rings = [block(u1, u2, v1, v2)];
    if (code === 'TOWN') rings.push([...block(150, 182, 60, 96)].reverse());
    return {
      type: 'Feature',
      properties: {
        zone_code: code,
        zone_name: name,
        greatest_height_m: height,
        notified: code !== 'REC',
        stroke,
        'stroke-width': 2,
        fill: stroke,
        'fill-opacity': 0.25,
      },
      geometry: { type: 'Polygon', coordinates: rings.map((r) => r.map(globe)) },
    };
  });
  return `${JSON.stringify({ type: 'FeatureCollection', features }, null, 1)}\n`;
}

/** The path along the coast as KML, with seats and the landing where one must wait for the tide. */
export function coastPath(seed: number): string {
  const random = seeded(seed);
  const globe = onGlobe();
  const coordinates = (points: Point[], u: number, vs: number[]): string =>
    points.map((p, k) => [...globe(p), ground(u, vs[k]!).toFixed(1)].join(',')).join(' ');
  const stretches = [
    ['South beach', -430, -215, 'sand'],
    ['Behind the quay', -215, 180, 'boardwalk'],
    ['North point', 180, 420, 'gravel'],
  ] as const;
  const paths = stretches.map(([name, from, to, surface]) => {
    const n = Math.round((to - from) / 12);
    const vs = Array.from({ length: n + 1 }, (_, k) => from + ((to - from) * k) / n);
    return `<Placemark><name>${name}</name><styleUrl>#path</styleUrl><ExtendedData><SchemaData schemaUrl="#stretch"><SimpleData name="surface">${surface}</SimpleData><SimpleData name="width_m">${(1.2 + random()).toFixed(1)}</SimpleData><SimpleData name="lit">${surface === 'boardwalk'}</SimpleData></SchemaData></ExtendedData><LineString><tessellate>1</tessellate><coordinates>${coordinates(
      vs.map((v) => place(14 + 5 * Math.sin(v / 40), v)),
      14,
      vs,
    )}</coordinates></LineString></Placemark>`;
  });
  const seats = Array.from({ length: 14 }, (_, k) => {
    const v = -400 + k * 60 + random() * 20;
    return `<Placemark><name>Seat ${k + 1}</name><styleUrl>#seat</styleUrl><ExtendedData><Data name="given"><value>${1998 + Math.floor(random() * 27)}</value></Data></ExtendedData><Point><coordinates>${coordinates([place(18, v)], 18, [v])}</coordinates></Point></Placemark>`;
  });
  return `<?xml version="1.0" encoding="UTF-8"?>
<kml xmlns="http://www.opengis.net/kml/2.2"><Document><name>Coast path</name>
<Style id="path"><LineStyle><color>ff2a49a8</color><width>3</width></LineStyle></Style>
<Style id="seat"><IconStyle><color>ff737a2c</color></IconStyle></Style>
<Schema name="stretch" id="stretch"><SimpleField type="string" name="surface"/><SimpleField type="double" name="width_m"/><SimpleField type="bool" name="lit"/></Schema>
<Folder><name>Path</name>
${paths.join('\n')}
</Folder>
<Folder><name>Seats</name>
${seats.join('\n')}
</Folder>
</Document></kml>
`;
}

/** Cadastral parcels between the streets: what a shapefile of them is written from. */
export interface Parcel {
  ring: Point[];
  values: { PARCEL_ID: string; APPELLATION_TEXT: string; LAND_AREA: number; STREET: string; LEASED: boolean };
}

/** The parcels of the town; more of them as `size` grows, by narrower fronts. */
export function parcels(seed: number, size = 1): Parcel[] {
  const random = seeded(seed + 3);
  const out: Parcel[] = [];
  const rows = STREETS.along.slice(0, -1).map(({ u, name }, k) => ({ u1: u + 8, u2: STREETS.along[k + 1]!.u - 8, name }));
  for (const { u1, u2, name } of rows) {
    for (const [k, { v }] of STREETS.across.slice(0, -1).entries()) {
      const end = STREETS.across[k + 1]!.v - 7;
      const middle = (u1 + u2) / 2;
      for (const [a, b] of [
        [u1, middle],
        [middle, u2],
      ] as const) {
        for (let from = v + 7; from < end - 4;) {
          const to = Math.min(end, from + (14 + random() * 18) / size);
          const ring = block(a, b, from, to > end - 6 ? end : to);
          const id = out.length + 1;
          const area =
            Math.abs(
              ring.reduce(
                (sum, p, n) =>
                  n === 0
                    ? 0
                    : sum + (ring[n - 1]![0] - ring[0]![0]) * (p[1] - ring[0]![1]) - (p[0] - ring[0]![0]) * (ring[n - 1]![1] - ring[0]![1]),
                0,
              ),
            ) / 2;
          out.push({
            ring,
            values: {
              PARCEL_ID: `AV-${String(id).padStart(5, '0')}`,
              APPELLATION_TEXT: `Lot ${id} DP ${3000 + Math.floor(id / 40)}`,
              LAND_AREA: Number(area.toFixed(1)),
              STREET: name,
              LEASED: random() < 0.2,
            },
          });
          if (to > end - 6) break;
          from = to;
        }
      }
    }
  }
  return out;
}

/** A shapefile of areas and its table, as bytes by extension. Source: "Shapefile Technical Description", 1998; dBASE III. */
export function parcelFiles(list: readonly Parcel[]): Record<string, Uint8Array> {
  const records = list.map(({ ring }) => [...ring].reverse());
  const contents = records.map((ring) => 44 + 4 + 16 * ring.length);
  const total = 100 + contents.reduce((n, c) => n + 8 + c, 0);
  const shp = new DataView(new ArrayBuffer(total)),
    shx = new DataView(new ArrayBuffer(100 + 8 * list.length));
  const box = [Infinity, Infinity, -Infinity, -Infinity];
  let at = 100;
  records.forEach((ring, i) => {
    shp.setInt32(at, i + 1);
    shp.setInt32(at + 4, contents[i]! / 2);
    shx.setInt32(100 + 8 * i, at / 2);
    shx.setInt32(104 + 8 * i, contents[i]! / 2);
    at += 8;
    shp.setInt32(at, 5, true);
    const own = [
      Math.min(...ring.map((p) => p[0])),
      Math.min(...ring.map((p) => p[1])),
      Math.max(...ring.map((p) => p[0])),
      Math.max(...ring.map((p) => p[1])),
    ];
    own.forEach((b, k) => {
      shp.setFloat64(at + 4 + 8 * k, b, true);
      box[k] = k < 2 ? Math.min(box[k]!, b) : Math.max(box[k]!, b);
    });
    shp.setInt32(at + 36, 1, true);
    shp.setInt32(at + 40, ring.length, true);
    ring.forEach(([x, y], k) => {
      shp.setFloat64(at + 48 + 16 * k, x, true);
      shp.setFloat64(at + 56 + 16 * k, y, true);
    });
    at += contents[i]!;
  });
  for (const view of [shp, shx]) {
    view.setInt32(0, 9994);
    view.setInt32(24, view.byteLength / 2);
    view.setInt32(28, 1000, true);
    view.setInt32(32, 5, true);
    box.forEach((b, k) => view.setFloat64(36 + 8 * k, b, true));
  }
  const text = new TextEncoder();
  return {
    '.shp': new Uint8Array(shp.buffer),
    '.shx': new Uint8Array(shx.buffer),
    '.dbf': tableOf(list),
    '.prj': text.encode(writePrj(lookupCrs('EPSG:2193')!)),
    '.cpg': text.encode('UTF-8'),
  };
}

const COLUMNS = [
  ['PARCEL_ID', 'C', 8],
  ['APPELLATIO', 'C', 20],
  ['LAND_AREA', 'N', 10],
  ['STREET', 'C', 20],
  ['LEASED', 'L', 1],
] as const;
const FIELDS = ['PARCEL_ID', 'APPELLATION_TEXT', 'LAND_AREA', 'STREET', 'LEASED'] as const;

function tableOf(list: readonly Parcel[]): Uint8Array {
  const width = 1 + COLUMNS.reduce((n, c) => n + c[2], 0),
    head = 33 + 32 * COLUMNS.length;
  const out = new Uint8Array(head + width * list.length + 1).fill(32);
  const view = new DataView(out.buffer);
  out.fill(0, 0, head);
  out.set([3, 126, 11, 25]);
  view.setUint32(4, list.length, true);
  view.setUint16(8, head, true);
  view.setUint16(10, width, true);
  const put = (s: string, p: number): void => out.set(new TextEncoder().encode(s), p);
  COLUMNS.forEach(([name, type, w], k) => {
    put(name, 32 + 32 * k);
    put(type, 43 + 32 * k);
    out[48 + 32 * k] = w;
    out[49 + 32 * k] = type === 'N' ? 1 : 0;
  });
  out[head - 1] = 13;
  list.forEach(({ values }, i) => {
    let p = head + i * width + 1;
    FIELDS.forEach((field, k) => {
      const value = values[field];
      const s =
        typeof value === 'boolean' ? (value ? 'T' : 'F') : typeof value === 'number' ? value.toFixed(1).padStart(COLUMNS[k]![2]) : value;
      put(s.slice(0, COLUMNS[k]![2]), p);
      p += COLUMNS[k]![2];
    });
  });
  out[out.length - 1] = 26;
  return out;
}

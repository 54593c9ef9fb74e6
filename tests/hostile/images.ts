import { deflateSync } from 'node:zlib';
import Database from 'better-sqlite3';
import { strToU8, zipSync } from 'fflate';
import type { HostileFile } from './hostile';

/** A tag of a made TIFF: its number, its type and its values; texts are bytes. */
type Tag = [tag: number, type: 1 | 2 | 3 | 4 | 12, values: number[]];

const SIZES = { 1: 1, 2: 1, 3: 2, 4: 4, 12: 8 } as const;

/** A TIFF of one directory, little endian, with bytes behind it that strips may lie in. */
function tiff(tags: readonly Tag[], pixels: Uint8Array = new Uint8Array(0), next = 0): Buffer {
  const sorted = [...tags].sort((a, b) => a[0] - b[0]);
  const far: Buffer[] = [];
  const directory = Buffer.alloc(2 + 12 * sorted.length + 4);
  directory.writeUInt16LE(sorted.length, 0);
  let at = 8 + directory.length;
  sorted.forEach(([tag, type, values], k) => {
    const bytes = Buffer.alloc(values.length * SIZES[type]);
    values.forEach((v, j) => {
      if (type === 12) bytes.writeDoubleLE(v, 8 * j);
      else bytes.writeUIntLE(v, j * SIZES[type], SIZES[type]);
    });
    const entry = 2 + 12 * k;
    directory.writeUInt16LE(tag, entry);
    directory.writeUInt16LE(type, entry + 2);
    directory.writeUInt32LE(values.length, entry + 4);
    if (bytes.length <= 4) bytes.copy(directory, entry + 8);
    else {
      directory.writeUInt32LE(at, entry + 8);
      far.push(bytes);
      at += bytes.length;
    }
  });
  directory.writeUInt32LE(next, directory.length - 4);
  const head = Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0]);
  return Buffer.concat([head, directory, ...far, pixels]);
}

const PLACED: Tag[] = [
  [33550, 12, [1, 1, 0]],
  [33922, 12, [0, 0, 0, 1463000, 5102000, 0]],
];

/** A grey picture of so many pixels, each tag as given or as a sound file has it. */
function grey(width: number, height: number, changed: Tag[] = [], pixels = new Uint8Array(0)): Buffer {
  const sound: Tag[] = [
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, [8]],
    [259, 3, [1]],
    [262, 3, [1]],
    [273, 4, [8]],
    [277, 3, [1]],
    [278, 4, [height]],
    [279, 4, [(width * height) % 2 ** 32]],
    ...PLACED,
  ];
  const own = new Map(sound.map((t) => [t[0], t]));
  for (const t of changed) own.set(t[0], t);
  return tiff(
    [...own.values()].filter((t) => t[2].length > 0),
    pixels,
  );
}

const crc = (bytes: Buffer): number => {
  let c = ~0;
  for (const b of bytes) {
    c ^= b;
    for (let k = 0; k < 8; k++) c = c & 1 ? (c >>> 1) ^ 0xedb88320 : c >>> 1;
  }
  return ~c >>> 0;
};

function png(width: number, height: number, packed: Buffer): Buffer {
  const chunk = (name: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(name, 'latin1'), data]);
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc(body));
    return Buffer.concat([length, body, sum]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head[8] = 8;
  return Buffer.concat([
    Buffer.from([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]),
    chunk('IHDR', head),
    chunk('IDAT', packed),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

const overlay = (href: string, west: number, east: number, south = -45, north = -44): string =>
  `<GroundOverlay><Icon><href>${href}</href></Icon>` +
  `<LatLonBox><north>${north}</north><south>${south}</south><east>${east}</east><west>${west}</west></LatLonBox></GroundOverlay>`;
const linkTo = (href: string): string => `<NetworkLink><Link><href>${href}</href></Link></NetworkLink>`;

/** An archive of documents and pictures; texts are documents of KML. */
const kmz = (files: Record<string, string | Uint8Array>): Uint8Array =>
  zipSync(
    Object.fromEntries(
      Object.entries(files).map(([name, content]) => [
        name,
        typeof content === 'string'
          ? strToU8(`<kml xmlns="http://www.opengis.net/kml/2.2"><Document>${content}</Document></kml>`)
          : content,
      ]),
    ),
  );

/** Tiles of a zoom, by column and row, in a database. */
function mbtiles(zoom: number, tiles: readonly [column: number, row: number][]): Uint8Array {
  const db = new Database(':memory:');
  db.exec(`CREATE TABLE metadata (name TEXT, value TEXT);
    CREATE TABLE tiles (zoom_level INTEGER, tile_column INTEGER, tile_row INTEGER, tile_data BLOB);
    INSERT INTO metadata VALUES ('format', 'png');`);
  const insert = db.prepare('INSERT INTO tiles VALUES (?, ?, ?, ?)');
  for (const [column, row] of tiles) insert.run(zoom, column, row, png(256, 256, zeros(257 * 256)));
  return db.serialize();
}

const WORLD = '1\n0\n0\n-1\n1463000.5\n5101999.5\n';
const small = (): Buffer => grey(16, 16, [], new Uint8Array(256).fill(7));
/** A picture that does not say where it lies. */
const unplaced = (): Buffer =>
  grey(
    16,
    16,
    [
      [33550, 12, []],
      [33922, 12, []],
    ],
    new Uint8Array(512),
  );
/** Zeros of so many bytes, packed a thousand to one. */
const zeros = (bytes: number): Buffer => deflateSync(Buffer.alloc(bytes));

const made: Record<string, () => Record<string, Uint8Array | string>> = {
  'a header of 100,000 by 100,000 pixels and nothing behind it': () => ({ 'a.tif': grey(100_000, 100_000) }),
  'four thousand million pixels a side': () => ({ 'a.tif': grey(4_294_967_295, 4_294_967_295) }),
  'no pixel at all': () => ({ 'a.tif': grey(0, 16) }),
  'a directory that leads to itself': () => ({ 'a.tif': tiff([[256, 4, [1]]], undefined, 8) }),
  'a directory beyond its end': () => ({ 'a.tif': Buffer.from([0x49, 0x49, 42, 0, 0xff, 0xff, 0xff, 0x7f]) }),
  'a tag that says it has a thousand million values': () => {
    const bytes = small();
    // the count of the strip offsets
    const entry = 8 + 2 + 12 * 5;
    bytes.writeUInt32LE(1_000_000_000, entry + 4);
    return { 'a.tif': bytes };
  },
  'a BigTIFF of offsets beyond all numbers': () => ({
    'a.tif': Buffer.concat([Buffer.from([0x49, 0x49, 43, 0, 8, 0, 0, 0]), Buffer.alloc(8, 0xff), Buffer.alloc(64)]),
  }),
  'strips that lie beyond its end': () => ({ 'a.tif': grey(16, 16, [[273, 4, [1_000_000]]]) }),
  'a thousand bands': () => ({
    'a.tif': grey(16, 16, [
      [277, 3, [1000]],
      [258, 3, Array.from({ length: 1000 }, () => 8)],
    ]),
  }),
  'sixty thousand bands': () => ({ 'a.tif': grey(16, 16, [[277, 3, [60_000]]]) }),
  'bands of several types': () => ({
    'a.tif': grey(
      16,
      16,
      [
        [277, 3, [2]],
        [258, 3, [8, 16]],
      ],
      new Uint8Array(1024),
    ),
  }),
  'samples of 13 bits': () => ({ 'a.tif': grey(16, 16, [[258, 3, [13]]], new Uint8Array(1024)) }),
  'a way of packing that nobody knows': () => ({ 'a.tif': grey(16, 16, [[259, 3, [4711]]], new Uint8Array(1024)) }),
  'packed bytes that unpack to a thousand times as much': () => {
    const packed = zeros(200_000_000);
    return {
      'a.tif': grey(
        16,
        16,
        [
          [259, 3, [8]],
          [273, 4, [400]],
          [279, 4, [packed.length]],
        ],
        Buffer.concat([Buffer.alloc(400), packed]),
      ),
    };
  },
  'one packed block of a thousand million pixels': () => {
    const packed = zeros(1000);
    return {
      'a.tif': grey(
        32_000,
        32_000,
        [
          [259, 3, [8]],
          [273, 4, [400]],
          [279, 4, [packed.length]],
        ],
        Buffer.concat([Buffer.alloc(400), packed]),
      ),
    };
  },
  'LZW of noise': () => ({
    'a.tif': grey(
      64,
      64,
      [
        [259, 3, [5]],
        [273, 4, [300]],
        [279, 4, [2000]],
      ],
      Uint8Array.from({ length: 4000 }, (_, k) => (k * 7919) % 251),
    ),
  }),
  'a palette that is not there': () => ({ 'a.tif': grey(16, 16, [[262, 3, [3]]], new Uint8Array(512)) }),
  'pixels without area': () => ({ 'a.tif': grey(16, 16, [[33550, 12, [0, 0, 0]]], new Uint8Array(512)) }),
  'a place that is no number': () => ({ 'a.tif': grey(16, 16, [[33922, 12, [0, 0, 0, NaN, Infinity, 0]]], new Uint8Array(512)) }),
  'pixels as wide as the earth': () => ({ 'a.tif': grey(16, 16, [[33550, 12, [1e300, 1e300, 0]]], new Uint8Array(512)) }),
  'keys that point anywhere': () => ({
    'a.tif': grey(16, 16, [[34735, 3, [1, 1, 0, 9000, 3072, 34736, 9000, 60_000, 2048, 34737, 5, 60_000]]], new Uint8Array(512)),
  }),
  'keys of a code that is none': () => ({
    'a.tif': grey(16, 16, [[34735, 3, [1, 1, 0, 2, 1024, 0, 1, 1, 3072, 0, 1, 31_999]]], new Uint8Array(512)),
  }),
  'three points in one place': () => ({
    'a.tif': grey(
      16,
      16,
      [
        [33550, 12, []],
        [33922, 12, Array.from({ length: 18 }, () => 5)],
      ],
      new Uint8Array(512),
    ),
  }),
  'a world file of five lines': () => ({
    'a.tif': unplaced(),
    'a.tfw': '1\n0\n0\n-1\n5\n',
  }),
  'a world file of words': () => ({
    'a.tif': unplaced(),
    'a.tfw': 'one\ntwo\n3\n4\n5\n6',
  }),
  'a world file of zeros': () => ({
    'a.tif': unplaced(),
    'a.tfw': '0\n0\n0\n0\n0\n0\n',
  }),
  'no place at all': () => ({
    'a.tif': unplaced(),
  }),
  'a picture of 60,000 by 60,000 zeros in a few bytes': () => ({ 'a.png': png(60_000, 60_000, zeros(60_001 * 3000)), 'a.pgw': WORLD }),
  'a pyramid whose documents lead round': () => ({
    'a.kmz': kmz({
      'doc.kml': linkTo('b.kml'),
      'b.kml': linkTo('doc.kml') + linkTo('b.kml') + overlay('t.png', 171, 172),
      't.png': png(4, 4, zeros(20)),
    }),
  }),
  'a pyramid that leads to nothing': () => ({ 'a.kmz': kmz({ 'doc.kml': linkTo('../../x.kml') + linkTo('b.kml'), 'b.kml': '' }) }),
  'tiles of a pyramid at both ends of the earth': () => ({
    'a.kmz': kmz({
      'doc.kml': linkTo('b.kml'),
      'b.kml': overlay('t.png', -180, -179.999999996, -45, -44.999999996) + overlay('t.png', 179.999999996, 180, -45, -44.999999996),
      't.png': png(4, 4, zeros(20)),
    }),
  }),
  'a tile of a pyramid that says another size': () => ({
    'a.kmz': kmz({ 'doc.kml': linkTo('b.kml'), 'b.kml': overlay('t.png', 171, 172), 't.png': png(8000, 8000, zeros(1000)) }),
  }),
  'twenty thousand links of one document': () => ({
    'a.kmz': kmz({
      'doc.kml': Array.from({ length: 20_000 }, (_, k) => linkTo(`${k}.kml`)).join('') + linkTo('b.kml'),
      'b.kml': overlay('t.png', 171, 172),
      't.png': png(4, 4, zeros(20)),
    }),
  }),
  'tiles at both ends of zoom 24': () => ({
    'a.mbtiles': mbtiles(24, [
      [0, 0],
      [2 ** 24 - 1, 2 ** 24 - 1],
    ]),
  }),
  'a PNG that ends within its pixels': () => ({ 'a.png': png(4000, 4000, zeros(1000)), 'a.pgw': WORLD }),
  'a PNG of noise': () => ({ 'a.png': Buffer.concat([png(9, 9, zeros(90)).subarray(0, 40), Buffer.alloc(500, 0x5a)]), 'a.pgw': WORLD }),
  'a JPEG 2000 of 60,000 by 60,000 pixels in a few bytes': () => {
    const siz = Buffer.alloc(51);
    siz.set([0xff, 0x4f, 0xff, 0x51, 0, 47]);
    for (const at of [8, 12, 24, 28]) siz.writeUInt32BE(60_000, at);
    siz.writeUInt16BE(3, 40);
    return { 'a.j2k': siz, 'a.j2w': WORLD };
  },
  'a JPEG 2000 that ends within its header': () => ({ 'a.j2k': Uint8Array.of(0xff, 0x4f, 0xff, 0x51, 0, 47, 0, 0), 'a.j2w': WORLD }),
  'a JPEG 2000 of boxes that lead nowhere': () => ({
    'a.jp2': Buffer.concat([
      Buffer.from([0, 0, 0, 12, 0x6a, 0x50, 0x20, 0x20, 0x0d, 0x0a, 0x87, 0x0a]),
      Buffer.from([0, 0, 0, 1, 0x75, 0x75, 0x69, 0x64]),
      Buffer.alloc(64, 0xff),
    ]),
    'a.j2w': WORLD,
  }),
  'a JPEG of three bytes': () => ({ 'a.jpg': Uint8Array.of(0xff, 0xd8, 0xff), 'a.jgw': WORLD }),
  'a JPEG of noise': () => ({ 'a.jpg': Buffer.concat([Buffer.from([0xff, 0xd8, 0xff, 0xe0]), Buffer.alloc(4000, 0x41)]), 'a.jgw': WORLD }),
};

/** A picture with something in it, in degrees. */
export const soundPicture = (): Uint8Array =>
  grey(
    96,
    80,
    [
      [33550, 12, [0.001, 0.001, 0]],
      [33922, 12, [0, 0, 0, 171, -44, 0]],
      [273, 4, [400]],
    ],
    Uint8Array.from({ length: 400 + 96 * 80 }, (_, k) => 128 + 60 * Math.sin((k % 96) / 7) * Math.cos(k / 96 / 5) + (k % 13)),
  );

/** Pictures made to harm. */
export const IMAGES: HostileFile[] = [
  ...Object.entries(made).map(([what, make]) => ({ what: `picture: ${what}`, make, output: 'out.tif' })),
  ...[
    ['pixels so small that there are too many', ['--pixel-size', '0.0000001']],
    ['an area as wide as the earth', ['--bounds', '-1e7,-1e7,1e7,1e7']],
    ['an area that it does not touch', ['--bounds', '0,0,10,10']],
    ['a system that it has no place in', ['--to', 'EPSG:5041']],
  ].map(([what, args]) => ({
    what: `picture: ${what as string}`,
    make: () => ({ 'a.tif': small() }),
    args: args as string[],
    output: 'out.tif',
  })),
];

import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { FORMATS } from '@pontrel/core/formats/index';
import { featuresOf } from '../odd/files';
import { pontrel } from '../reference/python';
import type { HostileFile } from './hostile';
import { soundPicture } from './images';

/** A sound file of each kind: all that belongs to it, by name, the one to hand in first. */
export interface Sound {
  /** What it is called among the others: its extension, or its format where two share that. */
  kind: string;
  picture: boolean;
  files: Record<string, Uint8Array>;
}

const GEOMETRIES = [
  (x: number) => `{"type":"Point","coordinates":[${x},-44.4]}`,
  (x: number) => `{"type":"LineString","coordinates":[[${x},-44.4],[${x + 0.01},-44.4],[${x + 0.02},-44.42]]}`,
  (x: number) =>
    `{"type":"Polygon","coordinates":[[[${x},-44.4],[${x + 0.01},-44.4],[${x + 0.01},-44.39],[${x},-44.4]],[[${x + 0.007},-44.399],[${x + 0.008},-44.399],[${x + 0.008},-44.398],[${x + 0.007},-44.399]]]}`,
];

const SOUND = featuresOf(
  ...Array.from(
    { length: 15 },
    (_, k) =>
      `{"type":"Feature","geometry":${k === 14 ? 'null' : GEOMETRIES[k % 3]!(171 + k / 20)},"properties":{"name":"N${k}","n":${k * 1.5},"when":"2026-03-${10 + k}"}}`,
  ),
);

/** Writes one small file of every kind that is written, and reads what lies there. */
export function soundFiles(folder: string): Sound[] {
  mkdirSync(folder, { recursive: true });
  const input = path.join(folder, 'sound.geojson');
  writeFileSync(input, SOUND);
  return [...soundRecords(folder, input), ...soundPictures(folder)];
}

function soundPictures(folder: string): Sound[] {
  const input = path.join(folder, 'picture.tif');
  writeFileSync(input, soundPicture());
  const kinds = ['.tif', '.png', '.jpg', '.jp2', '.mbtiles', 'geopackage-tiles'];
  return kinds.map((kind) => {
    const own = path.join(folder, kind.replace('.', ''));
    mkdirSync(own);
    const extension = kind.startsWith('.') ? kind : '.gpkg';
    // what is packed shows that it was changed, and what is not lets changes through
    const options = kind === '.tif' ? ['--option', 'packing=none'] : extension === kind ? [] : ['--format', kind];
    pontrel('convert', input, path.join(own, `sound${extension}`), '--from', 'EPSG:4326', ...options);
    const names = readdirSync(own).sort((a, b) => Number(b.endsWith(extension)) - Number(a.endsWith(extension)));
    return { kind, picture: true, files: Object.fromEntries(names.map((f) => [f, new Uint8Array(readFileSync(path.join(own, f)))])) };
  });
}

function soundRecords(folder: string, input: string): Sound[] {
  const kinds = [...FORMATS.filter((f) => f.features.write).map((f) => f.extensions[0]!), '.ods', '.kmz', '.geojsonl', '.dbf'];
  return kinds.flatMap((extension) => {
    const own = path.join(folder, extension.slice(1));
    mkdirSync(own);
    if (extension !== '.dbf') pontrel('convert', input, path.join(own, `sound${extension}`), '--to', 'EPSG:4326');
    else pontrel('convert', input, path.join(own, 'sound.shp'), '--to', 'EPSG:4326');
    const [first] = readdirSync(own)
      .filter((f) => f.endsWith(extension))
      .sort();
    if (first === undefined) return [];
    const stem = first.slice(0, first.lastIndexOf('.'));
    const others = extension === '.dbf' ? [] : readdirSync(own).filter((f) => f !== first && f.startsWith(stem + '.'));
    return [
      {
        kind: extension,
        picture: false,
        files: Object.fromEntries([first, ...others].map((f) => [f, new Uint8Array(readFileSync(path.join(own, f)))])),
      },
    ];
  });
}

const HARMS: readonly [string, (bytes: Uint8Array, at: number) => Uint8Array][] = [
  ['cut off', (bytes, at) => bytes.slice(0, at)],
  ['64 bytes all ones', (bytes, at) => Uint8Array.from(bytes).fill(0xff, at, at + 64)],
  ['64 bytes gone', (bytes, at) => Uint8Array.from([...bytes.subarray(0, at), ...bytes.subarray(at + 64)])],
  [
    'four bytes of a number near two billion',
    (bytes, at) => {
      const made = Uint8Array.from(bytes);
      made.set([0xfe, 0xff, 0xff, 0x7f].slice(0, made.length - at), at);
      return made;
    },
  ],
];

/** Shares of a file at which it is harmed. */
const PLACES = [0.002, 0.03, 0.2, 0.5, 0.85, 0.99];

/** Every sound file, harmed in each way at each place. */
export const harmed = (sound: readonly Sound[]): HostileFile[] =>
  sound.flatMap(({ kind, picture, files }) =>
    HARMS.flatMap(([harm, of], h) =>
      // each harm at some of the places, all places with some harm
      PLACES.filter((_, p) => (p + h) % 2 === 0).map((share) => ({
        what: `${kind}: ${harm} at ${share * 100} %`,
        ...(picture ? { output: 'out.tif' } : {}),
        make: () => {
          const [first] = Object.keys(files);
          const bytes = files[first!]!;
          return { ...files, [first!]: of(bytes, Math.max(1, Math.floor(bytes.length * share))) };
        },
      })),
    ),
  );

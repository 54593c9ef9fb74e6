import { zlibSync } from 'fflate';
import { segmentDistance } from '../geometry/distance';
import { flatten } from '../geometry/flatten';
import { eachPart } from '../model/batch';
import type { DrawnSymbol } from './drawn-symbols';

/** Width of a line, as a share of the symbol. */
const STROKE = 0.075;
/** The symbol takes so much of the picture. */
const FILLED = 0.86;

/**
 * A symbol as a picture: white lines on nothing, so that whoever shows it can give it a colour.
 * @param size pixels
 */
export function symbolPng({ symbol }: DrawnSymbol, size: number): Uint8Array {
  const { coords, ...parts } = flatten(symbol.parts, 0.002);
  const sides: [number, number, number, number][] = [];
  for (let i = 0; i < parts.count; i++) {
    eachPart({ coords, ...parts }, i, (s, e) => {
      for (let v = s; v + 1 < e; v++) sides.push([coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 3]!, coords[3 * v + 4]!]);
    });
  }
  const pixel = 1 / (size * FILLED);
  const rows = new Uint8Array(size * (2 * size + 1));
  for (let row = 0; row < size; row++) {
    for (let column = 0; column < size; column++) {
      const x = (column + 0.5 - size / 2) * pixel,
        y = (size / 2 - row - 0.5) * pixel;
      const distance = Math.min(...sides.map((side) => segmentDistance(...side, x, y)));
      const at = row * (2 * size + 1) + 1 + 2 * column;
      rows[at] = 255;
      rows[at + 1] = Math.round(255 * Math.min(1, Math.max(0, 0.5 + (STROKE / 2 - distance) / pixel)));
    }
  }
  return png(size, zlibSync(rows));
}

const GREY_AND_ALPHA = 4;

/** Source: PNG (third edition), sections 5.2, 5.3, 11.2.1 and annex D (check value). */
function png(size: number, data: Uint8Array): Uint8Array {
  const head = new Uint8Array(13);
  const view = new DataView(head.buffer);
  view.setUint32(0, size);
  view.setUint32(4, size);
  head.set([8, GREY_AND_ALPHA, 0, 0, 0], 8);
  const pieces = [
    Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a),
    chunk('IHDR', head),
    chunk('IDAT', data),
    chunk('IEND', new Uint8Array(0)),
  ];
  const out = new Uint8Array(pieces.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

function chunk(type: string, data: Uint8Array): Uint8Array {
  const out = new Uint8Array(12 + data.length);
  const view = new DataView(out.buffer);
  view.setUint32(0, data.length);
  for (let k = 0; k < 4; k++) out[4 + k] = type.charCodeAt(k);
  out.set(data, 8);
  view.setUint32(8 + data.length, checkValue(out.subarray(4, 8 + data.length)));
  return out;
}

function checkValue(bytes: Uint8Array): number {
  let c = 0xffffffff;
  for (const byte of bytes) {
    c ^= byte;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
  }
  return ~c >>> 0;
}

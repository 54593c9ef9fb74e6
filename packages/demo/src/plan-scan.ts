import sharp from 'sharp';
import type { ImageInfo, Raster } from '@pontrel/core/model/raster';
import { colourInfo } from './aerial';
import { seeded } from './random';
import { acrossShore, alongShore, MARKS, place, type Point, QUAY, STREETS, townAt } from './town';

/** The sheet, in pixels of 200 dpi, its scale, and how it lay on the scanner. */
const SHEET = { width: 2480, height: 1754, scale: 2000, dpi: 200, turned: 1.35 };

/** Metres of a pixel. */
const PIXEL = (SHEET.scale * 0.0254) / SHEET.dpi;

/** The middle of what the sheet shows. */
const MIDDLE = place(70, -14);

/** Where on the sheet a position lies, before it was turned on the scanner. */
const onSheet = ([x, y]: Point): Point => [SHEET.width / 2 + (x - MIDDLE[0]) / PIXEL, SHEET.height / 2 - (y - MIDDLE[1]) / PIXEL];

/** Where a survey mark stands in the scan, in pixels from its upper left corner. */
export function inScan(p: Point): Point {
  const [x, y] = onSheet(p);
  const a = (SHEET.turned * Math.PI) / 180;
  const [dx, dy] = [x - SHEET.width / 2, y - SHEET.height / 2];
  return [SHEET.width / 2 + dx * Math.cos(a) - dy * Math.sin(a), SHEET.height / 2 + dx * Math.sin(a) + dy * Math.cos(a)];
}

const INK = '#3b3026';

/** The plan of the quay of 1938 as it came from a scanner: ink on yellowed paper, a little turned, without any position. */
export async function scannedPlan(seed: number): Promise<{ raster: Raster; info: ImageInfo }> {
  const { width, height } = SHEET;
  const random = seeded(seed + 38);
  const path = (points: Point[], closed = false): string =>
    points
      .map(onSheet)
      .map(([x, y], k) => `${k === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`)
      .join('') + (closed ? 'Z' : '');
  const stroke = (d: string, w: number, more = ''): string => `<path d="${d}" fill="none" stroke="${INK}" stroke-width="${w}" ${more}/>`;
  const parts: string[] = [];
  // soundings in the harbour, and hachures along the shore
  for (let k = 0; k < 150; k++) {
    const p = place(-15 - 150 * random(), -330 + 640 * random());
    const [x, y] = onSheet(p);
    parts.push(
      `<text x="${x.toFixed(0)}" y="${y.toFixed(0)}" font-size="19" fill="${INK}" opacity=".75">${Math.round(2 - townAt(p)[0] / 22)}</text>`,
    );
  }
  parts.push(stroke(path(alongShore(0, -420, 420, 8)), 3.6));
  for (const u of [-4, -9, -16]) parts.push(stroke(path(alongShore(u, -420, 420, 8)), 1.1, 'stroke-dasharray="9 6" opacity=".7"'));
  for (const { u, name } of STREETS.along.slice(0, 2)) {
    for (const side of [-5, 5]) parts.push(stroke(path(alongShore(u + side, -420, 400, 10)), 1.6));
    const [x, y] = onSheet(place(u, 40));
    parts.push(
      `<text x="${x}" y="${y}" font-size="28" fill="${INK}" font-style="italic" transform="rotate(-78 ${x} ${y})" letter-spacing="5">${name}</text>`,
    );
  }
  for (const { v } of STREETS.across.slice(1, 5))
    for (const side of [-4.5, 4.5]) parts.push(stroke(path(acrossShore(v + side, 63, 160)), 1.6));
  const { from, to } = QUAY;
  parts.push(stroke(path([...alongShore(3, from, to, 8)]), 4.4), stroke(path(alongShore(9, from, to, 8)), 1.4));
  for (let v = from; v <= to; v += 6) parts.push(stroke(path([place(3, v), place(9, v)]), 0.9));
  for (const [u1, u2, v1, v2] of [
    [20, 44, -186, -124],
    [22, 42, -96, -44],
    [20, 46, 40, 96],
    [70, 92, -60, -30],
    [74, 96, 30, 64],
    [72, 100, -128, -96],
  ] as const) {
    const ring = path([place(u1, v1), place(u1, v2), place(u2, v2), place(u2, v1)], true);
    parts.push(`<path d="${ring}" fill="#b4604a" fill-opacity=".42" stroke="${INK}" stroke-width="1.8"/>`);
  }
  for (const { mark, u, v } of MARKS) {
    const [x, y] = onSheet(place(u, v));
    parts.push(
      stroke(`M${x - 13} ${y}H${x + 13}M${x} ${y - 13}V${y + 13}`, 2),
      `<circle cx="${x}" cy="${y}" r="7" fill="none" stroke="${INK}" stroke-width="2"/>`,
      `<text x="${x + 15}" y="${y - 9}" font-size="22" fill="${INK}">${mark}</text>`,
    );
  }
  const title = ['PORT AVERIL', 'PLAN OF THE HARBOUR QUAY', 'surveyed 1938', 'Scale 1 : 2 000'];
  const block = title.map(
    (t, k) => `<text x="1880" y="${1400 + 48 * k}" font-size="${[44, 24, 22, 22][k]}" fill="${INK}" letter-spacing="3">${t}</text>`,
  );
  const north = [
    `<path d="M2280 260V100M2280 100l-16 44M2280 100l16 44" fill="none" stroke="${INK}" stroke-width="3"/>`,
    `<text x="2266" y="300" font-size="34" fill="${INK}">N</text>`,
  ].join('');
  const frame = [
    `<rect x="70" y="70" width="${width - 140}" height="${height - 140}" fill="none" stroke="${INK}" stroke-width="4"/>`,
    `<rect x="86" y="86" width="${width - 172}" height="${height - 172}" fill="none" stroke="${INK}" stroke-width="1.3"/>`,
  ].join('');
  const clip = `<clipPath id="c"><rect x="88" y="88" width="${width - 176}" height="${height - 176}"/></clipPath>`;
  const folds = `<path d="M${width / 2} 0V${height}M0 ${height / 2}H${width}" stroke="#8d7a55" stroke-width="5" opacity=".22"/>`;
  const box = `<rect x="1850" y="1330" width="480" height="250" fill="#e3d4ad" stroke="${INK}" stroke-width="2"/>`;
  const svg = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" font-family="serif">`,
    `<rect width="${width}" height="${height}" fill="#dccfae"/><g transform="rotate(${SHEET.turned} ${width / 2} ${height / 2})">`,
    `<rect x="26" y="26" width="${width - 52}" height="${height - 52}" fill="#e7dab6"/><defs>${clip}</defs>`,
    `<g clip-path="url(#c)">${parts.join('')}</g>${frame}${box}${block.join('')}${north}${folds}</g></svg>`,
  ].join('');
  const { data } = await sharp(Buffer.from(svg), { unlimited: true })
    .flatten({ background: '#dccfae' })
    .removeAlpha()
    .blur(0.7)
    .raw()
    .toBuffer({ resolveWithObject: true });
  const out = new Uint8Array(data);
  for (let i = 0; i < out.length; i += 3) {
    const [x, y] = [(i / 3) % width, Math.floor(i / 3 / width)];
    const stain =
      -22 * Math.exp(-(((x - 520) / 260) ** 2 + ((y - 1320) / 190) ** 2)) -
      14 * Math.exp(-(((x - 2050) / 300) ** 2 + ((y - 420) / 240) ** 2));
    const light = (random() + random() - 1) * 9 + stain * (0.8 + 0.2 * Math.sin(x / 41) * Math.cos(y / 37));
    for (let b = 0; b < 3; b++) out[i + b] = Math.max(0, Math.min(255, out[i + b]! + light * [0.9, 1, 1.15][b]!));
  }
  return { raster: { width, height, bands: 3, data: out, valid: null }, info: colourInfo(width, height) };
}

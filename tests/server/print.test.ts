import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { pontrel } from '../reference/python';
import { QUAY, temporaryFolder, TestServer } from './client';

const SCALE = 2000,
  /** Dots an inch at which the sheet is looked at: two to a point. */
  DPI = 144;
/** Where the map lies on an A4 sheet that lies across, points: within the margin and the neatline, beside the legend, above the title. */
const MAP = { x: 43, y: 43, width: 607, height: 451 };
const MIDDLE: [number, number] = [1_464_080, 5_101_520];

/** Pixels that are not white. */
async function inked(image: ReturnType<typeof sharp>): Promise<{ width: number; height: number; on: boolean[] }> {
  const { data, info } = await image.flatten({ background: '#ffffff' }).greyscale().raw().toBuffer({ resolveWithObject: true });
  return {
    width: info.width,
    height: info.height,
    on: Array.from({ length: info.width * info.height }, (_, k) => data[k * info.channels]! < 200),
  };
}

describe('a printed map', () => {
  const { folder, remove } = temporaryFolder();
  const file = path.join(folder, 'map.pdf');
  let server: TestServer;
  let id: string;
  const print = async (more: Record<string, unknown> = {}): Promise<{ status: number; bytes: Buffer }> => {
    const response = await fetch(new URL(`api/crossings/${id}/map.pdf`, server.address), {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        title: 'Ferry quay, as built',
        middle: MIDDLE,
        scale: SCALE,
        paper: 'a4',
        upright: false,
        without: {},
        ...more,
      }),
    });
    return { status: response.status, bytes: Buffer.from(await response.arrayBuffer()) };
  };
  beforeAll(async () => {
    server = await TestServer.start(path.join(folder, 'data'));
    ({ id } = await server.placed(QUAY, { crs: 'EPSG:2193', unit_m: 0.001 }));
    const { status, bytes } = await print();
    expect(status).toBe(200);
    writeFileSync(file, bytes);
  });
  afterAll(async () => {
    await server.stop();
    remove();
  });

  it('says what it is: title, system, scale, ticks and legend, as another program reads it', () => {
    const text = spawnSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).stdout.replaceAll('\u00a0', ' ');
    for (const said of [
      'Ferry quay, as built',
      'NZGD2000 / New Zealand Transverse Mercator 2000 (EPSG:2193), in m',
      '1 : 2 000 on A4',
      'Legend',
      'BOLLARD',
      '1 464 000',
    ])
      expect(text).toContain(said);
    // one sheet, of that size. Source: ISO 216, A4
    expect(spawnSync('pdfinfo', [file], { encoding: 'utf8' }).stdout).toMatch(/Pages:\s+1\n[^]*Page size:\s+841.89 x 595.28/);
  });

  it('has each record where the map picture of the same place has it, drawn by another program', async () => {
    const unit = (SCALE * 0.0254) / 72;
    const [w, h] = [(MAP.width * unit) / 2, (MAP.height * unit) / 2];
    const bounds = [MIDDLE[0] - w, MIDDLE[1] - h, MIDDLE[0] + w, MIDDLE[1] + h];
    const picture = path.join(folder, 'same.png');
    const { json } = pontrel(
      'convert',
      QUAY,
      picture,
      '--from',
      'EPSG:2193',
      '--unit',
      'millimetre',
      '--bounds',
      bounds.join(','),
      '--option',
      `scale=${SCALE}`,
      '--option',
      `dpi=${DPI}`,
    );
    expect([json.error?.message, json.proof?.status]).toEqual([undefined, 'match']);
    expect(spawnSync('pdftoppm', ['-r', String(DPI), '-png', '-singlefile', file, path.join(folder, 'sheet')]).status).toBe(0);
    const k = DPI / 72;
    const printed = await inked(
      sharp(path.join(folder, 'sheet.png')).extract({ left: MAP.x * k, top: MAP.y * k, width: MAP.width * k, height: MAP.height * k }),
    );
    const wanted = await inked(sharp(picture).resize(MAP.width * k, MAP.height * k, { fit: 'fill' }));
    const { width, height } = printed;
    expect([wanted.width, wanted.height]).toEqual([width, height]);
    const REACH = 2;
    const near = (on: boolean[], x: number, y: number): boolean => {
      for (let dy = -REACH; dy <= REACH; dy++)
        for (let dx = -REACH; dx <= REACH; dx++) if (on[(y + dy) * width + x + dx] === true) return true;
      return false;
    };
    const off = { lost: 0, made: 0, inked: 0 };
    for (let y = REACH + 2; y < height - REACH - 2; y++)
      for (let x = REACH + 2; x < width - REACH - 2; x++) {
        // the north arrow lies over the map
        if (x > width - 36 * k && y < 50 * k) continue;
        const at = y * width + x;
        if (wanted.on[at]) off.inked++;
        if (wanted.on[at] && !near(printed.on, x, y)) off.lost++;
        if (printed.on[at] && !near(wanted.on, x, y)) off.made++;
      }
    expect(off.inked).toBeGreaterThan(20_000);
    expect([off.lost / off.inked < 0.002, off.made / off.inked < 0.002, off]).toEqual([true, true, off]);
  });

  it('leaves out what is switched off, and refuses what cannot be', async () => {
    const all = spawnSync('pdftotext', [file, '-'], { encoding: 'utf8' }).stdout;
    expect(all).toMatch(/LEASE-PARCEL/);
    const without = path.join(folder, 'without.pdf');
    writeFileSync(without, (await print({ without: { 'quay-design.dxf': ['LEASE-PARCEL', 'LEASE-TEXT'] } })).bytes);
    expect(spawnSync('pdftotext', [without, '-'], { encoding: 'utf8' }).stdout).not.toMatch(/LEASE/);
    expect((await print({ scale: 0 })).status).toBe(400);
    expect((await print({ paper: 'a7' })).status).toBe(400);
  });
});

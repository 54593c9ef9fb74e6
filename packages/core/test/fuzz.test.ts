import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { readDxf } from '../src/formats/dxf/read';
import { openShapefile } from '../src/formats/shapefile/read';
import { readPositions } from '../src/crs/definitions/read-definition';
import { UNWATCHED } from '../src/io/bytes';
import { Findings } from '../src/model/finding';
import { Problem } from '../src/model/problem';
import { drawing, groups } from './drawing';
import { memorySource } from './memory-files';

/** A seeded generator, so that a failure can be had again. */
function seeded(seed: number): (below: number) => number {
  let s = seed;
  return (below) => {
    s = (s * 48271) % 2147483647;
    return s % below;
  };
}

const ENTITIES =
  groups(0, 'LINE', 5, '1F', 8, 'MAINS', 10, 1.5, 20, 2.5, 30, 0, 11, 9, 21, 8, 31, 0) +
  groups(0, 'LWPOLYLINE', 5, '20', 8, 'QUAY', 90, 3, 70, 1, 10, 0, 20, 0, 42, 0.5, 10, 5, 20, 5, 10, 0, 20, 9) +
  groups(0, 'INSERT', 5, '21', 8, 'QUAY', 66, 1, 2, 'VALVE', 10, 4, 20, 4, 0, 'ATTRIB', 8, 'QUAY', 1, 'V-1', 2, 'ID', 0, 'SEQEND') +
  groups(0, 'MTEXT', 5, '22', 8, 'TEXT', 10, 1, 20, 1, 40, 2, 1, '{\\H3;Lease}\\P12 m²') +
  groups(
    0,
    'POLYLINE',
    5,
    '23',
    8,
    'SEWER',
    66,
    1,
    70,
    8,
    0,
    'VERTEX',
    10,
    1,
    20,
    1,
    30,
    1,
    0,
    'VERTEX',
    10,
    2,
    20,
    2,
    30,
    2,
    0,
    'SEQEND',
  ) +
  groups(0, 'ARC', 5, '24', 8, 'KERB', 10, 5, 20, 5, 40, 3, 50, 10, 51, 100, 210, 0, 220, 0.3, 230, -0.9) +
  groups(0, 'ELLIPSE', 5, '26', 8, 'KERB', 10, 5, 20, 5, 30, 1, 11, 4, 21, 1, 31, 0, 40, 0.4, 41, 0.5, 42, 4) +
  groups(
    0,
    'SPLINE',
    5,
    '27',
    8,
    'KERB',
    70,
    8,
    71,
    3,
    72,
    9,
    73,
    5,
    40,
    0,
    40,
    0,
    40,
    0,
    40,
    0,
    40,
    1,
    40,
    2,
    40,
    2,
    40,
    2,
    40,
    2,
    10,
    0,
    20,
    0,
    30,
    0,
    10,
    3,
    20,
    5,
    30,
    0,
    10,
    6,
    20,
    -2,
    30,
    0,
    10,
    9,
    20,
    4,
    30,
    0,
    10,
    12,
    20,
    0,
    30,
    0,
  ) +
  groups(
    0,
    'HATCH',
    5,
    '28',
    8,
    'GREEN',
    10,
    0,
    20,
    0,
    30,
    2,
    2,
    'SOLID',
    70,
    1,
    71,
    0,
    91,
    2,
    92,
    2,
    72,
    1,
    73,
    1,
    93,
    3,
    10,
    0,
    20,
    0,
    42,
    0.5,
    10,
    9,
    20,
    0,
    10,
    9,
    20,
    9,
    97,
    0,
    92,
    1,
    93,
    3,
    72,
    1,
    10,
    1,
    20,
    1,
    11,
    4,
    21,
    1,
    72,
    2,
    10,
    4,
    20,
    2,
    40,
    1,
    50,
    270,
    51,
    90,
    73,
    1,
    72,
    3,
    10,
    3,
    20,
    3,
    11,
    2,
    21,
    0,
    40,
    0.5,
    50,
    0,
    51,
    180,
    73,
    0,
    97,
    0,
    75,
    0,
    76,
    1,
  ) +
  groups(0, 'SOLID', 5, '29', 8, 'GREEN', 10, 0, 20, 0, 11, 1, 21, 0, 12, 0, 22, 1, 13, 1, 23, 1) +
  groups(0, '3DFACE', 5, '2A', 8, 'ROOF', 10, 0, 20, 0, 30, 0, 11, 1, 21, 0, 31, 1, 12, 1, 22, 1, 32, 2) +
  groups(0, 'CIRCLE', 5, '25', 8, 'KERB', 10, 5, 20, 5, 40, 3, 1001, 'REGISTER', 1000, 'note', 1040, 2.5);
/** Objects that are drawn by blocks, or nest lists in lists. */
const NESTED =
  groups(
    0,
    'INSERT',
    5,
    '30',
    8,
    'QUAY',
    2,
    'GATE',
    10,
    4,
    20,
    4,
    41,
    -2,
    42,
    0.5,
    50,
    30,
    70,
    2,
    71,
    3,
    44,
    5,
    45,
    6,
    210,
    0,
    220,
    0,
    230,
    -1,
  ) +
  groups(0, 'DIMENSION', 5, '31', 8, 'DIMS', 2, '*D1', 10, 1, 20, 1, 42, 5.5) +
  groups(0, 'ACAD_TABLE', 5, '32', 8, 'DIMS', 2, 'GATE', 10, 1, 20, 1, 11, 0, 21, 1) +
  groups(0, 'SPLINE', 5, '33', 8, 'KERB', 70, 0, 71, 3, 74, 3, 11, 0, 21, 0, 31, 0, 11, 5, 21, 5, 31, 0, 11, 9, 21, 0, 31, 1) +
  groups(
    0,
    'HELIX',
    5,
    '34',
    8,
    'KERB',
    71,
    1,
    72,
    4,
    73,
    2,
    40,
    0,
    40,
    0,
    40,
    1,
    40,
    1,
    10,
    0,
    20,
    0,
    30,
    0,
    10,
    3,
    20,
    5,
    30,
    0,
    90,
    29,
    10,
    7,
    20,
    7,
    30,
    7,
    40,
    3,
    41,
    2,
  ) +
  groups(
    0,
    'MESH',
    5,
    '35',
    8,
    'ROOF',
    92,
    3,
    10,
    0,
    20,
    0,
    30,
    0,
    10,
    1,
    20,
    0,
    30,
    1,
    10,
    1,
    20,
    1,
    30,
    2,
    93,
    4,
    90,
    3,
    90,
    0,
    90,
    1,
    90,
    2,
  ) +
  groups(
    0,
    'POLYLINE',
    5,
    '36',
    8,
    'ROOF',
    66,
    1,
    70,
    64,
    0,
    'VERTEX',
    10,
    1,
    20,
    1,
    70,
    192,
    0,
    'VERTEX',
    10,
    2,
    20,
    1,
    70,
    192,
    0,
    'VERTEX',
    10,
    2,
    20,
    2,
    70,
    192,
    0,
    'VERTEX',
    70,
    128,
    71,
    1,
    72,
    -2,
    73,
    3,
    0,
    'SEQEND',
  ) +
  groups(
    0,
    'POLYLINE',
    5,
    '37',
    8,
    'ROOF',
    66,
    1,
    70,
    16,
    71,
    2,
    72,
    2,
    0,
    'VERTEX',
    10,
    1,
    20,
    1,
    70,
    64,
    0,
    'VERTEX',
    10,
    2,
    20,
    1,
    70,
    64,
    0,
    'VERTEX',
    10,
    2,
    20,
    2,
    70,
    64,
    0,
    'VERTEX',
    10,
    1,
    20,
    2,
    70,
    64,
    0,
    'SEQEND',
  ) +
  groups(
    0,
    'MULTILEADER',
    5,
    '38',
    8,
    'DIMS',
    300,
    'CONTEXT_DATA{',
    10,
    1,
    20,
    1,
    304,
    'see note',
    302,
    'LEADER{',
    10,
    3,
    20,
    3,
    30,
    0,
    40,
    2,
    304,
    'LEADER_LINE{',
    10,
    0,
    20,
    0,
    30,
    0,
    305,
    '}',
    303,
    '}',
    301,
    '}',
  ) +
  groups(
    0,
    'IMAGE',
    5,
    '39',
    8,
    'SHEET',
    10,
    0,
    20,
    0,
    11,
    0.1,
    21,
    0,
    12,
    0,
    22,
    0.1,
    13,
    640,
    23,
    480,
    340,
    '7F',
    14,
    0,
    24,
    0,
    14,
    9,
    24,
    0,
    14,
    9,
    24,
    9,
  ) +
  groups(0, 'XLINE', 5, '3A', 8, 'KERB', 10, 1, 20, 1, 11, 0.6, 21, 0.8) +
  groups(0, 'RAY', 5, '3B', 8, 'KERB', 10, 1, 20, 1, 11, 1, 21, 0) +
  groups(
    0,
    'LWPOLYLINE',
    5,
    '3C',
    8,
    'LEASE',
    70,
    1,
    10,
    0,
    20,
    0,
    10,
    5,
    20,
    5,
    10,
    0,
    20,
    9,
    1001,
    'PONTREL',
    1000,
    'parts',
    1071,
    2,
    1002,
    '{',
    1000,
    'NAME',
    1000,
    'Lease',
    1002,
    '}',
  ) +
  groups(0, 'LWPOLYLINE', 5, '3D', 8, 'LEASE', 70, 1, 10, 1, 20, 1, 10, 2, 20, 2, 10, 1, 20, 3, 1001, 'PONTREL', 1000, 'part');
const DEFINED = groups(
  0,
  'SECTION',
  2,
  'BLOCKS',
  0,
  'BLOCK',
  8,
  '0',
  2,
  'CROSS',
  10,
  0,
  20,
  0,
  0,
  'LINE',
  8,
  '0',
  10,
  -1,
  20,
  0,
  11,
  1,
  21,
  0,
  0,
  'ENDBLK',
  8,
  '0',
  0,
  'BLOCK',
  8,
  '0',
  2,
  'GATE',
  10,
  1,
  20,
  2,
  0,
  'ARC',
  8,
  '0',
  62,
  0,
  10,
  1,
  20,
  2,
  40,
  2,
  50,
  0,
  51,
  90,
  0,
  'INSERT',
  8,
  '0',
  2,
  'CROSS',
  10,
  3,
  20,
  4,
  41,
  2,
  42,
  0.5,
  70,
  3,
  44,
  2,
  0,
  'INSERT',
  8,
  '0',
  2,
  'GATE',
  10,
  1,
  20,
  1,
  0,
  'ENDBLK',
  8,
  '0',
  0,
  'BLOCK',
  8,
  '0',
  2,
  '*D1',
  10,
  0,
  20,
  0,
  0,
  'LINE',
  8,
  '0',
  10,
  0,
  20,
  0,
  11,
  5.5,
  21,
  0,
  0,
  'MTEXT',
  8,
  '0',
  10,
  2,
  20,
  1,
  1,
  '5.5',
  0,
  'ENDBLK',
  8,
  '0',
  0,
  'ENDSEC',
);
const WHOLE = new TextEncoder().encode(
  drawing(ENTITIES + NESTED, { tables: groups(0, 'TABLE', 2, 'LAYER', 0, 'LAYER', 2, 'MAINS', 70, 0, 62, 5, 0, 'ENDTAB') }).replace(
    groups(0, 'SECTION', 2, 'ENTITIES'),
    DEFINED + groups(0, 'SECTION', 2, 'ENTITIES'),
  ),
);

/** Ways in which files get damaged. */
const DAMAGES: Record<string, (bytes: Uint8Array, pick: (n: number) => number) => Uint8Array> = {
  'bytes flipped': (bytes, pick) => {
    const out = Uint8Array.from(bytes);
    for (let k = 0; k < 1 + pick(6); k++) out[pick(out.length)] = pick(256);
    return out;
  },
  'cut off': (bytes, pick) => bytes.slice(0, pick(bytes.length)),
  'lines dropped': (bytes, pick) => edited(bytes, (lines) => lines.splice(pick(lines.length), 1 + pick(3))),
  'lines doubled': (bytes, pick) =>
    edited(bytes, (lines) => {
      const at = pick(lines.length);
      lines.splice(at, 0, lines[at]!);
    }),
  'numbers replaced': (bytes, pick) =>
    edited(bytes, (lines) => {
      const odd = ['1e308', '-1e308', 'NaN', '', '99999999999999999999', '0x10', '-0', '1.5.2', 'Infinity'];
      lines[pick(lines.length)] = odd[pick(odd.length)]!;
    }),
  'sections exchanged': (bytes, pick) =>
    edited(bytes, (lines) => {
      const at = pick(lines.length),
        n = pick(20);
      lines.push(...lines.splice(at, n));
    }),
};

function edited(bytes: Uint8Array, change: (lines: string[]) => void): Uint8Array {
  const lines = new TextDecoder('latin1').decode(bytes).split('\n');
  change(lines);
  return Uint8Array.from(lines.join('\n'), (c) => c.charCodeAt(0));
}

/** Reads to the end; what comes of it is records or a Problem, and nothing else. */
async function outcome(bytes: Uint8Array): Promise<'records' | 'problem'> {
  try {
    let vertices = 0;
    for await (const batch of readDxf(memorySource('damaged.dxf', bytes, {}, 777), new Findings(), UNWATCHED)) {
      vertices += batch.coords.length / 3;
      expect(batch.featureEnds.length).toBe(batch.count);
      expect(batch.partEnds.at(-1)).toBe(batch.coords.length / 3);
    }
    expect(vertices).toBeLessThan(100_000);
    return 'records';
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    expect(error.message).toContain('damaged.dxf');
    expect(error.message.length).toBeLessThan(500);
    return 'problem';
  }
}

describe('damaged files end in records or in a clear error', () => {
  it.each(Object.keys(DAMAGES))('a drawing with %s', async (damage) => {
    const pick = seeded(1987);
    const ends = { records: 0, problem: 0 };
    // ten thousand in all
    const each = Math.ceil(10_000 / Object.keys(DAMAGES).length);
    for (let k = 0; k < each; k++) ends[await outcome(DAMAGES[damage]!(WHOLE, pick))]++;
    expect(ends.records + ends.problem).toBe(each);
    expect(ends.problem).toBeGreaterThan(damage === 'lines doubled' ? 0 : 10);
  });

  it('a shapefile with bytes flipped or cut off', async () => {
    const shp = new Uint8Array(100 + 2 * 28);
    const view = new DataView(shp.buffer);
    view.setInt32(0, 9994);
    view.setInt32(24, shp.length / 2);
    view.setInt32(28, 1000, true);
    view.setInt32(32, 1, true);
    for (let r = 0; r < 2; r++) {
      const at = 100 + 28 * r;
      view.setInt32(at, r + 1);
      view.setInt32(at + 4, 10);
      view.setInt32(at + 8, 1, true);
      view.setFloat64(at + 12, 1464000 + r, true);
      view.setFloat64(at + 20, 5101500, true);
    }
    const pick = seeded(7);
    for (let k = 0; k < 800; k++) {
      // now and then another shape type, so that its counts are read out of coordinates
      view.setInt32(108, [1, 3, 5, 8, 11, 13, 15, 18, 21][k % 9]!, true);
      const bytes = DAMAGES[k % 2 === 0 ? 'bytes flipped' : 'cut off']!(shp, pick);
      try {
        const open = await openShapefile(memorySource('damaged.shp', bytes, {}, 50));
        for await (const batch of open.read(new Findings(), UNWATCHED)) expect(batch.count).toBeLessThanOrEqual(2);
      } catch (error) {
        expect(error).toBeInstanceOf(Problem);
        expect((error as Problem).message).toContain('damaged.shp');
      }
    }
  });

  it('a .prj with letters changed', () => {
    const text = readFileSync(fileURLToPath(new URL('./timaru.prj', import.meta.url)), 'latin1');
    const pick = seeded(3);
    for (let k = 0; k < 600; k++) {
      const damaged = new TextDecoder('latin1').decode(
        DAMAGES[k % 2 === 0 ? 'bytes flipped' : 'cut off']!(
          Uint8Array.from(text, (c) => c.charCodeAt(0)),
          pick,
        ),
      );
      try {
        readPositions(damaged);
      } catch (error) {
        expect(error).toBeInstanceOf(Problem);
      }
    }
  });
});

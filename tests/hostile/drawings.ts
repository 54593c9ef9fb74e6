import { filesOf, type HostileFile, many } from './hostile';
import { dxfOf } from '../odd/files';

type Groups = (string | number)[];

const block = (name: string, ...items: Groups): Groups => [0, 'BLOCK', 2, name, 10, 0, 20, 0, ...items, 0, 'ENDBLK'];
const insert = (name: string, ...more: Groups): Groups => [0, 'INSERT', 8, '0', 2, name, 10, 1464000, 20, 5101500, ...more];
const line: Groups = [0, 'LINE', 8, '0', 10, 1464000, 20, 5101500, 11, 1464010, 21, 5101500];
const times = (n: number, of: (k: number) => Groups): Groups => Array.from({ length: n }, (_, k) => of(k)).flat();
const drawing =
  (entities: Groups, blocks: Groups = []): (() => string) =>
  () =>
    textOf([0, 'SECTION', 2, 'BLOCKS', ...blocks, 0, 'ENDSEC', 0, 'SECTION', 2, 'ENTITIES', ...line, ...entities, 0, 'ENDSEC', 0, 'EOF']);

// too many to be arguments of a function
const textOf = (groups: Groups): string => groups.join('\n') + '\n';

/** Blocks of which each holds `copies` of the next one. */
const nested = (depth: number, copies: number): Groups =>
  times(depth, (k) => block(`B${k}`, ...(k === depth - 1 ? line : times(copies, () => insert(`B${k + 1}`)))));

const spline = (degree: number, points: number, knot: (k: number) => number | string, point: (k: number) => number | string): Groups => [
  ...[0, 'SPLINE', 8, '0', 71, degree],
  ...times(points + degree + 1, (k) => [40, knot(k)]),
  ...times(points, (k) => [10, point(k), 20, point(k + 1), 30, 0]),
];

const circle = (radius: number | string, ...more: Groups): Groups => [0, 'CIRCLE', 8, '0', 10, 1464000, 20, 5101500, 40, radius, ...more];

/** Drawings. Source of what they pretend to be: DXF Reference. */
export const DRAWINGS: readonly HostileFile[] = filesOf('.dxf', {
  'an empty block in a billion columns and rows': drawing(insert('E', 70, 1e9, 71, 1e9, 44, 1, 45, 1), block('E')),
  'an array of a line, nine million times': drawing(insert('L', 70, 3000, 71, 3000, 44, 1, 45, 1), block('L', ...line)),
  'a thousand arrays of ten thousand': drawing(
    times(1000, () => insert('L', 70, 100, 71, 100, 44, 1, 45, 1)),
    block('L', ...line),
  ),
  'arrays of less than nothing and of no number': drawing(
    [...insert('L', 70, -5, 71, -1e9), ...insert('L', 70, 'x', 71, 1e400)],
    block('L', ...line),
  ),
  'an array within an array within an array': drawing(insert('A', 70, 100, 71, 100, 44, 1, 45, 1), [
    ...block('A', ...insert('B', 70, 100, 71, 100, 44, 1, 45, 1)),
    ...block('B', ...insert('C', 70, 100, 71, 100, 44, 1, 45, 1)),
    ...block('C', ...line),
  ]),
  'an empty block in arrays of a billion, nested': drawing(insert('A'), [
    ...block('A', ...insert('B', 70, 1e9, 71, 1e9)),
    ...block('B', ...insert('C', 70, 1e9, 71, 1e9)),
    ...block('C'),
  ]),
  'blocks nested 1,500 deep': drawing(insert('B0'), nested(1500, 1)),
  'blocks nested 20,000 deep': drawing(insert('B0'), nested(20_000, 1)),
  'ten copies each, thirty deep': drawing(insert('B0'), nested(30, 10)),
  'two copies each, sixty deep': drawing(insert('B0'), nested(60, 2)),
  'two blocks that hold one another': drawing(insert('A'), [...block('A', ...insert('B')), ...block('B', ...insert('A'))]),
  'twenty thousand blocks, each asked for': drawing(
    times(20_000, (k) => insert(`B${k}`)),
    times(20_000, (k) => block(`B${k}`, ...line)),
  ),
  'a spline of degree a million': drawing(
    spline(
      1_000_000,
      4,
      (k) => k,
      (k) => 1464000 + k,
    ),
  ),
  'a spline of degree 2,000 with as many points': drawing(
    spline(
      2000,
      2001,
      (k) => (k <= 2000 ? 0 : 1),
      (k) => 1464000 + (k % 7),
    ),
  ),
  'a spline that swings a million times': drawing(
    spline(
      3,
      100_000,
      (k) => k,
      (k) => (k % 2) * 1e12,
    ),
  ),
  'a hundred splines over all numbers that there are': drawing(
    times(100, (k) =>
      spline(
        3,
        40,
        (j) => j,
        (j) => (j % 2 ? 1 : -1) * 10 ** (k * 3),
      ),
    ),
  ),
  'splines of knots that are no numbers': drawing([
    ...spline(
      3,
      10,
      () => 'nan',
      (k) => k,
    ),
    ...spline(
      3,
      10,
      (k) => k,
      () => '1e999',
    ),
    ...spline(
      3,
      10,
      (k) => -k,
      (k) => k,
    ),
    ...spline(
      3,
      10,
      () => 0,
      (k) => k,
    ),
  ]),
  'a spline through 100,000 points': drawing([0, 'SPLINE', 8, '0', 71, 3, ...times(100_000, (k) => [11, (k % 2) * 1e9, 21, k, 31, 0])]),
  'circles of every size that a number can have': drawing(times(600, (k) => circle(`1e${k - 300}`))),
  'tilted circles of every size that a number can have': drawing(times(600, (k) => circle(`1e${k - 300}`, 210, 0.5, 220, 0.5, 230, 0.7))),
  'arcs of angles beyond all turns': drawing(times(300, (k) => [0, 'ARC', 8, '0', 10, 0, 20, 0, 40, 10, 50, `-1e${k}`, 51, `1e${k}`])),
  'ellipses thin as nothing': drawing(
    times(300, (k) => [0, 'ELLIPSE', 8, '0', 10, 0, 20, 0, 11, 1e8, 21, 0, 31, 0, 40, `1e-${k}`, 41, 0, 42, `1e${k}`]),
  ),
  'bulges of every size': drawing(
    times(600, (k) => [
      0,
      'LWPOLYLINE',
      8,
      '0',
      90,
      3,
      70,
      1,
      10,
      0,
      20,
      0,
      42,
      `1e${k - 300}`,
      10,
      10,
      20,
      0,
      42,
      `-1e${300 - k}`,
      10,
      5,
      20,
      5,
    ]),
  ),
  'a line of 400,000 bulges': drawing([0, 'LWPOLYLINE', 8, '0', 90, 400_000, ...times(400_000, (k) => [10, k, 20, 0, 42, 1e5])]),
  'a mesh that says to have a billion faces': drawing([
    0,
    'POLYLINE',
    8,
    '0',
    66,
    1,
    70,
    16,
    71,
    32767,
    72,
    32767,
    ...times(9, (k) => [0, 'VERTEX', 8, '0', 10, k, 20, k]),
    0,
    'SEQEND',
  ]),
  'a mesh of smooth degrees without end': drawing([
    0,
    'POLYLINE',
    8,
    '0',
    66,
    1,
    70,
    20,
    71,
    3,
    72,
    3,
    73,
    30000,
    74,
    30000,
    ...times(9, (k) => [0, 'VERTEX', 8, '0', 10, k, 20, k]),
    0,
    'SEQEND',
  ]),
  'a subdivided mesh whose counts lie': drawing([
    0,
    'MESH',
    8,
    '0',
    71,
    2,
    72,
    1,
    91,
    99,
    92,
    1e9,
    ...times(4, (k) => [10, k, 20, k, 30, 0]),
    93,
    1e9,
    90,
    1e9,
    90,
    4,
    90,
    0,
  ]),
  'a multiple line whose counts lie': drawing([0, 'MLINE', 8, '0', 71, 1, 72, 1e9, 73, 1e9, 11, 0, 21, 0, 31, 0, 74, 1e9, 41, 0]),
  'hatches whose counts lie': drawing([
    ...[0, 'HATCH', 8, '0', 2, 'SOLID', 91, 1e9, 92, 2, 72, 1, 73, 1, 93, 1e9, 10, 0, 20, 0, 42, 1e300, 10, 5, 20, 5],
    ...[0, 'HATCH', 8, '0', 2, 'SOLID', 91, 1, 92, 1, 93, 1e9, 72, 4, 94, 1e9, 95, 1e9, 96, 1e9, 40, 0, 10, 1, 20, 1],
    ...[0, 'HATCH', 8, '0', 2, 'SOLID', 91, 1, 92, 1, 93, 1, 72, 3, 10, 0, 20, 0, 11, 1e300, 21, 0, 40, 1e-300, 50, -1e300, 51, 1e300],
  ]),
  'a hatch of 50,000 boundaries': drawing([
    0,
    'HATCH',
    8,
    '0',
    2,
    'SOLID',
    91,
    50_000,
    ...times(50_000, (k) => [92, 2, 72, 0, 73, 1, 93, 3, 10, k, 20, 0, 10, k + 1, 20, 0, 10, k, 20, 1]),
  ]),
  'a hatch of elliptic edges of all sizes': drawing(
    times(200, (k) => [
      0,
      'HATCH',
      8,
      '0',
      2,
      'SOLID',
      91,
      1,
      92,
      1,
      93,
      1,
      72,
      3,
      10,
      0,
      20,
      0,
      11,
      `1e${k - 100}`,
      21,
      0,
      40,
      `1e${100 - k}`,
      50,
      0,
      51,
      360,
      73,
      1,
    ]),
  ),
  'a block reference with 100,000 attributes': drawing(
    [...insert('L', 66, 1), ...times(100_000, (k) => [0, 'ATTRIB', 8, '0', 2, `T${k}`, 1, 'v'])],
    block('L', ...line),
  ),
  'ten thousand block references with a name of their own for everything': drawing(
    times(10_000, (k) => [...insert('L', 66, 1), 0, 'ATTRIB', 8, '0', 2, `T${k}`, 1, 'v', 0, 'SEQEND']),
    block('L', ...line),
  ),
  'an array of a block with 1,000 attributes': drawing(
    [...insert('L', 66, 1, 70, 100, 71, 100), ...times(1000, (k) => [0, 'ATTRIB', 8, '0', 2, `T${k}`, 1, 'v'])],
    block('L', ...line),
  ),
  'a polyline that never ends': drawing([
    0,
    'POLYLINE',
    8,
    '0',
    66,
    1,
    70,
    0,
    ...times(200_000, (k) => [0, 'VERTEX', 8, '0', 10, k, 20, k]),
  ]),
  'twenty thousand layers': drawing(times(20_000, (k) => [0, 'POINT', 8, `L${k}`, 10, k, 20, 0])),
  'a layer with a name of a million letters': drawing([0, 'POINT', 8, 'x'.repeat(1_000_000), 10, 0, 20, 0]),
  'a text of twenty million letters': drawing([0, 'TEXT', 8, '0', 10, 0, 20, 0, 40, 2, 1, 'y'.repeat(20_000_000)]),
  'a text of braces 200,000 deep': drawing([0, 'MTEXT', 8, '0', 10, 0, 20, 0, 40, 2, 1, '{'.repeat(200_000) + '\\H2;x']),
  'a text of codes that are not closed': drawing([
    0,
    'MTEXT',
    8,
    '0',
    10,
    0,
    20,
    0,
    40,
    2,
    1,
    '\\S'.repeat(100_000) + '\\fa'.repeat(100_000),
  ]),
  'extended data of 300,000 groups': drawing([...line, 1001, 'APP', ...times(300_000, (k) => [1000, `v${k}`])]),
  'extended data of braces 100,000 deep': drawing([...line, 1001, 'APP', ...times(100_000, () => [1002, '{'])]),
  'a pattern of a million dashes': () =>
    dxfOf(line).replace(
      /^0\nSECTION\n2\nENTITIES/,
      `0\nSECTION\n2\nTABLES\n0\nTABLE\n2\nLTYPE\n0\nLTYPE\n2\nD\n${many(1_000_000, () => '49\n1e-9\n')}0\nENDTAB\n0\nENDSEC\n0\nSECTION\n2\nENTITIES`,
    ),
  'pictures with a frame of 200,000 corners': drawing([
    0,
    'IMAGE',
    8,
    '0',
    10,
    0,
    20,
    0,
    13,
    10,
    23,
    10,
    ...times(200_000, (k) => [14, k, 24, k]),
  ]),
  'lines without end, and an extent that has none': drawing(
    times(2000, () => [0, 'XLINE', 8, '0', 10, '1e308', 20, '-1e308', 11, 1, 21, 1]),
  ),
  'positions that are no positions': drawing([
    ...times(50, (k) => [0, 'POINT', 8, '0', 10, ['nan', 'inf', '-inf', '1e309', '', '0x10', '1,5', '--1'][k % 8]!, 20, '1e308']),
  ]),
  'a mark of a text where a number should be, everywhere': drawing(
    times(5000, (k) => [0, 'CIRCLE', 8, k, 10, 'x', 20, 'y', 40, 'z', 62, 'w', 370, 'v', 210, 'u']),
  ),
  'a line of fifty million digits': drawing([0, 'POINT', 8, '0', 10, '1'.repeat(50_000_000), 20, 0]),
  'sections in sections': () => '0\nSECTION\n2\nENTITIES\n'.repeat(100_000) + '0\nEOF\n',
  'a dimension of a block that holds it': drawing(
    [0, 'DIMENSION', 8, '0', 2, 'D', 10, 0, 20, 0],
    block('D', 0, 'DIMENSION', 8, '0', 2, 'D', 10, 0, 20, 0),
  ),
  'a drawing with an end in its first line and all else behind': () => '0\nEOF\n' + many(1_000_000, () => '0\nLINE\n8\n0\n'),
  'a thousand orders and groups that name a million objects': drawing([
    ...line,
    0,
    'ENDSEC',
    0,
    'SECTION',
    2,
    'OBJECTS',
    ...times(100, (k) => [0, 'GROUP', 5, k, 300, 'g', ...times(5000, (j) => [340, j.toString(16)])]),
  ]),
});

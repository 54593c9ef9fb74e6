import type { Parcel } from './atlas';
import { Drawing } from './drawing';
import { seeded } from './random';
import { alongShore, ground, place, type Point, STREETS, townAt } from './town';

const METRES = 6; // $INSUNITS

/** The part of the town that is drawn: metres inland, and along the shore. */
const FROM = { u: 58, v: -150 },
  TO = { u: 272, v: 270 };

/**
 * What a designer hands over: lots as loose lines with texts, a sewer as lines and blocks, levels and contours, in metres of the town's system
 * and without a word of it. Each trouble of such a drawing is there once.
 */
export function lotsAndSewers(seed: number, lots: readonly Parcel[]): string {
  const random = seeded(seed + 17);
  const d = new Drawing(
    METRES,
    1,
    [
      { name: 'BOUNDARY', color: 7, weight: 25 },
      { name: 'LOT-TEXT', color: 3 },
      { name: 'SEWER', color: 5, weight: 50 },
      { name: 'MANHOLE', color: 5 },
      { name: 'PIPE-TEXT', color: 5 },
      { name: 'SPOT-LEVEL', color: 44 },
      { name: 'CONTOUR', color: 32 },
      { name: 'LAMP', color: 2 },
      { name: 'KERB-NEW', color: 8 },
    ],
    [
      {
        name: 'MANHOLE-1050',
        circles: [0.6],
        lines: [[-0.4, 0, 0.4, 0]],
        attributes: [
          ['NUMBER', 'Number'],
          ['RIM', 'Rim level'],
          ['SUMP', 'Sump level'],
        ],
      },
      { name: 'LAMP-8M', circles: [0.2], lines: [[0, 0, 0, 0.8]], attributes: [['LAMP_NO', 'Number']] },
    ],
  );
  drawLots(
    d,
    lots.filter(({ ring }) => ring.every(isDrawn)),
  );
  drawSewer(d);
  drawGround(d, random);
  return d.toString();
}

/** Whether a position lies in the part of the town that is drawn. */
function isDrawn(at: Point): boolean {
  const [u, v] = townAt(at);
  return u >= FROM.u && u <= TO.u && v >= FROM.v && v <= TO.v;
}

/** Every side once, however many lots it bounds. */
function drawLots(d: Drawing, lots: readonly Parcel[]): void {
  const key = ([ax, ay]: Point, [bx, by]: Point): string =>
    [`${ax.toFixed(3)} ${ay.toFixed(3)}`, `${bx.toFixed(3)} ${by.toFixed(3)}`].sort().join(' ');
  const drawn = new Set<string>();
  let sides = 0;
  const corners = lots.flatMap(({ ring }) => ring.slice(1));
  for (const { ring: own } of lots) {
    const ring = throughCorners(own, corners);
    for (let k = 1; k < ring.length; k++) {
      const [a, b] = [ring[k - 1]!, ring[k]!];
      if (drawn.has(key(a, b))) continue;
      drawn.add(key(a, b));
      sides++;
      const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const along = (by: number): Point => [b[0] + ((b[0] - a[0]) / length) * by, b[1] + ((b[1] - a[1]) / length) * by];
      // one side stops 18 mm short, one goes 0.45 m too far, one ends half a metre early
      d.line('BOUNDARY', a, sides === 9 ? along(-0.018) : sides === 26 ? along(0.45) : sides === 47 ? along(-0.5) : b);
    }
  }
  lots.forEach(({ ring, values }, k) => {
    const middle: Point = [0, 1].map((n) => ring.slice(1).reduce((sum, p) => sum + p[n]!, 0) / (ring.length - 1)) as Point;
    const number = /\d+/.exec(values.APPELLATION_TEXT)![0];
    // one lot without its number, one with two, one whose number stands on a side
    if (k === 5) return;
    if (k === 14) {
      const [a, b] = [ring.at(-2)!, ring.at(-1)!];
      return d.text('LOT-TEXT', [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2], 1.8, number);
    }
    d.text('LOT-TEXT', middle, 1.8, number);
    if (k === 21) d.text('LOT-TEXT', [middle[0] + 2, middle[1] - 4], 1.8, `${number}A`);
  });
}

/** An outline with a corner wherever that of a neighbour has one: a back fence bends the same way for all who share it. */
function throughCorners(ring: readonly Point[], corners: readonly Point[]): Point[] {
  return ring.flatMap((a, k): Point[] => {
    const b = ring[k + 1];
    if (!b) return [a];
    const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
    const length = Math.hypot(dx, dy);
    const on = corners
      .map((p) => ({
        p,
        along: ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / length,
        off: ((p[0] - a[0]) * dy - (p[1] - a[1]) * dx) / length,
      }))
      .filter(({ along, off }) => along > 0.01 && along < length - 0.01 && Math.abs(off) < 0.4)
      .sort((p, q) => p.along - q.along)
      .filter((c, n, all) => n === 0 || c.along - all[n - 1]!.along > 0.01);
    return [a, ...on.map((c) => c.p)];
  });
}

/** Manholes along three streets; water runs to the shore and along Harbour Street to the pumping station. */
function drawSewer(d: Drawing): void {
  let number = 0;
  interface Manhole {
    at: Point;
    id: string;
    sump: number;
  }
  const manhole = (u: number, v: number, sump: number, at = place(u, v)): Manhole => {
    const id = `SMH-${String(++number).padStart(2, '0')}`;
    const rim = ground(u, v);
    d.insert('MANHOLE', 'MANHOLE-1050', at, 0, 0, { NUMBER: id, RIM: rim.toFixed(3), SUMP: `IL ${sump.toFixed(3)}` });
    return { at, id, sump };
  };
  let pipes = 0;
  const pipe = (a: Manhole, b: Manhole, diameter: number, short = 0, start = a.sump, end = b.sump): void => {
    const length = Math.hypot(b.at[0] - a.at[0], b.at[1] - a.at[1]);
    const to: Point = [b.at[0] - ((b.at[0] - a.at[0]) / length) * short, b.at[1] - ((b.at[1] - a.at[1]) / length) * short];
    d.line('SEWER', a.at, to, start, end);
    // the third pipe that is drawn has no text beside it
    if (++pipes === 3) return;
    const turn = (Math.atan2(b.at[1] - a.at[1], b.at[0] - a.at[0]) * 180) / Math.PI;
    const side: Point = [(a.at[0] + b.at[0]) / 2 - (b.at[1] - a.at[1]) / length, (a.at[1] + b.at[1]) / 2 + (b.at[0] - a.at[0]) / length];
    d.text('PIPE-TEXT', side, 1.2, `DN ${diameter}`, turn > 90 || turn <= -90 ? turn + 180 : turn);
  };
  // along Harbour Street from the south to the pumping station
  const main = Array.from({ length: 8 }, (_, k) => manhole(60, -140 + k * 52, -0.6 - k * 0.28));
  main.slice(1).forEach((m, k) => pipe(main[k]!, m, k < 3 ? 300 : 375, k === 2 ? 0.032 : 0));
  for (const [branch, v] of [-148, 2, 142].entries()) {
    const run = [255, 205, 155, 105].map((u, k) => manhole(u, v, ground(255, v) - 2.4 - k * 0.35));
    run.slice(1).forEach((m, k) =>
      // one pipe rises by 93 mm
      branch === 1 && k === 1 ? pipe(run[k]!, m, 225, 0, run[k]!.sump, run[k]!.sump + 0.093) : pipe(run[k]!, m, 225),
    );
    const into = main.reduce((a, b) =>
      Math.hypot(b.at[0] - run[3]!.at[0], b.at[1] - run[3]!.at[1]) < Math.hypot(a.at[0] - run[3]!.at[0], a.at[1] - run[3]!.at[1]) ? b : a,
    );
    pipe(run[3]!, into, 225, branch === 2 ? 4.8 : 0);
  }
  // a manhole that no pipe leads to, and one that is drawn twice
  manhole(180, 90, ground(180, 90) - 2);
  const twice = main[4]!;
  manhole(60, -140 + 4 * 52, twice.sump, [twice.at[0] + 0.021, twice.at[1]]);
  // two pipes that meet without a manhole
  const [a, b, c] = [place(200, 60), place(200, 100), place(170, 100)];
  d.line('SEWER', a!, b!);
  d.line('SEWER', b!, c!);
}

function drawGround(d: Drawing, random: () => number): void {
  for (let k = 0; k < 360; k++) {
    const [u, v] = [40 + random() * 250, -170 + random() * 460];
    // one level of nought among those of two to ten metres
    d.point('SPOT-LEVEL', place(u, v), k === 111 ? 0 : Number(ground(u, v).toFixed(3)));
  }
  for (const level of [3, 4])
    d.polyline3d(
      'CONTOUR',
      contour(level).map(([x, y]): [number, number, number] => [x, y, level]),
    );
  for (let k = 0; k < 24; k++) {
    const v = -140 + k * 17;
    const off = k === 4 ? -2.1 : k === 11 ? 1.18 : k === 17 ? -0.84 : 0;
    d.insert('LAMP', 'LAMP-8M', place(51, v), Number((ground(51, v) + off).toFixed(3)), 0, {
      LAMP_NO: `L${String(k + 1).padStart(3, '0')}`,
    });
  }
  for (const { u } of STREETS.along.slice(0, 3))
    for (const side of [-5.2, 5.2]) d.polyline('KERB-NEW', alongShore(u + side, -140, 260, 12));
}

/** Where the ground has a height, along the shore. */
const contour = (level: number): Point[] =>
  Array.from({ length: 40 }, (_, k): Point => {
    const v = -150 + k * 10;
    let [low, high] = [-50, 600];
    for (let n = 0; n < 40; n++) {
      const middle = (low + high) / 2;
      if (ground(middle, v) < level) low = middle;
      else high = middle;
    }
    return place(low, v);
  });

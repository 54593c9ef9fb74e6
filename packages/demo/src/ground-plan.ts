import { alongShore, place, type Point, QUAY, STREETS } from './town';
import { type Parcel } from './atlas';
import { seeded } from './random';

/** Something of the town as it looks from above: an area or a line in metres, in one colour. */
export interface Mark {
  points: Point[];
  /** Fill of an area; of a line, its colour. */
  colour: string;
  /** Metres; an area when absent. */
  width?: number;
  /** Metres of a stroke and of the gap after it. */
  dash?: [number, number];
  opacity?: number;
}

const area = (points: Point[], colour: string, opacity = 1): Mark => ({ points, colour, opacity });
const line = (points: Point[], colour: string, width: number, dash?: [number, number]): Mark => ({
  points,
  colour,
  width,
  ...(dash ? { dash } : {}),
});

/** A piece of the town between two distances from the shore and two along it. */
const strip = (u1: number, u2: number, v1: number, v2: number): Point[] => [...alongShore(u1, v1, v2, 12), ...alongShore(u2, v2, v1, 12)];

/** Metres by which a thing of a metre's height casts its shadow, with the sun in the north-east. */
const SHADOW: Point = [-0.55, -0.5];

const shifted = (points: Point[], [dx, dy]: Point, height: number): Point[] => points.map(([x, y]) => [x + dx * height, y + dy * height]);

const ROOFS = ['#8d4a3a', '#9b5b46', '#7b7d7f', '#93979a', '#5f6a73', '#6c7d6b', '#a9a49a', '#4f565c', '#85705c'];
const METAL = ['#b9bcbb', '#a3aaad', '#8c969b', '#b0a89b', '#93a39a', '#c6c5be'];
const CARS = ['#d8d9d7', '#2d3238', '#8d2f2b', '#3d5878', '#b3b6b8', '#55605a', '#e9e7e0'];
const BOXES = ['#8a4a35', '#35607a', '#6d7a45', '#b08a3c', '#7c7f82'];

/** Lighter or darker by a share. */
export function shaded(colour: string, by: number): string {
  const part = (k: number): string =>
    Math.max(0, Math.min(255, Math.round(parseInt(colour.slice(k, k + 2), 16) * (1 + by))))
      .toString(16)
      .padStart(2, '0');
  return `#${part(1)}${part(3)}${part(5)}`;
}

type Random = () => number;

/** A building with a gabled or flat roof, and its shadow. Corners run around it. */
function building(corners: [Point, Point, Point, Point], roof: string, height: number, gabled: boolean): Mark[] {
  const [a, b, c, d] = corners;
  const mid = (p: Point, q: Point): Point => [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2];
  const shadow = shifted(corners, SHADOW, height);
  const cast = [area([a, b, shadow[1]!, shadow[2]!, shadow[3]!, d], '#1c2420', 0.42), area(shadow, '#1c2420', 0.42)];
  if (!gabled) return [...cast, area(corners, roof), line([a, b, c, d, a], shaded(roof, -0.25), 0.4)];
  const [m, n] = [mid(a, d), mid(b, c)];
  return [...cast, area([a, b, n, m], shaded(roof, 0.1)), area([m, n, c, d], shaded(roof, -0.16)), line([m, n], shaded(roof, 0.3), 0.35)];
}

/** A tree as some crowns beside each other. */
function tree([x, y]: Point, radius: number, random: Random): Mark[] {
  const disc = (cx: number, cy: number, r: number): Point[] =>
    Array.from({ length: 12 }, (_, k): Point => [cx + r * Math.cos((k * Math.PI) / 6), cy + r * Math.sin((k * Math.PI) / 6)]);
  const green = ['#3d5230', '#46593a', '#35492d', '#52633f', '#485c33'][Math.floor(random() * 5)]!;
  const crowns = Array.from({ length: 4 }, (): Mark => {
    const [dx, dy] = [(random() - 0.5) * radius, (random() - 0.5) * radius];
    return area(disc(x + dx, y + dy, radius * (0.45 + 0.35 * random())), shaded(green, (random() - 0.35) * 0.35));
  });
  return [
    area(disc(x + SHADOW[0] * radius * 1.4, y + SHADOW[1] * radius * 1.4, radius * 1.05), '#1a231b', 0.45),
    area(disc(x, y, radius), green),
    ...crowns,
  ];
}

/** The colours of the water from the shore to the deep, in steps that nobody sees. */
const DEPTHS: (readonly [number, string])[] = Array.from({ length: 44 }, (_, k) => {
  const t = (k / 43) ** 0.55;
  const mix = (a: number, b: number): string =>
    Math.round(a + (b - a) * t)
      .toString(16)
      .padStart(2, '0');
  return [-3.5 - 210 * (k / 43) ** 1.8, `#${mix(0x8f, 0x2f)}${mix(0xa6, 0x50)}${mix(0x9b, 0x58)}`] as const;
});

/** The land without what stands on it: sea, beach, grass. */
function land(): Mark[] {
  const far = 700;
  const sea = (u: number, colour: string, opacity = 1): Mark =>
    area([...alongShore(u, -900, 900, 10), place(-far, 900), place(-far, -900)], colour, opacity);
  return [
    sea(0, '#a39f86'),
    area(strip(-3, 9, -900, -212), '#cdbf9d'),
    area(strip(-3, 8, 182, 900), '#b9ad94'),
    ...DEPTHS.map(([u, colour]) => sea(u, colour)),
    line(alongShore(-4.5, -900, -212, 6), '#d9dcd3', 1.1),
    line(alongShore(-4.5, 184, 900, 6), '#cfd4cd', 0.9),
  ];
}

function streets(): Mark[] {
  const all = [
    ...STREETS.along.map(({ u }, k) => ({ points: alongShore(u, -470, 450, 8), main: k === 0 })),
    ...STREETS.across.map(({ v }, k) => ({ points: Array.from({ length: 41 }, (_, n) => place(52 + n * 10, v)), main: k === 2 })),
  ];
  return [
    ...all.map(({ points }) => line(points, '#7f8a62', 15)),
    ...all.map(({ points }) => line(points, '#b3aea2', 11.6)),
    ...all.map(({ points, main }) => line(points, main ? '#6a6b6c' : '#737373', 8.4)),
    ...all.map(({ points, main }) => line(points, main ? '#d8d6cc' : '#b5b3aa', main ? 0.35 : 0.22, main ? [3, 4] : [1.6, 5])),
  ];
}

/** What stands on a parcel: a lawn, a house or a shed with its drive, trees, a car. @param at its middle, in the town's own numbers */
function lot({ ring }: Parcel, random: Random): Mark[] {
  const corners = ring.slice(0, -1);
  // the ring goes along the near side and back along the far one
  const half = corners.length / 2;
  const [a, b, c, d] = [corners[0]!, corners[half - 1]!, corners[half]!, corners.at(-1)!];
  const at = (s: number, t: number): Point => {
    const near: Point = [a[0] + (b[0] - a[0]) * s, a[1] + (b[1] - a[1]) * s],
      far: Point = [d[0] + (c[0] - d[0]) * s, d[1] + (c[1] - d[1]) * s];
    return [near[0] + (far[0] - near[0]) * t, near[1] + (far[1] - near[1]) * t];
  };
  const lawn = ['#75854f', '#7d8b56', '#6c7d4b', '#868a5c', '#7a8a50', '#8b8c62'][Math.floor(random() * 6)]!;
  const out: Mark[] = [area(ring, lawn), line(ring, shaded(lawn, -0.28), 0.5)];
  const width = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const front = random() < 0.5 ? 0.16 : 0.22;
  const depth = 0.26 + 0.16 * random();
  const [s0, s1] = [0.12 + 0.1 * random(), 0.88 - 0.12 * random()];
  out.push(area([at(0.02, 0), at(0.02 + 3 / width, 0), at(0.02 + 3 / width, front + 0.3), at(0.02, front + 0.3)], '#b9b3a5'));
  if (random() < 0.06) return [...out, ...tree(at(0.5, 0.5), 4 + 2 * random(), random)];
  const roof = ROOFS[Math.floor(random() * ROOFS.length)]!;
  out.push(...building([at(s0, front), at(s1, front), at(s1, front + depth), at(s0, front + depth)], roof, 5, true));
  if (random() < 0.55)
    out.push(
      ...building(
        [
          at(s0, front + depth - 0.02),
          at(s0 + 0.3, front + depth - 0.02),
          at(s0 + 0.3, front + depth + 0.15),
          at(s0, front + depth + 0.15),
        ],
        shaded(roof, -0.08),
        4,
        true,
      ),
    );
  if (random() < 0.6)
    out.push(
      ...building(
        [at(0.72, 0.84), at(0.93, 0.84), at(0.93, 0.96), at(0.72, 0.96)],
        METAL[Math.floor(random() * METAL.length)]!,
        2.6,
        false,
      ),
    );
  for (let k = 0; k < 3; k++) if (random() < 0.62) out.push(...tree(at(random(), 0.66 + 0.32 * random()), 1.4 + 2 * random(), random));
  if (random() < 0.4) out.push(...tree(at(0.9 * random(), 0.06), 1.2 + random(), random));
  if (random() < 0.55) out.push(...car(at(0.02 + 1.5 / width, front * 0.6), at(0.02 + 1.5 / width, front * 0.6 + 0.1), random));
  return out;
}

/** A car that stands at a point and looks to another one. */
function car([x, y]: Point, to: Point, random: Random): Mark[] {
  const angle = Math.atan2(to[1] - y, to[0] - x);
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const box = (l: number, w: number): Point[] =>
    [
      [-l, -w],
      [l, -w],
      [l, w],
      [-l, w],
    ].map(([p, q]): Point => [x + p! * c - q! * s, y + p! * s + q! * c]);
  const colour = CARS[Math.floor(random() * CARS.length)]!;
  return [
    area(shifted(box(2.2, 0.9), SHADOW, 1.2), '#20262a', 0.5),
    area(box(2.2, 0.9), colour),
    area(box(1.1, 0.75), shaded(colour, -0.45)),
  ];
}

/** Rows of trees behind the yards. */
function orchard(random: Random): Mark[] {
  const out: Mark[] = [area(strip(282, 368, -415, -162), '#80864f')];
  for (let u = 288; u < 366; u += 8)
    for (let v = -408; v < -166; v += 7) if (random() < 0.9) out.push(...tree(place(u, v), 1.9 + 0.7 * random(), random));
  return out;
}

/** The yards south of the town: large sheds, stacks, lorries. */
function yards(random: Random): Mark[] {
  const out: Mark[] = [area(strip(66, 158, -418, -158), '#8d8a80'), area(strip(174, 264, -418, -158), '#86857a'), ...orchard(random)];
  for (const [u1, u2] of [
    [66, 158],
    [174, 264],
  ] as const)
    for (let v = -412; v < -178; v += 44 + 10 * random()) {
      const [from, to] = [u1 + 8 + 8 * random(), u2 - 24 - 14 * random()];
      const end = Math.min(-164, v + 24 + 12 * random());
      out.push(
        ...building([place(from, v), place(from, end), place(to, end), place(to, v)], METAL[Math.floor(random() * METAL.length)]!, 8, true),
      );
      for (let k = 0; k < 5; k++) {
        const [u, w] = [to + 5 + 2.8 * k, v + 4];
        if (u < u2 - 3)
          out.push(
            ...building(
              [place(u, w), place(u, w + 12), place(u + 2.4, w + 12), place(u + 2.4, w)],
              BOXES[Math.floor(random() * BOXES.length)]!,
              2.6,
              false,
            ),
          );
      }
    }
  return out;
}

/** The quay with its sheds, the siding, containers, the ferry and what floats. */
function quay(random: Random): Mark[] {
  const { from, to } = QUAY;
  const out: Mark[] = [
    area(strip(2.6, 50, from, to), '#a8a59a'),
    area(strip(2.6, 4.4, from, to), '#c9c6ba'),
    ...[18.2, 19.7].map((u) => line(alongShore(u, from - 60, to + 40, 6), '#5e5952', 0.25)),
    line(alongShore(18.95, from - 60, to + 40, 6), '#857d70', 3, [0.5, 0.9]),
  ];
  for (const [v1, v2] of [
    [-190, -120],
    [-100, -38],
    [30, 92],
    [108, 164],
  ] as const)
    out.push(
      ...building([place(24, v1), place(24, v2), place(46, v2), place(46, v1)], METAL[Math.floor(random() * METAL.length)]!, 9, true),
    );
  for (let k = 0; k < 46; k++) {
    const v = -186 + 7 * Math.floor(random() * 50),
      u = 6.5 + 3 * Math.floor(random() * 3);
    if (v > -30 && v < 40) continue;
    out.push(
      ...building(
        [place(u, v), place(u, v + 6.1), place(u + 2.4, v + 6.1), place(u + 2.4, v)],
        BOXES[Math.floor(random() * BOXES.length)]!,
        2.6,
        false,
      ),
    );
  }
  for (let v = -28; v < 24; v += 3)
    if (random() < 0.8)
      out.push(...car(place(27, v), place(30, v), random), ...(random() < 0.6 ? car(place(36, v), place(33, v), random) : []));
  for (let v = from + 6; v < to; v += 11.5) out.push(area(around(place(4.9, v), 0.5), '#3c3a36'));
  // the ferry at its berth, hull, deck and wheelhouse
  const hull = (u: number, v: number, l: number, w: number): Point[] => [
    place(u - w, v),
    place(u - w, v + l * 0.8),
    place(u, v + l),
    place(u + w, v + l * 0.8),
    place(u + w, v),
  ];
  out.push(
    area(shifted(hull(-8, -20, 62, 7), SHADOW, 6), '#16262b', 0.5),
    area(hull(-8, -20, 62, 7), '#e6e5df'),
    area(hull(-8, -16, 50, 5.2), '#8fa3a5'),
  );
  out.push(...building([place(-12, 16), place(-12, 26), place(-4, 26), place(-4, 16)], '#dcdad2', 4, false));
  // the mole, and small craft at their piles
  const mole = Array.from({ length: 26 }, (_, k) => place(-k * 7, 196 + 26 * Math.sin((k / 25) * 1.5)));
  out.push(line(mole, '#6f6c63', 13), line(mole, '#9a968a', 5));
  for (let k = 0; k < 3; k++) {
    const v = 60 + 34 * k;
    out.push(line([place(1, v), place(-62, v)], '#a08f76', 2));
    for (let n = 0; n < 11; n++)
      for (const side of [-1, 1]) {
        if (random() < 0.25) continue;
        const u = -8 - 5.2 * n;
        const length = 7 + 4 * random();
        const boat: Point[] = [
          place(u - 1.3, v + 2 * side),
          place(u - 1.3, v + (2 + length * 0.7) * side),
          place(u, v + (2 + length) * side),
          place(u + 1.3, v + (2 + length * 0.7) * side),
          place(u + 1.3, v + 2 * side),
        ];
        out.push(area(shifted(boat, SHADOW, 1.5), '#17282c', 0.5), area(boat, random() < 0.8 ? '#e9e8e2' : '#5b7a8c'));
        out.push(
          area(
            [place(u - 0.7, v + 3 * side), place(u - 0.7, v + 6 * side), place(u + 0.7, v + 6 * side), place(u + 0.7, v + 3 * side)],
            '#a9aeb0',
          ),
        );
      }
  }
  return out;
}

const around = ([x, y]: Point, r: number, n = 14): Point[] =>
  Array.from({ length: n }, (_, k): Point => [x + r * Math.cos((2 * Math.PI * k) / n), y + r * Math.sin((2 * Math.PI * k) / n)]);

/** The reserve: paths, a pond, a field that is mown in strips. */
function park(random: Random): Mark[] {
  const out: Mark[] = [area(strip(66, 264, 278, 398), '#6f8550')];
  for (let k = 0; k < 14; k++) out.push(area(strip(190, 256, 286 + 7 * k, 289.5 + 7 * k), '#7b9158', 0.8));
  out.push(
    line([place(66, 300), place(110, 320), place(150, 372), place(186, 398)], '#c9bd9f', 2.4),
    line([place(66, 380), place(120, 352), place(186, 300), place(190, 280)], '#c9bd9f', 2.4),
  );
  out.push(
    area(
      around(place(116, 338), 21, 24).map(([x, y], k): Point => [x + 3 * Math.sin(k * 1.7), y + 2 * Math.cos(k * 2.3)]),
      '#45605c',
    ),
  );
  for (let k = 0; k < 90; k++) {
    const [u, v] = [70 + 116 * random(), 282 + 112 * random()];
    if (Math.hypot(u - 116, v - 338) > 30) out.push(...tree(place(u, v), 2.4 + 3 * random(), random));
  }
  for (let v = 282; v < 398; v += 9) out.push(...tree(place(259, v), 3 + random(), random));
  return out;
}

/** Fields and hedges inland of the last street. */
function fields(random: Random): Mark[] {
  const colours = ['#98925f', '#8a8d59', '#a39a6a', '#7f8a55', '#94895c'];
  const out: Mark[] = [];
  for (let v = -900; v < 900; v += 92)
    for (let u = 392; u < 760; u += 120)
      out.push(
        area(strip(u, u + 120, v, v + 92), colours[Math.floor(random() * colours.length)]!),
        line(strip(u, u + 120, v, v + 92), '#4c5a3a', 2.2),
      );
  for (let k = 0; k < 160; k++) out.push(...tree(place(394 + 330 * random(), -600 + 1200 * random()), 2 + 3 * random(), random));
  return out;
}

/** The town as it looks from above, the lowest first. @param part of the parcels that are built on, 0 to 1 */
export function townFromAbove(seed: number, lots: readonly Parcel[], part = 1): Mark[] {
  const random = seeded(seed + 11);
  const built = lots.filter(({ ring }) => {
    const inYards = ring[0]![1] < place(0, -150)[1] - 6;
    return !inYards;
  });
  const inPark = ({ ring }: Parcel): boolean => ring[0]![1] > place(120, 268)[1] && ring[0]![0] > place(270, 330)[0] - 6;
  return [
    ...land(),
    area([...alongShore(9, -900, 900, 12), place(760, 900), place(760, -900)], '#7c8455'),
    ...fields(random),
    ...yards(random),
    ...built.filter((l) => !inPark(l)).flatMap((l) => (random() < part ? lot(l, random) : [area(l.ring, '#83895a')])),
    ...park(random),
    ...streets(),
    ...(part < 1 ? [] : parkedCars(random)),
    ...quay(random),
  ];
}

function parkedCars(random: Random): Mark[] {
  const out: Mark[] = [];
  for (const { u } of STREETS.along)
    for (let v = -420; v < 400; v += 7) {
      if (STREETS.across.some((s) => Math.abs(s.v - v) < 13) || random() < 0.72) continue;
      const side = random() < 0.5 ? -3.1 : 3.1;
      out.push(...car(place(u + side, v), place(u + side, v + 1), random));
    }
  return out;
}

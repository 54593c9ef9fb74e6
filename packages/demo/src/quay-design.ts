import { Drawing, type LayerSpec, type BlockSpec, type Vertex } from './drawing';
import { seeded } from './random';
import { acrossShore, alongShore, ground, MARKS, place, type Point, QUAY, STREETS } from './town';

const MILLIMETRES = 4; // $INSUNITS

const LAYERS: LayerSpec[] = [
  { name: 'QUAY-EDGE', color: 7, weight: 50 },
  { name: 'QUAY-COPING', color: 8, weight: 18 },
  { name: 'QUAY-STAIR', color: 6, weight: 35 },
  { name: 'BOLLARD', color: 10 },
  { name: 'LAMP-STANDARD', color: 40 },
  { name: 'DOLPHIN', color: 32, weight: 35 },
  { name: 'WATER-MAIN', color: 5, weight: 50 },
  { name: 'VALVE', color: 150 },
  { name: 'SEWER', color: 34, weight: 50, linetype: 'DASHED' },
  { name: 'MANHOLE', color: 36 },
  { name: 'PIPE-TEXT', color: 7 },
  { name: 'KERB-NEW', color: 9, weight: 25 },
  { name: 'CL-ALIGN', color: 1, linetype: 'CENTRE' },
  { name: 'LEASE-PARCEL', color: 52, weight: 35 },
  { name: 'LEASE-TEXT', color: 52 },
  { name: 'PLANTING', color: 84 },
  { name: 'SPOT-LEVEL', color: 44 },
  { name: 'SURVEY-MARK', color: 2 },
  { name: 'TITLE-BLOCK', color: 7 },
];

const BLOCKS: BlockSpec[] = [
  {
    name: 'BOLLARD-T',
    circles: [0.35, 0.2],
    lines: [[-0.5, 0, 0.5, 0]],
    attributes: [
      ['BOLLARD_ID', 'Number'],
      ['SAFE_LOAD_KN', 'Safe working load, kN'],
      ['INSTALLATION_YEAR', 'Year'],
      ['INSTALLATION_CREW', 'Crew'],
      ['MATERIAL', 'Material'],
    ],
  },
  {
    name: 'LAMP-6M',
    circles: [0.25],
    lines: [[0, 0, 0, -1.4]],
    attributes: [
      ['LAMP_ID', 'Number'],
      ['LAMP_HEIGHT', 'Height, m'],
      ['CIRCUIT', 'Circuit'],
      ['LUMENS', 'Light output'],
    ],
  },
  {
    name: 'VALVE-GATE',
    circles: [],
    lines: [
      [-0.5, -0.3, 0.5, 0.3],
      [0.5, 0.3, 0.5, -0.3],
      [0.5, -0.3, -0.5, 0.3],
      [-0.5, 0.3, -0.5, -0.3],
    ],
    attributes: [
      ['VALVE_ID', 'Number'],
      ['DIAMETER_MM', 'Diameter, mm'],
      ['VALVE_STATE', 'Open or shut'],
      ['INSTALLATION_YEAR', 'Year'],
      ['INSTALLATION_CREW', 'Crew'],
    ],
  },
  {
    name: 'MANHOLE-1050',
    circles: [0.6, 0.525],
    lines: [],
    attributes: [
      ['MH_ID', 'Number'],
      ['COVER_LEVEL', 'Cover level, m'],
      ['INVERT_LEVEL', 'Invert level, m'],
      ['STREET', 'Street'],
    ],
  },
  {
    name: 'CONTROL-MARK',
    circles: [0.3],
    lines: [
      [-0.5, 0, 0.5, 0],
      [0, -0.5, 0, 0.5],
    ],
    attributes: [
      ['MARK', 'Name'],
      ['ORDER', 'Order'],
    ],
  },
];

const CREWS = ['Crew A', 'Crew B', 'Crew C'];

/**
 * The design drawing of the quay: drawn in millimetres of NZGD2000 / NZTM 2000, no coordinate system stated.
 * @param size 1 for the demo; the mains and leases are repeated over more of the town as it grows
 */
export function quayDesign(seed: number, size = 1): string {
  const random = seeded(seed);
  const d = new Drawing(MILLIMETRES, 1000, LAYERS, BLOCKS);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  quayEdge(d);
  furniture(d, random, pick);
  leases(d);
  water(d, random, pick, size);
  sewer(d, random, size);
  kerbs(d);
  planting(d, random);
  for (let k = 0; k < 180 * size; k++) {
    const u = 4 + random() * 260,
      v = -430 + random() * 860;
    d.point('SPOT-LEVEL', place(u, v), Number(ground(u, v).toFixed(3)));
  }
  for (const { mark, u, v } of MARKS)
    d.insert('SURVEY-MARK', 'CONTROL-MARK', place(u, v), Number(ground(u, v).toFixed(3)), 0, { MARK: mark, ORDER: '4' });
  titleBlock(d);
  return d.toString();
}

const radians = Math.PI / 180;
const heading = (a: Point, b: Point): number => Math.atan2(b[1] - a[1], b[0] - a[0]) / radians;
const between = (a: Point, b: Point, t: number): Point => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];

/** Lettering reads from the left whichever way its line runs. */
const readable = (angle: number): number => (angle > 90 ? angle - 180 : angle < -90 ? angle + 180 : angle);

function quayEdge(d: Drawing): void {
  const { from, to } = QUAY;
  // the front: straight runs between seven turn-outs that are arcs
  const front: Vertex[] = [];
  for (let v = from; v <= to; v += 8) {
    const recess = Math.round((v - from) / 8) % 6 === 3;
    const [x, y] = place(recess ? 6.5 : 3, v);
    front.push([x, y, recess ? 0.28 : 0]);
  }
  d.polyline('QUAY-EDGE', front);
  d.polyline('QUAY-EDGE', alongShore(9, from, to, 12));
  for (const v of [from, to]) {
    const a = place(3, v),
      b = place(9, v);
    d.polyline('QUAY-EDGE', [[...a, v === from ? 0.35 : -0.35], [...b]]);
  }
  for (let v = from; v + 6 <= to; v += 6) {
    const corners = [place(3, v), place(3, v + 5.9), place(4.4, v + 5.9), place(4.4, v)];
    d.polyline(
      'QUAY-COPING',
      corners.map((c): Vertex => [...c]),
      true,
      3.2,
    );
  }
  // the coping at the four stairs was modelled as solid bodies
  for (let k = 0; k < 4; k++) d.body('QUAY-COPING');
  [-120, -40, 44, 130].forEach((v, i) => {
    for (let step = 0; step < 9; step++) d.line('QUAY-STAIR', place(-0.32 * step, v), place(-0.32 * step, v + 3.4));
    d.polyline(
      'QUAY-STAIR',
      [place(0, v), place(-2.9, v), place(-2.9, v + 3.4), place(0, v + 3.4)].map((c): Vertex => [...c]),
      true,
    );
    if (i < 3) d.solid('QUAY-STAIR', [place(-2.9, v), place(-4.2, v), place(-2.9, v + 3.4), place(-4.2, v + 3.4)]);
  });
  for (const [u, v] of [
    [-46, -150],
    [-60, -20],
    [-52, 110],
  ] as const) {
    d.circle('DOLPHIN', place(u, v), 1.8);
    d.circle('DOLPHIN', place(u, v), 0.9);
  }
}

function furniture(d: Drawing, random: () => number, pick: <T>(list: readonly T[]) => T): void {
  const { from, to } = QUAY;
  let n = 0;
  for (let v = from + 6; v < to; v += 11.5) {
    const p = place(4.9, v);
    n++;
    d.insert('BOLLARD', 'BOLLARD-T', p, 3.2, heading(place(4.9, v - 1), place(4.9, v + 1)), {
      BOLLARD_ID: `QB-${String(n).padStart(3, '0')}`,
      SAFE_LOAD_KN: pick(['300', '500', '800']),
      INSTALLATION_YEAR: pick(['1987', '2025', '2026']),
      INSTALLATION_CREW: pick(CREWS),
      MATERIAL: pick(['cast iron', 'ductile iron', 'steel']),
    });
  }
  n = 0;
  for (const u of [12, 47, 69]) {
    for (let v = -210; v < 190; v += 26) {
      n++;
      d.insert('LAMP-STANDARD', 'LAMP-6M', place(u, v), Number(ground(u, v).toFixed(3)), heading(place(u, v - 1), place(u, v + 1)) + 90, {
        LAMP_ID: `L${String(n).padStart(3, '0')}`,
        LAMP_HEIGHT: pick(['6.0', '8.0']),
        CIRCUIT: `C${1 + Math.floor(random() * 4)}`,
        LUMENS: String(3200 + 400 * Math.floor(random() * 6)),
      });
    }
  }
}

function leases(d: Drawing): void {
  QUAY.leases.forEach(([a, b], i) => {
    const outline = [...alongShore(9, a, b, 12), ...alongShore(48, b, a, 12)];
    d.polyline(
      'LEASE-PARCEL',
      outline.map((c): Vertex => [...c]),
      true,
    );
    let twice = 0;
    outline.forEach((p, k) => {
      const q = outline[(k + 1) % outline.length]!;
      twice += (p[0] - outline[0]![0]) * (q[1] - outline[0]![1]) - (q[0] - outline[0]![0]) * (p[1] - outline[0]![1]);
    });
    d.mtext(
      'LEASE-TEXT',
      place(28, (a + b) / 2),
      3,
      `{\\H3;Lease ${i + 1}}\\P${Math.round(Math.abs(twice) / 2)} m²\\Pheld by the harbour`,
      readable(heading(place(28, a), place(28, b))),
    );
  });
}

function water(d: Drawing, random: () => number, pick: <T>(list: readonly T[]) => T, size: number): void {
  let valve = 0;
  const run = (line: Point[], street: string, diameter: string): void => {
    for (let i = 0; i + 1 < line.length; i++) {
      // every third length is laid on a gentle arc
      if (i % 3 === 1) d.polyline('WATER-MAIN', [[...line[i]!, 0.04], [...line[i + 1]!]]);
      else d.line('WATER-MAIN', line[i]!, line[i + 1]!);
      if (i % 4 === 1) {
        const angle = readable(heading(line[i]!, line[i + 1]!));
        d.text('PIPE-TEXT', between(line[i]!, line[i + 1]!, 0.3), 1.8, `%%c${diameter} PE100 ${street}`, angle, 'NOTES');
      }
      if (i % 3 === 0 || i + 2 === line.length) {
        valve++;
        d.insert('VALVE', 'VALVE-GATE', line[i]!, 0, heading(line[i]!, line[i + 1]!), {
          VALVE_ID: `V-${String(valve).padStart(4, '0')}`,
          DIAMETER_MM: diameter,
          VALVE_STATE: random() < 0.9 ? 'open' : 'shut',
          INSTALLATION_YEAR: pick(['2025', '2026']),
          INSTALLATION_CREW: pick(CREWS),
        });
      }
    }
  };
  const reach = 430 * size;
  for (const street of STREETS.along) run(alongShore(street.u + 3.5, -reach, reach, 36), street.name, street.u < 100 ? '200' : '150');
  for (const street of STREETS.across)
    if (Math.abs(street.v) < reach) run(acrossShore(street.v + 3.5, 61.5, 381.5, 27), street.name, '100');
  // the loop round the head of the quay
  d.arc('WATER-MAIN', place(61.5, QUAY.to + 12), 9, 190, 350);
}

function sewer(d: Drawing, random: () => number, size: number): void {
  let n = 0;
  const run = (line: [number, number][], street: string): void => {
    const depth = 1.9 + random() * 0.8;
    const marks = line.map(([u, v], i): [number, number, number] => {
      const [x, y] = place(u, v);
      return [x, y, Number((ground(u, v) - depth - i * 0.12).toFixed(3))];
    });
    marks.forEach(([x, y, invert], i) => {
      const [u, v] = line[i]!;
      n++;
      const cover = ground(u, v).toFixed(3);
      d.insert('MANHOLE', 'MANHOLE-1050', [x, y], Number(cover), 0, {
        MH_ID: `MH${String(n).padStart(3, '0')}`,
        COVER_LEVEL: cover,
        INVERT_LEVEL: invert.toFixed(3),
        STREET: street,
      });
    });
    for (let i = 0; i + 1 < marks.length; i++) d.polyline3d('SEWER', [marks[i]!, marks[i + 1]!]);
  };
  const reach = 400 * size;
  for (const street of STREETS.along) {
    const line: [number, number][] = [];
    for (let v = -reach; v <= reach; v += 62) line.push([street.u - 3, v]);
    run(line, street.name);
  }
  for (const street of STREETS.across) {
    const line: [number, number][] = [];
    for (let u = 376; u > 54; u -= 53) line.push([u, street.v - 3]);
    run(line, street.name);
  }
}

function kerbs(d: Drawing): void {
  for (const street of STREETS.across) {
    for (const side of [-4.5, 4.5]) {
      for (let s = 0; s + 1 < STREETS.along.length; s++) {
        const line = acrossShore(street.v + side, STREETS.along[s]!.u + 9, STREETS.along[s + 1]!.u - 9, 30);
        d.polyline(
          'KERB-NEW',
          line.map((c): Vertex => [...c]),
        );
      }
    }
    d.polyline(
      'CL-ALIGN',
      acrossShore(street.v, 58, 378, 30).map((c): Vertex => [...c]),
    );
  }
  for (const street of STREETS.along) {
    const stops = [-425, -150, 0, 140, 270, 405];
    for (const side of [-4.5, 4.5]) {
      for (let s = 0; s + 1 < stops.length; s++)
        d.polyline(
          'KERB-NEW',
          alongShore(street.u + side, stops[s]! + 9, stops[s + 1]! - 9, 30).map((c): Vertex => [...c]),
        );
    }
    // corner radii of 4.5 m
    for (const v of stops) {
      const along = heading(place(street.u, v - 1), place(street.u, v + 1));
      for (const [du, dv, turn] of [
        [9, 9, 180],
        [-9, 9, 90],
        [-9, -9, 0],
        [9, -9, 270],
      ] as const) {
        if (street.u === 58 && du < 0) continue;
        d.arc('KERB-NEW', place(street.u + du, v + dv), 4.5, (along + turn + 360) % 360, (along + turn + 450) % 360);
      }
    }
    d.polyline(
      'CL-ALIGN',
      alongShore(street.u, -425, 405, 30).map((c): Vertex => [...c]),
    );
  }
}

function planting(d: Drawing, random: () => number): void {
  for (let k = 0; k < 12; k++) {
    const v = -190 + k * 31,
      w = 9 + random() * 9;
    const corners = [place(51, v), place(51, v + w), place(54, v + w), place(54, v)];
    const swing = k % 2 === 0 ? 0.24 : 0.41;
    d.polyline('PLANTING', [[...corners[0]!], [...corners[1]!, swing], [...corners[2]!], [...corners[3]!, swing]], true);
    if (k % 2 === 0) d.hatch('PLANTING', corners, 'SOLID');
  }
  for (const v of [-240, 205]) {
    d.spline(
      'PLANTING',
      Array.from({ length: 7 }, (_, i) => place(22 + (i % 2) * 9, v + i * 7)),
    );
  }
}

function titleBlock(d: Drawing): void {
  const [x0, y0] = place(470, -520);
  const width = 640,
    height = 60;
  const box = (x: number, y: number, w: number, h: number): void => {
    d.line('TITLE-BLOCK', [x, y], [x + w, y]);
    d.line('TITLE-BLOCK', [x + w, y], [x + w, y + h]);
    d.line('TITLE-BLOCK', [x + w, y + h], [x, y + h]);
    d.line('TITLE-BLOCK', [x, y + h], [x, y]);
  };
  box(x0, y0, width, height);
  for (let i = 0; i < 4; i++) box(x0 + i * 160, y0, 160, height);
  ['PORT AVERIL FERRY QUAY', 'GENERAL ARRANGEMENT', 'REVISION A', 'ALL DIMENSIONS IN MILLIMETRES'].forEach((text, i) =>
    d.text('TITLE-BLOCK', [x0 + 8 + i * 160, y0 + 26], 8, text),
  );
}

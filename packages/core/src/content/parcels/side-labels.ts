/** A label along a side: the middle of its base line, and how it is turned. */
export interface SideLabel {
  text: string;
  x: number;
  y: number;
  /** Degrees counter-clockwise from east, above -90 and at most 90: it is read from below or from the right. */
  angle: number;
}

/** A label that is asked for: a side, and what is to stand along it. */
export interface AskedLabel {
  text: string;
  from: readonly [number, number];
  to: readonly [number, number];
}

/** How wide a letter is, and how far a label stands off its side, by its height; common practice, no source. */
const WIDE = 0.7,
  OFF = 0.35;

/**
 * Puts labels along sides, longer sides first. One that is longer than its side, or would lie over another one, is left out.
 * @param height of the letters, in the unit of the coordinates
 */
export function sideLabels(asked: readonly AskedLabel[], height: number): { labels: SideLabel[]; left: number } {
  const length = ({ from, to }: AskedLabel): number => Math.hypot(to[0] - from[0], to[1] - from[1]);
  const placed = new Map<string, Corners[]>();
  const cell = height * WIDE * asked.reduce((n, a) => Math.max(n, a.text.length), 1) + 2 * height;
  const labels: SideLabel[] = [];
  for (const one of [...asked].sort((a, b) => length(b) - length(a))) {
    const width = one.text.length * WIDE * height;
    if (width > length(one)) continue;
    const label = along(one, height);
    const corners = cornersOf(label, width, height);
    const [column, row] = [Math.floor(label.x / cell), Math.floor(label.y / cell)];
    const near = [-1, 0, 1].flatMap((c) => [-1, 0, 1].flatMap((r) => placed.get(`${column + c} ${row + r}`) ?? []));
    if (near.some((other) => overlap(corners, other))) continue;
    const key = `${column} ${row}`;
    placed.set(key, [...(placed.get(key) ?? []), corners]);
    labels.push(label);
  }
  return { labels, left: asked.length - labels.length };
}

function along({ text, from, to }: AskedLabel, height: number): SideLabel {
  let angle = (Math.atan2(to[1] - from[1], to[0] - from[0]) * 180) / Math.PI;
  if (angle > 90) angle -= 180;
  if (angle <= -90) angle += 180;
  const turn = (angle * Math.PI) / 180;
  return {
    text,
    angle,
    x: (from[0] + to[0]) / 2 - OFF * height * Math.sin(turn),
    y: (from[1] + to[1]) / 2 + OFF * height * Math.cos(turn),
  };
}

/** x and y of the four corners of what a label covers. */
type Corners = readonly (readonly [number, number])[];

function cornersOf({ x, y, angle }: SideLabel, width: number, height: number): Corners {
  const [c, s] = [Math.cos((angle * Math.PI) / 180), Math.sin((angle * Math.PI) / 180)];
  return [
    [-width / 2, 0],
    [width / 2, 0],
    [width / 2, height],
    [-width / 2, height],
  ].map(([u, v]): [number, number] => [x + u! * c - v! * s, y + u! * s + v! * c]);
}

/** Whether two turned boxes overlap: they do not where some side of one has all of the other beyond it. */
function overlap(a: Corners, b: Corners): boolean {
  return [a, b].every((box) =>
    [0, 1].every((k) => {
      const [p, q] = [box[k]!, box[k + 1]!];
      const [dx, dy] = [q[0] - p[0], q[1] - p[1]];
      const range = (of: Corners): [number, number] => {
        const at = of.map(([x, y]) => (x - p[0]) * dx + (y - p[1]) * dy);
        return [Math.min(...at), Math.max(...at)];
      };
      const [[low, high], [from, to]] = [range(a), range(b)];
      return low < to && from < high;
    }),
  );
}

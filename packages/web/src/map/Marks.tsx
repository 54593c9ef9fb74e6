import { type SheetViews, token, useSheetView } from './sheet-view';

/** A place that is ringed on the map, in the frame. */
export interface Mark {
  x: number;
  y: number;
  tone: 'amber' | 'madder' | 'verdigris' | 'oxide';
  label?: string;
  /** One of many. */
  small?: boolean;
}

/** An arrow from a place, in units of the frame. */
export interface Vector {
  x: number;
  y: number;
  dx: number;
  dy: number;
}

/** A stem with a head; nothing for what is shorter than a pixel. */
function arrow(x1: number, y1: number, x2: number, y2: number) {
  const length = Math.hypot(x2 - x1, y2 - y1);
  if (length < 1) return null;
  const [ux, uy] = [(x2 - x1) / length, (y2 - y1) / length];
  const head = Math.min(7, length);
  const [bx, by] = [x2 - ux * head, y2 - uy * head];
  return (
    <>
      <path d={`M${x1} ${y1}L${bx} ${by}`} strokeWidth="1.8" />
      <path
        d={`M${x2} ${y2}L${bx - uy * head * 0.4} ${by + ux * head * 0.4}L${bx + uy * head * 0.4} ${by - ux * head * 0.4}Z`}
        stroke="none"
      />
    </>
  );
}

/** A ring with four ticks, about the vertex that would catch a point. */
const CATCH = 'M5 0a5 5 0 1 1-10 0a5 5 0 1 1 10 0M8 0h4M-8 0h-4M0 8v4M0-8v-4';

/** What lies over the map: a course that is followed, vectors, rings, the line of a measurement (x, y pairs in the frame), and the vertex that would catch a point. */
export function Marks({
  views,
  marks,
  line,
  course = [],
  vectors = [],
  caught = null,
}: {
  views: SheetViews;
  marks: readonly Mark[];
  line: readonly number[];
  course?: readonly number[];
  vectors?: readonly Vector[];
  caught?: readonly [number, number] | null;
}) {
  const view = useSheetView(views);
  if (!view) return null;
  const X = (x: number): number => view.width / 2 + (x - view.x) / view.resolution;
  const Y = (y: number): number => view.height / 2 - (y - view.y) / view.resolution;
  const placed = (xy: readonly number[]) => Array.from({ length: xy.length / 2 }, (_, i) => [X(xy[2 * i]!), Y(xy[2 * i + 1]!)] as const);
  const points = placed(line);
  return (
    <svg
      width={view.width}
      height={view.height}
      aria-hidden="true"
      style={{ position: 'absolute', inset: 0, pointerEvents: 'none', overflow: 'hidden' }}
    >
      {course.length > 0 && (
        <path
          data-course=""
          d={`M${placed(course)
            .map((p) => p.join(' '))
            .join('L')}`}
          fill="none"
          stroke={token('verdigris')}
          strokeWidth="7"
          strokeOpacity="0.45"
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      )}
      {marks.map((m, i) => (
        <g key={i}>
          <circle cx={X(m.x)} cy={Y(m.y)} r={m.small ? 4.5 : 8} fill="none" strokeWidth={m.small ? 1.6 : 2} stroke={token(m.tone)} />
          {m.label && (
            <text x={X(m.x) + 11} y={Y(m.y) - 7} fill={token('ink')} fontFamily="var(--chakra-fonts-mono)" fontSize="11px" fontWeight={600}>
              {m.label}
            </text>
          )}
        </g>
      ))}
      {vectors.map((v, i) => (
        <g key={i} stroke={token('madder')} fill={token('madder')}>
          {arrow(X(v.x), Y(v.y), X(v.x + v.dx), Y(v.y + v.dy))}
        </g>
      ))}
      {points.length > 0 && (
        <g fill="none" stroke={token('oxide')}>
          <path d={`M${points.map((p) => p.join(' ')).join('L')}`} strokeWidth="1.6" strokeDasharray="5 3" />
          {points.map(([x, y], i) => (
            <circle key={i} cx={x} cy={y} r="3.5" strokeWidth="1.6" fill={token('map')} />
          ))}
        </g>
      )}
      {caught && (
        <g data-caught={caught.join(' ')} fill="none" transform={`translate(${X(caught[0])} ${Y(caught[1])})`}>
          <path d={CATCH} strokeWidth="4.5" stroke={token('map')} />
          <path d={CATCH} strokeWidth="1.8" stroke={token('verdigris')} />
        </g>
      )}
    </svg>
  );
}

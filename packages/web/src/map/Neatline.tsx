import { type SheetViews, token, useSheetView } from './sheet-view';
import { ticksBetween } from './ticks';

/** Ticks with their eastings and northings on all four edges, crosses where they meet, and north. */
export function Neatline({
  views,
  margin,
  degrees,
  signs,
}: {
  views: SheetViews;
  margin: number;
  degrees: boolean;
  signs: readonly [number, number];
}) {
  const view = useSheetView(views);
  if (!view) return null;
  const { width, height, resolution } = view;
  const W = width + 2 * margin + 2,
    H = height + 2 * margin + 2;
  const left = view.x - (width / 2) * resolution,
    top = view.y + (height / 2) * resolution;
  const X = (e: number): number => margin + 1 + (e - left) / resolution;
  const Y = (n: number): number => margin + 1 + (top - n) / resolution;
  const east = ticksBetween(left, left + width * resolution, resolution, degrees, signs[0]);
  const north = ticksBetween(top - height * resolution, top, resolution, degrees, signs[1]);
  const far = 40; // labels keep clear of the corners
  const path =
    east.map(({ value }) => `M${X(value)} ${margin}v-4M${X(value)} ${H - margin}v4`).join('') +
    north.map(({ value }) => `M${margin} ${Y(value)}h-4M${W - margin} ${Y(value)}h4`).join('');
  const crosses = east
    .filter((e) => e.label)
    .flatMap((e) => north.filter((n) => n.label).map((n) => `M${X(e.value) - 4} ${Y(n.value)}h8M${X(e.value)} ${Y(n.value) - 4}v8`))
    .join('');
  return (
    <svg
      width={W}
      height={H}
      role="img"
      style={{
        position: 'absolute',
        inset: 0,
        pointerEvents: 'none',
        fontFamily: 'var(--chakra-fonts-mono)',
        fontSize: '10px',
        letterSpacing: '-0.02em',
        wordSpacing: '-0.26em',
      }}
      aria-label={`Neatline, eastings ${east.find((t) => t.label)?.label ?? ''}, northings ${north.find((t) => t.label)?.label ?? ''}`}
    >
      <path d={path} stroke={token('ink')} />
      <path d={crosses} strokeWidth=".7" stroke={token('ghost')} />
      <g fill={token('ink')}>
        {east
          .filter((t) => t.label && X(t.value) > far && X(t.value) < W - far)
          .map((t) => (
            <g key={t.value}>
              <text x={X(t.value)} y={margin - 6} textAnchor="middle">
                {t.label}
              </text>
              <text x={X(t.value)} y={H - 4} textAnchor="middle">
                {t.label}
              </text>
            </g>
          ))}
        {north
          .filter((t) => t.label && Y(t.value) > far && Y(t.value) < H - far)
          .map((t) => (
            <g key={t.value}>
              <text transform={`translate(${margin - 6} ${Y(t.value)}) rotate(-90)`} textAnchor="middle">
                {t.label}
              </text>
              <text transform={`translate(${W - margin + 13} ${Y(t.value)}) rotate(-90)`} textAnchor="middle">
                {t.label}
              </text>
            </g>
          ))}
      </g>
      <g transform={`translate(${W - margin - 26} ${margin + 10})`}>
        <rect x="-8" y="-4" width="24" height="40" rx="2" fill={token('map')} opacity="0.85" />
        <text x="4" y="8" textAnchor="middle" fontWeight="600" fill={token('ink')}>
          N
        </text>
        <path d="M4 12L-1 31L4 26L9 31Z" fill="none" strokeLinejoin="round" stroke={token('ink')} />
        <path d="M4 12L-1 31L4 26Z" fill={token('ink')} />
      </g>
    </svg>
  );
}

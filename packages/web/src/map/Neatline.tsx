import { Box } from '@chakra-ui/react';
import { ticksBetween } from './ticks';

/** What part of the frame is seen: pixels, and the middle of the picture in the frame. */
export interface SheetView {
  width: number;
  height: number;
  x: number;
  y: number;
  resolution: number;
}

/** Ticks with their eastings and northings on all four edges, crosses where they meet, and north. */
export function Neatline({ view, margin, degrees, signs }: { view: SheetView; margin: number; degrees: boolean; signs: readonly [number, number] }) {
  const { width, height, resolution } = view;
  const W = width + 2 * margin + 2, H = height + 2 * margin + 2;
  const left = view.x - (width / 2) * resolution, top = view.y + (height / 2) * resolution;
  const X = (e: number): number => margin + 1 + (e - left) / resolution;
  const Y = (n: number): number => margin + 1 + (top - n) / resolution;
  const east = ticksBetween(left, left + width * resolution, resolution, degrees, signs[0]);
  const north = ticksBetween(top - height * resolution, top, resolution, degrees, signs[1]);
  const far = 40; // labels keep clear of the corners
  const path = east.map(({ value }) => `M${X(value)} ${margin}v-4M${X(value)} ${H - margin}v4`).join('') + north.map(({ value }) => `M${margin} ${Y(value)}h-4M${W - margin} ${Y(value)}h4`).join('');
  const crosses = east.filter((e) => e.label).flatMap((e) => north.filter((n) => n.label).map((n) => `M${X(e.value) - 4} ${Y(n.value)}h8M${X(e.value)} ${Y(n.value) - 4}v8`)).join('');
  return (
    <Box asChild position="absolute" inset="0" pointerEvents="none" fontFamily="mono" fontSize="10px" letterSpacing="-0.02em" wordSpacing="-0.26em">
      <svg width={W} height={H} role="img" aria-label={`Neatline, eastings ${east.find((t) => t.label)?.label ?? ''}, northings ${north.find((t) => t.label)?.label ?? ''}`}>
        <Box asChild stroke="ink"><path d={path} /></Box>
        <Box asChild stroke="ghost"><path d={crosses} strokeWidth=".7" /></Box>
        <Box asChild fill="ink">
          <g>
            {east.filter((t) => t.label && X(t.value) > far && X(t.value) < W - far).map((t) => (
              <g key={t.value}><text x={X(t.value)} y={margin - 6} textAnchor="middle">{t.label}</text><text x={X(t.value)} y={H - 4} textAnchor="middle">{t.label}</text></g>
            ))}
            {north.filter((t) => t.label && Y(t.value) > far && Y(t.value) < H - far).map((t) => (
              <g key={t.value}>
                <text transform={`translate(${margin - 6} ${Y(t.value)}) rotate(-90)`} textAnchor="middle">{t.label}</text>
                <text transform={`translate(${W - margin + 13} ${Y(t.value)}) rotate(-90)`} textAnchor="middle">{t.label}</text>
              </g>
            ))}
          </g>
        </Box>
        <g transform={`translate(${W - margin - 26} ${margin + 10})`}>
          <Box asChild fill="map" opacity="0.85"><rect x="-8" y="-4" width="24" height="40" rx="2" /></Box>
          <Box asChild fill="ink"><text x="4" y="8" textAnchor="middle" fontWeight="600">N</text></Box>
          <Box asChild stroke="ink"><path d="M4 12L-1 31L4 26L9 31Z" fill="none" strokeLinejoin="round" /></Box>
          <Box asChild fill="ink"><path d="M4 12L-1 31L4 26Z" /></Box>
        </g>
      </svg>
    </Box>
  );
}

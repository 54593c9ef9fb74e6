import { Box } from '@chakra-ui/react';
import type { SheetView } from './Neatline';

/** A place that is ringed on the map, in the frame. */
export interface Mark {
  x: number;
  y: number;
  tone: 'amber' | 'madder' | 'verdigris';
}

/** What lies over the map: rings, and the line of a measurement (x, y pairs in the frame). */
export function Marks({ view, marks, line }: { view: SheetView; marks: readonly Mark[]; line: readonly number[] }) {
  const X = (x: number): number => view.width / 2 + (x - view.x) / view.resolution;
  const Y = (y: number): number => view.height / 2 - (y - view.y) / view.resolution;
  const points = Array.from({ length: line.length / 2 }, (_, i) => [X(line[2 * i]!), Y(line[2 * i + 1]!)] as const);
  return (
    <Box asChild position="absolute" inset="0" pointerEvents="none" overflow="hidden">
      <svg width={view.width} height={view.height} aria-hidden="true">
        {marks.map((m, i) => (
          <Box asChild key={i} stroke={m.tone}><circle cx={X(m.x)} cy={Y(m.y)} r="8" fill="none" strokeWidth="2" /></Box>
        ))}
        {points.length > 0 && (
          <Box asChild stroke="oxide">
            <g fill="none">
              <path d={`M${points.map((p) => p.join(' ')).join('L')}`} strokeWidth="1.6" strokeDasharray="5 3" />
              {points.map(([x, y], i) => <Box asChild key={i} fill="map"><circle cx={x} cy={y} r="3.5" strokeWidth="1.6" /></Box>)}
            </g>
          </Box>
        )}
      </svg>
    </Box>
  );
}

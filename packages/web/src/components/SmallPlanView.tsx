import { Box } from '@chakra-ui/react';
import type { Thumbnail } from '@pontrel/contract/crossing';
import { useAppSelector } from '../state/store';
import { onPaper } from '../theme/on-paper';
import { DAY, NIGHT } from '@pontrel/contract/palette';

const WIDTHS = { point: 2.6, line: 1.1, polygon: 0.9, text: 1.3 } as const;

/** A small plan in its neatline. */
export function ThumbnailView({ plan, dim }: { plan: Thumbnail; dim?: boolean }) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const { width, height } = plan;
  return (
    <Box opacity={dim ? 0.45 : 1} lineHeight="0">
      <svg viewBox={`0 0 ${width} ${height}`} width="100%" aria-hidden="true">
        <Box asChild fill="map" stroke="ghost">
          <rect x="1" y="1" width={width - 2} height={height - 2} strokeWidth=".9" />
        </Box>
        <Box asChild stroke="ghost">
          <path
            d={`M${width / 3} 0v3M${(2 * width) / 3} 0v3M${width / 3} ${height}v-3M${(2 * width) / 3} ${height}v-3M0 ${height / 2}h3M${width} ${height / 2}h-3`}
            strokeWidth=".8"
          />
        </Box>
        {plan.strokes.map((s) => (
          <path
            key={s.kind + s.color}
            d={s.path}
            fill={s.kind === 'polygon' ? onPaper(s.color, palette) : 'none'}
            fillOpacity={0.1}
            stroke={onPaper(s.color, palette)}
            strokeWidth={WIDTHS[s.kind]}
            strokeLinecap="round"
            strokeLinejoin="round"
            strokeOpacity={s.kind === 'text' ? 0.75 : 1}
            fillRule="evenodd"
          />
        ))}
      </svg>
    </Box>
  );
}

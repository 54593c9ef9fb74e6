import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { ArrowRight } from 'lucide-react';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import type { ForecastRow } from '@pontrel/core/content/features/forecast';
import type { Symbolizer } from '@pontrel/core/symbology/symbolizer';
import { grouped } from '../components/numbers';
import { ICON, Mono, Muted } from '../components/parts';
import { useAppSelector } from '../state/store';
import { onPaper } from '../theme/on-paper';
import { Rule } from './Rule';

/** How the records of a layer are drawn, there and here, side by side, and what the target cannot hold. */
export function DrawnAs({ row }: { row: ForecastRow }) {
  if (row.symbology.length === 0) return null;
  return (
    <Rule title="Drawn as" aside={row.symbologyHow}>
      <Grid templateColumns="54px 14px 54px minmax(0, 1fr)" gap="7px" alignItems="center" rowGap="6px">
        {row.symbology.map((l, k) => (
          <Box key={k} display="contents">
            <Swatch look={l.source} label={`${l.count} as they are drawn`} />
            <Box color="muted">
              <ArrowRight {...ICON} size={12} />
            </Box>
            <Swatch look={l.target} label={`${l.count} as the target draws them`} />
            <Box minW="0">
              <Mono display="block" fontSize="11.5px" truncate title={title(l.source)}>
                {grouped(l.count)}
                {title(l.source) === '' ? null : <Muted> · {title(l.source)}</Muted>}
              </Mono>
              {l.lost.length > 0 && (
                <Text textStyle="small" color="amberInk" lineHeight="1.25">
                  without {l.lost.join(', ')}
                </Text>
              )}
            </Box>
          </Box>
        ))}
      </Grid>
      {row.symbology.some((l) => l.lost.length > 0) && (
        <Muted textStyle="small" display="block" mt="7px">
          What is not drawn still crosses, as fields.
        </Muted>
      )}
    </Rule>
  );
}

const title = (look: Symbolizer): string =>
  [
    look.marker,
    look.marker_mm === null ? null : `${Number(look.marker_mm.toPrecision(2))} mm`,
    look.width_mm === null ? null : `${Number(look.width_mm.toPrecision(2))} mm`,
    look.width_m === null ? null : `${Number(look.width_m.toPrecision(3))} m on the ground`,
  ]
    .filter(Boolean)
    .join(' · ');

/** Pixels that a millimetre on a sheet has here, so that fine lines can be told apart. */
const PX_PER_MM = 5;
/** A width on the ground has no width on a sheet until there is a scale. */
const GROUND_PX = 5;

/** Outlines of the marks that styles know, about the middle of a swatch. */
const MARK_PATHS: Readonly<Record<string, string>> = {
  square: 'M21 5h10v10h-10z',
  triangle: 'M26 4l6 11h-12z',
  cross: 'M26 4v12M20 10h12',
  x: 'M21.5 5.5l9 9M30.5 5.5l-9 9',
  star: 'M26 3l1.8 4.6 4.9 .3-3.8 3.1 1.3 4.8-4.2-2.7-4.2 2.7 1.3-4.8-3.8-3.1 4.9-.3z',
};

/** A small drawing of a look. */
function Swatch({ look, label }: { look: Symbolizer; label: string }) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const color = onPaper(look.color ?? '', palette),
    fill = look.fill === null ? color : onPaper(look.fill, palette);
  const width = look.width_m !== null ? GROUND_PX : Math.max(1, Math.min(6, (look.width_mm ?? 0.25) * PX_PER_MM));
  // a pattern is shown whole, however long it is
  const total = look.dash_mm?.reduce((n, d) => n + d, 0) ?? 0;
  const dash = look.dash_mm?.map((d) => Math.max(1, (d / total) * 18)).join(' ');
  const opacity = look.opacity ?? 1;
  return (
    <Flex
      role="img"
      aria-label={label}
      w="54px"
      h="22px"
      borderWidth="1px"
      borderColor="hairline"
      borderRadius="chip"
      bg="map"
      align="center"
      justify="center"
    >
      <svg width="52" height="20" viewBox="0 0 52 20" aria-hidden>
        {look.kind === 'line' && (
          <line x1="5" y1="10" x2="47" y2="10" stroke={color} strokeWidth={width} strokeDasharray={dash} opacity={opacity} />
        )}
        {look.kind === 'polygon' && (
          <rect
            x="8"
            y="3.5"
            width="36"
            height="13"
            fill={fill}
            fillOpacity={0.45 * opacity}
            stroke={color}
            strokeWidth={width}
            strokeDasharray={dash}
          />
        )}
        {look.kind === 'point' &&
          (look.marker !== null && look.marker in MARK_PATHS ? (
            <path d={MARK_PATHS[look.marker]} stroke={color} strokeWidth="1.4" fill="none" opacity={opacity} />
          ) : look.marker === null ? (
            <circle cx="26" cy="10" r="4" fill={color} opacity={opacity} />
          ) : (
            <g stroke={color} strokeWidth="1.4" fill="none" opacity={opacity}>
              <circle cx="26" cy="10" r="5.5" />
              <path d="M20.5 10h11M26 4.5v11" />
            </g>
          ))}
        {look.kind === 'text' && (
          <text x="26" y="14.5" textAnchor="middle" fontSize="12" fill={color} fontFamily="Public Sans">
            Abc
          </text>
        )}
      </svg>
    </Flex>
  );
}

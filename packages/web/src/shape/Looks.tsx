import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { ArrowRight } from 'lucide-react';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import type { ForecastRow } from '@pontrel/core/crossing/forecast';
import type { Look } from '@pontrel/core/style/look';
import { grouped } from '../parts/numbers';
import { ICON, Mono, Muted, Section } from '../parts/parts';
import { useAppSelector } from '../state/store';
import { onPaper } from '../theme/on-paper';

/** How the records of a layer are drawn, there and here, side by side, and what the target cannot hold. */
export function Looks({ row }: { row: ForecastRow }) {
  if (row.looks.length === 0) return null;
  return (
    <Section title="Looks" aside={row.looksHow}>
      <Grid templateColumns="54px 14px 54px minmax(0, 1fr)" gap="7px" alignItems="center" rowGap="6px">
        {row.looks.map((l, k) => (
          <Box key={k} display="contents">
            <Swatch look={l.source} label={`${l.count} as they are drawn`} />
            <Box color="muted"><ArrowRight {...ICON} size={12} /></Box>
            <Swatch look={l.target} label={`${l.count} as the target draws them`} />
            <Box minW="0">
              <Mono display="block" fontSize="11.5px" truncate title={title(l.source)}>{grouped(l.count)}<Muted> {title(l.source)}</Muted></Mono>
              {l.lost.length > 0 && <Text textStyle="small" color="amberInk" lineHeight="1.25">without {l.lost.join(', ')}</Text>}
            </Box>
          </Box>
        ))}
      </Grid>
      {row.looks.some((l) => l.lost.length > 0) && <Muted textStyle="small" display="block" mt="7px">What is not drawn still crosses, as fields.</Muted>}
    </Section>
  );
}

const title = (look: Look): string => [look.marker, look.width_mm === null ? null : `${Number(look.width_mm.toPrecision(2))} mm`].filter(Boolean).join(' · ');

/** Pixels that a millimetre on a sheet has here, so that fine lines can be told apart. */
const PX_PER_MM = 5;

/** A small drawing of a look. */
function Swatch({ look, label }: { look: Look; label: string }) {
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const color = onPaper(look.color ?? '', palette), fill = look.fill === null ? color : onPaper(look.fill, palette);
  const width = Math.max(1, Math.min(6, (look.width_mm ?? 0.25) * PX_PER_MM));
  // a pattern is shown whole, however long it is
  const total = look.dash_mm?.reduce((n, d) => n + d, 0) ?? 0;
  const dash = look.dash_mm?.map((d) => Math.max(1, (d / total) * 18)).join(' ');
  const opacity = look.opacity ?? 1;
  return (
    <Flex role="img" aria-label={label} w="54px" h="22px" borderWidth="1px" borderColor="hairline" borderRadius="chip" bg="map" align="center" justify="center">
      <svg width="52" height="20" viewBox="0 0 52 20" aria-hidden>
        {look.kind === 'line' && <line x1="5" y1="10" x2="47" y2="10" stroke={color} strokeWidth={width} strokeDasharray={dash} opacity={opacity} />}
        {look.kind === 'polygon' && <rect x="8" y="3.5" width="36" height="13" fill={fill} fillOpacity={0.45 * opacity} stroke={color} strokeWidth={width} strokeDasharray={dash} />}
        {look.kind === 'point' && (look.marker === null ? <circle cx="26" cy="10" r="4" fill={color} opacity={opacity} /> : <g stroke={color} strokeWidth="1.4" fill="none" opacity={opacity}><circle cx="26" cy="10" r="5.5" /><path d="M20.5 10h11M26 4.5v11" /></g>)}
        {look.kind === 'text' && <text x="26" y="14.5" textAnchor="middle" fontSize="12" fill={color} fontFamily="Public Sans">Abc</text>}
      </svg>
    </Flex>
  );
}

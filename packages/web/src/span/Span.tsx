import { useMemo, useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Text } from '@chakra-ui/react';
import { Link } from 'react-router';
import type { RunSummary } from '@pontrel/contract/crossing';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, plural } from '../components/numbers';
import { Empty, Muted, Scroll } from '../components/parts';
import { Side } from '../components/Side';
import { useForecastsQuery } from '../state/api';
import { BandPixels } from './BandPixels';
import { BandRecords } from './BandRecords';
import { type Band, bandPath, flowsOf, holds } from './flows';

const WIDTH = 940,
  LEFT = 250,
  RIGHT = 660,
  EDGE = 7;
const FATES = {
  unchanged: { fill: 'verdigris', name: 'unchanged' },
  changed: { fill: 'amberLine', name: 'changed' },
  excluded: { fill: 'ghost', name: 'left out by you' },
  left: { fill: 'madder', name: 'not carried' },
} as const;

/** How strongly a band is seen while none is chosen. */
const SHOWN = { unchanged: 0.42, changed: 0.62, excluded: 0.5, left: 0.85 } as const;

/** How many records of each layer reach each deliverable, and what falls away in between. */
export function Span() {
  const crossing = useCrossing();
  const { data: forecasts } = useForecastsQuery(crossing.id);
  const [chosen, setChosen] = useState<string | null>(null);
  const [over, setOver] = useState<string | null>(null);
  const { deliverables } = crossing.recipe;
  const flows = useMemo(
    () =>
      flowsOf(
        crossing,
        (forecasts ?? []).filter((f) => deliverables.some((d) => d.id === f.deliverable)),
      ),
    [crossing, forecasts, deliverables],
  );
  if (crossing.sources.length === 0 || deliverables.length === 0) {
    return (
      <Empty
        title="Nothing spans the river yet"
        action={
          <Button asChild>
            <Link to={`/crossings/${crossing.id}/${crossing.sources.length === 0 ? 'gather' : 'deliver'}`}>
              {crossing.sources.length === 0 ? 'Go to Gather' : 'Go to Deliver'}
            </Link>
          </Button>
        }
      >
        With sources on one side and deliverables on the other, this shows how many records of each layer reach each of them, and what falls
        away on the way.
      </Empty>
    );
  }
  // without the forecast nobody knows what arrives, and a picture of that would be a false one
  if (!forecasts)
    return (
      <Empty title="Working it out">How many records of each layer reach each deliverable is worked out from the rules as they are.</Empty>
    );
  const band = flows.bands.find((b) => b.key === chosen) ?? null;
  const lit = over ?? chosen;
  const sources = flows.layers.filter((l, k) => flows.layers[k - 1]?.source !== l.source);
  const firstLeft = flows.ends.find((e) => e.deliverable === null);
  return (
    <Grid templateColumns="minmax(0, 1fr) auto" minH="0">
      <Flex as="main" direction="column" minW="0" minH="0">
        <Flex align="baseline" gap="10px" px="16px" pt="12px" pb="4px">
          <Text as="h1" textStyle="title">
            Span
          </Text>
          <Muted>
            from{' '}
            {flows.layers.some((l) => l.pixels > 0)
              ? plural(flows.layers.length, 'layer or image', 'layers and images')
              : plural(flows.layers.length, 'layer')}{' '}
            to {plural(deliverables.length, 'deliverable')}; a band is as wide as its records or pixels are many
          </Muted>
        </Flex>
        <Scroll px="16px" pb="12px" tabIndex={0} role="region" aria-label="Bands from layers to deliverables">
          <chakra.svg viewBox={`0 0 ${WIDTH} ${flows.height}`} w="100%" maxW="1240px" role="group" aria-label="Span">
            {sources.map((s) => (
              <Label key={s.source} x={LEFT - 12} y={s.y - 7} anchor="end" muted text={s.source} most={34} />
            ))}
            {firstLeft && <Label x={RIGHT + 14} y={firstLeft.y - 8} muted text="stays behind" most={40} />}
            {flows.bands.map((b) => (
              <BandShape
                key={b.key}
                band={b}
                from={flows.layers[b.from]!.name}
                to={flows.ends[b.to]!.name}
                lit={lit === b.key}
                dim={lit !== null && lit !== b.key}
                onOver={setOver}
                onChoose={() => setChosen(chosen === b.key ? null : b.key)}
              />
            ))}
            {flows.layers.map((l, k) => (
              <g key={`${l.source} ${l.name}`}>
                <Box asChild fill="ink">
                  <rect x={LEFT - EDGE} y={l.y} width={EDGE} height={Math.max(l.h, 1.5)} />
                </Box>
                <Label x={LEFT - (l.pixels > 0 ? 82 : 58)} y={l.y + 11} anchor="end" text={l.name} most={25} strong={band?.from === k} />
                <Label x={LEFT - 14} y={l.y + 11} anchor="end" mono text={l.pixels > 0 ? millions(l.pixels) : grouped(l.count)} most={9} />
              </g>
            ))}
            {flows.ends.map((e, k) => (
              <g key={e.deliverable ?? e.name}>
                <Box asChild fill={e.deliverable !== null ? 'ink' : e.excluded ? 'ghost' : 'madder'}>
                  <rect x={RIGHT} y={e.y} width={EDGE} height={Math.max(e.h, 1.5)} />
                </Box>
                <Label x={RIGHT + 14} y={e.y + 11} text={e.name} most={38} strong={band?.to === k || e.deliverable !== null} />
                <Label x={RIGHT + 14} y={e.y + 26} mono muted text={`${holds(e)}${provedNote(crossing.runs, e.deliverable)}`} most={44} />
              </g>
            ))}
          </chakra.svg>
        </Scroll>
        <Flex gap="16px" px="16px" py="10px" borderTopWidth="1px" borderColor="hairline" textStyle="small">
          {Object.values(FATES).map(({ fill, name }) => (
            <Flex key={name} align="center" gap="6px">
              <Box w="9px" h="9px" borderRadius="2px" bg={fill} />
              {name}
            </Flex>
          ))}
          <Box flex="1" />
          <Muted>What the forecast says. Choose a band to see the records behind it.</Muted>
        </Flex>
      </Flex>
      <Side side="right" width="300px" label="Records of the band">
        {band ? (
          band.of === 'pixels' ? (
            <BandPixels key={band.key} band={band} layer={flows.layers[band.from]!} end={flows.ends[band.to]!} />
          ) : (
            <BandRecords key={band.key} band={band} layer={flows.layers[band.from]!} end={flows.ends[band.to]!} />
          )
        ) : (
          <Empty title="No band chosen">
            Choose a band, by the mouse or with Tab and Enter: what becomes of its records, and the records themselves, stand here.
          </Empty>
        )}
      </Side>
    </Grid>
  );
}

/** Pixels in so little room as a count of records has. */
const millions = (pixels: number): string => (pixels >= 1e6 ? `${(pixels / 1e6).toFixed(1)} Mpx` : `${grouped(pixels / 1e3, 1)} kpx`);

/** What the last run of a deliverable proved, where its rules are still the same. */
function provedNote(runs: readonly RunSummary[], deliverable: string | null): string {
  const run = deliverable === null ? undefined : runs.find((r) => r.deliverable === deliverable && r.current && r.account);
  if (!run) return '';
  const { crossed, read } = run.account!;
  return run.picture && !run.picture.isMap
    ? `, proved ${(crossed / 1e6).toFixed(1)} of ${millions(read)}`
    : `, proved ${grouped(crossed)} of ${grouped(read)}`;
}

function BandShape({
  band,
  from,
  to,
  lit,
  dim,
  onOver,
  onChoose,
}: {
  band: Band;
  from: string;
  to: string;
  lit: boolean;
  dim: boolean;
  onOver(key: string | null): void;
  onChoose(): void;
}) {
  const name = `${from} to ${to}: ${grouped(band.count)}${band.of === 'pixels' ? ' pixels' : ''} ${FATES[band.fate].name}`;
  return (
    <chakra.path
      d={bandPath(band, LEFT, RIGHT)}
      fill={FATES[band.fate].fill}
      opacity={lit ? 1 : dim ? 0.16 : SHOWN[band.fate]}
      cursor="pointer"
      role="button"
      tabIndex={0}
      aria-label={name}
      transition="opacity 120ms"
      outline="none"
      _focusVisible={{ stroke: 'ink', strokeWidth: 1.5 }}
      onMouseEnter={() => onOver(band.key)}
      onMouseLeave={() => onOver(null)}
      onFocus={() => onOver(band.key)}
      onBlur={() => onOver(null)}
      onClick={onChoose}
      onKeyDown={(e) => {
        if (e.key === 'Enter' || e.key === ' ') {
          e.preventDefault();
          onChoose();
        }
      }}
    >
      <title>{name}</title>
    </chakra.path>
  );
}

function Label({
  x,
  y,
  text,
  anchor,
  mono,
  muted,
  strong,
  most,
}: {
  x: number;
  y: number;
  text: string;
  anchor?: 'end';
  mono?: boolean;
  muted?: boolean;
  strong?: boolean;
  most: number;
}) {
  const cut = text.length > most ? `${text.slice(0, most - 1)}…` : text;
  return (
    <Box
      asChild
      fill={muted ? 'muted' : 'ink'}
      fontFamily={mono ? 'mono' : 'body'}
      fontSize={mono ? '11px' : '12px'}
      fontWeight={strong ? 650 : 450}
    >
      <text x={x} y={y} textAnchor={anchor}>
        {cut}
        <title>{text}</title>
      </text>
    </Box>
  );
}

import { Box, chakra, useMediaQuery } from '@chakra-ui/react';
import { NavLink } from 'react-router';
import { WIDE_WINDOW } from '../theme/windows';
import { type Stage, STAGE_NAMES, STAGES, type StageView } from './stages';

const ROAD = 34,
  FOOT = 58,
  HALF = 7;

/** The bridge with so many pixels from pier to pier: where they stand, and the arches between them with their posts. */
function elevation(gap: number): { width: number; gap: number; piers: number[]; arches: string; posts: string } {
  const width = STAGES.length * gap;
  const piers = STAGES.map((_, i) => gap / 2 + gap * i);
  const between = piers.slice(0, -1).map((x, i) => [x + HALF, piers[i + 1]! - HALF] as const);
  const arches =
    between.map(([a, b]) => `M${a} ${FOOT - 3}Q${(a + b) / 2} ${ROAD - 8} ${b} ${FOOT - 3}`).join('') +
    `M14 ${ROAD + 4}Q${piers[0]! - HALF - 22} ${ROAD + 4} ${piers[0]! - HALF} ${FOOT - 3}M${piers[4]! + HALF} ${FOOT - 3}Q${piers[4]! + HALF + 22} ${ROAD + 4} ${width - 14} ${ROAD + 4}`;
  const posts = between
    .flatMap(([a, b]) =>
      [1, 2, 3, 4, 5, 6, 7].map((k) => {
        const t = k / 8;
        const y = (1 - t) ** 2 * (FOOT - 3) + 2 * t * (1 - t) * (ROAD - 8) + t * t * (FOOT - 3);
        return y - (ROAD + 4) > 2 ? `M${a + (b - a) * t} ${ROAD + 4}V${y}` : '';
      }),
    )
    .join('');
  return { width, gap, piers, arches, posts };
}

const WIDE = elevation(128),
  NARROW = elevation(106);

/** The bridge elevation at the head of a crossing: five piers, which are the stages, each with its live figure. */
export function Deck({ crossing, current, stages }: { crossing: string; current: Stage | null; stages: StageView[] }) {
  const [wide] = useMediaQuery([WIDE_WINDOW], { ssr: false });
  const { width, gap, piers, arches, posts } = wide ? WIDE : NARROW;
  return (
    <Box as="nav" aria-label="Stages" position="relative" w={`${width}px`} h="86px" flex="none">
      <svg width={width} height="86" viewBox={`0 0 ${width} 86`} aria-hidden="true">
        <Box asChild color="ghost">
          <path d={arches} fill="none" stroke="currentColor" />
        </Box>
        <Box asChild color="hairline">
          <path d={posts} stroke="currentColor" />
        </Box>
        <Box asChild color="ink">
          <path
            d={`M4 ${ROAD}H${width - 4}M4 ${ROAD + 4}H${width - 4}M4 ${ROAD - 3}v10M${width - 4} ${ROAD - 3}v10`}
            stroke="currentColor"
            strokeWidth="1.1"
          />
        </Box>
        {stages.map(({ stage, state }, i) => (
          <Pier key={stage} x={piers[i]!} state={stage === current ? 'current' : state} />
        ))}
      </svg>
      {stages.map(({ stage, state, figure }, i) => (
        <chakra.a
          key={stage}
          asChild
          position="absolute"
          top="0"
          left={`${piers[i]! - gap / 2 + 2}px`}
          w={`${gap - 4}px`}
          h="86px"
          borderRadius="sheet"
          textAlign="center"
          _hover={{ bg: 'sunk/60' }}
        >
          <NavLink to={`/crossings/${crossing}/${stage}`} aria-keyshortcuts={String(i + 1)}>
            <Box
              position="absolute"
              insetX="0"
              top="9px"
              fontSize="13px"
              lineHeight="16px"
              fontWeight={stage === current ? 700 : 550}
              color={stage === current ? 'oxideDeep' : state === 'todo' ? 'muted' : 'ink'}
            >
              {STAGE_NAMES[stage]}
            </Box>{' '}
            <Box
              position="absolute"
              insetX="0"
              top={`${FOOT + 8}px`}
              fontSize="11.5px"
              lineHeight="15px"
              whiteSpace="nowrap"
              color={state === 'caution' ? 'amberInk' : state === 'todo' && stage !== current ? 'muted' : 'ink'}
              fontWeight={state === 'caution' ? 550 : 400}
            >
              {figure}
            </Box>
          </NavLink>
        </chakra.a>
      ))}
    </Box>
  );
}

const FILL = { current: 'oxide', done: 'verdigris', caution: 'amber', todo: 'paper' } as const;

function Pier({ x, state }: { x: number; state: keyof typeof FILL }) {
  return (
    <g>
      <Box asChild fill={FILL[state]} stroke={state === 'todo' ? 'muted' : FILL[state]}>
        <path d={`M${x - HALF} ${ROAD + 0.5}h${2 * HALF}l1.5 ${FOOT - ROAD}h${-2 * HALF - 3}z`} strokeWidth="1.2" strokeLinejoin="round" />
      </Box>
      <Box asChild stroke={state === 'todo' ? 'muted' : FILL[state]}>
        <path d={`M${x - HALF - 4} ${FOOT + 1}h${2 * HALF + 8}`} strokeWidth="1.6" />
      </Box>
      {state === 'done' && (
        <Box asChild stroke="onAccent">
          <path
            d={`M${x - 3.4} ${ROAD + 12}l2.5 2.7l4.6 -5.2`}
            fill="none"
            strokeWidth="1.5"
            strokeLinecap="round"
            strokeLinejoin="round"
          />
        </Box>
      )}
      {state === 'caution' && (
        <Box asChild stroke="onAccent">
          <path d={`M${x} ${ROAD + 8}v6M${x} ${ROAD + 17}v.5`} fill="none" strokeWidth="1.6" strokeLinecap="round" />
        </Box>
      )}
    </g>
  );
}

/** The deck in small, for a row of Home. */
export function SmallDeck({ states }: { states: ('done' | 'caution' | 'todo')[] }) {
  const at = (i: number): number => 11 + 24 * i;
  return (
    <svg width="118" height="24" viewBox="0 0 118 24" aria-hidden="true">
      <Box asChild stroke="line">
        <path d={[0, 1, 2, 3].map((i) => `M${at(i) + 4} 20Q${at(i) + 12} 2 ${at(i + 1) - 4} 20`).join('')} fill="none" strokeWidth=".9" />
      </Box>
      <Box asChild stroke="ink">
        <path d="M0 6H118M0 8.5H118" strokeWidth=".9" />
      </Box>
      {states.map((s, i) => (
        <Box asChild key={i} fill={s === 'todo' ? 'surface' : FILL[s]} stroke={s === 'todo' ? 'muted' : FILL[s]}>
          <path d={`M${at(i) - 3.5} 6.3h7l.7 15h-8.4z`} />
        </Box>
      ))}
    </svg>
  );
}

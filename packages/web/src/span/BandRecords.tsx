import { useState } from 'react';
import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { ChevronLeft, ChevronRight } from 'lucide-react';
import { Link } from 'react-router';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, plural, shown } from '../components/numbers';
import { Chip, ICON, Mono, Muted, Scroll, Section } from '../components/parts';
import { recordsOf } from '../records/address';
import { useRecordsQuery } from '../state/api';
import type { Band, EndBlock, LayerBlock } from './flows';

const PAGE = 20;
const TONES = { unchanged: 'good', changed: 'caution', excluded: 'plain', left: 'wrong' } as const;
const WORDS = { unchanged: 'unchanged', changed: 'changed', excluded: 'left out by you', left: 'not carried' } as const;

/** What a band is about: its layer or image, its fate, its end, and why. */
export function BandHead({ band, layer, end, count }: { band: Band; layer: LayerBlock; end: EndBlock; count: string }) {
  return (
    <Section>
      <Mono fontSize="13.5px" fontWeight={600}>
        {layer.name}
      </Mono>
      <Muted display="block" textStyle="small">
        {layer.source}
      </Muted>
      <Flex mt="8px" gap="8px" align="center" wrap="wrap">
        <Chip tone={TONES[band.fate]}>
          {count} {WORDS[band.fate]}
        </Chip>
      </Flex>
      <Text mt="6px">
        {end.deliverable === null ? (
          end.name
        ) : (
          <>
            to <b>{end.name}</b>
          </>
        )}
      </Text>
      {band.reasons.map((r) => (
        <Muted key={r} display="block" textStyle="small" mt="4px">
          {r}
        </Muted>
      ))}
    </Section>
  );
}

/** What becomes of the records of a band, and the records of its layer, a page at a time. */
export function BandRecords({ band, layer, end }: { band: Band; layer: LayerBlock; end: EndBlock }) {
  const { id } = useCrossing();
  const [offset, setOffset] = useState(0);
  const { data } = useRecordsQuery({ id, source: layer.sourceId, layer: layer.name, offset, limit: PAGE });
  return (
    <Scroll>
      <BandHead band={band} layer={layer} end={end} count={plural(band.count, 'record')} />
      <Section
        title="Records of the layer"
        aside={
          <Flex align="center" gap="2px">
            <Button
              size="sm"
              variant="ghost"
              px="0"
              h="20px"
              minW="24px"
              aria-label="Records before"
              disabled={offset === 0}
              onClick={() => setOffset(Math.max(0, offset - PAGE))}
            >
              <ChevronLeft {...ICON} size={14} />
            </Button>
            {grouped(offset + 1)} to {grouped(Math.min(offset + PAGE, data?.total ?? layer.count))} of {grouped(data?.total ?? layer.count)}
            <Button
              size="sm"
              variant="ghost"
              px="0"
              h="20px"
              minW="24px"
              aria-label="Records after"
              disabled={offset + PAGE >= (data?.total ?? 0)}
              onClick={() => setOffset(offset + PAGE)}
            >
              <ChevronRight {...ICON} size={14} />
            </Button>
          </Flex>
        }
      >
        <Box asChild display="inline-block" mb="4px" color="verdigrisInk" fontWeight={550} textDecoration="underline" minH="24px">
          <Link to={recordsOf(id, layer.source, layer.name)}>All of them as a table</Link>
        </Box>
        {data?.records.map((r) => (
          <Box key={r.id} py="5px" borderTopWidth="1px" borderColor="hairline" _first={{ borderTopWidth: 0 }}>
            <Flex justify="space-between" gap="8px">
              <Mono>{r.entity}</Mono>
              <Mono color="muted">{grouped(r.place)}</Mono>
            </Flex>
            <Muted
              textStyle="small"
              display="block"
              truncate
              title={Object.entries(r.attributes)
                .map(([k, v]) => `${k}: ${shown(v)}`)
                .join('\n')}
            >
              {telling(r.attributes)}
            </Muted>
          </Box>
        ))}
      </Section>
    </Scroll>
  );
}

/** Fields that say little of a record at a glance. */
const PLAIN = new Set([
  'layer',
  'entity',
  'handle',
  'color',
  'linetype',
  'lineweight_mm',
  'xdata',
  'scale_x',
  'scale_y',
  'scale_z',
  'block_angle',
]);

function telling(attributes: Record<string, string | number | boolean | null>): string {
  return (
    Object.entries(attributes)
      .filter(([name, value]) => !PLAIN.has(name) && value !== null)
      .slice(0, 4)
      .map(([name, value]) => `${name} ${shown(value)}`)
      .join(' · ') || 'no data of its own'
  );
}

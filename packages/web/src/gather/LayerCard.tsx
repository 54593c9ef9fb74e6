import { Box, chakra, Flex, Text } from '@chakra-ui/react';
import { grouped, plural } from '../components/numbers';
import { Mono, Muted, Tick, ToneIcon } from '../components/parts';
import { ThumbnailView } from '../components/SmallPlanView';
import { type LayerAt, worst } from './layer-at';
import { groupNames } from './entity-names';
import { realSize } from './real-size';

/** A layer on the contact sheet. */
export function LayerCard({
  at,
  current,
  onSelect,
  onTake,
}: {
  at: LayerAt;
  current: boolean;
  onSelect(): void;
  onTake(taken: boolean): void;
}) {
  const { profile, plan } = at.layer;
  const grave = worst(at);
  const groups = groupNames(profile.groups);
  return (
    <Box
      role="listitem"
      position="relative"
      borderWidth="1px"
      borderColor={current ? 'verdigris' : 'hairline'}
      boxShadow={current ? '0 0 0 1px {colors.verdigris}' : undefined}
      borderRadius="sheet"
      bg={current ? 'verdigrisTint/40' : 'surface'}
      overflow="hidden"
      _hover={{ borderColor: 'verdigrisLine' }}
    >
      <Box p="5px" pb="0">
        <ThumbnailView plan={plan} dim={!at.taken} />
      </Box>
      {grave && (
        <Box position="absolute" right="9px" top="9px" bg="map" borderRadius="chip" p="1px">
          <ToneIcon tone={grave} size={14} />
        </Box>
      )}
      <Box px="8px" pt="5px" pb="7px">
        <Flex align="center" gap="7px">
          <Box position="relative" zIndex="1" lineHeight="0">
            <Tick label={`Take ${profile.name}`} checked={at.taken} onChange={onTake} />
          </Box>
          <chakra.button
            type="button"
            aria-pressed={current}
            aria-label={`${profile.name}, ${plural(profile.count, 'record')}`}
            onClick={onSelect}
            minW="0"
            textAlign="left"
            cursor="pointer"
            _before={{ content: '""', position: 'absolute', inset: 0 }}
            onKeyDown={(e) => {
              if (e.key === ' ') {
                e.preventDefault();
                onTake(!at.taken);
              }
            }}
          >
            <Mono display="block" fontSize="11.5px" fontWeight={500} truncate color={at.taken ? 'ink' : 'muted'} title={profile.name}>
              {profile.name}
            </Mono>
          </chakra.button>
        </Flex>
        <Text
          textStyle="small"
          mt="3px"
          truncate
          color={at.taken ? 'ink' : 'muted'}
          title={groups.map((g) => `${grouped(g.count)} ${g.name}`).join(' · ')}
        >
          {groups
            .slice(0, 2)
            .map((g) => `${grouped(g.count)} ${g.name}`)
            .join(' · ')}
          {groups.length > 2 ? ' …' : ''}
        </Text>
        <Flex justify="space-between" gap="6px">
          <Mono fontSize="11px" lineHeight="15px" color="muted">
            {realSize(at.source, profile.extent)}
          </Mono>
          {at.layer.states && at.layer.states.length > 0 && (
            <Muted fontSize="11px" lineHeight="15px" truncate title={`The drawing says of this layer: ${at.layer.states.join(', ')}`}>
              {at.layer.states.join(', ')}
            </Muted>
          )}
        </Flex>
      </Box>
    </Box>
  );
}

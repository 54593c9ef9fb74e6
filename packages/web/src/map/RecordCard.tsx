import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { X } from 'lucide-react';
import { Swatch } from '../gather/LayerInspector';
import { entityName } from '../gather/entity-names';
import { grouped, shown } from '../components/numbers';
import { ICON, Mono, Muted } from '../components/parts';
import { messageOfError, useRecordQuery } from '../state/api';
import type { Picked } from './styles';

/** The record of an object that was clicked. */
export function RecordCard({
  crossing,
  picked,
  whyOut,
  onClose,
}: {
  crossing: string;
  picked: Picked;
  /** Why it stays behind, by what it is made of; null where it crosses. */
  whyOut?(entity: string): string | null;
  onClose(): void;
}) {
  const { data, error } = useRecordQuery({ id: crossing, source: picked.source, record: picked.id });
  const out = data ? (whyOut?.(data.entity) ?? null) : null;
  return (
    <Flex
      direction="column"
      role="region"
      aria-label="Record"
      bg="surface"
      borderWidth="1px"
      borderColor="line"
      borderRadius="sheet"
      minH="0"
      w="280px"
    >
      <Flex justify="space-between" align="center" px="10px" pt="6px">
        <Text truncate>
          <Mono fontWeight={600}>{picked.layer}</Mono> <Muted>{data ? entityName(data.entity, 1, data.kind) : ''}</Muted>
        </Text>
        <Button size="sm" variant="ghost" px="0" h="22px" minW="22px" aria-label="Close the record" onClick={onClose}>
          <X {...ICON} size={14} />
        </Button>
      </Flex>
      {error && (
        <Text px="10px" pb="8px" color="madderInk">
          {messageOfError(error)}
        </Text>
      )}
      {out !== null && (
        <Text px="10px" pb="6px" textStyle="small" color="muted">
          <b>Left out by you</b>: {out}.
        </Text>
      )}
      {data && (
        <Box overflowY="auto" px="10px" pb="8px" minH="0" maxH="260px" scrollbarWidth="thin">
          {Object.entries(data.attributes).map(([name, value]) => (
            <Grid key={name} templateColumns="112px minmax(0, 1fr)" gap="8px" py="2px" borderTopWidth="1px" borderColor="hairline">
              <Mono fontSize="11.5px" color="muted" truncate title={name}>
                {name}
              </Mono>
              <Mono fontSize="11.5px" overflowWrap="anywhere">
                {name === 'color' ? <Swatch color={String(value)} /> : null}
                {shown(value)}
              </Mono>
            </Grid>
          ))}
          <Muted textStyle="small" display="block" pt="4px" borderTopWidth="1px" borderColor="hairline">
            {picked.source}, {grouped(data.place)} · {grouped(data.vertices)} {data.vertices === 1 ? 'vertex' : 'vertices'}
          </Muted>
        </Box>
      )}
    </Flex>
  );
}

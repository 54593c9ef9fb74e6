import { useState } from 'react';
import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react';
import { Replace, Trash2 } from 'lucide-react';
import type { SourceState } from '@pontrel/contract/crossing';
import { useCrossing } from '../crossing/use-crossing';
import { crsLabel } from '../components/crs-label';
import { liesSomewhere } from '../components/lies-somewhere';
import { bytes, plural } from '../components/numbers';
import { Chip, ICON, Mono, ToneIcon } from '../components/parts';
import { messageOfError, useRemoveSourceMutation, useReplaceSourceMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { intakeLogged, jobsKnown, noticeGiven } from '../state/ui';
import { chooseFiles } from '../app/files';
import { RecipeFaults } from './RecipeFaults';

const tilesText = (n: number): string => (n === 1 ? 'image' : `mosaic of ${plural(n, 'tile')}`);

export function SourceCard({ source, current, onSelect }: { source: SourceState; current: boolean; onSelect(): void }) {
  const { id, recipe } = useCrossing();
  const [remove] = useRemoveSourceMutation();
  const [replace] = useReplaceSourceMutation();
  const dispatch = useAppDispatch();
  const [asking, setAsking] = useState(false);
  const failed = (e: unknown): void => void dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) }));
  const putInPlace = (files: File[]): void => {
    if (files.length === 0) return;
    replace({ id, source: source.id, files })
      .unwrap()
      .then(({ jobs, log }) => {
        dispatch(jobsKnown(jobs));
        dispatch(intakeLogged(log));
      })
      .catch(failed);
  };
  const removeIt = async (): Promise<void> => {
    await remove({ id, source: source.id }).unwrap();
    dispatch(
      noticeGiven({
        tone: 'good',
        message: `${source.name} lies in the bin with its rules. It can be put back from the list of crossings.`,
      }),
    );
  };
  const placement = recipe.sources[source.name]?.placement;
  return (
    <Box
      position="relative"
      px="10px"
      py="8px"
      borderWidth="1px"
      borderRadius="sheet"
      borderColor={current ? 'verdigris' : 'hairline'}
      bg={current ? 'verdigrisTint' : 'surface'}
    >
      <Flex align="center" gap="6px">
        <chakra.button
          type="button"
          onClick={onSelect}
          flex="1"
          minW="0"
          textAlign="left"
          cursor="pointer"
          _before={{ content: '""', position: 'absolute', inset: 0 }}
        >
          <Mono display="block" fontWeight={500} truncate title={source.name}>
            {source.name}
          </Mono>
        </chakra.button>
        <Button
          size="sm"
          variant="ghost"
          px="0"
          h="20px"
          minW="20px"
          color="muted"
          position="relative"
          aria-label={`Put another file in the place of ${source.name}`}
          title="Put another file in its place, under the same rules"
          onClick={() => chooseFiles(putInPlace)}
        >
          <Replace {...ICON} size={13} />
        </Button>
        <Button
          size="sm"
          variant="ghost"
          px="0"
          h="20px"
          minW="20px"
          color="muted"
          position="relative"
          aria-label={`Remove ${source.name}`}
          onClick={() => setAsking(!asking)}
        >
          <Trash2 {...ICON} size={13} />
        </Button>
      </Flex>
      <Text textStyle="small" color="muted">
        {source.formatName}
        {source.version && !source.images ? ` ${source.version}` : ''}
        {source.unit ? ` in ${source.unit.name}s` : ''}
      </Text>
      <Text textStyle="small" color="muted">
        {bytes(source.bytes)} · {source.images ? tilesText(source.images.members.length) : plural(source.layers.length, 'layer')}
      </Text>
      {source.replaces.length > 0 && (
        <Text textStyle="small" color="muted" overflowWrap="anywhere">
          in the place of {source.replaces.at(-1)}
        </Text>
      )}
      <Flex mt="5px" gap="6px" wrap="wrap">
        {source.crs && source.doubt && !placement ? (
          <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
            {source.crs.id ?? source.crs.name} stated, in doubt
          </Chip>
        ) : source.crs && (!placement || placement.crs === source.crs.text) ? (
          <Chip mono>{source.crs.id ?? source.crs.name} stated</Chip>
        ) : placement ? (
          <Chip mono>{crsLabel(placement.crs)} assigned</Chip>
        ) : source.images && source.images.members[0]!.map === null ? (
          <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
            no position
          </Chip>
        ) : !liesSomewhere(source) ? (
          <Chip>no places</Chip>
        ) : (
          <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
            no CRS stated
          </Chip>
        )}
      </Flex>
      {source.replaces.length > 0 && <RecipeFaults source={source} />}
      {asking && (
        <Flex gap="6px" mt="8px" position="relative">
          <Button size="sm" color="madderInk" onClick={() => void removeIt().catch(failed)}>
            Remove with its rules
          </Button>
          <Button size="sm" onClick={() => setAsking(false)}>
            Keep
          </Button>
        </Flex>
      )}
    </Box>
  );
}

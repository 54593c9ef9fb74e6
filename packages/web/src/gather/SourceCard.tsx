import { useState } from 'react';
import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react';
import { FileDiff, type LucideIcon, Replace, Trash2 } from 'lucide-react';
import { useDropzone } from 'react-dropzone';
import type { SourceState } from '@pontrel/contract/crossing';
import { useCrossing } from '../crossing/use-crossing';
import { crsLabel } from '../components/crs-label';
import { liesSomewhere } from '../components/lies-somewhere';
import { bytes, plural } from '../components/numbers';
import { Chip, ICON, Mono, ToneIcon } from '../components/parts';
import { messageOfError, useRemoveSourceMutation, useReplaceSourceMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { intakeLogged, jobsKnown, noticeGiven } from '../state/ui';
import { chooseFiles, filesOf } from '../app/files';
import { RecipeFaults } from './RecipeFaults';

const tilesText = (n: number): string => (n === 1 ? 'image' : `mosaic of ${plural(n, 'tile')}`);

export function SourceCard({
  source,
  current,
  onSelect,
  onCompare,
}: {
  source: SourceState;
  current: boolean;
  onSelect(): void;
  /** Absent where there is nothing to compare it with. */
  onCompare?: (() => void) | undefined;
}) {
  const { id } = useCrossing();
  const [remove] = useRemoveSourceMutation();
  const [replace] = useReplaceSourceMutation();
  const dispatch = useAppDispatch();
  const [asking, setAsking] = useState(false);
  const failed = (e: unknown): void => void dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) }));
  /** What is dropped on a source takes its place; beside it, it is another one. */
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    noDragEventsBubbling: true,
    getFilesFromEvent: filesOf,
    onDrop: (files) => putInPlace(files),
  });
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
  return (
    <Box
      {...getRootProps({ role: 'group', 'aria-label': source.name })}
      position="relative"
      px="10px"
      py="6px"
      borderWidth="1px"
      borderRadius="sheet"
      borderStyle={isDragActive ? 'dashed' : 'solid'}
      borderColor={isDragActive ? 'oxide' : current ? 'verdigris' : 'hairline'}
      bg={current ? 'verdigrisTint' : 'surface'}
    >
      {isDragActive && (
        <Flex
          position="absolute"
          inset="0"
          zIndex="2"
          align="center"
          justify="center"
          bg="surface/90"
          borderRadius="sheet"
          fontWeight={600}
          pointerEvents="none"
        >
          Put in its place
        </Flex>
      )}
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
        <IconButton
          name={`Put another file in the place of ${source.name}`}
          says="Put another file in its place, under the same rules"
          icon={Replace}
          onClick={() => chooseFiles(putInPlace)}
        />
        {onCompare && (
          <IconButton
            name={`Compare ${source.name} with another revision`}
            says="Compare with another revision"
            icon={FileDiff}
            onClick={onCompare}
          />
        )}
        <IconButton name={`Remove ${source.name}`} icon={Trash2} onClick={() => setAsking(!asking)} />
      </Flex>
      <Text textStyle="small" color="muted" truncate>
        {source.formatName}
        {source.version && !source.images ? ` ${source.version}` : ''}
        {source.unit ? ` in ${source.unit.name}s` : ''}
      </Text>
      <Flex justify="space-between" align="center" gap="8px" mt="2px">
        <Text textStyle="small" color="muted" truncate>
          {source.images ? tilesText(source.images.members.length) : plural(source.layers.length, 'layer')} · {bytes(source.bytes)}
        </Text>
        <SystemSaid source={source} />
      </Flex>
      {source.replaces.length > 0 && (
        <Text textStyle="small" color="muted" overflowWrap="anywhere">
          in the place of {source.replaces.at(-1)}
        </Text>
      )}
      {source.compared && (
        <Text textStyle="small" color="muted" overflowWrap="anywhere">
          what differs between {source.compared.old} and {source.compared.next}
          {source.compared.key === null ? '' : `, by ${source.compared.key}`}
        </Text>
      )}
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

/** One of the things that can be done with a source. */
function IconButton({ name, says, icon: Icon, onClick }: { name: string; says?: string; icon: LucideIcon; onClick(): void }) {
  return (
    <Button
      size="sm"
      variant="ghost"
      px="0"
      h="20px"
      minW="20px"
      color="muted"
      position="relative"
      aria-label={name}
      title={says}
      onClick={onClick}
    >
      <Icon {...ICON} size={13} />
    </Button>
  );
}

/** The system that a source states or was given, or that there is none. */
function SystemSaid({ source }: { source: SourceState }) {
  const placement = useCrossing().recipe.sources[source.name]?.placement;
  const doubtful = (text: string): React.ReactNode => (
    <Chip tone="caution" icon={<ToneIcon tone="caution" size={12} />}>
      {text}
    </Chip>
  );
  if (source.crs && source.doubt && !placement) return doubtful(`${source.crs.id ?? source.crs.name} stated, in doubt`);
  if (source.crs && (!placement || placement.crs === source.crs.text)) return <Chip mono>{source.crs.id ?? source.crs.name} stated</Chip>;
  if (placement) return <Chip mono>{crsLabel(placement.crs)} assigned</Chip>;
  if (source.images && source.images.members[0]!.map === null) return doubtful('no position');
  return liesSomewhere(source) ? doubtful('no CRS stated') : <Chip>no places</Chip>;
}

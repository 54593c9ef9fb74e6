import { useState } from 'react';
import { Box, Button, chakra, Flex, Input } from '@chakra-ui/react';
import { Bookmark, Trash2 } from 'lucide-react';
import type { AreaOfInterest, Deliverable } from '@pontrel/core/crossing/recipe';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { crsLabel } from '../components/crs-label';
import { CrsSearch } from '../components/CrsSearch';
import { ICON, Mono, Muted } from '../components/parts';
import { TextButton } from '../components/TextButton';
import { messageOfError, useCrsQuery, useKeepTemplateMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';

/** Changes a deliverable; the label is what undo calls it. */
export type EditDeliverable = (label: string, how: (draft: Deliverable) => void) => void;

export function useEditDeliverable({ id }: Deliverable): EditDeliverable {
  const change = useChange();
  return (label, how) => change(label, (draft) => how(draft.deliverables.find((x) => x.id === id)!));
}

/** The name of a deliverable, to be changed in place, and the way to take it away. */
export function DeliverableName({ deliverable: d, edit }: { deliverable: Deliverable; edit: EditDeliverable }) {
  const change = useChange();
  const dispatch = useAppDispatch();
  const [keep] = useKeepTemplateMutation();
  const say = (tone: 'good' | 'wrong', message: string): void => void dispatch(noticeGiven({ tone, message }));
  const [name, setName] = useState<string | null>(null);
  const save = (): void => {
    if (name !== null && name.trim() !== '' && name.trim() !== d.name)
      edit(`name of ${d.name}`, (x) => void (x.name = name.trim().slice(0, 80)));
    setName(null);
  };
  return (
    <Flex align="center" gap="10px" mb="8px">
      <Input
        w="320px"
        minW="160px"
        fontWeight={650}
        aria-label="Name of the deliverable"
        value={name ?? d.name}
        onChange={(e) => setName(e.target.value)}
        onBlur={save}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
        }}
      />
      <Muted truncate>{anyFormatById(d.format)?.name}</Muted>
      <Box flex="1" />
      <Button
        size="sm"
        variant="ghost"
        flex="none"
        color="muted"
        aria-label="Keep as a template"
        title="Keep as a template: it is offered wherever a deliverable is added"
        onClick={() =>
          void keep(d)
            .unwrap()
            .then(() => say('good', `${d.name} is kept as a template: it is offered wherever a deliverable is added.`))
            .catch((e: unknown) => say('wrong', messageOfError(e)))
        }
      >
        <Bookmark {...ICON} size={14} />
        <chakra.span display={{ base: 'none', xl: 'inline' }}>Keep as a template</chakra.span>
      </Button>
      <Button
        size="sm"
        variant="ghost"
        flex="none"
        color="muted"
        onClick={() => change(`remove ${d.name}`, (draft) => void (draft.deliverables = draft.deliverables.filter((x) => x.id !== d.id)))}
      >
        <Trash2 {...ICON} size={14} />
        Remove
      </Button>
    </Flex>
  );
}

/** Changes the area of interest of a deliverable; null for everything. */
export const setArea =
  ({ name }: Deliverable, edit: EditDeliverable) =>
  (area: AreaOfInterest | null): void =>
    edit(`area of ${name}`, (x) => {
      if (area) x.area = area;
      else delete x.area;
    });

/** The target system of a deliverable, in two cells of a grid of names and values. */
export function TargetSystem({ deliverable: d, edit }: { deliverable: Deliverable; edit: EditDeliverable }) {
  const crossing = useCrossing();
  const { data: crs } = useCrsQuery(d.crs);
  const format = anyFormatById(d.format);
  const prescribed = format ? prescribedCrs(format, d.options) : null;
  const [choosing, setChoosing] = useState(false);
  return (
    <>
      <Muted>Target system</Muted>
      <Flex align="center" gap="10px" minW="0">
        <Mono fontWeight={600}>{crsLabel(d.crs)}</Mono>
        <Box truncate>{crs?.name}</Box>
        {d.crs === crossing.frame?.id && <Muted textStyle="small">the frame</Muted>}
        {prescribed === d.crs ? (
          <Muted textStyle="small">as the format prescribes</Muted>
        ) : (
          <TextButton onClick={() => setChoosing(!choosing)}>{choosing ? 'keep it' : 'change'}</TextButton>
        )}
      </Flex>
      {choosing && (
        <>
          <span />
          <Box maxW="420px">
            <CrsSearch
              autoFocus
              label="Find a target system"
              onChoose={(c) => {
                edit(`target system ${c.id}`, (x) => void (x.crs = c.id));
                setChoosing(false);
              }}
            />
          </Box>
        </>
      )}
    </>
  );
}

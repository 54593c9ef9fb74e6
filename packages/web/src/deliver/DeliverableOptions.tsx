import { useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Input } from '@chakra-ui/react';
import { Trash2 } from 'lucide-react';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { formatById } from '@pontrel/core/formats/index';
import { prescribedCrs } from '@pontrel/core/formats/options';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { crsLabel } from '../components/crs-label';
import { CrsSearch } from '../components/CrsSearch';
import { Choice, ICON, Mono, Muted, Select } from '../components/parts';
import { useCrsQuery } from '../state/api';
import { AreaChoice } from './AreaChoice';
import { FormatOptions } from './FormatOptions';

/** Name, target system and grouping of a deliverable. */
export function DeliverableOptions({ deliverable: d, onDraw }: { deliverable: Deliverable; onDraw(): void }) {
  const crossing = useCrossing();
  const change = useChange();
  const { data: crs } = useCrsQuery(d.crs);
  const format = formatById(d.format);
  const hosts = crossing.sources.filter((s) => s.format === d.format).map((s) => s.name);
  const prescribed = format ? prescribedCrs(format, d.options) : null;
  const [name, setName] = useState<string | null>(null);
  const [choosing, setChoosing] = useState(false);
  const edit = (label: string, how: (draft: Deliverable) => void): void =>
    change(label, (draft) => how(draft.deliverables.find((x) => x.id === d.id)!));
  const save = (): void => {
    if (name !== null && name.trim() !== '' && name.trim() !== d.name)
      edit(`name of ${d.name}`, (x) => void (x.name = name.trim().slice(0, 80)));
    setName(null);
  };
  return (
    <Box px="16px" pt="10px" pb="12px" borderBottomWidth="1px" borderColor="hairline" flex="none">
      <Flex align="center" gap="10px" mb="8px">
        <Input
          w="320px"
          fontWeight={650}
          aria-label="Name of the deliverable"
          value={name ?? d.name}
          onChange={(e) => setName(e.target.value)}
          onBlur={save}
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur();
          }}
        />
        <Muted>{format?.name}</Muted>
        <Box flex="1" />
        <Button
          size="sm"
          variant="ghost"
          color="muted"
          onClick={() => change(`remove ${d.name}`, (draft) => void (draft.deliverables = draft.deliverables.filter((x) => x.id !== d.id)))}
        >
          <Trash2 {...ICON} size={14} />
          Remove
        </Button>
      </Flex>
      <Grid templateColumns="110px minmax(0, 1fr)" rowGap="6px" alignItems="center">
        <Muted>Target system</Muted>
        <Flex align="center" gap="10px" minW="0">
          <Mono fontWeight={600}>{crsLabel(d.crs)}</Mono>
          <Box truncate>{crs?.name}</Box>
          {d.crs === crossing.frame?.id && <Muted textStyle="small">the frame</Muted>}
          {prescribed === d.crs ? (
            <Muted textStyle="small">as the format prescribes</Muted>
          ) : (
            <chakra.button
              type="button"
              minH="24px"
              cursor="pointer"
              color="verdigrisInk"
              fontWeight={550}
              textDecoration="underline"
              onClick={() => setChoosing(!choosing)}
            >
              {choosing ? 'keep it' : 'change'}
            </chakra.button>
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
        <Muted>Area</Muted>
        <AreaChoice
          crossing={crossing}
          area={d.area}
          onDraw={onDraw}
          onChange={(area) =>
            edit(`area of ${d.name}`, (x) => {
              if (area) x.area = area;
              else delete x.area;
            })
          }
        />
        {format?.features.write?.adds && (hosts.length > 0 || d.into !== undefined) && (
          <>
            <Muted>Added to</Muted>
            <Box>
              <Select
                label="File that it is added to"
                value={d.into ?? ''}
                width="320px"
                options={[
                  { value: '', label: 'a file of its own' },
                  ...[...new Set([...hosts, ...(d.into === undefined ? [] : [d.into])])].map((h) => ({
                    value: h,
                    label: `a copy of ${h}`,
                  })),
                ]}
                onChange={(into) =>
                  edit(into === '' ? 'a file of its own' : `added to ${into}`, (x) => {
                    if (into === '') delete x.into;
                    else x.into = into;
                  })
                }
              />
            </Box>
          </>
        )}
        {!format?.features.carries.oneFile && (
          <>
            <Muted>Sets</Muted>
            <Box>
              <Choice
                small
                label="Sets"
                value={d.grouping}
                onChange={(grouping) => edit('sets', (x) => void (x.grouping = grouping))}
                options={[
                  { value: 'layer', label: 'One a layer' },
                  { value: 'kind', label: 'All points, all lines, all areas' },
                ]}
              />
            </Box>
          </>
        )}
      </Grid>
      <FormatOptions
        deliverable={d}
        onChange={(id, label, value) =>
          edit(label, (x) => {
            x.options = { ...x.options, [id]: value };
            x.crs = (format && prescribedCrs(format, x.options)) ?? x.crs;
          })
        }
      />
    </Box>
  );
}

import { useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import type { SourceState } from '@pontrel/contract/crossing';
import type { Reading } from '@pontrel/core/model/reading';
import { CODE_PAGES } from '@pontrel/core/io/code-pages';
import { sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import { Choice, Muted, Section, Select } from '../components/parts';
import { TextButton } from '../components/TextButton';
import { useTextsQuery } from '../state/api';

type Places = NonNullable<Reading['places']>;

/** How a table is read, where what it says of itself is not enough: its columns, what its rows make, its code page. */
export function ReadingPanel({ source }: { source: SourceState }) {
  const change = useChange();
  const [open, setOpen] = useState(source.places?.kind === 'none');
  const [draft, setDraft] = useState<Reading>(source.reading ?? {});
  const places: Places = draft.places ?? source.places ?? { kind: 'none' };
  const set = (more: Partial<Reading>): void => setDraft(cleaned({ ...draft, ...more }));
  const same = JSON.stringify(draft) === JSON.stringify(source.reading ?? {});
  const save = (reading: Reading): void =>
    change(`reading of ${source.name}`, (recipe) => {
      const rules = sourceRules(recipe, source.name);
      if (Object.keys(reading).length > 0) rules.reading = reading;
      else delete rules.reading;
    });
  return (
    <Section
      title="Reading"
      aside={
        <TextButton aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'close' : 'change'}
        </TextButton>
      }
    >
      {!open && <Muted textStyle="small">{summary(source)}</Muted>}
      {open && source.readings.includes('columns') && <Columns columns={source.columns} places={places} draft={draft} set={set} />}
      {open && source.readings.includes('code-page') && (
        <CodePage source={source} value={draft.codePage ?? ''} onChange={(id) => set({ codePage: id === '' ? undefined : id })} />
      )}
      {open && (
        <Flex gap="6px" mt="10px">
          <Button size="sm" variant="solid" disabled={same} onClick={() => save(draft)}>
            Read again so
          </Button>
          {source.reading && (
            <Button
              size="sm"
              onClick={() => {
                setDraft({});
                save({});
              }}
            >
              As the file says
            </Button>
          )}
        </Flex>
      )}
    </Section>
  );
}

/** Without what says nothing. */
const cleaned = (reading: Reading): Reading =>
  Object.fromEntries(Object.entries(reading).filter(([, v]) => v !== undefined && v !== '')) as Reading;

const MAKES = { points: 'Points', line: 'A line', outline: 'An outline' } as const;

function summary({ places, reading, columns }: SourceState): string {
  const page = reading?.codePage ? ` Texts in ${CODE_PAGES.find((p) => p.id === reading.codePage)?.name ?? reading.codePage}.` : '';
  if (!places) return page.trim() || 'As the file says.';
  if (places.kind === 'none') return `${columns.length} columns; none says where its rows are.${page}`;
  if (places.kind === 'wkt') return `Geometries in column ${places.column}.${page}`;
  const make =
    reading?.make && reading.make !== 'points'
      ? ` as corners of ${MAKES[reading.make].toLowerCase()}${reading.group ? ` for each ${reading.group}` : ''}`
      : '';
  return `Columns ${[places.x, places.y, places.z].filter(Boolean).join(', ')}${make}.${page}`;
}

function Columns({
  columns,
  places,
  draft,
  set,
}: {
  columns: readonly string[];
  places: Places;
  draft: Reading;
  set(more: Partial<Reading>): void;
}) {
  const names = columns.map((c) => ({ value: c, label: c }));
  const none = [{ value: '', label: 'none' }, ...names];
  const [first, second] = [columns[0] ?? '', columns[1] ?? columns[0] ?? ''];
  const kind = (to: Places['kind']): void =>
    set(
      to === 'xy'
        ? { places: { kind: 'xy', x: first, y: second } }
        : to === 'wkt'
          ? { places: { kind: 'wkt', column: first }, make: undefined, group: undefined, order: undefined }
          : { places: { kind: 'none' }, make: undefined, group: undefined, order: undefined },
    );
  const make = draft.make ?? 'points';
  return (
    <>
      <Choice<Places['kind']>
        small
        label="Where its rows are"
        value={places.kind}
        onChange={kind}
        options={[
          { value: 'xy', label: 'In two columns' },
          { value: 'wkt', label: 'As WKT' },
          { value: 'none', label: 'Nowhere' },
        ]}
      />
      {places.kind === 'wkt' && (
        <Row label="Geometries">
          <Select
            label="Column of geometries"
            value={places.column}
            width="100%"
            options={names}
            onChange={(column) => set({ places: { kind: 'wkt', column } })}
          />
        </Row>
      )}
      {places.kind === 'xy' && (
        <>
          <Row label="East or longitude">
            <Select
              label="Column of eastings or longitudes"
              value={places.x}
              width="100%"
              options={names}
              onChange={(x) => set({ places: { ...places, x } })}
            />
          </Row>
          <Row label="North or latitude">
            <Select
              label="Column of northings or latitudes"
              value={places.y}
              width="100%"
              options={names}
              onChange={(y) => set({ places: { ...places, y } })}
            />
          </Row>
          <Row label="Height">
            <Select
              label="Column of heights"
              value={places.z ?? ''}
              width="100%"
              options={none}
              onChange={(z) => set({ places: { kind: 'xy', x: places.x, y: places.y, ...(z === '' ? {} : { z }) } })}
            />
          </Row>
          <Text mt="10px" mb="4px" fontWeight={550}>
            Its rows make
          </Text>
          <Choice<keyof typeof MAKES>
            small
            label="What its rows make"
            value={make}
            onChange={(to) =>
              set({ places, make: to === 'points' ? undefined : to, ...(to === 'points' ? { group: undefined, order: undefined } : {}) })
            }
            options={(Object.keys(MAKES) as (keyof typeof MAKES)[]).map((value) => ({ value, label: MAKES[value] }))}
          />
          {make !== 'points' && (
            <>
              <Row label="One for each">
                <Select
                  label="Column that groups corners"
                  value={draft.group ?? ''}
                  width="100%"
                  options={[{ value: '', label: 'all rows' }, ...names]}
                  onChange={(group) => set({ group: group === '' ? undefined : group })}
                />
              </Row>
              <Row label="In the order of">
                <Select
                  label="Column that orders corners"
                  value={draft.order ?? ''}
                  width="100%"
                  options={[{ value: '', label: 'the table' }, ...names]}
                  onChange={(order) => set({ order: order === '' ? undefined : order })}
                />
              </Row>
              {make === 'outline' && (
                <Muted textStyle="small" display="block" mt="5px">
                  An outline whose first corner is not repeated is closed. Its perimeter, area and closing error become fields.
                </Muted>
              )}
            </>
          )}
        </>
      )}
    </>
  );
}

function Row({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <Grid templateColumns="104px minmax(0, 1fr)" gap="8px" alignItems="center" mt="6px">
      <Muted>{label}</Muted>
      {children}
    </Grid>
  );
}

/** The code pages, and what the file's own texts would be in the one at hand. */
function CodePage({ source, value, onChange }: { source: SourceState; value: string; onChange(id: string): void }) {
  const { id } = useCrossing();
  const { currentData } = useTextsQuery({ id, source: source.id, codePage: value === '' ? 'utf-8' : value }, { skip: value === '' });
  return (
    <>
      <Row label="Code page">
        <Select
          label="Code page"
          value={value}
          width="100%"
          onChange={onChange}
          options={[{ value: '', label: 'as the file says' }, ...CODE_PAGES.map((p) => ({ value: p.id, label: p.name }))]}
        />
      </Row>
      {currentData && (
        <Box mt="6px" px="8px" py="5px" bg="sunk" borderRadius="sheet" aria-live="polite">
          {currentData.length === 0 ? (
            <Muted textStyle="small">All its texts are of plain letters: every code page reads them alike.</Muted>
          ) : (
            currentData.map((t) => (
              <Text key={t} textStyle="small" truncate title={t}>
                {t}
              </Text>
            ))
          )}
        </Box>
      )}
    </>
  );
}

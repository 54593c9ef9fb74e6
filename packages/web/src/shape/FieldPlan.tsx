import { useState } from 'react';
import { Box, chakra, Flex, Input } from '@chakra-ui/react';
import type { PlannedField } from '@pontrel/core/content/features/plan';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { useCrossing } from '../crossing/use-crossing';
import { plural, shown } from '../components/numbers';
import { Choice, Empty, Mono, Muted, Scroll, Tick, ToneIcon } from '../components/parts';
import { type FieldRow, fieldRows, MOST_SAMPLES, setsOf } from './field-rows';
import { ChangedDot } from './Rule';
import { useShaping } from './shaping';

const SET_NAMES: Record<string, string> = { mixed: 'All kinds', point: 'Points', line: 'Lines', polygon: 'Areas', text: 'Texts' };
/** Values of a field that are shown. */
const SAMPLES = 3;

/** Each field with real values, the name and room that it gets in the target, and what that does to it. */
export function FieldPlan() {
  const crossing = useCrossing();
  const { name, chosen, forecast, edit } = useShaping();
  const [wanted, setWanted] = useState<string | null>(null);
  // the sets of one layer are planned one at a time
  const sets = chosen.length === 1 ? setsOf(forecast, chosen[0]!) : [];
  const set = sets.find((s) => s.name === wanted) ?? sets[0] ?? null;
  if (chosen.every((l) => setsOf(forecast, l).length === 0)) return <NoFields />;
  const rows = fieldRows(crossing, chosen, forecast, set);
  const take = (row: FieldRow, on: boolean): void =>
    edit(
      `${on ? 'take' : 'leave'} ${row.from}`,
      (r) => {
        if (row.planned.some((p) => p.field.computed)) r.computed = (r.computed ?? []).filter((c) => c !== row.from);
        else {
          const own = ((r.fields ??= {})[row.from] ??= {});
          if (on) delete own.taken;
          else own.taken = false;
        }
      },
      (of) => (on ? row.left : row.planned.map((p) => p.of)).includes(of),
    );
  const rename = (row: FieldRow, to: string): void =>
    edit(
      `name of ${row.from}`,
      (r) => {
        const own = ((r.fields ??= {})[row.from] ??= {});
        if (to === '') delete own.to;
        else own.to = to;
      },
      (of) => row.planned.some((p) => p.of === of),
    );
  return (
    <Scroll bg="surface" px="16px" pb="8px" flex="1">
      {sets.length > 1 && (
        <Box py="4px">
          <Choice
            small
            label="Which set"
            value={set!.name}
            onChange={setWanted}
            options={sets.map((s) => ({ value: s.name, label: `${SET_NAMES[s.kind]} · ${s.name}` }))}
          />
        </Box>
      )}
      <chakra.table aria-label={`Field plan of ${name}`} css={{ '& td': { paddingBlock: '1px', height: '25px' } }}>
        <Box asChild position="sticky" top="0" bg="surface" zIndex="1">
          <thead>
            <tr>
              <th style={{ width: 24 }} aria-label="Take" />
              <th>From</th>
              <th>Values</th>
              <th>To</th>
              <th>Type</th>
              <th className="number">Width</th>
              <th>Note</th>
            </tr>
          </thead>
        </Box>
        <tbody>
          {rows.map((row) =>
            row.planned.length > 0 ? (
              <Planned key={row.from} row={row} of={chosen.length} onTake={(on) => take(row, on)} onName={(to) => rename(row, to)} />
            ) : (
              <tr key={row.from}>
                <td>
                  <Tick label={`Take ${row.from}`} checked={false} onChange={() => take(row, true)} />
                </td>
                <td>
                  <Mono color="muted">{row.from}</Mono>
                </td>
                <td>
                  <Samples row={row} />
                </td>
                <td colSpan={4}>
                  <Muted>left out by you</Muted>
                </td>
              </tr>
            ),
          )}
        </tbody>
      </chakra.table>
    </Scroll>
  );
}

/** What is said where no record of the chosen layers crosses on its own. */
function NoFields() {
  const { name, chosen, rule } = useShaping();
  const one = chosen.length === 1;
  return (
    <Empty
      title={
        rule.textTransfer && isTaken(rule)
          ? 'Nothing of this layer crosses on its own'
          : one
            ? 'This layer does not cross'
            : `None of the ${name} crosses`
      }
    >
      {!isTaken(rule)
        ? `Take ${one ? 'it' : 'them'} in the list on the left, and ${one ? 'its' : 'their'} fields are planned here.`
        : rule.textTransfer
          ? `All of its texts go to ${rule.textTransfer.layer}, as the field ${rule.textTransfer.field}. They are planned there.`
          : 'All objects are left out. Take some under Objects on the right.'}
    </Empty>
  );
}

function Samples({ row }: { row: FieldRow }) {
  return (
    <Box maxW={{ base: '96px', xl: '190px' }} truncate title={row.samples.map(String).join(', ')}>
      {row.samples.slice(0, SAMPLES).map((s, k) => (
        <Box asChild key={k} pl={k > 0 ? '6px' : '0'} ml={k > 0 ? '6px' : '0'} borderLeftWidth={k > 0 ? '1px' : '0'} borderColor="line">
          <Mono color="muted">{shown(s)}</Mono>
        </Box>
      ))}
    </Box>
  );
}

/** What is said of a field besides its name and room. */
function noteOf(field: PlannedField, records: number, byHand: boolean, samples: number): string {
  const notes = field.changes.filter((c) => c.code !== 'renamed').map((c) => c.note);
  if (field.fault) return field.fault;
  if (notes.length > 0) return notes.join('; ');
  if (field.computed) return 'worked out when it is written';
  if (field.measures) return 'measures (M) of the vertices, as text';
  if (field.follows) return 'follows the placement';
  if (field.filled >= 0 && field.filled < records) return `empty in ${records - field.filled} of ${records}`;
  if (!byHand && field.changes.some((c) => c.code === 'renamed')) return 'shortened to fit';
  if (samples === 1) return 'one value throughout';
  return samples < MOST_SAMPLES ? plural(samples, 'value') : '';
}

/** What all have alike; null where they differ. */
function alike<T>(values: readonly T[]): T | null {
  return values.every((v) => v === values[0]) ? values[0]! : null;
}

const widthText = (f: PlannedField): string => (f.width === 0 ? '' : f.decimals > 0 ? `${f.width}.${f.decimals}` : `${f.width}`);

/** The room of a field: from the least to the most where it has not the same everywhere. */
function widths(fields: readonly PlannedField[]): string {
  const sorted = [...fields].sort((a, b) => a.width - b.width || a.decimals - b.decimals);
  return [...new Set([sorted[0]!, sorted.at(-1)!].map(widthText))].join(' to ');
}

function Planned({
  row,
  of,
  onTake,
  onName,
}: {
  row: FieldRow;
  /** How many layers are chosen. */
  of: number;
  onTake(on: boolean): void;
  onName(to: string): void;
}) {
  const [text, setText] = useState<string | null>(null);
  const fields = row.planned.map((p) => p.field);
  const to = alike(fields.map((f) => f.to));
  const fault = fields.find((f) => f.fault)?.fault ?? null;
  const byHand = row.planned.some((p) => p.of.rule.fields?.[row.from]?.to !== undefined);
  const renamed = fields.some((f) => f.changes.some((c) => c.code === 'renamed'));
  const worries = fields.some((f) => f.changes.some((c) => c.code !== 'renamed'));
  const layers = new Set(row.planned.map((p) => p.of)).size;
  const notes = new Set(
    row.planned
      .map((p) => noteOf(p.field, p.records, byHand, row.samples.length))
      .filter((n) => n !== '' && (of === 1 || worries || !/value/.test(n))),
  );
  const note = [
    ...(of > 1 ? [layers === of ? `all ${of}` : `${layers} of ${of}`] : []),
    ...(row.left.length > 0 ? [`left out of ${row.left.length} by you`] : []),
    ...[...notes].slice(0, 2),
  ].join('; ');
  const save = (): void => {
    if (text !== null && text.trim() !== to) onName(text.trim());
    setText(null);
  };
  const tone = fault ? 'wrong' : worries ? 'caution' : null;
  return (
    <Box asChild bg={fault ? 'madderTint' : worries ? 'amberTint' : undefined}>
      <tr>
        <td>
          <Tick label={`Take ${row.from}`} checked={row.left.length === 0} some onChange={onTake} />
        </td>
        <td>
          <Mono title={row.from}>{row.from}</Mono>
          {row.prompt !== undefined && (
            <Muted display="block" textStyle="small" lineHeight="1.2">
              {row.prompt}
            </Muted>
          )}
        </td>
        <td>
          <Samples row={row} />
        </td>
        <td>
          <Flex align="center" gap="5px">
            <ChangedDot changed={byHand} />
            <Input
              size="sm"
              h="21px"
              w={{ base: '96px', xl: '112px' }}
              fontFamily="mono"
              fontSize="12px"
              aria-label={`Name of ${row.from} in the target`}
              aria-invalid={fault !== null}
              borderColor={fault ? 'madder' : 'transparent'}
              fontWeight={renamed ? 600 : 400}
              _hover={{ borderColor: 'line' }}
              placeholder={to === null ? 'differ' : undefined}
              value={text ?? to ?? ''}
              onChange={(e) => setText(e.target.value)}
              onBlur={save}
              onKeyDown={(e) => {
                if (e.key === 'Enter') e.currentTarget.blur();
                if (e.key === 'Escape') setText(null);
              }}
            />
          </Flex>
        </td>
        <td>{alike(fields.map((f) => f.type)) ?? 'differ'}</td>
        <td className="number">{widths(fields)}</td>
        <td>
          <Flex align="center" gap="6px">
            {tone && <ToneIcon tone={tone} size={13} />}
            <Muted color={fault ? 'madderInk' : worries ? 'amberInk' : 'muted'}>{note}</Muted>
          </Flex>
        </td>
      </tr>
    </Box>
  );
}

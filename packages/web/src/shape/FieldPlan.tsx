import { useState } from 'react';
import { Box, chakra } from '@chakra-ui/react';
import type { FieldRule } from '@pontrel/core/operations/field-rule';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { useCrossing } from '../crossing/use-crossing';
import { Choice, Empty, Muted, Scroll } from '../components/parts';
import { Sorting } from '../components/Sorting';
import { type FieldRow, fieldRows, setsOf } from './field-rows';
import { LeftRow, PlannedRow } from './FieldPlanRow';
import { useShaping } from './shaping';

const SET_NAMES: Record<string, string> = { mixed: 'All kinds', point: 'Points', line: 'Lines', polygon: 'Areas', text: 'Texts' };

/** Each field with real values, the name and room that it gets in the target, and what that does to it. */
export function FieldPlan() {
  const crossing = useCrossing();
  const { name, chosen, forecast, edit } = useShaping();
  const [wanted, setWanted] = useState<string | null>(null);
  // the sets of one layer are planned one at a time
  const sets = chosen.length === 1 ? setsOf(forecast, chosen[0]!) : [];
  const set = sets.find((s) => s.name === wanted) ?? sets[0] ?? null;
  if (!forecast)
    return (
      <Muted px="16px" py="8px">
        The plan is being worked out …
      </Muted>
    );
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
  const change = (label: string, row: FieldRow, how: (own: FieldRule) => void): void =>
    edit(
      `${label} of ${row.from}`,
      (r) => how(((r.fields ??= {})[row.from] ??= {})),
      (of) => row.planned.some((p) => p.of === of),
    );
  const planned = rows.filter((row) => row.planned.length > 0);
  const order = (names: string[]): void =>
    edit(`order of the fields of ${name}`, (r) => {
      r.fieldOrder = names;
    });
  return (
    <Scroll bg="surface" px="16px" pb="8px" flex="1" css={{ containerType: 'inline-size' }}>
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
      <Sorting names={planned.map((row) => row.from)} onOrder={order}>
        <chakra.table
          aria-label={`Field plan of ${name}`}
          css={{
            '& td': { paddingBlock: '1px', height: '25px' },
            '& .note': { width: '40%', maxWidth: 0 },
            '@container (max-width: 620px)': { '& .values, & .quiet': { display: 'none' } },
          }}
        >
          <Box asChild position="sticky" top="0" bg="surface" zIndex="2">
            <thead>
              <tr>
                <th style={{ width: 58 }} aria-label="Order, and take" />
                <th>From</th>
                <th className="values">Values</th>
                <th>To</th>
                <th>Type</th>
                <th className="number">Width</th>
                <th>Note</th>
              </tr>
            </thead>
          </Box>
          <tbody>
            {planned.map((row) => (
              <PlannedRow
                key={row.from}
                row={row}
                of={chosen.length}
                onTake={(on) => take(row, on)}
                onChange={(label, how) => change(label, row, how)}
              />
            ))}
            {rows
              .filter((row) => row.planned.length === 0)
              .map((row) => (
                <LeftRow key={row.from} row={row} onTake={() => take(row, true)} />
              ))}
          </tbody>
        </chakra.table>
      </Sorting>
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

import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { useState } from 'react';
import { Box, Flex, Input } from '@chakra-ui/react';
import type { SourceLayer, SourceState } from '@pontrel/contract/crossing';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import type { PlannedField } from '@pontrel/core/content/features/plan';
import { joinFields, measuresProfile } from '@pontrel/core/content/features/profile';
import { layerRules, useChange, useCrossing } from '../crossing/use-crossing';
import { plural, shown } from '../components/numbers';
import { Choice, Empty, Mono, Muted, Scroll, Tick, ToneIcon } from '../components/parts';

const SET_NAMES: Record<string, string> = { mixed: 'All kinds', point: 'Points', line: 'Lines', polygon: 'Areas', text: 'Texts' };

/** Each field with a real value, the name and room that it gets in the target, and what that does to it. */
export function FieldPlan({
  source,
  layer,
  rule,
  forecast,
}: {
  source: SourceState;
  layer: SourceLayer;
  rule: LayerRule;
  forecast: Forecast | null;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const sets = forecast?.sets.filter((s) => s.members.some((m) => m.source === source.name && m.layer === layer.profile.name)) ?? [];
  const [wanted, setWanted] = useState<string | null>(null);
  const set = sets.find((s) => s.name === wanted) ?? sets[0];
  const profiles = joinFields(layer.profile.groups);
  // fields that the rules add: the same value throughout, and texts given by other layers
  const added = new Map<string, (string | number | boolean)[]>((rule.constants ?? []).map((c) => [c.name, [c.value]]));
  for (const [from, r] of Object.entries(crossing.recipe.sources[source.name]?.layers ?? {})) {
    if (r.textTransfer?.layer === layer.profile.name)
      added.set(
        r.textTransfer.field,
        forecast?.rows
          .find((row) => row.source === source.name && row.layer === from)
          ?.report?.textTransfer?.matched.slice(0, 1)
          .map((t) => t.text) ?? [],
      );
  }
  // fields of a table that is joined: all of it but its key
  const table =
    rule.join && crossing.sources.find((s) => s.name === rule.join!.source)?.layers.find((l) => l.profile.name === rule.join!.layer);
  const own = new Set(profiles.map((p) => p.name));
  if (table)
    for (const f of joinFields(table.profile.groups))
      if (f.name !== rule.join!.to)
        added.set(
          own.has(f.name) ? `${table.profile.name}_${f.name}` : f.name,
          f.samples.filter((s) => s !== null),
        );
  // what the drawing itself says of its data
  const prompts = Object.assign({}, ...(layer.blocks ?? []).map((b) => b.prompts ?? {})) as Record<string, string>;
  // measures are a field only where the target has no room for them beside the positions
  const measures = set?.measures === false ? measuresProfile(layer.profile.groups, 'measures') : null;
  const left = [...profiles, ...(measures && !own.has(measures.name) ? [measures] : [])].filter(
    (p) => rule.fields?.[p.name]?.taken === false,
  );
  const planned = (set?.fields ?? []).filter(
    (f) => f.computed || f.measures || added.has(f.from) || profiles.some((p) => p.name === f.from),
  );
  if (!set)
    return (
      <Empty title={rule.textTransfer && rule.taken !== false ? 'Nothing of this layer crosses on its own' : 'This layer does not cross'}>
        {rule.taken === false
          ? 'Take it in the list on the left, and its fields are planned here.'
          : rule.textTransfer
            ? `All of its texts go to ${rule.textTransfer.layer}, as the field ${rule.textTransfer.field}. They are planned there.`
            : 'All of its objects are left out. Take some under Objects on the right.'}
      </Empty>
    );
  const setRule = (from: string, label: string, edit: (r: NonNullable<LayerRule['fields']>[string]) => void): void =>
    change(label, (draft) => {
      const own = layerRules(draft, source.name, layer.profile.name);
      own.fields ??= {};
      edit((own.fields[from] ??= {}));
    });
  return (
    <Scroll bg="surface" px="16px" pb="8px" flex="1">
      {sets.length > 1 && (
        <Box py="4px">
          <Choice
            small
            label="Which set"
            value={set.name}
            onChange={setWanted}
            options={sets.map((s) => ({ value: s.name, label: `${SET_NAMES[s.kind]} · ${s.name}` }))}
          />
        </Box>
      )}
      <table aria-label={`Field plan of ${layer.profile.name}`}>
        <Box asChild position="sticky" top="0" bg="surface" zIndex="1">
          <thead>
            <tr>
              <th style={{ width: 24 }} aria-label="Take" />
              <th>From</th>
              <th>Sample</th>
              <th>To</th>
              <th>Type</th>
              <th className="number">Width</th>
              <th>Note</th>
            </tr>
          </thead>
        </Box>
        <tbody>
          {planned.map((f) => (
            <Row
              key={f.from}
              field={f}
              samples={added.get(f.from) ?? (f.measures ? measures : profiles.find((p) => p.name === f.from))?.samples ?? []}
              records={set.count}
              prompt={prompts[f.from]}
              byHand={rule.fields?.[f.from]?.to !== undefined}
              onTake={() =>
                f.computed
                  ? change(`leave ${f.from}`, (draft) => {
                      const own = layerRules(draft, source.name, layer.profile.name);
                      own.computed = (own.computed ?? []).filter((c) => c !== f.from);
                    })
                  : setRule(f.from, `leave ${f.from}`, (r) => void (r.taken = false))
              }
              onName={(to) =>
                setRule(f.from, `name of ${f.from}`, (r) => {
                  if (to === '' || to === null) delete r.to;
                  else r.to = to;
                })
              }
            />
          ))}
          {left.map((p) => (
            <tr key={p.name}>
              <td>
                <Tick
                  label={`Take ${p.name}`}
                  checked={false}
                  onChange={() => setRule(p.name, `take ${p.name}`, (r) => void delete r.taken)}
                />
              </td>
              <td>
                <Mono color="muted">{p.name}</Mono>
              </td>
              <td>
                <Mono color="muted">{shown(p.samples[0])}</Mono>
              </td>
              <td colSpan={4}>
                <Muted>stays behind</Muted>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Scroll>
  );
}

function Row({
  field: f,
  samples,
  records,
  byHand,
  prompt,
  onTake,
  onName,
}: {
  field: PlannedField;
  samples: readonly (string | number | boolean | null)[];
  records: number;
  byHand: boolean;
  prompt: string | undefined;
  onTake(): void;
  onName(to: string | null): void;
}) {
  const [text, setText] = useState<string | null>(null);
  const notes = f.changes.filter((c) => c.code !== 'renamed').map((c) => c.note);
  const renamed = f.changes.some((c) => c.code === 'renamed');
  const save = (): void => {
    if (text !== null && text.trim() !== f.to) onName(text.trim());
    setText(null);
  };
  const note =
    f.fault ??
    (notes.length > 0
      ? notes.join('; ')
      : f.computed
        ? 'worked out when it is written'
        : f.measures
          ? 'measures (M) of the vertices, as text'
          : f.follows
            ? 'follows the placement'
            : f.filled >= 0 && f.filled < records
              ? `empty in ${records - f.filled} of ${records}`
              : renamed && !byHand
                ? 'shortened to fit'
                : samples.length === 1
                  ? 'one value throughout'
                  : samples.length < 8
                    ? plural(samples.length, 'value')
                    : '');
  const tone = f.fault ? 'wrong' : notes.length > 0 ? 'caution' : null;
  return (
    <Box asChild bg={f.fault ? 'madderTint' : notes.length > 0 ? 'amberTint' : undefined}>
      <tr>
        <td>
          <Tick label={`Take ${f.from}`} checked onChange={onTake} />
        </td>
        <td>
          <Mono title={f.from}>{f.from}</Mono>
          {prompt && (
            <Muted display="block" textStyle="small" lineHeight="1.2">
              {prompt}
            </Muted>
          )}
        </td>
        <Box asChild maxW="150px" truncate>
          <td title={samples.map(String).join(', ')}>
            <Mono color="muted">{shown(samples[0])}</Mono>
          </td>
        </Box>
        <td>
          <Input
            size="sm"
            h="22px"
            w="112px"
            fontFamily="mono"
            fontSize="12px"
            aria-label={`Name of ${f.from} in the target`}
            aria-invalid={f.fault !== null}
            borderColor={f.fault ? 'madder' : byHand ? 'verdigris' : 'transparent'}
            fontWeight={renamed ? 600 : 400}
            _hover={{ borderColor: 'line' }}
            value={text ?? f.to}
            onChange={(e) => setText(e.target.value)}
            onBlur={save}
            onKeyDown={(e) => {
              if (e.key === 'Enter') e.currentTarget.blur();
              if (e.key === 'Escape') setText(null);
            }}
          />
        </td>
        <td>{f.type}</td>
        <td className="number">{f.width === 0 ? '' : f.decimals > 0 ? `${f.width}.${f.decimals}` : f.width}</td>
        <td>
          <Flex align="center" gap="6px">
            {tone && <ToneIcon tone={tone} size={13} />}
            <Muted color={f.fault ? 'madderInk' : notes.length > 0 ? 'amberInk' : 'muted'}>{note}</Muted>
          </Flex>
        </td>
      </tr>
    </Box>
  );
}

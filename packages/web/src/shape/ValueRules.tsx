import { useState } from 'react';
import { Box, Button, Grid } from '@chakra-ui/react';
import { Plus, X } from 'lucide-react';
import { joinFields } from '@pontrel/core/content/features/profile';
import { ICON, Mono, Muted, Select } from '../components/parts';
import { TypedText } from '../components/Typed';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** Values of a field that become others, by a list. */
export function ValueRules() {
  const { name, layer, rule, chosen: layers, edit } = useShaping();
  const fields = joinFields(layer.profile.groups);
  const mapped = Object.entries(rule.fields ?? {}).filter(([, f]) => f.values !== undefined);
  const [chosen, setChosen] = useState(mapped[0]?.[0] ?? '');
  if (fields.length === 0) return null;
  const values = rule.fields?.[chosen]?.values;
  const samples = fields.find((f) => f.name === chosen)?.samples.map(String) ?? [];
  const set = (label: string, next: Record<string, string>): void =>
    edit(label, (r) => {
      r.fields ??= {};
      const own = (r.fields[chosen] ??= {});
      if (Object.keys(next).length > 0) own.values = next;
      else delete own.values;
    });
  const pairs = Object.entries(values ?? {});
  const offered = samples.filter((s) => !(s in (values ?? {})));
  const list = `values-${name.replace(/\W/g, '')}`;
  return (
    <Rule
      title="Values"
      within={{
        changed: layers.some((l) => Object.values(l.rule.fields ?? {}).some((f) => f.values !== undefined)),
        back: (r) => {
          for (const f of Object.values(r.fields ?? {})) delete f.values;
        },
      }}
      aside={mapped.length > 0 ? mapped.map(([f]) => f).join(', ') : ''}
    >
      <Select
        label={`Field of ${name} whose values become others`}
        width="100%"
        value={chosen}
        options={[{ value: '', label: 'stay as they are' }, ...fields.map((f) => ({ value: f.name, label: f.name }))]}
        onChange={setChosen}
      />
      {chosen !== '' && (
        <>
          {pairs.map(([from, to]) => (
            <Grid key={from} templateColumns="minmax(0, 1fr) 14px minmax(0, 1fr) 24px" gap="5px" mt="6px" alignItems="center">
              <Mono truncate title={from}>
                {from}
              </Mono>
              <Muted>→</Muted>
              <TypedText
                label={`What ${from} becomes`}
                value={to}
                hint="none"
                maxLength={254}
                onChange={(text) => set(`${from} becomes ${text}`, { ...values, [from]: text })}
              />
              <Button
                size="sm"
                variant="ghost"
                px="0"
                minW="24px"
                h="24px"
                aria-label={`Leave ${from} as it is`}
                onClick={() => {
                  const { [from]: _gone, ...kept } = values!;
                  set(`${from} stays`, kept);
                }}
              >
                <X {...ICON} size={13} />
              </Button>
            </Grid>
          ))}
          <Grid templateColumns="minmax(0, 1fr) auto" gap="5px" mt="6px" alignItems="center">
            <TypedText
              key={pairs.length}
              label="Another value"
              value=""
              hint="a value …"
              list={list}
              maxLength={254}
              onChange={(text) => {
                if (text !== '') set(`list ${text}`, { ...values, [text]: text });
              }}
            />
            <Box color="muted">
              <Plus {...ICON} size={13} />
            </Box>
          </Grid>
          <datalist id={list}>
            {offered.map((s) => (
              <option key={s} value={s} />
            ))}
          </datalist>
        </>
      )}
    </Rule>
  );
}

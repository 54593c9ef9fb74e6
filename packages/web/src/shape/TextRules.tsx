import { useState } from 'react';
import { Box, Button, Grid, Text } from '@chakra-ui/react';
import { MapPin } from 'lucide-react';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { grouped, plural } from '../components/numbers';
import { ICON, Muted, Select } from '../components/parts';
import { TypedLength, TypedText } from '../components/Typed';
import { Rule } from './Rule';
import { useShaping } from './shaping';

const DIFFER = '';

/** Texts of a layer given to the objects of another one of its source. */
export function TextRules() {
  const { name, layer, chosen, rule, differs, report, edit, onFind } = useShaping();
  const [shown, setShown] = useState(false);
  if (!layer.profile.groups.some((g) => g.kind === 'text')) return null;
  const { source } = chosen[0]!;
  // other layers of the same source take texts
  if (chosen.some((l) => l.source !== source || !l.layer.profile.groups.some((g) => g.kind === 'text'))) return null;
  const areas = source.layers.filter((l) => !chosen.some((c) => c.layer === l) && l.profile.groups.some((g) => g.kind === 'polygon'));
  const objects = source.layers.filter((l) => !chosen.some((c) => c.layer === l) && l.profile.groups.some((g) => g.kind !== 'text'));
  const transfer = rule.textTransfer;
  const texts = report?.textTransfer;
  const first = areas[0] ?? objects[0];
  const set = (label: string, part: Partial<NonNullable<LayerRule['textTransfer']>>): void =>
    edit(label, (r) => {
      if (r.textTransfer) Object.assign(r.textTransfer, part);
    });
  return (
    <Rule title="Texts" of={['textTransfer']} aside={transfer && report ? `${grouped(report.textTransfer?.transferred ?? 0)} given` : ''}>
      <Select
        label={`What becomes of the texts of ${name}`}
        width="100%"
        value={differs.has('textTransfer') ? DIFFER : (transfer?.how ?? 'own')}
        options={[
          ...(differs.has('textTransfer') ? [{ value: DIFFER, label: `differ among the ${chosen.length}` }] : []),
          { value: 'own', label: 'stay points of their own' },
          ...(areas.length > 0 ? [{ value: 'in', label: 'go to the area they stand in' }] : []),
          ...(first ? [{ value: 'near', label: 'go to the nearest object' }] : []),
        ]}
        onChange={(how) => {
          if (how === DIFFER) return;
          edit(`texts of ${name}`, (r) => {
            if (how === 'own') delete r.textTransfer;
            else
              r.textTransfer = {
                layer: r.textTransfer?.layer ?? (how === 'in' ? areas[0]! : first!).profile.name,
                field: r.textTransfer?.field ?? 'text',
                within_m: r.textTransfer?.within_m ?? 5,
                how: how as 'in' | 'near',
              };
          });
        }}
      />
      {transfer && (
        <Grid templateColumns="66px minmax(0, 1fr)" gap="6px" mt="7px" alignItems="center">
          <Muted>of layer</Muted>
          <Select
            label="Layer that the texts go to"
            width="100%"
            value={transfer.layer}
            options={(transfer.how === 'in' ? areas : objects).map((l) => ({ value: l.profile.name, label: l.profile.name }))}
            onChange={(to) => set(`texts go to ${to}`, { layer: to })}
          />
          <Muted>as field</Muted>
          <TypedText
            label="Field that the texts become"
            value={transfer.field}
            maxLength={64}
            fault={(text) => (text.trim() === '' ? 'A field needs a name.' : null)}
            onChange={(text) => set(`field ${text}`, { field: text.trim() })}
          />
          {transfer.how === 'near' && (
            <>
              <Muted>within</Muted>
              <TypedLength
                label="Largest distance of a text from its object"
                metres={transfer.within_m}
                bare="m"
                onChange={(m) => {
                  if (m !== null) set('reach of texts', { within_m: m });
                }}
              />
            </>
          )}
        </Grid>
      )}
      {transfer && texts && (
        <Box mt="8px">
          {texts.matched.slice(0, 1).map((t) => (
            <Muted key={t.text} display="block" textStyle="small" truncate>
              “{t.text.replaceAll('\n', ' ↵ ')}” → {transfer.field} of {transfer.layer}
            </Muted>
          ))}
          {texts.unmatchedCount === 0 ? (
            <Muted textStyle="small">Every text found its object.</Muted>
          ) : (
            <Button size="sm" variant="ghost" px="0" h="24px" color="amberInk" aria-expanded={shown} onClick={() => setShown(!shown)}>
              {plural(texts.unmatchedCount, 'text')} found no object
            </Button>
          )}
          {shown && (
            <Box as="ul" listStyleType="none" maxH="132px" overflowY="auto">
              {texts.unmatched.map((t, k) => (
                <li key={k}>
                  <Button
                    size="sm"
                    variant="ghost"
                    w="100%"
                    h="24px"
                    px="2px"
                    justifyContent="flex-start"
                    title="Find it on the map"
                    onClick={() => onFind(t)}
                  >
                    <MapPin {...ICON} size={12} />
                    <Text truncate>{t.text.replaceAll('\n', ' ↵ ')}</Text>
                  </Button>
                </li>
              ))}
            </Box>
          )}
        </Box>
      )}
    </Rule>
  );
}

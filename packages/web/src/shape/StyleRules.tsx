import { Flex, Grid, Text } from '@chakra-ui/react';
import { joinFields } from '@pontrel/core/content/features/profile';
import { type Scales, styleBy } from '@pontrel/core/symbology/layer-style';
import { grouped, readScale } from '../components/numbers';
import { Muted, Select } from '../components/parts';
import { TypedText } from '../components/Typed';
import { Rule } from './Rule';
import { useShaping } from './shaping';

const NONE = '\n',
  DIFFER = '\nd';

const scaleText = (n: number | null): string => (n === null ? '' : `1:${grouped(Math.round(n))}`);

/** What the records of a layer are labelled with, and at which scales it is shown. */
export function StyleRules() {
  const { name, layer, chosen, rule, differs, row, edit } = useShaping();
  const { label, scales } = styleBy(rule, layer.style);
  const fields = joinFields(layer.profile.groups).map((f) => f.name);
  const set = (end: keyof Scales, text: string): void =>
    edit(`scales of ${name}`, (r, of) => {
      const now: Scales = { min: scales?.min ?? null, max: scales?.max ?? null, [end]: text.trim() === '' ? null : readScale(text) };
      const said = { ...(now.min === null ? {} : { min: now.min }), ...(now.max === null ? {} : { max: now.max }) };
      if (Object.keys(said).length > 0) r.scales = said;
      else if (of.layer.style?.scales) r.scales = null;
      else delete r.scales;
    });
  const fault =
    (end: keyof Scales) =>
    (text: string): string | null => {
      const value = text.trim() === '' ? null : readScale(text);
      if (text.trim() !== '' && value === null) return 'A scale is wanted, such as 1:5000.';
      const other = end === 'min' ? scales?.max : scales?.min;
      return value !== null && other !== null && other !== undefined && (end === 'min' ? value >= other : value <= other)
        ? `It would be shown at no scale: ${scaleText(other)} is the other end.`
        : null;
    };
  const told = layer.style && (rule.label === undefined || rule.scales === undefined) && (layer.style.label || layer.style.scales);
  return (
    <Rule title="Labels and scales" of={['label', 'scales']} aside={told ? 'as its source says' : ''}>
      <Grid templateColumns="76px minmax(0, 1fr)" gap="6px" alignItems="center">
        <Muted>labelled by</Muted>
        <Select
          label={`Label of ${name}`}
          width="100%"
          value={differs.has('label') ? DIFFER : (label?.field ?? NONE)}
          options={[
            ...(differs.has('label') ? [{ value: DIFFER, label: `differ among the ${chosen.length}` }] : []),
            { value: NONE, label: 'nothing' },
            ...(label && !fields.includes(label.field) ? [{ value: label.field, label: `${label.field}, which is not there` }] : []),
            ...fields.map((f) => ({ value: f, label: f })),
          ]}
          onChange={(field) => {
            if (field === DIFFER) return;
            edit(field === NONE ? `no label on ${name}` : `label ${name} by ${field}`, (r, of) => {
              if (field !== NONE) r.label = { field };
              else if (of.layer.style?.label) r.label = null;
              else delete r.label;
            });
          }}
        />
        <Muted>shown from</Muted>
        <Flex gap="6px" align="center">
          <TypedText
            label={`Largest scale of ${name}`}
            value={scaleText(scales?.min ?? null)}
            hint="near"
            fault={fault('min')}
            onChange={(text) => set('min', text)}
          />
          <Muted>to</Muted>
          <TypedText
            label={`Smallest scale of ${name}`}
            value={scaleText(scales?.max ?? null)}
            hint="far"
            fault={fault('max')}
            onChange={(text) => set('max', text)}
          />
        </Flex>
      </Grid>
      {row && row.style.lost.length > 0 && (
        <Text textStyle="small" color="amberInk" mt="6px">
          The target is drawn without {row.style.lost.join(' and ')}.
        </Text>
      )}
    </Rule>
  );
}

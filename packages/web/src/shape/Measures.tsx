import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { Box, Flex, Text } from '@chakra-ui/react';
import type { SourceLayer } from '@pontrel/contract/crossing';
import { COMPUTED_FIELDS, type ComputedField, type Measure } from '@pontrel/core/filter/computed-fields';
import { Choice, Section, Select, Tick } from '../components/parts';

const NAMES: Record<Measure, string> = {
  x: 'X of a point',
  y: 'Y of a point',
  z: 'Height of a point',
  length: 'Length or perimeter',
  area: 'Area',
};

/** Fields that are worked out from the geometry: which, where they are measured, and in what unit. */
export function Measures({
  layer,
  rule,
  edit,
}: {
  layer: SourceLayer;
  rule: LayerRule;
  edit(label: string, how: (r: LayerRule) => void): void;
}) {
  const has = (...kinds: string[]): boolean => layer.profile.groups.some((g) => kinds.includes(g.kind));
  const offered: Measure[] = [
    ...(has('point', 'text') ? (['x', 'y', 'z'] as const) : []),
    ...(has('line', 'polygon') ? (['length'] as const) : []),
    ...(has('polygon') ? (['area'] as const) : []),
  ];
  if (offered.length === 0) return null;
  const chosen = rule.computed ?? [];
  return (
    <Section title="Worked out on the way">
      {offered.map((measure) => {
        const own = COMPUTED_FIELDS.filter((f) => f.measure === measure);
        const on = own.find((f) => chosen.includes(f.name));
        const set = (to: ComputedField | undefined): void =>
          edit(to ? `add ${to.name}` : `leave ${on!.name}`, (r) => {
            const others = (r.computed ?? []).filter((n) => !own.some((f) => f.name === n));
            r.computed = to ? [...others, to.name] : others;
          });
        const units = own.filter((f) => f.surface === (on?.surface ?? 'plane'));
        return (
          <Box key={measure}>
            <Flex align="center" gap="8px" h="25px">
              <Tick label={NAMES[measure]} checked={on !== undefined} onChange={(add) => set(add ? own[0] : undefined)} />
              <Text flex="1">{NAMES[measure]}</Text>
            </Flex>
            {on && own.length > 1 && (
              <Flex gap="6px" pl="22px" pb="5px" align="center">
                <Choice<ComputedField['surface']>
                  small
                  label={`Where ${NAMES[measure].toLowerCase()} is measured`}
                  value={on.surface}
                  onChange={(surface) =>
                    set(
                      own.find((f) => f.surface === surface && f.unit === on.unit) ??
                        own.find((f) => f.surface === surface && f.unit !== ''),
                    )
                  }
                  options={[
                    { value: 'plane', label: 'Plane' },
                    { value: 'ellipsoid', label: 'Ellipsoid' },
                  ]}
                />
                <Select
                  label={`Unit of ${NAMES[measure].toLowerCase()}`}
                  value={on.name}
                  width="92px"
                  options={units.map((f) => ({ value: f.name, label: f.unit === '' ? 'its own' : f.unit }))}
                  onChange={(name) => set(own.find((f) => f.name === name))}
                />
              </Flex>
            )}
          </Box>
        );
      })}
    </Section>
  );
}

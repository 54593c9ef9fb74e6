import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { Plus } from 'lucide-react';
import { COMPUTED_FIELDS, type ComputedField, type Measure } from '@pontrel/core/filter/computed-fields';
import { Choice, ICON, Select, Tick } from '../components/parts';
import { Rule } from './Rule';
import type { ShapedLayer } from './shaped-layers';
import { useShaping } from './shaping';

/** What is measured of which kinds of geometry. */
const MEASURES: readonly { measure: Measure; name: string; kinds: readonly string[] }[] = [
  { measure: 'x', name: 'X of a point', kinds: ['point', 'text'] },
  { measure: 'y', name: 'Y of a point', kinds: ['point', 'text'] },
  { measure: 'z', name: 'Height of a point', kinds: ['point', 'text'] },
  { measure: 'length', name: 'Length or perimeter', kinds: ['line', 'polygon'] },
  { measure: 'area', name: 'Area', kinds: ['polygon'] },
];

/** Those that are mostly wanted together. */
const XYZ: readonly Measure[] = ['x', 'y', 'z'];

const fieldsOf = (measure: Measure): ComputedField[] => COMPUTED_FIELDS.filter((f) => f.measure === measure);
const having = (layers: readonly ShapedLayer[], kinds: readonly string[]): ShapedLayer[] =>
  layers.filter((l) => l.layer.profile.groups.some((g) => kinds.includes(g.kind)));
const chosenOf = ({ rule }: ShapedLayer, measure: Measure): ComputedField | undefined =>
  fieldsOf(measure).find((f) => rule.computed?.includes(f.name));

/** Fields that are worked out from the geometry: which, where they are measured, and in what unit. */
export function Measures() {
  const { chosen, edit } = useShaping();
  const offered = MEASURES.filter(({ kinds }) => having(chosen, kinds).length > 0);
  if (offered.length === 0) return null;
  /** Gives each of the measures a field, or takes it away, on the layers that have something to be measured. */
  const set = (measures: readonly Measure[], to: ComputedField | 'usual' | null): void =>
    edit(`${to === null ? 'leave' : 'add'} ${to === null || to === 'usual' ? measures.join(', ') : to.name}`, (r, of) => {
      for (const { measure, kinds } of MEASURES) {
        if (!measures.includes(measure) || having([of], kinds).length === 0) continue;
        const own = fieldsOf(measure);
        const others = (r.computed ?? []).filter((n) => !own.some((f) => f.name === n));
        const next = to === 'usual' ? own[0]! : to;
        r.computed = next ? [...others, next.name] : others;
        if (r.computed.length === 0) delete r.computed;
      }
    });
  const missing = XYZ.filter((m) => offered.some((o) => o.measure === m && having(chosen, o.kinds).some((l) => !chosenOf(l, m))));
  return (
    <Rule title="Computed fields" of={['computed']}>
      {missing.length > 1 && (
        <Button size="sm" variant="ghost" px="4px" ml="-4px" h="24px" color="verdigrisInk" onClick={() => set(missing, 'usual')}>
          <Plus {...ICON} size={13} />
          X, Y and height at once
        </Button>
      )}
      {offered.map(({ measure, name, kinds }) => {
        const layers = having(chosen, kinds);
        const on = layers.map((l) => chosenOf(l, measure)).filter((f) => f !== undefined);
        const [first] = on;
        const one = on.length === layers.length && on.every((f) => f === first) ? first : undefined;
        const own = fieldsOf(measure);
        return (
          <Box key={measure}>
            <Flex align="center" gap="8px" h="24px">
              <Tick
                label={name}
                checked={on.length === layers.length}
                some={on.length > 0}
                onChange={(add) => set([measure], add ? 'usual' : null)}
              />
              <Text flex="1">{name}</Text>
            </Flex>
            {one && own.length > 1 && (
              <Flex gap="6px" pl="22px" pb="5px" align="center">
                <Choice<ComputedField['surface']>
                  small
                  label={`Where ${name.toLowerCase()} is measured`}
                  value={one.surface}
                  onChange={(surface) =>
                    set(
                      [measure],
                      own.find((f) => f.surface === surface && f.unit === one.unit) ??
                        own.find((f) => f.surface === surface && f.unit !== '')!,
                    )
                  }
                  options={[
                    { value: 'plane', label: 'Plane' },
                    { value: 'ellipsoid', label: 'Ellipsoid' },
                  ]}
                />
                <Select
                  label={`Unit of ${name.toLowerCase()}`}
                  value={one.name}
                  width="92px"
                  options={own
                    .filter((f) => f.surface === one.surface)
                    .map((f) => ({ value: f.name, label: f.unit === '' ? 'its own' : f.unit }))}
                  onChange={(to) =>
                    set(
                      [measure],
                      own.find((f) => f.name === to)!,
                    )
                  }
                />
              </Flex>
            )}
          </Box>
        );
      })}
    </Rule>
  );
}

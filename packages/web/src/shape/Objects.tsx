import { Flex, Text } from '@chakra-ui/react';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { grouped } from '../components/numbers';
import { Mono, Tick } from '../components/parts';
import { groupNames } from '../gather/entity-names';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** Which kinds of objects of a layer cross. */
export function Objects() {
  const { name, layer, chosen, edit } = useShaping();
  const groups = groupNames(layer.profile.groups);
  if (groups.length === 0) return null;
  return (
    <Rule title="Objects" of={['leftOut']}>
      {groups.map((g) => {
        const having = chosen.filter((l) => l.layer.profile.groups.some((own) => own.entity === g.entity));
        const taking = having.filter((l) => isTaken(l.rule) && !l.rule.leftOut?.includes(g.entity));
        return (
          <Flex key={g.entity + g.kind} align="center" gap="8px" h="24px">
            <Tick
              label={`Take ${g.name} of ${name}`}
              checked={taking.length === having.length}
              some={taking.length > 0}
              disabled={!having.some((l) => isTaken(l.rule))}
              onChange={(on) =>
                edit(
                  `${on ? 'take' : 'leave'} ${g.name} of ${name}`,
                  (r) => {
                    const out = (r.leftOut ?? []).filter((e) => e !== g.entity);
                    if (!on) out.push(g.entity);
                    if (out.length > 0) r.leftOut = out;
                    else delete r.leftOut;
                  },
                  (l) => having.includes(l),
                )
              }
            />
            <Text flex="1" color={taking.length === 0 ? 'muted' : 'ink'} title={g.entity}>
              {g.name}
            </Text>
            <Mono color="muted">{grouped(g.count)}</Mono>
          </Flex>
        );
      })}
    </Rule>
  );
}

import { useState } from 'react';
import { Box, chakra, Flex } from '@chakra-ui/react';
import { isWithout } from '@pontrel/core/crossing/chosen-layers';
import { layerRule } from '@pontrel/core/crossing/recipe';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import type { Deliverable } from '@pontrel/core/crossing/recipe';
import { useCrossing } from '../crossing/use-crossing';
import { plural } from '../components/numbers';
import { Mono, Tick } from '../components/parts';
import { TextButton } from '../components/TextButton';
import type { EditDeliverable } from './DeliverableHead';

/** Which of the layers that are taken go into a deliverable: all of them, unless somebody leaves some out here. */
export function LayerChoice({ deliverable: d, edit }: { deliverable: Deliverable; edit: EditDeliverable }) {
  const { recipe, sources } = useCrossing();
  const [open, setOpen] = useState(false);
  const layers = sources.map((s) => ({
    source: s.name,
    names: s.layers.map((l) => l.profile.name).filter((l) => isTaken(layerRule(recipe, s.name, l))),
  }));
  const count = layers.reduce((n, l) => n + l.names.length, 0);
  const taken = layers.reduce((n, l) => n + l.names.filter((name) => !isWithout(d, l.source, name)).length, 0);
  const put = (source: string, left: readonly string[]): void =>
    edit(`layers of ${source}`, (x) => {
      const all = layers.find((l) => l.source === source)!.names;
      const { [source]: _before, ...others } = x.without ?? {};
      x.without = left.length === 0 ? others : { ...others, [source]: left.length === all.length ? true : [...left] };
      if (Object.keys(x.without).length === 0) delete x.without;
    });
  return (
    <Box minW="0">
      <Flex gap="8px" align="center" minH="24px">
        {taken === count ? `All ${plural(count, 'layer')}` : `${taken} of ${plural(count, 'layer')}`}
        <TextButton aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'fold' : 'choose'}
        </TextButton>
      </Flex>
      {open && (
        <Box borderWidth="1px" borderColor="hairline" borderRadius="sheet" px="8px" py="4px" maxH="170px" overflowY="auto" maxW="420px">
          {layers
            .filter((l) => l.names.length > 0)
            .map(({ source, names }) => {
              const left = names.filter((name) => isWithout(d, source, name));
              return (
                <Box key={source} py="2px">
                  <Row
                    name={source}
                    label={`${source} into ${d.name}`}
                    checked={left.length === 0}
                    some={left.length < names.length}
                    onChange={(on) => put(source, on ? [] : names)}
                  />
                  {names.length > 1 && (
                    <Box pl="22px">
                      {names.map((name) => (
                        <Row
                          key={name}
                          name={name}
                          label={`${name} of ${source} into ${d.name}`}
                          checked={!left.includes(name)}
                          onChange={(on) => put(source, on ? left.filter((l) => l !== name) : [...left, name])}
                        />
                      ))}
                    </Box>
                  )}
                </Box>
              );
            })}
        </Box>
      )}
    </Box>
  );
}

function Row({ name, label, ...tick }: { name: string; label: string; checked: boolean; some?: boolean; onChange(on: boolean): void }) {
  return (
    <chakra.label display="flex" alignItems="center" gap="8px" minH="24px" cursor="pointer">
      <Tick label={label} {...tick} />
      <Mono truncate>{name}</Mono>
    </chakra.label>
  );
}

import { Box, Flex } from '@chakra-ui/react';
import { BLOCK_TREATMENTS, type BlockTreatment } from '@pontrel/core/operations/blocks';
import { grouped, plural } from '../components/numbers';
import { Mono, Select } from '../components/parts';
import { Rule } from './Rule';
import { useShaping } from './shaping';

const WAY_NAMES: Record<BlockTreatment, string> = {
  point: 'as a point with its data',
  apart: 'taken apart',
  outline: 'as the outline around it',
};

const DIFFER = '';

/** How each block of a layer crosses. */
export function BlockRules() {
  const { layer, chosen, report, edit } = useShaping();
  const blocks = layer.blocks ?? [];
  if (blocks.length === 0) return null;
  return (
    <Rule title="Blocks" of={['blocks']} aside={blocks.length > 1 ? plural(blocks.length, 'block') : ''}>
      <Flex direction="column" gap="8px">
        {blocks.map((b) => {
          const having = chosen.filter((l) => l.layer.blocks?.some((own) => own.name === b.name));
          const ways = new Set(having.map((l) => l.rule.blocks?.[b.name] ?? 'point'));
          const options: { value: BlockTreatment | typeof DIFFER; label: string }[] = BLOCK_TREATMENTS.filter(
            (way) => way === 'point' || b.parts > 0,
          ).map((way) => ({ value: way, label: way === 'apart' ? `in ${plural(b.parts, 'part')}, data on each` : WAY_NAMES[way] }));
          if (ways.size > 1) options.unshift({ value: DIFFER, label: `differ among the ${having.length}` });
          return (
            <Box key={b.name}>
              <Flex justify="space-between" gap="8px">
                <Mono truncate title={b.name}>
                  {b.name}
                </Mono>
                <Mono color="muted">{grouped(b.count)}</Mono>
              </Flex>
              <Select
                label={`How ${b.name} crosses`}
                width="100%"
                value={ways.size > 1 ? DIFFER : [...ways][0]!}
                options={options}
                onChange={(way) => {
                  if (way === DIFFER) return;
                  edit(
                    `${b.name} ${WAY_NAMES[way]}`,
                    (r) => {
                      r.blocks = { ...r.blocks, [b.name]: way };
                      if (way === 'point') delete r.blocks[b.name];
                      if (Object.keys(r.blocks).length === 0) delete r.blocks;
                    },
                    (l) => having.includes(l),
                  );
                }}
              />
            </Box>
          );
        })}
      </Flex>
      {report?.blocks && report.blocks.apart > 0 && (
        <Mono display="block" mt="6px">
          {plural(report.blocks.apart, 'block')} → {plural(report.blocks.parts, 'part')}
        </Mono>
      )}
    </Rule>
  );
}

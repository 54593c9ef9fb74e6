import type { ReactNode } from 'react';
import { Box, Button, Flex, Text } from '@chakra-ui/react';
import { ChevronDown, ChevronRight, RotateCcw } from 'lucide-react';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { ICON, Muted } from '../components/parts';
import { useKept } from '../state/kept';
import { changesOf, type RuleGroupId, RULE_GROUPS } from './rule-groups';
import { useShaping } from './shaping';

/** Stands at what a person changed. */
export function ChangedDot({ changed }: { changed: boolean }) {
  return (
    <Box
      as="span"
      role={changed ? 'img' : undefined}
      aria-label={changed ? 'changed by you' : undefined}
      flex="none"
      w="6px"
      h="6px"
      borderRadius="full"
      bg={changed ? 'verdigris' : 'transparent'}
    />
  );
}

/** The rules of one kind; folded, they are summed up in a line. */
export function RuleGroup({ id, summary, children }: { id: RuleGroupId; summary: string; children: ReactNode }) {
  const { chosen } = useShaping();
  const [folded, setFolded] = useKept(`shape.${id}.folded`, false);
  const { title, rules } = RULE_GROUPS.find((g) => g.id === id)!;
  const changes = Math.max(...chosen.map((l) => changesOf(l.rule, rules)));
  const Chevron = folded ? ChevronRight : ChevronDown;
  return (
    <Box as="section" aria-label={title} borderTopWidth="1px" borderColor="hairline" pb={folded ? '9px' : '10px'}>
      <Flex asChild align="center" gap="7px" w="100%" h="34px" px="14px" cursor="pointer" _hover={{ bg: 'sunk' }}>
        <button type="button" aria-expanded={!folded} onClick={() => setFolded(!folded)}>
          <Chevron {...ICON} size={14} />
          <Text as="span" textStyle="title">
            {title}
          </Text>
          <Box flex="1" />
          {changes > 0 && (
            <Text as="span" textStyle="small" fontWeight={600} color="verdigrisInk">
              {changes} changed
            </Text>
          )}
        </button>
      </Flex>
      {folded ? (
        <Muted display="block" textStyle="small" pl="35px" pr="14px">
          {summary}
        </Muted>
      ) : (
        <Flex direction="column" gap="9px" px="14px" pt="1px">
          {children}
        </Flex>
      )}
    </Box>
  );
}

/** One rule: its name, whether it is changed, the way back to what the file says, and what it did. */
export function Rule({
  title,
  of = [],
  within,
  aside,
  control,
  children,
}: {
  title: string;
  /** What of a layer's rule it is about. */
  of?: readonly (keyof LayerRule)[];
  /** Where it is about a part of these only: whether that is changed, and the way back. */
  within?: { changed: boolean; back(rule: LayerRule): void };
  aside?: ReactNode;
  /** What stands beside the name, where it has room there. */
  control?: ReactNode;
  children?: ReactNode;
}) {
  const { name, chosen, edit, differs } = useShaping();
  const changed = within ? within.changed : chosen.some((l) => changesOf(l.rule, of) > 0);
  const differing = of.some((k) => differs.has(k));
  return (
    <Box>
      <Flex align="center" gap="7px" minH="24px" mb={children ? '2px' : '0'} ml="-13px">
        <ChangedDot changed={changed} />
        <Text as="h3" textStyle="section" flex="none">
          {title}
        </Text>
        <Text as="div" flex="1" textStyle="small" color="muted" textAlign="right" minW="0" truncate>
          {differing ? `differ among the ${chosen.length}` : aside}
        </Text>
        {control}
        {changed && (
          <Button
            size="sm"
            variant="ghost"
            px="0"
            minW="22px"
            h="22px"
            flex="none"
            color="muted"
            aria-label={`${title} of ${name}: back to what holds without a rule`}
            title="Back to what holds without a rule"
            onClick={() =>
              edit(`${title.toLowerCase()} of ${name} taken back`, (r) => {
                if (within) within.back(r);
                else for (const key of of) delete r[key];
              })
            }
          >
            <RotateCcw {...ICON} size={13} />
          </Button>
        )}
      </Flex>
      {children}
    </Box>
  );
}

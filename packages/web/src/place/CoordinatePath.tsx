import { Box, Flex, Text } from '@chakra-ui/react';
import type { SourceState } from '@pontrel/contract/crossing';
import { useCrossing } from '../crossing/use-crossing';
import { grouped } from '../parts/numbers';
import { Mono, Muted, Note, Section } from '../parts/parts';
import { usePathQuery } from '../state/api';

/** Each step of the way from the file's numbers into the frame, with its accuracy. */
export function CoordinatePath({ source }: { source: SourceState }) {
  const crossing = useCrossing();
  const { data } = usePathQuery({ id: crossing.id, source: source.id });
  const decimals = (n: number): number => (Math.abs(n) >= 1e7 ? 0 : Math.abs(n) <= 360 ? 7 : 3);
  if (!data || (!data.problem && !data.to)) return <Section title="Path of a coordinate"><Muted>Appears here once the source is placed: every step from the numbers in the file to those of the frame, with its accuracy.</Muted></Section>;
  return (
    <>
      <Section title="Path of a coordinate" aside="its middle">
        {data.problem && <Note tone="wrong">{data.problem}</Note>}
        {data.from && data.to && (
          <Box as="ol" listStyleType="none" m="0" p="0">
            <Stop title={`In ${source.name}`} at={data.from} decimals={decimals(data.from[0])} />
            {data.steps.map((s, i) => (
              <Flex as="li" key={i} gap="9px" py="4px" align="flex-start">
                <Box w="9px" h="9px" bg="oxide" transform="rotate(45deg)" mt="4px" ml="1px" flex="none" />
                <Box flex="1" minW="0"><Text color="oxideDeep" fontWeight={550} lineHeight="17px">{s.name}</Text>{s.id && <Mono color="muted">{s.id}</Mono>}</Box>
                <Mono flex="none">{s.accuracy_m === null ? 'unknown' : s.accuracy_m === 0 ? 'exact' : `±${s.accuracy_m} m`}</Mono>
              </Flex>
            ))}
            {data.steps.length === 0 && <Flex as="li" gap="9px" py="4px"><Box w="9px" h="9px" bg="oxide" transform="rotate(45deg)" mt="4px" ml="1px" flex="none" /><Text color="oxideDeep" fontWeight={550}>{data.from[0] === data.to[0] && data.from[1] === data.to[1] ? 'The same system: the numbers stay as they are' : 'The same system; only the unit changes'}</Text></Flex>}
            <Stop title="In this crossing" at={data.to} decimals={decimals(data.to[0])} end />
          </Box>
        )}
      </Section>
      {data.to && (
        <Section title="Stated accuracy" aside={<Mono fontWeight={600} color="ink">{data.accuracy_m === null ? 'unknown' : data.accuracy_m === 0 ? 'exact' : `±${data.accuracy_m} m`}</Mono>}>
          <Muted textStyle="small">{data.accuracy_m === 0 ? 'No datum changes on the way: nothing is lost but the last digits of arithmetic.' : 'Set by the change of datum, as the registry states it.'}</Muted>
        </Section>
      )}
      {source.crsText && <Section title="Original text"><Text fontFamily="mono" fontSize="11px" lineHeight="15px" color="muted" overflowWrap="anywhere">{source.crsText}</Text></Section>}
    </>
  );
}

function Stop({ title, at, decimals, end }: { title: string; at: readonly [number, number]; decimals: number; end?: boolean }) {
  return (
    <Flex as="li" gap="9px" py="4px">
      <Box w="11px" h="11px" borderRadius="full" borderWidth="1.6px" borderColor={end ? 'verdigris' : 'ink'} bg={end ? 'verdigris' : 'surface'} mt="3px" flex="none" />
      <Box minW="0"><Text fontWeight={600} truncate>{title}</Text><Mono display="block">E {grouped(at[0], decimals)}</Mono><Mono display="block">N {grouped(at[1], decimals)}</Mono></Box>
    </Flex>
  );
}

import { accuracyText } from '../components/length-unit';
import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react';
import type { PathView, SourceState } from '@pontrel/contract/crossing';
import { sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import { grouped } from '../components/numbers';
import { Mono, Muted, Note, Section } from '../components/parts';
import { useGridsQuery, usePathQuery } from '../state/api';

type XY = readonly [number, number];
const decimals = (n: number): number => (Math.abs(n) >= 1e7 ? 0 : Math.abs(n) <= 360 ? 7 : 3);
const accuracy = (m: number | null): string => (m === null ? 'unknown' : m === 0 ? 'exact' : accuracyText(m));

/** Each step of the way from the file's numbers into the frame, with its accuracy, and the operations that there are to choose from. */
export function CoordinatePath({ source }: { source: SourceState }) {
  const crossing = useCrossing();
  const change = useChange();
  const { data } = usePathQuery({ id: crossing.id, source: source.id });
  const accept = (on: boolean): void =>
    change(on ? 'take numbers over without a change of datum' : 'ask for a change of datum', (draft) => {
      const { placement } = sourceRules(draft, source.name);
      if (on) placement!.ballpark = true;
      else delete placement!.ballpark;
    });
  if (!data || (!data.problem && !data.to))
    return (
      <Section title="Path of a coordinate">
        <Muted>
          Appears here once the source is placed: every step from the numbers in the file to those of the frame, with its accuracy.
        </Muted>
      </Section>
    );
  return (
    <>
      <Section title="Path of a coordinate" aside="its middle">
        {data.problem && (
          <Note
            tone="wrong"
            actions={
              data.ballpark && (
                <Button size="sm" onClick={() => accept(true)}>
                  Accept tens of metres
                </Button>
              )
            }
          >
            {data.problem}
          </Note>
        )}
        {data.from && data.to && (
          <Box as="ol" listStyleType="none" m="0" p="0">
            <Stop title={`In ${source.name}`} at={data.from} />
            {data.steps.map((s, i) => (
              <Leg key={i} step={s} last={i === data.steps.length - 1} />
            ))}
            {data.steps.length === 0 && (
              <Flex as="li" gap="9px" py="4px">
                <Diamond />
                <Text color="oxideDeep" fontWeight={550}>
                  {data.from[0] === data.to[0] && data.from[1] === data.to[1]
                    ? 'The same system: the numbers stay as they are'
                    : 'The same system; only the unit changes'}
                </Text>
              </Flex>
            )}
            <Stop title="In this crossing" at={data.to} end />
          </Box>
        )}
      </Section>
      {data.to && (
        <Section
          title="Stated accuracy"
          aside={
            <Mono fontWeight={600} color="ink">
              {accuracy(data.accuracy_m)}
            </Mono>
          }
        >
          {data.notes.map(({ severity, message }) => (
            <Note key={message} tone={severity === 'info' ? 'good' : severity}>
              {message}
            </Note>
          ))}
          {data.ballpark ? (
            <Note
              tone="caution"
              actions={
                <Button size="sm" onClick={() => accept(false)}>
                  Take it back
                </Button>
              }
            >
              Numbers are taken over without a change of datum, as you accepted. Positions may be off by tens of metres.
            </Note>
          ) : (
            <Muted textStyle="small">
              {data.accuracy_m === 0
                ? 'No datum changes on the way: nothing is lost but the last digits of arithmetic.'
                : 'Set by the change of datum, as the registry states it, and by the fit where there is one.'}
            </Muted>
          )}
        </Section>
      )}
      {data.operations.length > 0 && <Operations source={source} operations={data.operations} />}
      <Grids />
    </>
  );
}

/** Operations to choose from; what lacks a grid file says so. */
function Operations({ source, operations }: { source: SourceState; operations: PathView['operations'] }) {
  const change = useChange();
  const { operation } = useCrossing().recipe.sources[source.name]?.placement ?? {};
  // what was chosen is shown at once, before the server has worked the path out anew
  const chosen = operations.some((o) => o.key === operation) ? operation : undefined;
  const choose = (key: string): void =>
    change('coordinate operation', (draft) => void (sourceRules(draft, source.name).placement!.operation = key));
  return (
    <Section title="Coordinate operations" aside={`${operations.length}`}>
      <Box role="radiogroup" aria-label="Coordinate operations">
        {operations.map((w) => (
          <chakra.label
            key={w.key}
            display="flex"
            gap="8px"
            py="5px"
            borderTopWidth="1px"
            borderColor="hairline"
            cursor={w.missing.length > 0 || w.key === 'ballpark' ? 'not-allowed' : 'pointer'}
            opacity={w.missing.length > 0 ? 0.75 : 1}
          >
            <input
              type="radio"
              name="operation"
              checked={chosen === undefined ? w.on : w.key === chosen}
              disabled={w.missing.length > 0 || w.key === 'ballpark'}
              onChange={() => choose(w.key)}
              aria-label={w.name}
            />
            <Box minW="0" flex="1">
              <Flex justify="space-between" gap="6px">
                <Mono color="muted" truncate>
                  {w.codes}
                </Mono>
                <Mono flex="none">{accuracy(w.accuracy_m)}</Mono>
              </Flex>
              <Text lineHeight="16px" overflowWrap="anywhere">
                {w.name}
              </Text>
              {w.area && (
                <Muted textStyle="small" display="block" truncate title={w.area}>
                  {w.share !== null && w.share < 0.995 && (
                    <Text as="span" color="amberInk">
                      {w.share === 0 ? 'holds none of it' : `holds ${Math.max(1, Math.round(100 * w.share))} % of it`} ·{' '}
                    </Text>
                  )}
                  {w.area}
                </Muted>
              )}
              {w.missing.length > 0 && (
                <Text textStyle="small" color="amberInk">
                  needs {w.missing.join(', ')}
                </Text>
              )}
            </Box>
          </chakra.label>
        ))}
      </Box>
    </Section>
  );
}

/** Grid files at hand, and where more of them go. */
function Grids() {
  const { data } = useGridsQuery();
  if (!data) return null;
  return (
    <Section title="Grid files" aside={`${data.files.length}`}>
      {data.files.map((f) => (
        <Box key={f.name} py="2px">
          <Flex justify="space-between" gap="6px">
            <Mono truncate>{f.name}</Mono>
            <Muted textStyle="small" flex="none">
              {f.place}
            </Muted>
          </Flex>
          {f.problem && (
            <Text textStyle="small" color="madderInk">
              {f.problem}
            </Text>
          )}
        </Box>
      ))}
      <Muted textStyle="small" display="block" mt="4px">
        Put more (.gsb, .gtx) into{' '}
        <Mono fontSize="11px" overflowWrap="anywhere">
          {data.folder}
        </Mono>
      </Muted>
    </Section>
  );
}

function Diamond() {
  return <Box w="9px" h="9px" bg="oxide" transform="rotate(45deg)" mt="4px" ml="1px" flex="none" />;
}

function Leg({ step, last }: { step: PathView['steps'][number]; last: boolean }) {
  return (
    <>
      <Flex as="li" gap="9px" py="4px" align="flex-start">
        <Diamond />
        <Box flex="1" minW="0">
          <Text color="oxideDeep" fontWeight={550} lineHeight="17px">
            {step.name}
          </Text>
          {(step.id || step.grids.length > 0) && (
            <Mono color="muted" fontSize="11px">
              {[step.id, ...step.grids].filter(Boolean).join(' · ')}
            </Mono>
          )}
        </Box>
        <Mono flex="none">{accuracy(step.accuracy_m)}</Mono>
      </Flex>
      {step.at && !last && <Stop at={step.at} />}
    </>
  );
}

function Stop({ title, at, end }: { title?: string; at: XY; end?: boolean }) {
  const degrees = Math.abs(at[0]) <= 360 && Math.abs(at[1]) <= 90;
  const text = (n: number): string => grouped(n, decimals(n));
  return (
    <Flex as="li" gap="9px" py="4px">
      <Box
        w="11px"
        h="11px"
        borderRadius="full"
        borderWidth="1.6px"
        borderColor={end ? 'verdigris' : 'ink'}
        bg={end ? 'verdigris' : 'surface'}
        mt="3px"
        flex="none"
      />
      <Box minW="0">
        {title && (
          <Text fontWeight={600} truncate>
            {title}
          </Text>
        )}
        <Mono display="block">
          {degrees ? 'lon ' : ''}
          {text(at[0])}
        </Mono>
        <Mono display="block">
          {degrees ? 'lat ' : ''}
          {text(at[1])}
        </Mono>
      </Box>
    </Flex>
  );
}

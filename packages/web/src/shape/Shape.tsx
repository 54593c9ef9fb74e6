import { isTaken } from '@pontrel/core/operations/layer-rule';
import { useMemo, useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Text } from '@chakra-ui/react';
import { ChevronDown, ChevronUp, ArrowRight } from 'lucide-react';
import { Link } from 'react-router';
import { layerRule } from '@pontrel/core/crossing/recipe';
import { takeLayer, useChange, useCrossing } from '../crossing/use-crossing';
import { PlanSheet } from '../map/PlanSheet';
import { RecordCard } from '../map/RecordCard';
import type { Mark } from '../map/Marks';
import type { Picked } from '../map/styles';
import { sourceTiles, useFrame } from '../map/use-frame';
import { grouped } from '../components/numbers';
import { Chip, Empty, ICON, Mono, Muted, Scroll, Side, Tick, ToneIcon } from '../components/parts';
import { ofRecords } from '../deliver/fates';
import { useForecastsQuery } from '../state/api';
import { useAppSelector } from '../state/store';
import { onPaper } from '../theme/on-paper';
import { DAY, NIGHT } from '@pontrel/contract/palette';
import { FieldPlan } from './FieldPlan';
import { LayerRules } from './LayerRules';

/** What crosses, and how: rules beside the map and real values. */
export function Shape() {
  const crossing = useCrossing();
  const change = useChange();
  const frame = useFrame(crossing);
  const { data: forecasts } = useForecastsQuery(crossing.id);
  const [selected, setSelected] = useState<string | null>(null);
  const [picked, setPicked] = useState<Picked | null>(null);
  const [goTo, setGoTo] = useState<{ x: number; y: number } | null>(null);
  const [folded, setFolded] = useState(false);
  const [deliverable, setDeliverable] = useState<string | null>(null);
  const palette = useAppSelector((s) => s.ui.night) ? NIGHT : DAY;
  const all = crossing.sources.flatMap((source) =>
    source.layers.map((layer) => ({
      source,
      layer,
      key: `${source.name}\n${layer.profile.name}`,
      rule: layerRule(crossing.recipe, source.name, layer.profile.name),
    })),
  );
  const current =
    all.find((l) => l.key === selected) ??
    all.find((l) => isTaken(l.rule) && l.layer.profile.groups.some((g) => g.fields.length > 8)) ??
    all[0];
  const only = current?.key;
  const layers = useMemo(() => {
    const [source, layer] = (only ?? '\n').split('\n');
    return [
      { ...sourceTiles(crossing, () => ({ color: null, ghost: true })), key: 'others' },
      {
        ...sourceTiles(crossing, () => ({ color: null }), true),
        key: 'current',
        visible: (s: string, l: string) => s === source && l === layer,
      },
    ];
  }, [crossing, only]);
  if (!current)
    return (
      <Empty
        title="Nothing to shape yet"
        action={
          <Button asChild>
            <Link to={`/crossings/${crossing.id}/gather`}>Go to Gather</Link>
          </Button>
        }
      >
        Gather a source first. Here you decide which of its objects and data cross, and how.
      </Empty>
    );
  const known = ofRecords(forecasts ?? []);
  const forecast = known.find((f) => f.deliverable === deliverable) ?? known[0];
  const report = forecast?.forecast.rows.find((r) => r.source === current.source.name && r.layer === current.layer.profile.name)?.report;
  const unmatched = (report?.textTransfer?.unmatched ?? []).map((t): Mark => ({ x: t.x, y: t.y, tone: 'amber' }));
  const faults = new Set(
    forecast?.forecast.sets.filter((s) => s.fields.some((f) => f.fault)).flatMap((s) => s.members.map((m) => `${m.source}\n${m.layer}`)),
  );
  const take = (l: (typeof all)[number], on: boolean): void =>
    change(`${on ? 'take' : 'leave'} ${l.layer.profile.name}`, (draft) => takeLayer(draft, l.source.name, l.layer.profile.name, on));
  return (
    <Grid templateColumns="230px minmax(0, 1fr) 262px" minH="0">
      <Side side="left" label="Layers crossing">
        <Flex justify="space-between" align="baseline" px="14px" pt="12px" pb="6px">
          <Text as="h1" textStyle="title">
            Layers crossing
          </Text>
          <Mono color="muted">{all.filter((l) => isTaken(l.rule)).length}</Mono>
        </Flex>
        <Scroll pb="8px">
          {crossing.sources.map((source) => (
            <Box as="section" key={source.id} aria-label={source.name}>
              <Mono display="block" px="14px" pt="6px" pb="3px" color="muted" fontSize="11.5px" truncate>
                {source.name}
              </Mono>
              {all
                .filter((l) => l.source === source)
                .map((l) => {
                  const color = l.layer.plan.strokes[0]?.color ?? '';
                  return (
                    <Flex
                      key={l.key}
                      align="center"
                      gap="8px"
                      h="26px"
                      px="14px"
                      bg={l === current ? 'verdigrisTint' : undefined}
                      borderYWidth="1px"
                      borderColor={l === current ? 'verdigrisLine' : 'transparent'}
                      _hover={{ bg: l === current ? 'verdigrisTint' : 'sunk' }}
                    >
                      <Tick label={`Take ${l.layer.profile.name}`} checked={isTaken(l.rule)} onChange={(on) => take(l, on)} />
                      <Box
                        w="13px"
                        h="3px"
                        flex="none"
                        borderRadius="1px"
                        style={{ background: onPaper(color, palette) }}
                        opacity={isTaken(l.rule) ? 1 : 0.4}
                      />
                      <chakra.button
                        type="button"
                        aria-pressed={l === current}
                        onClick={() => setSelected(l.key)}
                        flex="1"
                        minW="0"
                        textAlign="left"
                        cursor="pointer"
                      >
                        <Mono
                          display="block"
                          truncate
                          fontWeight={l === current ? 600 : 400}
                          color={isTaken(l.rule) ? 'ink' : 'muted'}
                          title={l.layer.profile.name}
                        >
                          {l.layer.profile.name}
                        </Mono>
                      </chakra.button>
                      {faults.has(l.key) && <ToneIcon tone="wrong" size={13} />}
                      <Mono color="muted">{grouped(l.layer.profile.count)}</Mono>
                    </Flex>
                  );
                })}
            </Box>
          ))}
        </Scroll>
        <Flex p="12px" borderTopWidth="1px" borderColor="hairline">
          <Button asChild variant="solid" flex="1">
            <Link to={`/crossings/${crossing.id}/deliver`}>
              Deliver
              <ArrowRight {...ICON} />
            </Link>
          </Button>
        </Flex>
      </Side>
      <Flex as="main" direction="column" minW="0" minH="0">
        <Box flex={folded ? '1' : '0 0 46%'} minH="0">
          {frame && crossing.frameExtent ? (
            <PlanSheet
              crossing={crossing.id}
              frame={frame}
              layers={layers}
              extent={crossing.layerExtents[current.source.name]?.[current.layer.profile.name] ?? crossing.frameExtent}
              fitKey={`${crossing.tileStamp}${current.key}`}
              picked={picked}
              onPick={setPicked}
              marks={unmatched}
              goTo={goTo}
              head={
                <Flex gap="8px" minW="0">
                  <Mono fontWeight={600} truncate>
                    {current.layer.profile.name}
                  </Mono>
                  <Muted truncate>over the other layers that cross</Muted>
                </Flex>
              }
              card={picked && <RecordCard crossing={crossing.id} picked={picked} onClose={() => setPicked(null)} />}
            />
          ) : (
            <Box h="calc(100% - 24px)" m="12px" borderWidth="1px" borderColor="line" bg="map">
              <Empty
                title="Not placed yet"
                action={
                  <Button asChild>
                    <Link to={`/crossings/${crossing.id}/place`}>Go to Place</Link>
                  </Button>
                }
              >
                The map appears once a source is placed. Rules can be set all the same.
              </Empty>
            </Box>
          )}
        </Box>
        <Flex align="center" gap="10px" h="40px" px="16px" borderTopWidth="1px" borderColor="hairline" bg="surface" flex="none">
          <Text as="h2" textStyle="title">
            Field plan
          </Text>
          <Mono truncate>{current.layer.profile.name}</Mono>
          {forecast && crossing.recipe.deliverables.length > 1 && (
            <chakra.select
              aria-label="Deliverable"
              h="26px"
              px="6px"
              borderWidth="1px"
              borderColor="line"
              borderRadius="sheet"
              bg="surface"
              fontSize="12.5px"
              value={forecast.deliverable}
              onChange={(e) => setDeliverable(e.target.value)}
            >
              {crossing.recipe.deliverables.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
            </chakra.select>
          )}
          {forecast && crossing.recipe.deliverables.length === 0 && <Chip>as a shapefile would have it</Chip>}
          <Box flex="1" />
          <Button size="sm" variant="ghost" aria-expanded={!folded} onClick={() => setFolded(!folded)}>
            {folded ? <ChevronUp {...ICON} /> : <ChevronDown {...ICON} />}
            {folded ? 'Unfold' : 'Fold away'}
          </Button>
        </Flex>
        {!folded && (
          <FieldPlan
            key={`${current.key} ${forecast?.deliverable}`}
            source={current.source}
            layer={current.layer}
            rule={current.rule}
            forecast={forecast?.forecast ?? null}
          />
        )}
      </Flex>
      <Side side="right" label="Rules">
        <LayerRules
          key={current.key}
          source={current.source}
          layer={current.layer}
          rule={current.rule}
          forecast={forecast?.forecast ?? null}
          onFind={setGoTo}
        />
      </Side>
    </Grid>
  );
}

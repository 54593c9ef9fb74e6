import { useCallback, useMemo, useState } from 'react';
import { Box, Button, Flex, Grid, Text } from '@chakra-ui/react';
import { ChevronDown, ChevronUp, FileDown, SlidersHorizontal, TableProperties } from 'lucide-react';
import { useLocation } from 'react-router';
import type { SourceState } from '@pontrel/contract/crossing';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import { REASONS } from '@pontrel/core/model/reason';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { layerRules, useChange, useCrossing } from '../crossing/use-crossing';
import { PlanSheet } from '../map/PlanSheet';
import { RecordCard } from '../map/RecordCard';
import type { Mark } from '../map/Marks';
import type { Picked } from '../map/styles';
import { sourceTiles, useFrame } from '../map/use-frame';
import { grouped, plural } from '../components/numbers';
import { Chip, Choice, Empty, ICON, Mono, Muted, Select } from '../components/parts';
import { GoTo } from '../components/GoTo';
import { Steps } from '../components/Steps';
import { Side } from '../components/Side';
import { excludedOf, ofRecords } from '../deliver/fates';
import { useForecastsQuery } from '../state/api';
import { useKept } from '../state/kept';
import { DeriveDialog, type DeriveStart } from '../derive/DeriveDialog';
import { FaultPanel } from '../derive/FaultPanel';
import { LongProfile } from '../derive/LongProfile';
import { useFollowed } from '../derive/use-followed';
import { useFaults } from '../derive/use-faults';
import { setsOf } from './field-rows';
import { FieldPlan } from './FieldPlan';
import { LayerList } from './LayerList';
import { LayerRules } from './LayerRules';
import { jointLayer, type ShapedLayer, shapedLayers } from './shaped-layers';
import { rowOf, type Shaping, ShapingContext } from './shaping';
import { useLeftOut } from './use-left-out';

/** What crosses, and how: rules for one layer or for several at once, beside the map and real values. */
export function Shape() {
  const crossing = useCrossing();
  // other stages send layers along that are to be shaped together
  const { state } = useLocation() as { state: { layers?: readonly string[] } | null };
  const [keys, setKeys] = useState<readonly string[]>(state?.layers ?? []);
  const all = useMemo(() => shapedLayers(crossing), [crossing]);
  const chosen = useMemo(() => {
    const found = all.filter((l) => keys.includes(l.key));
    if (found.length > 0) return found;
    const first = all.find((l) => isTaken(l.rule) && l.layer.profile.groups.some((g) => g.fields.length > 8)) ?? all[0];
    return first ? [first] : [];
  }, [all, keys]);
  if (chosen.length === 0)
    return (
      <Empty
        title="Nothing to shape yet"
        picture={
          <Steps
            of={[
              { icon: FileDown, says: 'a source is gathered' },
              { icon: SlidersHorizontal, says: 'rules say what crosses' },
              { icon: TableProperties, says: 'fields and shapes as wanted' },
            ]}
          />
        }
        action={<GoTo stage="gather" />}
      >
        Gather a source first. Here you decide which of its objects and data cross, and how.
      </Empty>
    );
  return <Rules all={all} chosen={chosen} onChoose={setKeys} />;
}

function Rules({
  all,
  chosen,
  onChoose,
}: {
  all: readonly ShapedLayer[];
  chosen: readonly ShapedLayer[];
  onChoose(keys: readonly string[]): void;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const { data: forecasts } = useForecastsQuery(crossing.id);
  const [goTo, setGoTo] = useState<{ x: number; y: number } | null>(null);
  const [folded, setFolded] = useKept('shape.plan.folded', false);
  const [deliverable, setDeliverable] = useState<string | null>(null);
  const [typed, setTyped] = useState<{ keys: string; where: string } | null>(null);
  const known = ofRecords(forecasts ?? []);
  const current = known.find((f) => f.deliverable === deliverable) ?? known[0];
  const forecast = current?.forecast ?? null;
  const key = chosen.map((l) => l.key).join('\n\n');
  const one = chosen.length === 1 ? chosen[0]! : null;
  const row = (one && rowOf(forecast, one)) ?? null;
  const onTyped = useCallback((where: string | null) => setTyped(where === null ? null : { keys: key, where }), [key]);
  const shaping: Shaping = {
    ...useMemo(() => jointLayer(chosen), [chosen]),
    chosen,
    forecast,
    row,
    report: row?.report ?? null,
    onFind: setGoTo,
    onTyped,
    edit: (label, how, on) =>
      change(label, (draft) => {
        for (const of of chosen) if (!on || on(of)) how(layerRules(draft, of.source.name, of.layer.profile.name), of);
      }),
  };
  const { deliverables } = crossing.recipe;
  // what was worked out has faults to step through, beside the rules that it has like any other
  const worked = chosen.every((l) => l.source === chosen[0]!.source) && chosen[0]!.source.derived ? chosen[0]!.source : null;
  const mendedBy = worked ? MENDED_BY[worked.derived!.operation] : undefined;
  const faults = useFaults(worked, setGoTo);
  const [panel, setPanel] = useKept<'faults' | 'rules'>('shape.derived.panel', 'faults');
  const isNetwork = worked?.derived?.operation === 'network';
  const [strip, setStrip] = useKept<'profile' | 'fields'>('shape.network.strip', 'profile');
  const profiled = isNetwork && strip === 'profile';
  const [picked, setPicked] = useState<Picked | null>(null);
  const followed = useFollowed(profiled && !folded ? worked : null, picked);
  const [deriving, setDeriving] = useState<DeriveStart | null>(null);
  // the name under which it comes, and the source of that name that is there already
  const [awaited, setAwaited] = useState<{ name: string; before: string | null } | null>(null);
  const arrived = awaited === null ? [] : all.filter((l) => l.source.name === awaited.name && l.source.id !== awaited.before);
  if (awaited !== null && arrived.length > 0) {
    setAwaited(null);
    onChoose(arrived.map((l) => l.key));
  }
  return (
    <ShapingContext value={shaping}>
      <Grid templateColumns="auto minmax(0, 1fr) auto" minH="0">
        <LayerList
          all={all}
          chosen={chosen}
          forecast={forecast}
          onChoose={onChoose}
          onDerive={() => setDeriving({ operation: null, chosen })}
        />
        <Flex as="main" direction="column" minW="0" minH="0">
          <Box flex="1 1 62%" minH="180px">
            <ShapedMap
              key={crossing.id}
              chosen={chosen}
              forecast={forecast}
              name={shaping.name}
              typed={typed?.keys === key ? typed.where : null}
              goTo={goTo}
              faults={faults.marks}
              run={followed.profile?.course}
              picked={picked}
              onPick={setPicked}
            />
          </Box>
          <Flex align="center" gap="10px" h="38px" px="16px" borderTopWidth="1px" borderColor="hairline" bg="surface" flex="none">
            {isNetwork ? (
              <Choice
                small
                label="Shown below the map"
                value={strip}
                options={[
                  { value: 'profile', label: 'Long profile' },
                  { value: 'fields', label: 'Field plan' },
                ]}
                onChange={setStrip}
              />
            ) : (
              <Text as="h2" textStyle="title" whiteSpace="nowrap">
                Field plan
              </Text>
            )}
            {profiled ? null : current && deliverables.length > 1 ? (
              <Select
                label="Deliverable"
                width="220px"
                value={current.deliverable}
                options={deliverables.filter((d) => known.some((f) => f.deliverable === d.id)).map((d) => ({ value: d.id, label: d.name }))}
                onChange={setDeliverable}
              />
            ) : (
              <Mono truncate>{shaping.name}</Mono>
            )}
            {forecast && !profiled && deliverables.length === 0 && <Chip>as a shapefile would have it</Chip>}
            {forecast && !profiled && <PlanSum chosen={chosen} forecast={forecast} />}
            <Box flex="1" />
            <Button size="sm" variant="ghost" aria-expanded={!folded} onClick={() => setFolded(!folded)}>
              {folded ? <ChevronUp {...ICON} /> : <ChevronDown {...ICON} />}
              {folded ? 'Unfold' : 'Fold away'}
            </Button>
          </Flex>
          {!folded && (
            <Flex flex={profiled ? '0 0 292px' : '0 1 38%'} minH="0" direction="column">
              {profiled ? (
                <LongProfile key={worked.id} source={worked} followed={followed} onFind={setGoTo} />
              ) : (
                <FieldPlan key={`${key} ${current?.deliverable}`} />
              )}
            </Flex>
          )}
        </Flex>
        <Side side="right" label="Rules" width="276px">
          {worked && (
            <Flex px="14px" pt="12px" flex="none" css={{ '& > *': { flex: 1 } }}>
              <Choice
                label="Shown here"
                value={panel}
                options={[
                  { value: 'faults', label: faults.open > 0 ? `Faults ${grouped(faults.open)}` : 'Faults' },
                  { value: 'rules', label: 'Rules' },
                ]}
                onChange={setPanel}
              />
            </Flex>
          )}
          {worked && panel === 'faults' ? (
            <FaultPanel
              source={worked}
              faults={faults}
              onAgain={() => setDeriving({ operation: null, chosen: [], again: worked })}
              onMend={mendedBy === undefined ? undefined : () => setDeriving({ operation: mendedBy, chosen: madeOf(all, worked) })}
            />
          ) : (
            <LayerRules key={key} onChoose={(wanted) => onChoose([wanted])} />
          )}
        </Side>
      </Grid>
      <DeriveDialog
        start={deriving}
        onClose={() => setDeriving(null)}
        onBegun={(name) => setAwaited({ name, before: deriving?.again?.id ?? null })}
      />
    </ShapingContext>
  );
}

/** What mends the faults that an operation finds in its layers. */
const MENDED_BY: Readonly<Record<string, string>> = { topology: 'mend' };

/** The layers that a source was worked out of. */
const madeOf = (all: readonly ShapedLayer[], { derived }: SourceState): ShapedLayer[] => {
  const used = Object.values(derived!.roles).flat();
  return all.filter((l) => used.some((u) => u.source === l.source.name && u.layer === l.layer.profile.name));
};

/** How many fields of some layers there are, and what becomes of their names. */
function PlanSum({ chosen, forecast }: { chosen: readonly ShapedLayer[]; forecast: Forecast }) {
  const fields = new Map(
    chosen
      .flatMap((l) => setsOf(forecast, l))
      .flatMap((s) => s.fields)
      .map((f) => [f.from, f]),
  );
  const renamed = [...fields.values()].filter((f) => f.changes.some((c) => c.code === 'renamed')).length;
  if (fields.size === 0) return null;
  return (
    <Muted truncate>
      {plural(fields.size, 'field crosses', 'fields cross')}
      {renamed > 0 ? `, ${grouped(renamed)} renamed` : ''}
    </Muted>
  );
}

/** The chosen layers over the others: what crosses in its own colours, what is left out dashed. */
function ShapedMap({
  chosen,
  forecast,
  name,
  typed,
  goTo,
  faults,
  run,
  picked,
  onPick,
}: {
  chosen: readonly ShapedLayer[];
  forecast: Forecast | null;
  name: string;
  typed: string | null;
  goTo: { x: number; y: number } | null;
  /** Places where what was worked out does not hold together. */
  faults: readonly Mark[];
  /** The course of a run that is followed, x and y by twos. */
  run: readonly number[] | undefined;
  picked: Picked | null;
  onPick(picked: Picked | null): void;
}) {
  const crossing = useCrossing();
  const frame = useFrame(crossing);
  const leftOut = useLeftOut(chosen, typed);
  const layers = useMemo(() => {
    const keys = new Set(chosen.map((l) => l.key));
    return [
      {
        ...sourceTiles(crossing, () => ({ color: null, ghost: true })),
        key: 'others',
        // the triangles of a ground would lie over everything
        visible: (s: string) => crossing.sources.find((own) => own.name === s)?.derived?.operation !== 'surface',
      },
      {
        ...sourceTiles(
          crossing,
          (source) => ({ color: null, isOut: (layer, id, entity) => leftOut.why(source, layer, id, entity) !== null }),
          true,
        ),
        key: 'current',
        visible: (s: string, l: string) => keys.has(`${s}\n${l}`),
      },
    ];
  }, [crossing, chosen, leftOut]);
  const extents = chosen.flatMap((l) => crossing.layerExtents[l.source.name]?.[l.layer.profile.name] ?? []);
  const extent = joined(chosen.map((l) => crossing.layerExtents[l.source.name]?.[l.layer.profile.name] ?? null)) ?? crossing.frameExtent;
  if (!frame || !crossing.frameExtent)
    return (
      <Box h="calc(100% - 24px)" m="12px" borderWidth="1px" borderColor="line" bg="map">
        <Empty title="Not placed yet" action={<GoTo stage="place" />}>
          The map appears once a source is placed. Rules can be set all the same.
        </Empty>
      </Box>
    );
  const rows = chosen.flatMap((l) => rowOf(forecast, l) ?? []);
  const crosses = rows.reduce((n, r) => n + r.unchanged + r.changed, 0),
    out = rows.reduce((n, r) => n + excludedOf(r), 0),
    dashed = rows.flatMap((r) => r.effects).reduce((n, e) => n + (e.effect === 'left' && DASHED.has(e.code) ? e.count : 0), 0);
  const unmatched = rows.flatMap((r) => r.report?.textTransfer?.unmatched ?? []).map((t): Mark => ({ x: t.x, y: t.y, tone: 'amber' }));
  return (
    <PlanSheet
      crossing={crossing.id}
      frame={frame}
      layers={layers}
      extent={extent}
      fitKey={`${crossing.tileStamp}${chosen.map((l) => l.key).join()}${extents.length}`}
      picked={picked}
      onPick={onPick}
      marks={[...unmatched, ...faults]}
      course={run ?? []}
      goTo={goTo}
      head={
        <Flex gap="12px" minW="0" align="baseline">
          <Mono fontWeight={600} truncate>
            {name}
          </Mono>
          {leftOut.typed !== null ? (
            <Muted truncate>
              <b>{grouped(leftOut.typed)}</b> of{' '}
              {plural(
                chosen.reduce((n, l) => n + l.layer.profile.count, 0),
                'record',
              )}{' '}
              pass this filter
            </Muted>
          ) : (
            rows.length > 0 && (
              <Muted truncate>
                <b>{grouped(crosses)}</b> cross
                {out > 0 && (
                  <>
                    , <b>{grouped(out)}</b> left out by you
                    {!leftOut.known
                      ? ''
                      : dashed === out
                        ? ', drawn dashed'
                        : dashed > 0
                          ? `, ${grouped(dashed)} of them drawn dashed`
                          : ''}
                  </>
                )}
              </Muted>
            )
          )}
        </Flex>
      }
      card={
        picked && (
          <RecordCard
            crossing={crossing.id}
            picked={picked}
            whyOut={(entity) => leftOut.why(picked.source, picked.layer, picked.id, entity)}
            onClose={() => onPick(null)}
          />
        )
      }
    />
  );
}

/** Reasons that the map knows of each record; an area of interest and duplicates are known by their count. */
const DASHED: ReadonlySet<string> = new Set([REASONS.layer, REASONS.entity, REASONS.filter].map((r) => r.code));

/** The bounds of all that have some. */
function joined(extents: readonly (readonly [number, number, number, number] | null)[]): [number, number, number, number] | null {
  const known = extents.filter((e) => e !== null);
  if (known.length === 0) return null;
  return [
    Math.min(...known.map((e) => e[0])),
    Math.min(...known.map((e) => e[1])),
    Math.max(...known.map((e) => e[2])),
    Math.max(...known.map((e) => e[3])),
  ];
}

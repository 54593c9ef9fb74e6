import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { useCallback, useMemo, useRef, useState } from 'react';
import { Box, Flex, Grid, Text } from '@chakra-ui/react';
import { useSearchParams } from 'react-router';
import type { RecordView, SourceState } from '@pontrel/contract/crossing';
import { layerRule } from '@pontrel/core/crossing/recipe';
import { formatById } from '@pontrel/core/formats/index';
import { joinFields } from '@pontrel/core/content/features/profile';
import { layerRules, useChange, useCrossing } from '../crossing/use-crossing';
import { PlanSheet } from '../map/PlanSheet';
import type { Picked } from '../map/styles';
import { sourceTiles, useFrame } from '../map/use-frame';
import { grouped, plural } from '../components/numbers';
import { FilterInput } from '../components/FilterInput';
import { Empty, Muted, Note, Select } from '../components/parts';
import { GoTo } from '../components/GoTo';
import { messageOfError, useLazyRecordQuery, useLazyRecordsQuery, useRecordIdsQuery, useRecordsQuery } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';
import { ChoiceBar } from './ChoiceBar';
import { fieldColumns } from './columns';
import { BY_NUMBER, MOST_PICKED, picksFilter, tellingFields } from './choose';
import { type Tool, ToolChoice, useDrawnFilter } from './MapChoice';
import { type Order, RecordTable } from './RecordTable';

/** Every record of a layer, as a table beside the map. */
export function Records() {
  const crossing = useCrossing();
  const [params, setParams] = useSearchParams();
  const all = crossing.sources.flatMap((source) =>
    source.layers.map((layer) => ({ source, layer, key: `${source.name}\n${layer.profile.name}` })),
  );
  const current = all.find((l) => l.source.name === params.get('source') && l.layer.profile.name === params.get('layer')) ?? all[0];
  if (!current)
    return (
      <Empty title="No records yet" action={<GoTo stage="gather" />}>
        Gather a source first. Here every record of a layer stands in a table.
      </Empty>
    );
  return (
    <LayerRecords
      key={current.key}
      source={current.source}
      layer={current.layer}
      layers={all.map((l) => ({ value: l.key, label: `${l.layer.profile.name} of ${l.source.name}` }))}
      chosen={current.key}
      onLayer={(key) => {
        const [source, layer] = key.split('\n');
        setParams({ source: source!, layer: layer! });
      }}
    />
  );
}

const ALL = '',
  WRITTEN = '\n',
  RULE = '\nrule';

function LayerRecords({
  source,
  layer,
  layers,
  chosen,
  onLayer,
}: {
  source: SourceState;
  layer: SourceState['layers'][number];
  layers: { value: string; label: string }[];
  chosen: string;
  onLayer(key: string): void;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const dispatch = useAppDispatch();
  const frame = useFrame(crossing);
  const { name } = layer.profile;
  const rule = layerRule(crossing.recipe, source.name, name);
  const fields = useMemo(() => joinFields(layer.profile.groups), [layer]);
  const names = useMemo(() => fields.map((f) => f.name), [fields]);
  const columns = useMemo(() => fieldColumns(fields), [fields]);
  const [order, setOrder] = useState<Order>({});
  const [picked, setPicked] = useState<Picked | null>(null);
  const [goTo, setGoTo] = useState<{ x: number; y: number } | null>(null);
  const [tool, setTool] = useState<Tool>('look');
  const [ticked, setTicked] = useState<ReadonlyMap<number, RecordView>>(new Map());
  const [by, setBy] = useState<string | null>(null);
  const lastRow = useRef(-1);
  const [askRecord] = useLazyRecordQuery();
  const [askRecords] = useLazyRecordsQuery();
  const { where } = order;
  const first = useRecordsQuery({ id: crossing.id, source: source.id, layer: name, offset: 0, limit: 100, ...order });
  const { currentData: taken } = useRecordIdsQuery(
    { id: crossing.id, source: source.id, layer: name, where: where ?? '' },
    { skip: where === undefined },
  );
  const isOut = useMemo(() => {
    const ids = where !== undefined && taken?.ids ? new Set(taken.ids) : null;
    return ids && ((_layer: string, id: number) => !ids.has(id));
  }, [where, taken]);
  const standing = useMemo(() => new Set(ticked.keys()), [ticked]);
  const sheet = useMemo(
    () => [
      { ...sourceTiles(crossing, () => ({ color: null, ghost: true }), true), key: 'others', pickable: false },
      {
        ...sourceTiles(crossing, () => ({ color: null, standing, ...(isOut ? { isOut } : {}) }), true),
        key: 'own',
        visible: (s: string, l: string) => s === source.name && l === name,
      },
    ],
    [crossing, source.name, name, standing, isOut],
  );

  const setWhere = useCallback(
    (text: string): void => setOrder(({ where: _before, ...rest }) => (text === '' ? rest : { ...rest, where: text })),
    [],
  );
  const tick = useCallback(
    (records: readonly RecordView[], on: boolean): void =>
      setTicked((was) => {
        const next = new Map(was);
        for (const r of records) {
          if (!on) next.delete(r.id);
          else if (next.size < MOST_PICKED) next.set(r.id, r);
        }
        if (on && next.size === MOST_PICKED)
          queueMicrotask(() =>
            dispatch(
              noticeGiven({
                tone: 'caution',
                message: `No more than ${grouped(MOST_PICKED)} records are picked one by one. Take a box, an outline or a filter for more.`,
              }),
            ),
          );
        return next;
      }),
    [dispatch],
  );
  const find = useCallback(
    (r: RecordView): void => {
      setPicked({ source: source.name, layer: name, id: r.id });
      if (r.inFrame) setGoTo({ x: r.inFrame[0], y: r.inFrame[1] });
    },
    [source.name, name],
  );
  const onTick = useCallback(
    (r: RecordView, row: number, on: boolean, span: boolean): void => {
      const before = lastRow.current;
      lastRow.current = row;
      if (!span || before < 0 || before === row) {
        tick([r], on);
        return;
      }
      const offset = Math.min(before, row),
        limit = Math.min(200, Math.abs(before - row) + 1);
      void askRecords({ id: crossing.id, source: source.id, layer: name, offset, limit, ...order }, true)
        .unwrap()
        .then(({ records }) => tick(records, on));
    },
    [tick, askRecords, crossing.id, source.id, name, order],
  );
  const onMap = useCallback(
    (p: Picked | null): void => {
      if (tool !== 'pick') setPicked(p);
      else if (p && p.source === source.name && p.layer === name)
        void askRecord({ id: crossing.id, source: p.source, record: p.id }, true)
          .unwrap()
          .then((r) =>
            setTicked((was) => {
              const next = new Map(was);
              if (!next.delete(r.id) && next.size < MOST_PICKED) next.set(r.id, r);
              return next;
            }),
          );
    },
    [tool, source.name, name, askRecord, crossing.id],
  );
  const drawn = useDrawnFilter(
    tool,
    frame,
    setWhere,
    useCallback(() => setTool('look'), []),
  );

  const placed = frame !== undefined && (crossing.recipe.sources[source.name]?.placement ?? null) !== null;
  const edit = (label: string, how: (r: LayerRule) => void): void => change(label, (draft) => how(layerRules(draft, source.name, name)));
  const kept = rule.selections ?? [];
  const telling = useMemo(() => tellingFields([...ticked.values()], names), [ticked, names]);
  const key = formatById(source.format)?.features.key;
  const known = by !== null && (by === BY_NUMBER || telling.includes(by)) ? by : (telling.find((f) => f === key) ?? BY_NUMBER);
  const filter = ticked.size > 0 ? picksFilter(ticked.values(), known) : where;
  const { currentData: byField } = useRecordIdsQuery(
    { id: crossing.id, source: source.id, layer: name, where: filter ?? '' },
    { skip: ticked.size === 0 || known === BY_NUMBER },
  );
  const choices = [
    { value: ALL, label: 'all records' },
    ...(where !== undefined && where !== rule.where && !kept.some((s) => s.where === where)
      ? [{ value: WRITTEN, label: 'as written' }]
      : []),
    ...(rule.where === undefined ? [] : [{ value: RULE, label: 'what crosses' }]),
    ...kept.map((s) => ({ value: s.name, label: s.name })),
  ];
  const choice = where === undefined ? ALL : (kept.find((s) => s.where === where)?.name ?? (where === rule.where ? RULE : WRITTEN));
  return (
    <Grid as="main" templateRows="auto minmax(0, 1fr) auto" minH="0" minW="0" bg="surface">
      <Flex align="flex-start" gap="12px" px="16px" py="8px" borderBottomWidth="1px" borderColor="hairline">
        <Text as="h1" textStyle="title" lineHeight="28px">
          Records
        </Text>
        <Select label="Layer" width="240px" value={chosen} options={layers} onChange={onLayer} />
        <Box flex="1" minW="0">
          <FilterInput
            label="Only records where"
            value={where ?? ''}
            hint="all; a filter such as NAME LIKE 'A%'"
            of={{ crossing: crossing.id, source: source.id, layer: name, fields, placed }}
            onChange={setWhere}
          />
        </Box>
        {choices.length > 1 && (
          <Select
            label="Kept selections"
            width="140px"
            value={choice}
            options={choices}
            onChange={(value) => setWhere(value === RULE ? rule.where! : (kept.find((s) => s.name === value)?.where ?? ''))}
          />
        )}
        <Muted lineHeight="28px" whiteSpace="nowrap">
          {first.currentData
            ? where
              ? `${grouped(first.currentData.total)} of ${plural(layer.profile.count, 'record')}`
              : plural(first.currentData.total, 'record')
            : 'looking'}
        </Muted>
      </Flex>
      <Grid
        minH="0"
        {...(placed
          ? {
              templateColumns: { base: 'minmax(0, 1fr)', lg: 'minmax(0, 46%) minmax(0, 1fr)' },
              templateRows: { base: 'minmax(180px, 42%) minmax(0, 1fr)', lg: 'minmax(0, 1fr)' },
            }
          : {})}
      >
        {placed && (
          <Box minH="0" bg="paper" borderColor="hairline" borderRightWidth="1px">
            <PlanSheet
              crossing={crossing.id}
              frame={frame}
              layers={sheet}
              extent={crossing.layerExtents[source.name]?.[name] ?? crossing.frameExtent}
              fitKey={`${crossing.tileStamp}${chosen}`}
              picked={picked}
              onPick={onMap}
              goTo={goTo}
              taking={drawn.taking}
              outline={drawn.outline}
              head={<ToolChoice tool={tool} onChange={setTool} />}
              tools={drawn.taking ? <ToolChoice tool={tool} onChange={setTool} /> : null}
            />
          </Box>
        )}
        <Flex direction="column" minH="0" minW="0">
          {first.error && (
            <Note tone="wrong" m="8px 16px">
              {messageOfError(first.error)}
            </Note>
          )}
          <RecordTable
            crossing={crossing.id}
            source={source}
            layer={name}
            columns={columns}
            total={first.data?.total ?? 0}
            order={order}
            picked={picked}
            ticked={ticked}
            onPick={find}
            onTick={onTick}
            onSort={(field, to) =>
              setOrder((o) => {
                const { sort, descending, ...rest } = o;
                if (to) return { ...rest, sort: field, ...(to === 'descending' ? { descending: 'yes' as const } : {}) };
                return sort !== field ? { ...rest, sort: field } : descending ? rest : { ...rest, sort: field, descending: 'yes' };
              })
            }
          />
        </Flex>
      </Grid>
      <ChoiceBar
        key={filter}
        picked={ticked.size}
        takes={ticked.size > 0 ? (byField?.ids?.length ?? null) : null}
        filtered={where === undefined || !first.currentData ? null : first.currentData.total}
        total={layer.profile.count}
        isRule={filter !== undefined && filter === rule.where}
        keptAs={kept.find((s) => s.where === filter)?.name ?? null}
        by={known}
        fields={telling}
        onBy={setBy}
        onShow={() => {
          setWhere(filter!);
          setTicked(new Map());
        }}
        onCross={() => edit(`only some records of ${name}`, (r) => void (r.where = filter!))}
        onKeep={(as) =>
          edit(
            `keep ${as}`,
            (r) => void (r.selections = [...(r.selections ?? []).filter((s) => s.name !== as), { name: as, where: filter! }]),
          )
        }
        onForget={() =>
          edit(`forget a selection of ${name}`, (r) => {
            r.selections = r.selections!.filter((s) => s.where !== filter);
            if (r.selections.length === 0) delete r.selections;
          })
        }
        onClear={() => (ticked.size > 0 ? setTicked(new Map()) : setWhere(''))}
      />
    </Grid>
  );
}

import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Text } from '@chakra-ui/react';
import { ArrowDown, ArrowUp } from 'lucide-react';
import { Link, useSearchParams } from 'react-router';
import type { RecordView, SourceState } from '@pontrel/contract/crossing';
import { compileFilter } from '@pontrel/core/filter/evaluate';
import { joinFields } from '@pontrel/core/model/profile';
import { useCrossing } from '../crossing/use-crossing';
import { PlanSheet } from '../map/PlanSheet';
import type { Picked } from '../map/styles';
import { sourceTiles, useFrame } from '../map/use-frame';
import { grouped, plural, shown } from '../parts/numbers';
import { Empty, ICON, Mono, Muted, Note, Select } from '../parts/parts';
import { TypedText } from '../parts/Typed';
import { messageOfError, useRecordsQuery } from '../state/api';

const ROW = 27, PAGE = 100, COLUMN = 132, FIRST = 74;

/** Every record of a layer, as a table beside the map. */
export function Records() {
  const crossing = useCrossing();
  const [params, setParams] = useSearchParams();
  const all = crossing.sources.flatMap((source) => source.layers.map((layer) => ({ source, layer, key: `${source.name}\n${layer.profile.name}` })));
  const current = all.find((l) => l.source.name === params.get('source') && l.layer.profile.name === params.get('layer')) ?? all[0];
  if (!current) return <Empty title="No records yet" action={<Button asChild><Link to={`/crossings/${crossing.id}/gather`}>Go to Gather</Link></Button>}>Gather a source first. Here every record of a layer stands in a table.</Empty>;
  return <LayerRecords key={current.key} source={current.source} layer={current.layer} layers={all.map((l) => ({ value: l.key, label: `${l.layer.profile.name} of ${l.source.name}` }))} chosen={current.key} onLayer={(key) => {
    const [source, layer] = key.split('\n');
    setParams({ source: source!, layer: layer! });
  }} />;
}

interface Order { sort?: string; descending?: 'yes'; where?: string }

function LayerRecords({ source, layer, layers, chosen, onLayer }: { source: SourceState; layer: SourceState['layers'][number]; layers: { value: string; label: string }[]; chosen: string; onLayer(key: string): void }) {
  const crossing = useCrossing();
  const frame = useFrame(crossing);
  const fields = useMemo(() => joinFields(layer.profile.groups).map((f) => f.name), [layer]);
  const [order, setOrder] = useState<Order>({});
  const [picked, setPicked] = useState<Picked | null>(null);
  const [goTo, setGoTo] = useState<{ x: number; y: number } | null>(null);
  const { name } = layer.profile;
  const first = useRecordsQuery({ id: crossing.id, source: source.id, layer: name, offset: 0, limit: PAGE, ...order });
  const sheet = useMemo(() => [{ ...sourceTiles(crossing, () => ({ color: null, ghost: true }), true), key: 'others' }, { ...sourceTiles(crossing, () => ({ color: null }), true), key: 'own', visible: (s: string, l: string) => s === source.name && l === name }], [crossing, source.name, name]);
  const pick = useCallback((r: RecordView): void => {
    setPicked({ source: source.name, layer: name, id: r.id });
    if (r.inFrame) setGoTo({ x: r.inFrame[0], y: r.inFrame[1] });
  }, [source.name, name]);
  const placed = frame && crossing.recipe.sources[source.name]?.placement;
  const fault = (text: string): string | null => {
    const compiled = text.trim() === '' ? null : compileFilter(text, fields);
    return typeof compiled === 'string' ? compiled : null;
  };
  return (
    <Grid templateRows={placed ? 'minmax(180px, 38%) minmax(0, 1fr)' : 'minmax(0, 1fr)'} minH="0">
      {placed && <Box minH="0"><PlanSheet crossing={crossing.id} frame={frame} layers={sheet} extent={crossing.layerExtents[source.name]?.[name] ?? crossing.frameExtent} fitKey={`${crossing.tileStamp}${chosen}`} picked={picked} onPick={setPicked} goTo={goTo} head={<Muted truncate>choose a row to find it on the map</Muted>} /></Box>}
      <Flex as="main" direction="column" minH="0" minW="0" borderTopWidth={placed ? '1px' : 0} borderColor="hairline" bg="surface">
        <Flex align="center" gap="12px" px="16px" py="8px" flex="none">
          <Text as="h1" textStyle="title">Records</Text>
          <Select label="Layer" width="300px" value={chosen} options={layers} onChange={onLayer} />
          <Box w="360px"><TypedText label="Only records where" value={order.where ?? ''} hint="all; a filter such as NAME LIKE 'A%'" maxLength={4000} fault={fault} onChange={(text) => setOrder((o) => { const { where: _w, ...rest } = o; return text.trim() === '' ? rest : { ...rest, where: text.trim() }; })} /></Box>
          <Box flex="1" />
          <Muted>{first.currentData ? (order.where ? `${grouped(first.currentData.total)} of ${plural(layer.profile.count, 'record')}` : plural(first.currentData.total, 'record')) : 'looking'}</Muted>
        </Flex>
        {first.error && <Note tone="wrong" mx="16px" mb="8px">{messageOfError(first.error)}</Note>}
        <Table crossing={crossing.id} source={source} layer={name} fields={fields} total={first.data?.total ?? 0} order={order} picked={picked} onPick={pick}
          onSort={(field) => setOrder((o) => { const { sort, descending, ...rest } = o; return sort !== field ? { ...rest, sort: field } : descending ? rest : { ...rest, sort: field, descending: 'yes' }; })} />
      </Flex>
    </Grid>
  );
}

/** Rows are there only while they can be seen; pages of them are asked for as they come into sight. */
function Table({ crossing, source, layer, fields, total, order, picked, onPick, onSort }: { crossing: string; source: SourceState; layer: string; fields: string[]; total: number; order: Order; picked: Picked | null; onPick(r: RecordView): void; onSort(field: string): void }) {
  const holder = useRef<HTMLDivElement>(null);
  const [seen, setSeen] = useState({ top: 0, height: 600 });
  useEffect(() => {
    const el = holder.current!;
    const look = (): void => setSeen({ top: el.scrollTop, height: el.clientHeight });
    look();
    const watch = new ResizeObserver(look);
    watch.observe(el);
    el.addEventListener('scroll', look, { passive: true });
    return () => {
      watch.disconnect();
      el.removeEventListener('scroll', look);
    };
  }, []);
  useEffect(() => {
    holder.current?.scrollTo({ top: 0 });
  }, [order]);
  // a page cannot be scrolled further than this many pixels in every browser
  const scale = Math.max(1, (total * ROW) / MOST_PIXELS);
  const top = seen.top * scale;
  const from = Math.max(0, Math.floor(top / ROW) - 4), to = Math.min(total, Math.ceil((top + seen.height) / ROW) + 4);
  const pages = Array.from({ length: Math.max(0, Math.ceil(to / PAGE) - Math.floor(from / PAGE)) }, (_, k) => Math.floor(from / PAGE) + k);
  const width = FIRST + fields.length * COLUMN;
  return (
    <Box ref={holder} flex="1" minH="0" overflow="auto" tabIndex={0} role="region" aria-label={`Records of ${layer}`}>
      <Box position="relative" minW={`${width}px`} h={`${Math.min(total * ROW, MOST_PIXELS) + ROW}px`} role="table" aria-rowcount={total + 1} aria-label={`Records of ${layer}`}>
        <Flex role="row" position="sticky" top="0" zIndex="1" h={`${ROW}px`} bg="surface" borderBottomWidth="1px" borderColor="line" pl="16px">
          <Box role="columnheader" w={`${FIRST - 16}px`} flex="none" alignSelf="center"><Muted textStyle="small">place</Muted></Box>
          {fields.map((f) => (
            <Box key={f} role="columnheader" aria-sort={order.sort === f ? (order.descending ? 'descending' : 'ascending') : 'none'} w={`${COLUMN}px`} flex="none">
              <chakra.button type="button" display="flex" alignItems="center" gap="4px" w="100%" h="100%" px="6px" cursor="pointer" textStyle="small" fontWeight={600} title={`Order by ${f}`} onClick={() => onSort(f)}><Box as="span" truncate>{f}</Box>{order.sort === f && (order.descending ? <ArrowDown {...ICON} size={12} /> : <ArrowUp {...ICON} size={12} />)}</chakra.button>
            </Box>
          ))}
        </Flex>
        {pages.map((page) => <PageRows key={page} query={{ id: crossing, source: source.id, layer, offset: page * PAGE, limit: PAGE, ...order }} from={from} to={to} shift={seen.top - top} fields={fields} picked={picked} onPick={onPick} />)}
      </Box>
    </Box>
  );
}

const MOST_PIXELS = 8_000_000;

function PageRows({ query, from, to, shift, fields, picked, onPick }: { query: Parameters<typeof useRecordsQuery>[0] & { offset: number }; from: number; to: number; shift: number; fields: string[]; picked: Picked | null; onPick(r: RecordView): void }) {
  const { data } = useRecordsQuery(query);
  return (data?.records ?? []).map((r, k) => {
    const row = query.offset + k;
    if (row < from || row >= to) return null;
    const on = picked?.id === r.id && picked.source === r.source;
    return (
      <Flex key={r.id} role="row" aria-rowindex={row + 2} aria-selected={on} tabIndex={0} position="absolute" left="0" right="0" top={`${ROW + row * ROW + shift}px`} h={`${ROW}px`} pl="16px" align="center" cursor="pointer" bg={on ? 'oxideTint' : undefined} borderBottomWidth="1px" borderColor="hairline" _hover={{ bg: on ? 'oxideTint' : 'sunk' }}
        onClick={() => onPick(r)} onKeyDown={(e) => { if (e.key === 'Enter' || e.key === ' ') { e.preventDefault(); onPick(r); } }}>
        <Box role="cell" w={`${FIRST - 16}px`} flex="none"><Mono color="muted" fontSize="11.5px">{grouped(r.place)}</Mono></Box>
        {fields.map((f) => <Box key={f} role="cell" w={`${COLUMN}px`} flex="none" px="6px"><Mono display="block" fontSize="11.5px" truncate textAlign={typeof r.attributes[f] === 'number' ? 'right' : 'left'} title={r.attributes[f] === undefined || r.attributes[f] === null ? '' : String(r.attributes[f])}>{r.attributes[f] === undefined || r.attributes[f] === null ? '' : shown(r.attributes[f])}</Mono></Box>)}
      </Flex>
    );
  });
}

import type { ControlPoint, Placement } from '@pontrel/core/placement/placement';
import { useEffect, useMemo, useState } from 'react';
import { Box, Button, chakra, Flex, Grid, Input, Text, Textarea } from '@chakra-ui/react';
import { Crosshair, X } from 'lucide-react';
import type { SourceState } from '@pontrel/contract/crossing';
import { metresPerUnit } from '@pontrel/core/crs/crs';
import { messageOf } from '@pontrel/core/model/problem';
import { type Fit, FIT_KINDS, type FitKind, fitPairs, FITS } from '@pontrel/core/placement/fit';
import { gridScaleAt } from '@pontrel/core/placement/placement-transform';
import { smellOf } from '@pontrel/core/placement/ratio';
import { useCrossing } from '../crossing/use-crossing';
import { lengthText, useLengthUnit } from '../components/length-unit';
import { ICON, Mono, Muted, Note, Section, Select, Tick } from '../components/parts';
import { readPairs } from './read-pairs';
import type { PlaceMap } from './use-place-map';

/** A pair while it is typed: numbers as texts. */
interface Row {
  from: [string, string];
  to: [string, string];
  name: string;
  out: boolean;
}

const EMPTY: Row = { from: ['', ''], to: ['', ''], name: '', out: false };

function rowOf(p: ControlPoint): Row {
  return { from: [String(p.from[0]), String(p.from[1])], to: [String(p.to[0]), String(p.to[1])], name: p.name ?? '', out: p.out === true };
}

function pairOf(row: Row, i: number): ControlPoint | null {
  const numbers = [...row.from, ...row.to].map((t) =>
    t.trim() === '' ? NaN : Number(t.replace(/[\s\u00a0\u202f]/g, '').replace(',', '.')),
  );
  if (numbers.some((n) => !Number.isFinite(n))) return null;
  return {
    from: [numbers[0]!, numbers[1]!],
    to: [numbers[2]!, numbers[3]!],
    name: row.name || `${i + 1}`,
    ...(row.out ? { out: true } : {}),
  };
}

/** Marks of the drawing and where they are; the fit, what is left at each, and what its scale tells. */
export function ControlPoints({
  source,
  map,
  unit_m,
  onWant,
}: {
  source: SourceState;
  map: PlaceMap;
  unit_m: number | null;
  onWant(placement: Placement | null): void;
}) {
  const unit = useLengthUnit();
  const crossing = useCrossing();
  const what = source.images ? 'image' : 'drawing';
  const held = crossing.recipe.sources[source.name]?.placement?.fit;
  const [kind, setKind] = useState<FitKind>(held?.kind ?? 'similarity');
  const [rows, setRows] = useState<Row[]>(held ? held.pairs.map(rowOf) : []);
  const [times, setTimes] = useState('100');
  const [pasting, setPasting] = useState<string | null>(null);
  const [pasteProblem, setPasteProblem] = useState<string | null>(null);
  const frameId = crossing.frame?.id ?? null;
  const pairs = useMemo(() => rows.map(pairOf), [rows]);
  const whole = useMemo(() => pairs.filter((p) => p !== null), [pairs]);
  const { fit, problem } = useMemo((): { fit: Fit | null; problem: string | null } => {
    if (whole.length === 0) return { fit: null, problem: null };
    try {
      return { fit: fitPairs(kind, whole), problem: null };
    } catch (error) {
      return { fit: null, problem: messageOf(error) };
    }
  }, [kind, whole]);
  const { preview, overlay, toMap, frame } = map;
  useEffect(() => {
    const placement = fit && frameId ? { crs: frameId, unit_m, fit: { kind, pairs: whole } } : null;
    preview(placement);
    onWant(placement);
  }, [fit, frameId, unit_m, kind, whole, preview, onWant]);
  useEffect(() => {
    const exaggeration = Number(times);
    const at = whole.map((p) => toMap(p.to));
    const [sx, sy] = toMap([1, 1]);
    overlay({
      marks: whole.map((p, i) => ({ x: at[i]![0], y: at[i]![1], tone: p.out ? 'amber' : 'verdigris', label: p.name ?? '' })),
      vectors: fit
        ? fit.residuals.map((r, i) => ({ x: at[i]![0], y: at[i]![1], dx: sx * r.dx * exaggeration, dy: sy * r.dy * exaggeration }))
        : [],
      onDrag: (mark, x, y) => {
        const index = pairs.indexOf(whole[mark]!);
        const [px, py] = toMap([x, y]);
        setRows((old) => old.map((r, i) => (i === index ? { ...r, to: [px.toFixed(3), py.toFixed(3)] } : r)));
      },
    });
  }, [whole, pairs, fit, times, overlay, toMap]);
  useEffect(() => () => overlay({ marks: [], vectors: [] }), [overlay]);
  if (!frame || !frameId)
    return (
      <Section title="Control points">
        <Note tone="caution">Choose a reference frame first, above: control points lead from the {what} into it.</Note>
      </Section>
    );
  const metres = metresPerUnit(frame, null);
  const set = (i: number, change: Partial<Row>): void => setRows((old) => old.map((r, k) => (k === i ? { ...r, ...change } : r)));
  const add = async (): Promise<void> => {
    const from = await map.take(`Mark ${rows.length + 1}: click it in the ${what}`, 'drawing');
    if (!from) return;
    // a pixel is not known to more than its hundredth; a vertex that was caught is
    const said = (v: number): string => (source.images ? v.toFixed(2) : String(v));
    const row: Row = { ...EMPTY, from: [said(from[0]), said(from[1])] };
    setRows((old) => [...old, row]);
    // with nothing in the frame there is nothing to click on: its position is typed
    if (!crossing.frameExtent) return;
    const to = await map.take(`Mark ${rows.length + 1}: click where it is, or press Escape and type it`, 'map');
    if (to) setRows((old) => old.map((r) => (r === row ? { ...r, to: [to[0].toFixed(3), to[1].toFixed(3)] } : r)));
  };
  const paste = (): void => {
    try {
      const read = readPairs(pasting ?? '');
      setRows((old) => [...old, ...read.map(rowOf)]);
      setPasting(null);
      setPasteProblem(null);
    } catch (error) {
      setPasteProblem(messageOf(error));
    }
  };
  const middle = whole[0]?.to;
  const gridScale = middle ? gridScaleAt(frame, middle[0], middle[1]) : null;
  const taken_m = unit_m ?? metres;
  const smell =
    fit && !source.images && kind !== 'rigid' ? smellOf((fit.scale * metres) / taken_m, taken_m, fit.scaleSpread, gridScale) : null;
  return (
    <Section title="Control points" aside={`into ${crossing.frame!.label}`}>
      <Select
        label="Kind of fit"
        value={kind}
        width="100%"
        onChange={(k) => setKind(k)}
        options={FIT_KINDS.map((k): { value: FitKind; label: string } => ({
          value: k,
          label: `${FITS[k].name}, from ${FITS[k].points} points`,
        }))}
      />
      <Muted textStyle="small" display="block" mt="3px" mb="7px">
        {FITS[kind].note}.
      </Muted>
      {fit && (
        <Box mb="9px">
          <Grid templateColumns="1fr auto" rowGap="2px" aria-label="Result of the fit" role="group">
            <Muted>RMS of the residuals</Muted>
            <Mono fontWeight={600}>
              {fit.spare === 0 ? 'not checked' : lengthText(fit.rms * metres, unit)}
              {fit.spare > 0 && source.images && ` · ${(fit.rms / fit.scale).toFixed(2)} px`}
            </Mono>
            <Muted>{source.images ? 'pixel on the ground' : 'scale'}</Muted>
            <Mono>{source.images ? lengthText(fit.scale * metres, unit) : fit.scale.toPrecision(9)}</Mono>
            <Muted>turned by</Muted>
            <Mono>{fit.rotation.toFixed(5)}°</Mono>
          </Grid>
          {fit.spare === 0 && kind !== 'rubber-sheet' && (
            <Note tone="caution" mt="7px">
              {FITS[kind].points === 2
                ? 'Two points fit always: nothing checks them.'
                : 'As many points as the fit needs: nothing checks them.'}{' '}
              Add one more.
            </Note>
          )}
          {smell && (
            <Note tone="caution" mt="7px">
              {smell}
            </Note>
          )}
          {fit.residuals.length > 0 && fit.spare > 0 && (
            <Flex align="center" justify="space-between" mt="7px">
              <Muted>Residuals drawn at</Muted>
              <Select
                label="Exaggeration"
                value={times}
                width="110px"
                onChange={setTimes}
                options={['1', '10', '100', '1000', '10000'].map((v) => ({ value: v, label: `× ${v}` }))}
              />
            </Flex>
          )}
        </Box>
      )}
      {rows.length > 0 && (
        <Box role="table" aria-label="Control points">
          <Grid role="row" templateColumns="34px 1fr 1fr 52px 22px" columnGap="4px" mb="2px">
            <span role="columnheader" />
            <Muted role="columnheader" textStyle="small">
              in the {what}
            </Muted>
            <Muted role="columnheader" textStyle="small">
              in the frame
            </Muted>
            <Muted role="columnheader" textStyle="small" textAlign="right">
              off by
            </Muted>
            <span role="columnheader" />
          </Grid>
          {rows.map((row, i) => {
            const residual = fit && pairs[i] ? fit.residuals[whole.indexOf(pairs[i])] : null;
            const cell = (side: 'from' | 'to', k: 0 | 1, label: string) => (
              <Input
                h="22px"
                px="4px"
                fontFamily="mono"
                fontSize="11px"
                aria-label={label}
                value={row[side][k]}
                onChange={(e) => {
                  const next: [string, string] = [...row[side]];
                  next[k] = e.target.value;
                  set(i, { [side]: next });
                }}
              />
            );
            return (
              <Grid
                role="row"
                key={i}
                templateColumns="34px 1fr 1fr 52px 22px"
                columnGap="4px"
                py="4px"
                borderTopWidth="1px"
                borderColor="hairline"
                alignItems="center"
                opacity={row.out ? 0.65 : 1}
              >
                <Box role="cell">
                  <Tick label={`Mark ${i + 1} takes part`} checked={!row.out} onChange={(on) => set(i, { out: !on })} />
                  <Mono display="block" fontSize="10.5px" color="muted" truncate>
                    {row.name || i + 1}
                  </Mono>
                </Box>
                <Grid role="cell" gap="2px">
                  {cell('from', 0, `Mark ${i + 1} x`)}
                  {cell('from', 1, `Mark ${i + 1} y`)}
                </Grid>
                <Grid role="cell" gap="2px">
                  {cell('to', 0, `Mark ${i + 1} easting`)}
                  {cell('to', 1, `Mark ${i + 1} northing`)}
                </Grid>
                <Mono
                  role="cell"
                  fontSize="11px"
                  textAlign="right"
                  color={residual && fit && fit.spare > 0 && residual.d > 2.5 * fit.rms ? 'madderInk' : 'ink'}
                >
                  {residual ? (residual.d * metres < 5e-7 ? '0' : lengthText(residual.d * metres, unit)) : '–'}
                  {residual && fit && source.images && (
                    <Muted display="block" fontSize="10.5px">
                      {(residual.d / fit.scale).toFixed(2)} px
                    </Muted>
                  )}
                </Mono>
                <Box role="cell">
                  <chakra.button
                    type="button"
                    aria-label={`Remove mark ${i + 1}`}
                    minW="22px"
                    minH="24px"
                    display="grid"
                    placeItems="center"
                    cursor="pointer"
                    color="muted"
                    onClick={() => setRows((old) => old.filter((_r, k) => k !== i))}
                  >
                    <X {...ICON} size={13} />
                  </chakra.button>
                </Box>
              </Grid>
            );
          })}
        </Box>
      )}
      {rows.length === 0 && <Text mb="6px">A mark is a place that you know in both: click it in the {what}, then where it is.</Text>}
      <Flex gap="6px" mt="7px">
        {map.taking ? (
          <Button size="sm" onClick={map.stopTaking}>
            Stop
          </Button>
        ) : (
          <Button size="sm" onClick={() => void add()}>
            <Crosshair {...ICON} size={14} />
            Click a mark
          </Button>
        )}
        <Button size="sm" onClick={() => setRows((old) => [...old, EMPTY])}>
          Type one
        </Button>
        <Button size="sm" aria-expanded={pasting !== null} onClick={() => setPasting(pasting === null ? '' : null)}>
          Paste
        </Button>
      </Flex>
      {pasting !== null && (
        <Box mt="7px">
          <Textarea
            aria-label="Pairs to paste"
            rows={4}
            fontFamily="mono"
            fontSize="11px"
            placeholder={'name x y easting northing\none pair a line; the name may be left out'}
            value={pasting}
            onChange={(e) => setPasting(e.target.value)}
          />
          {pasteProblem && (
            <Text color="madderInk" textStyle="small" role="alert">
              {pasteProblem}
            </Text>
          )}
          <Button size="sm" mt="5px" onClick={paste}>
            Add these pairs
          </Button>
        </Box>
      )}
      {problem && whole.length > 0 && (
        <Note tone={whole.length < FITS[kind].points ? 'caution' : 'wrong'} mt="8px">
          {problem}
        </Note>
      )}
    </Section>
  );
}

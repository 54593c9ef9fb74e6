import type { Placement } from '@pontrel/core/placement/placement';
import { useEffect, useState } from 'react';
import { Box, chakra, Flex, Grid, Text } from '@chakra-ui/react';
import { LOCAL } from '@pontrel/core/crs/local-plane';
import { unitsOfLength } from '@pontrel/core/placement/ratio';
import type { Candidate, SourceState } from '@pontrel/contract/crossing';
import { useCrossing } from '../crossing/use-crossing';
import { Locator } from '../map/Locator';
import { dms } from '../map/ticks';
import { crsLabel, isLocalPlane } from '../components/crs-label';
import { CrsSearch } from '../components/CrsSearch';
import { Mono, Muted, Note, Section, Select } from '../components/parts';
import { TextButton } from '../components/TextButton';
import { useCandidatesQuery, useLazyProposalQuery } from '../state/api';
import { settledBy, UnitNote } from './UnitNote';
import { planePlacement } from './plane-placement';
import { planeUnit, UNITS, unitKey } from './units';
import type { PlaceMap } from './use-place-map';

/** The systems in which the numbers of a source would make sense, best first; a click shows one on the map. */
export function FindPanel({
  source,
  map,
  unit_m,
  onUnit,
  wanted,
  onWant,
}: {
  source: SourceState;
  map: PlaceMap;
  /** As it was settled by hand; undefined until then. */
  unit_m: number | null | undefined;
  onUnit(metres: number | null): void;
  wanted: Placement | null;
  onWant(placement: Placement): void;
}) {
  const crossing = useCrossing();
  const [near, setNear] = useState<[number, number] | null>(null);
  const { data: candidates } = useCandidatesQuery({ id: crossing.id, source: source.id, near, unit_m });
  const [propose] = useLazyProposalQuery();
  const planeUnit_m = planeUnit(unit_m, source.unit);
  const [more, setMore] = useState(false);
  const placed = crossing.recipe.sources[source.name]?.placement ?? null;
  const clear = !placed && candidates?.[0]?.clear ? candidates[0].placement : null;
  const best = wanted ?? clear;
  useEffect(() => {
    if (clear && !wanted) onWant(clear);
  }, [clear, wanted, onWant]);
  const shown = (candidates ?? []).slice(0, more ? 12 : 6);
  // once there is a frame on earth, nothing leads there from a plane of its own
  const mayStay = !crossing.frame || crossing.frame.kind === 'local';
  const isOn = (p: Placement): boolean => JSON.stringify(p) === JSON.stringify(best);
  const listed = shown.some((c) => isOn(c.placement));
  return (
    <Section
      title="Find"
      aside={candidates ? `${candidates.length === 12 ? '12 or more' : candidates.length} fit` : 'trying every system …'}
    >
      <Muted textStyle="small" display="block" mb="6px">
        Point at the place on earth, if you know it, and choose the system that puts the drawing there.
      </Muted>
      <Locator
        at={near}
        candidates={(candidates ?? []).map((c) => ({ lon: c.lon, lat: c.lat, on: isOn(c.placement) }))}
        onPoint={setNear}
      />
      {near && (
        <Flex justify="space-between" mt="3px">
          <Mono color="muted">
            {Math.abs(near[1]).toFixed(1)}° {near[1] < 0 ? 'S' : 'N'} {Math.abs(near[0]).toFixed(1)}° {near[0] < 0 ? 'W' : 'E'}
          </Mono>
          <chakra.button
            type="button"
            minH="24px"
            cursor="pointer"
            color="verdigrisInk"
            textDecoration="underline"
            onClick={() => setNear(null)}
          >
            forget it
          </chakra.button>
        </Flex>
      )}
      <Grid templateColumns="minmax(0, 1fr) 116px" gap="6px" mt="9px" alignItems="start">
        <CrsSearch
          label={`Find a system for ${source.name}`}
          onChoose={(crs) =>
            unit_m === undefined
              ? void propose({ id: crossing.id, source: source.id, crs: crs.id }, true).unwrap().then(onWant)
              : onWant({ crs: crs.id, unit_m, ...settledBy(source) })
          }
        />
        <Select
          label={`Unit of ${source.name}`}
          value={unitKey(unit_m === undefined ? (wanted ? wanted.unit_m : planeUnit_m) : unit_m)}
          width="100%"
          onChange={(value) => onUnit(UNITS.find((u) => u.value === value)!.metres)}
          options={UNITS.map((u) => (u.metres === null ? { ...u, label: 'own unit' } : u))}
        />
      </Grid>
      <Muted textStyle="small" display="block" mt="3px">
        The system, and the unit of the numbers: the system’s own, or another.
      </Muted>
      <Box role="radiogroup" aria-label="Systems that fit" mt="7px">
        {shown.map((c) => (
          <CandidateCard key={c.crs.id} candidate={c} on={isOn(c.placement)} onChoose={() => onWant(c.placement)} />
        ))}
        {mayStay && (
          <CandidateCard
            candidate={{
              crs: { id: LOCAL, label: 'local plane', name: `Site grid, in ${unitsOfLength(planeUnit_m ?? 1)}` },
              lon: NaN,
              lat: NaN,
              inside: 0,
              mistake: null,
              why: 'The numbers cross as they are, with their unit and no place on earth.',
            }}
            on={wanted !== null && isLocalPlane(wanted.crs)}
            onChoose={() => onWant(planePlacement(planeUnit_m))}
          />
        )}
        {wanted && !listed && !isLocalPlane(wanted.crs) && (
          <CandidateCard
            candidate={{
              crs: { id: wanted.crs, label: crsLabel(wanted.crs), name: 'chosen by hand' },
              lon: NaN,
              lat: NaN,
              inside: 0,
              mistake: null,
              why: '',
            }}
            on
            onChoose={() => {}}
          />
        )}
      </Box>
      {candidates && candidates.length > 6 && !more && (
        <TextButton mt="4px" onClick={() => setMore(true)}>
          {candidates.length - 6} more that fit
        </TextButton>
      )}
      {candidates && candidates.length > 0 && candidates.every((c) => c.mistake !== null) && (
        <Note tone="caution" mt="8px">
          As they stand the numbers fit nowhere; each of these takes a mistake to be true. If none sounds likely, the drawing is on a grid
          of its own: fit it by control points, or keep it in a local plane.
        </Note>
      )}
      {candidates && candidates.length > 1 && candidates.some((c) => c.mistake === null) && !clear && !wanted && (
        <Note tone="caution" mt="8px">
          The numbers alone cannot tell these apart. Point at the place above, or ask the drawing’s maker.
        </Note>
      )}
      {candidates?.length === 0 && (
        <Note tone="caution" mt="8px">
          The numbers lie in no system’s area of use, not even with the usual mistakes. The drawing is likely on a grid of its own: fit it
          by control points, or keep it in a local plane.
        </Note>
      )}
      {map.problem && (
        <Note tone="wrong" mt="8px">
          {map.problem}
        </Note>
      )}
      {wanted && map.doubt && (
        <Note tone="caution" mt="8px">
          {map.doubt}
        </Note>
      )}
      {wanted && map.unit && <UnitNote question={map.unit} unit_m={wanted.unit_m} onSettle={onUnit} />}
    </Section>
  );
}

type Shown = Pick<Candidate, 'lon' | 'lat' | 'inside' | 'mistake' | 'why'> & {
  crs: Pick<Candidate['crs'], 'id' | 'label' | 'name' | 'used'>;
};

function CandidateCard({ candidate: c, on, onChoose }: { candidate: Shown; on: boolean; onChoose(): void }) {
  return (
    <chakra.label
      display="flex"
      gap="10px"
      px="10px"
      py="7px"
      borderWidth="1px"
      borderColor={on ? 'verdigris' : 'hairline'}
      bg={on ? 'verdigrisTint' : 'surface'}
      cursor="pointer"
      mt="-1px"
      position="relative"
      zIndex={on ? 1 : 0}
      _first={{ borderTopRadius: 'sheet' }}
      _last={{ borderBottomRadius: 'sheet' }}
    >
      <input type="radio" name="candidate" aria-label={`${c.crs.label} ${c.crs.name}`} checked={on} onChange={onChoose} />
      <Box minW="0" flex="1">
        <Flex justify="space-between" gap="8px">
          <Mono fontWeight={600}>{c.crs.label}</Mono>
          <Muted textStyle="small">
            {[c.crs.used && 'used before', c.inside > 0 && `${Math.round(c.inside * 100)} % inside`].filter(Boolean).join(' · ')}
          </Muted>
        </Flex>
        <Text fontWeight={on ? 600 : 500}>{c.crs.name}</Text>
        {c.mistake && (
          <Text textStyle="small" color="amberInk" fontWeight={550}>
            {c.mistake}
          </Text>
        )}
        <Muted textStyle="small" display="block" lineClamp={2}>
          {c.why}
          {Number.isFinite(c.lat) ? ` · ${dms(c.lat, 'NS').replace(/ [\d.]+″/, '')} ${dms(c.lon, 'EW').replace(/ [\d.]+″/, '')}` : ''}
        </Muted>
      </Box>
    </chakra.label>
  );
}

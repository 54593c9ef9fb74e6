import { useState } from 'react';
import { Box, Button, chakra, Flex, Text } from '@chakra-ui/react';
import type { Candidate, CrsName, SourceState } from '@pontrel/contract/crossing';
import { sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import { dms } from '../map/ticks';
import { CrsSearch } from '../parts/CrsSearch';
import { Chip, Mono, Muted, Note, Scroll, Section, Select } from '../parts/parts';
import { useCandidatesQuery } from '../state/api';

/** Units that numbers of a drawing may be in. */
const UNITS: { value: string; label: string; metres: number | null }[] = [
  { value: 'crs', label: 'unit of the system', metres: null }, { value: 'mm', label: 'millimetre', metres: 0.001 }, { value: 'cm', label: 'centimetre', metres: 0.01 }, { value: 'm', label: 'metre', metres: 1 },
  { value: 'km', label: 'kilometre', metres: 1000 }, { value: 'in', label: 'inch', metres: 0.0254 }, { value: 'ft', label: 'foot', metres: 0.3048 }, { value: 'usft', label: 'US survey foot', metres: 1200 / 3937 }, { value: 'yd', label: 'yard', metres: 0.9144 },
];

const unitKey = (metres: number | null): string => UNITS.find((u) => (u.metres === null ? metres === null : metres !== null && Math.abs(u.metres - metres) < 1e-9 * u.metres))?.value ?? 'crs';

/** What a source states, the systems in which its numbers would make sense, and the choice of one. */
export function SourcePlacement({ source, onPlaced }: { source: SourceState; onPlaced(): void }) {
  const crossing = useCrossing();
  const change = useChange();
  const placement = crossing.recipe.sources[source.name]?.placement ?? null;
  const { data: candidates } = useCandidatesQuery({ id: crossing.id, source: source.id });
  const [wanted, setWanted] = useState<CrsName | null>(null);
  const [unit, setUnit] = useState(unitKey(placement ? placement.unit_m : (source.unit?.metres ?? null)));
  const [more, setMore] = useState(false);
  const [another, setAnother] = useState(false);
  const clear = candidates?.[0]?.clear ? candidates[0].crs : null;
  const best = wanted ?? (placement ? null : clear);
  const unit_m = UNITS.find((u) => u.value === unit)!.metres;
  const place = (crs: string): void => {
    change(`place ${source.name} as ${crs}`, (draft) => {
      sourceRules(draft, source.name).placement = { crs, unit_m };
      draft.frame ??= { crs };
    });
    setWanted(null);
    setAnother(false);
    onPlaced();
  };
  const shown = (candidates ?? []).slice(0, more ? 12 : 8);
  const listed = shown.some((c) => c.crs.id === best?.id);
  return (
    <>
      <Scroll borderTopWidth="1px" borderColor="hairline">
        <Section title="Stated" aside={<Mono fontSize="11.5px">{source.name}</Mono>}>
          {source.crs ? <Flex gap="6px" wrap="wrap"><Chip mono>{source.crs.id ?? 'no code'}</Chip><Text>{source.crs.name}</Text></Flex> : (
            <Text color="muted">{source.crsText ? 'Its coordinate system could not be understood.' : 'This file states no coordinate system.'}{source.unit ? <> It states its unit: <b>{source.unit.name}</b>.</> : ' It states no unit either.'}</Text>
          )}
          {placement && !wanted && <Note tone="good" mt="8px">Placed as <b>{placement.crs}</b>{placement.unit_m !== null && `, numbers in ${UNITS.find((u) => u.value === unitKey(placement.unit_m))?.label ?? `${placement.unit_m} m`}s`}.</Note>}
          {placement && !source.crs && !another && <Button size="sm" mt="8px" onClick={() => setAnother(true)}>Choose another system or unit</Button>}
        </Section>
        {!source.crs && (!placement || another) && (
          <Section title={placement ? 'Another system' : 'Find'} aside={candidates ? `${candidates.length === 12 ? '12 or more' : candidates.length} fit` : ''}>
            <Muted textStyle="small" display="block" mb="6px">Systems in whose area of use these numbers lie{source.unit ? `, taken as ${source.unit.name}s` : ''}.</Muted>
            <Box role="radiogroup" aria-label="Systems that fit">
              {shown.map((c) => <CandidateCard key={c.crs.id} candidate={c} on={c.crs.id === best?.id} onChoose={() => setWanted(c.crs)} />)}
              {wanted && !listed && <CandidateCard candidate={{ crs: wanted, unit_m: 1, unitName: '', lon: NaN, lat: NaN, inside: 0, clear: false, why: 'chosen by hand' }} on onChoose={() => {}} />}
            </Box>
            {candidates && candidates.length > 8 && !more && <chakra.button type="button" minH="24px" mt="6px" cursor="pointer" color="verdigrisInk" fontWeight={550} textDecoration="underline" onClick={() => setMore(true)}>{candidates.length - 8} more that fit</chakra.button>}
            {candidates && candidates.length > 1 && !clear && !best && <Note tone="caution" mt="8px">The numbers alone cannot tell these apart. Choose the one that the drawing was made in; ask its maker when in doubt.</Note>}
            {candidates?.length === 0 && <Note tone="caution">The numbers lie in no system’s area of use as they are. Check the unit below, or the drawing is on a grid of its own.</Note>}
            <Box mt="9px"><CrsSearch label={`Find a system for ${source.name}`} onChoose={setWanted} /></Box>
            <Flex align="center" justify="space-between" mt="9px"><Muted>Numbers are in</Muted><Select label={`Unit of ${source.name}`} value={unit} width="170px" onChange={(value) => {
              setUnit(value);
              const metres = UNITS.find((u) => u.value === value)!.metres;
              if (placement) change(`unit of ${source.name}`, (draft) => void (sourceRules(draft, source.name).placement = { crs: placement.crs, unit_m: metres }));
            }} options={UNITS} /></Flex>
          </Section>
        )}
      </Scroll>
      {best && (
        <Box p="12px" borderTopWidth="1px" borderColor="hairline" flex="none">
          <Button variant={placement ? 'outline' : 'solid'} w="100%" onClick={() => place(best.id)}>Place as {best.id}</Button>
          {!crossing.frame && <Muted textStyle="small" display="block" mt="5px">and make it the reference frame</Muted>}
        </Box>
      )}
    </>
  );
}

function CandidateCard({ candidate: c, on, onChoose }: { candidate: Candidate; on: boolean; onChoose(): void }) {
  return (
    <chakra.label display="flex" gap="10px" px="10px" py="7px" borderWidth="1px" borderColor={on ? 'verdigris' : 'hairline'} bg={on ? 'verdigrisTint' : 'surface'} cursor="pointer" mt="-1px" position="relative" zIndex={on ? 1 : 0} _first={{ borderTopRadius: 'sheet' }} _last={{ borderBottomRadius: 'sheet' }}>
      <input type="radio" name="candidate" aria-label={`${c.crs.id} ${c.crs.name}`} checked={on} onChange={onChoose} />
      <Box minW="0" flex="1">
        <Flex justify="space-between" gap="8px"><Mono fontWeight={600}>{c.crs.id}</Mono>{c.inside > 0 && <Muted textStyle="small">{Math.round(c.inside * 100)} % inside</Muted>}</Flex>
        <Text fontWeight={on ? 600 : 500}>{c.crs.name}</Text>
        <Muted textStyle="small" display="block" lineClamp={2}>{c.why}{Number.isFinite(c.lat) ? ` · ${dms(c.lat, 'NS').replace(/ [\d.]+″/, '')} ${dms(c.lon, 'EW').replace(/ [\d.]+″/, '')}` : ''}</Muted>
      </Box>
    </chakra.label>
  );
}

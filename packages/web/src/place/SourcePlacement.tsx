import type { Placement } from '@pontrel/core/placement/placement';
import { useCallback, useEffect, useState } from 'react';
import { Box, Button, chakra, Flex, Input, Text } from '@chakra-ui/react';
import { zodResolver } from '@hookform/resolvers/zod';
import { useForm } from 'react-hook-form';
import { DefinitionChange, type SourceState } from '@pontrel/contract/crossing';
import { FITS } from '@pontrel/core/placement/fit';
import { sourceRules, useChange, useCrossing } from '../crossing/use-crossing';
import { crsLabel, isLocalPlane } from '../components/crs-label';
import { plural } from '../components/numbers';
import { Chip, Choice, Mono, Muted, Note, Scroll, Section, Select } from '../components/parts';
import { messageOfError, useCrsQuery, useLazyProposalQuery, useOutliersQuery, usePathQuery, useSaveDefinitionMutation } from '../state/api';
import { useAppDispatch } from '../state/store';
import { noticeGiven } from '../state/ui';
import { ControlPoints } from './ControlPoints';
import { FindPanel } from './FindPanel';
import { planePlacement } from './plane-placement';
import { KnownDistance } from './KnownDistance';
import { unitsOfLength } from '@pontrel/core/placement/ratio';
import { settledBy, UnitNote } from './UnitNote';
import { planeUnit, UNITS, unitKey, unitsFor } from './units';
import type { PlaceMap } from './use-place-map';

type Means = 'stated' | 'find' | 'points' | 'distance';
const MEANS: { value: Means; label: string }[] = [
  { value: 'stated', label: 'Stated' },
  { value: 'find', label: 'Find' },
  { value: 'points', label: 'Control points' },
  { value: 'distance', label: 'Known distance' },
];

/** Ways that look at the numbers of a source, or at lengths in them. */
const BY_NUMBERS: readonly Means[] = ['find', 'distance'];

/** What a source states, and the three ways to place it when that is not enough. */
export function SourcePlacement({
  source,
  others,
  map,
  onPlaced,
  onGo,
}: {
  source: SourceState;
  /** Those that are placed with it: in the same system, each in its own unit, or by the same control points. */
  others: readonly SourceState[];
  map: PlaceMap;
  onPlaced(): void;
  onGo(x: number, y: number): void;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const dispatch = useAppDispatch();
  const placement = crossing.recipe.sources[source.name]?.placement ?? null;
  // an image that does not say where it lies has no numbers by which it could be found
  const unplaced = source.images?.members.some((m) => m.unfit === null && m.map === null && m.pairs === null) ?? false;
  const [means, setMeans] = useState<Means>(placement || source.doubt ? 'stated' : unplaced ? 'points' : 'find');
  const [wanted, setWanted] = useState<Placement | null>(null);
  // undefined until it is settled by hand: then each system gets the unit that is proposed for it
  const [unit_m, setUnit] = useState<number | null | undefined>(placement?.unit_m);
  const planeUnit_m = planeUnit(unit_m, source.unit);
  const { preview } = map;
  const want = useCallback(
    (p: Placement | null) => {
      setWanted(p);
      preview(p);
    },
    [preview],
  );
  useEffect(() => () => preview(null), [preview]);
  const go = (to: Means): void => {
    map.stopTaking();
    want(null);
    setMeans(to);
  };
  const [propose] = useLazyProposalQuery();
  /** Where another source lies in the system of this one: in the unit that its own numbers speak for, where nobody settled one. */
  const placementOfOther = async (other: SourceState, placement: Placement): Promise<Placement> => {
    if (placement.fit || isLocalPlane(placement.crs) || unit_m !== undefined) return placement;
    const proposed = await propose({ id: crossing.id, source: other.id, crs: placement.crs }, true).unwrap();
    return { ...placement, unit_m: proposed.unit_m };
  };
  const placeBy = async (placement: Placement): Promise<void> => {
    const placements = await Promise.all(others.map(async (other) => [other.name, await placementOfOther(other, placement)] as const));
    change(`place ${placements.length === 0 ? source.name : plural(placements.length + 1, 'source')}`, (draft) => {
      for (const [name, own] of [[source.name, placement] as const, ...placements]) sourceRules(draft, name).placement = own;
      draft.frame ??= { crs: placement.crs };
    });
    go('stated');
    onPlaced();
  };
  const failed = (e: unknown): void => void dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(e) }));
  const all = others.length > 0 ? `all ${others.length + 1} ` : '';
  const asStated = (): void =>
    void propose({ id: crossing.id, source: source.id, crs: source.crs!.text }, true).unwrap().then(placeBy).catch(failed);
  return (
    <>
      <Flex direction="column" px="14px" pt="9px" borderTopWidth="1px" borderColor="hairline" flex="none">
        <Choice
          label="How it is placed"
          value={means}
          options={unplaced ? MEANS.filter((m) => !BY_NUMBERS.includes(m.value)) : MEANS}
          onChange={go}
          small
        />
      </Flex>
      <Scroll>
        {means === 'stated' && (
          <Stated source={source} placement={placement} onGo={onGo} onChange={() => go('find')} onAsStated={asStated} />
        )}
        {means === 'find' && (
          <FindPanel
            source={source}
            map={map}
            unit_m={unit_m}
            onUnit={(metres) => {
              setUnit(metres);
              if (wanted) want(isLocalPlane(wanted.crs) ? planePlacement(metres) : { ...wanted, unit_m: metres, ...settledBy(source) });
            }}
            wanted={wanted}
            onWant={want}
          />
        )}
        {means === 'points' && <ControlPoints source={source} map={map} unit_m={planeUnit_m} onWant={setWanted} />}
        {means === 'distance' && <KnownDistance source={source} map={map} unit_m={planeUnit_m} onUnit={setUnit} />}
      </Scroll>
      {wanted && (means === 'find' || means === 'points') && (
        <Box p="12px" borderTopWidth="1px" borderColor="hairline" flex="none">
          <Button variant="solid" w="100%" disabled={map.problem !== null} onClick={() => void placeBy(wanted).catch(failed)}>
            {wanted.fit
              ? `Place ${all}by ${plural(wanted.fit.pairs.filter((p) => !p.out).length, 'control point')}`
              : `Place ${all}as ${crsLabel(wanted.crs)}`}
          </Button>
          {!crossing.frame && (
            <Muted textStyle="small" display="block" mt="5px">
              and make it the reference frame
            </Muted>
          )}
          {crsLabel(wanted.crs) !== wanted.crs && !isLocalPlane(wanted.crs) && <SaveDefinition text={wanted.crs} />}
        </Box>
      )}
    </>
  );
}

/** What the file says, how it was understood, and how it is placed now. */
function Stated({
  source,
  placement,
  onGo,
  onChange,
  onAsStated,
}: {
  source: SourceState;
  placement: Placement | null;
  onGo(x: number, y: number): void;
  onChange(): void;
  onAsStated(): void;
}) {
  const crossing = useCrossing();
  const change = useChange();
  const { data: path } = usePathQuery({ id: crossing.id, source: source.id }, { skip: !placement });
  const { data: crs } = useCrsQuery(placement?.crs ?? '', { skip: !placement });
  const settle = (unit_m: number | null): void =>
    change(`unit of ${source.name}`, (draft) => {
      const { placement: own } = sourceRules(draft, source.name);
      Object.assign(own!, { unit_m, ...settledBy(source) });
    });
  const { data: outliers } = useOutliersQuery({ id: crossing.id, source: source.id }, { skip: source.outliers === 0 });
  return (
    <Section title="Stated" aside={<Mono fontSize="11.5px">{source.name}</Mono>}>
      {source.crs ? (
        <Flex gap="6px" wrap="wrap">
          <Chip mono>{source.crs.id ?? 'no code'}</Chip>
          <Text>{source.crs.name}</Text>
        </Flex>
      ) : (
        <Text color="muted">
          {source.crsText ? 'Its coordinate system could not be understood.' : 'This file states no coordinate system.'}
          {source.unit ? (
            <>
              {' '}
              It states its unit: <b>{source.unit.name}</b>.
            </>
          ) : (
            ' It states no unit either.'
          )}
        </Text>
      )}
      {source.understood && (
        <Muted textStyle="small" display="block" mt="5px">
          {source.understood}
        </Muted>
      )}
      {placement ? (
        <>
          <Note tone="good" mt="8px">
            {said(placement)}
          </Note>
          {path?.unit && <UnitNote question={path.unit} unit_m={placement.unit_m} onSettle={settle} />}
          {!placement.fit && crs?.kind === 'projected' && (
            <Flex align="center" justify="space-between" mt="9px">
              <Muted>Numbers are in</Muted>
              <Select
                label={`Unit of ${source.name}`}
                value={unitKey(placement.unit_m)}
                width="170px"
                onChange={(value) => settle(UNITS.find((u) => u.value === value)!.metres)}
                options={unitsFor(crs.unit)}
              />
            </Flex>
          )}
        </>
      ) : source.crs && source.doubt ? (
        <Note
          tone="caution"
          mt="8px"
          actions={
            <Flex gap="6px" wrap="wrap">
              <Button size="sm" variant="solid" onClick={onChange}>
                Find what fits
              </Button>
              <Button size="sm" onClick={onAsStated}>
                Place it as stated
              </Button>
            </Flex>
          }
        >
          {source.doubt.message} So it is not placed yet.
        </Note>
      ) : (
        <Note tone="caution" mt="8px">
          Not placed yet. Find its system, fit it by control points, or keep it in a plane of its own.
        </Note>
      )}
      {placement && (
        <Button size="sm" mt="8px" onClick={onChange}>
          Choose another system
        </Button>
      )}
      {source.crsText && (
        <Box mt="10px">
          <Muted textStyle="small" display="block">
            The text itself
          </Muted>
          <Text fontFamily="mono" fontSize="11px" lineHeight="15px" color="muted" overflowWrap="anywhere" maxH="150px" overflowY="auto">
            {source.crsText}
          </Text>
        </Box>
      )}
      {outliers && outliers.count > 0 && (
        <Note tone="caution" mt="10px">
          {plural(outliers.count, 'object lies', 'objects lie')} far from the rest and {outliers.count === 1 ? 'is' : 'are'} left out of the
          view:
          <Box mt="4px" maxH="150px" overflowY="auto">
            {outliers.records.map((r) => (
              <chakra.button
                key={r.id}
                type="button"
                display="flex"
                w="100%"
                minH="24px"
                gap="6px"
                alignItems="center"
                cursor="pointer"
                textAlign="left"
                disabled={r.place === null}
                onClick={() => r.place && onGo(r.place[0], r.place[1])}
              >
                <Mono flex="none">{r.entity}</Mono>
                <Text truncate flex="1">
                  {r.layer}
                </Text>
                <Mono color="muted">
                  {Number(r.at[0].toPrecision(7))}, {Number(r.at[1].toPrecision(7))}
                </Mono>
              </chakra.button>
            ))}
          </Box>
        </Note>
      )}
    </Section>
  );
}

function said(p: Placement): string {
  if (p.fit)
    return `Placed in ${crsLabel(p.crs)} by ${plural(p.fit.pairs.filter((q) => !q.out).length, 'control point')}, ${FITS[p.fit.kind].name.toLowerCase()}.`;
  const extras = [
    p.unit_m !== null && `numbers in ${unitsOfLength(p.unit_m)}`,
    p.axesSwapped && 'axes exchanged',
    p.signReversed && 'both signs turned',
    p.offset && `${p.offset[0]} and ${p.offset[1]} added`,
  ].filter(Boolean);
  return `Placed as ${crsLabel(p.crs)}${extras.length > 0 ? `, ${extras.join(', ')}` : ''}.`;
}

/** Keeps a pasted definition under a name, to be found by the search from then on. */
function SaveDefinition({ text }: { text: string }) {
  const [save, { isSuccess }] = useSaveDefinitionMutation();
  const { register, handleSubmit, watch } = useForm({ resolver: zodResolver(DefinitionChange), defaultValues: { name: '', text } });
  const name = watch('name').trim();
  if (isSuccess)
    return (
      <Muted textStyle="small" display="block" mt="6px">
        Saved as {name}: the search finds it by this name.
      </Muted>
    );
  return (
    <Flex as="form" gap="6px" mt="7px" onSubmit={(e) => void handleSubmit((asked) => save(asked))(e)}>
      <Input aria-label="Name for this definition" placeholder="Save it under a name" {...register('name')} />
      <Button type="submit" size="sm" h="28px" disabled={name === ''}>
        Save
      </Button>
    </Flex>
  );
}

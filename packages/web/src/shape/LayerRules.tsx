import { excludedOf } from '../deliver/fates';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import { Flex, Grid, Text } from '@chakra-ui/react';
import type { SourceLayer, SourceState } from '@pontrel/contract/crossing';
import { chordsFor } from '@pontrel/core/content/features/plan';
import type { Forecast } from '@pontrel/core/content/features/forecast';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { layerRules, useChange, useCrossing } from '../crossing/use-crossing';
import { groupNames } from '../gather/entity-names';
import { grouped, plural } from '../components/numbers';
import { Mono, Muted, Note, Scroll, Section, Tick } from '../components/parts';
import { TypedLength } from '../components/Typed';
import { JoinRule } from './JoinRule';
import { Looks } from './Looks';
import { Measures } from './Measures';
import { BlockRules, FillRules, TargetLayer, TextRules, Tidying, WhereRule } from './ShapeRules';
import { StyleRules } from './StyleRules';
import { ValueRules } from './ValueRules';

/** The rules of one layer, and the tolerance that holds for all. */
export function LayerRules({
  source,
  layer,
  rule,
  forecast,
  onFind,
}: {
  source: SourceState;
  layer: SourceLayer;
  rule: LayerRule;
  forecast: Forecast | null;
  onFind(at: { x: number; y: number }): void;
}) {
  const { id, recipe } = useCrossing();
  const change = useChange();
  const { profile } = layer;
  const edit = (label: string, how: (r: LayerRule) => void): void =>
    change(label, (draft) => how(layerRules(draft, source.name, profile.name)));
  const groups = groupNames(profile.groups);
  const row = forecast?.rows.find((r) => r.source === source.name && r.layer === profile.name);
  const report = row?.report ?? null;
  return (
    <Scroll>
      <Section title="Rules" aside={<Mono>{profile.name}</Mono>}>
        {row && (
          <Muted textStyle="small">
            {plural(row.records, 'record')}: {grouped(row.unchanged)} unchanged, {grouped(row.changed)} changed,{' '}
            {[
              excludedOf(row) > 0 && `${grouped(excludedOf(row))} left out by you`,
              row.left > excludedOf(row) ? `${grouped(row.left - excludedOf(row))} not carried` : 'none lost',
            ]
              .filter(Boolean)
              .join(', ')}
            .
          </Muted>
        )}
        {row?.effects
          .filter((e) => e.effect === 'left' && e.by !== 'you')
          .map((e) => (
            <Note key={e.code + e.message} tone="wrong" mt="7px">
              {e.message}
            </Note>
          ))}
      </Section>
      <Section title="Objects">
        {groups.map((g) => {
          const out = rule.leftOut?.includes(g.entity) ?? false;
          return (
            <Flex key={g.entity + g.kind} align="center" gap="8px" h="25px">
              <Tick
                label={`Take ${g.name} of ${profile.name}`}
                checked={!out && rule.taken !== false}
                disabled={rule.taken === false}
                onChange={(on) =>
                  edit(`${on ? 'take' : 'leave'} ${g.name} of ${profile.name}`, (r) => {
                    r.leftOut = on ? (r.leftOut ?? []).filter((e) => e !== g.entity) : [...(r.leftOut ?? []), g.entity];
                  })
                }
              />
              <Text flex="1" color={out ? 'muted' : 'ink'}>
                {g.name}
              </Text>
              <Mono color="muted">{grouped(g.count)}</Mono>
            </Flex>
          );
        })}
      </Section>
      <BlockRules layer={layer} rule={rule} edit={edit} report={report} />
      <TextRules source={source} layer={layer} rule={rule} edit={edit} report={report} onFind={onFind} />
      <FillRules layer={layer} rule={rule} edit={edit} />
      <WhereRule
        crossing={id}
        source={source}
        layer={layer}
        placed={recipe.frame !== null && (recipe.sources[source.name]?.placement ?? null) !== null}
        rule={rule}
        edit={edit}
        report={report}
      />
      <JoinRule source={source} layer={layer} rule={rule} edit={edit} report={report} />
      <ValueRules layer={layer} rule={rule} edit={edit} />
      <TargetLayer
        name={profile.name}
        rule={rule}
        edit={edit}
        others={othersOf(recipe, source.name, profile.name)}
        told={row?.effects.find((e) => e.code === 'told-apart')?.message}
      />
      {row && <Looks row={row} />}
      {groups.length > 0 && layer.profile.extent !== null && <StyleRules layer={layer} rule={rule} edit={edit} row={row} />}
      <Tidying layer={layer} rule={rule} edit={edit} report={report} />
      <Measures layer={layer} rule={rule} edit={edit} />
      <Curves
        source={source}
        layer={layer}
        chord_m={recipe.chord_m}
        onChord={(m) => change('chord tolerance', (draft) => void (draft.chord_m = m))}
        unit_m={recipe.sources[source.name]?.placement?.unit_m ?? source.unit?.metres ?? 1}
      />
    </Scroll>
  );
}

/** The layers that all other taken layers go into. */
function othersOf(recipe: Recipe, source: string, layer: string): string[] {
  return Object.entries(recipe.sources).flatMap(([name, own]) =>
    Object.entries(own.layers).flatMap(([l, r]) =>
      (name === source && l === layer) || r.taken === false || r.to === undefined ? [] : [r.to],
    ),
  );
}

/** How far a chord may stand off its curve; for all layers of the crossing. */
function Curves({
  source,
  layer,
  chord_m,
  unit_m,
  onChord,
}: {
  source: SourceState;
  layer: SourceLayer;
  chord_m: number;
  unit_m: number;
  onChord(metres: number): void;
}) {
  const curved = layer.profile.groups.filter((g) => g.curved > 0);
  const n = curved.reduce((sum, g) => sum + g.curved, 0);
  const chords = curved.reduce((sum, g) => sum + chordsFor(g.chordLoad, unit_m, chord_m), 0);
  return (
    <Section title="Curves" aside={source.layers.some((l) => l.profile.groups.some((g) => g.curved > 0)) ? 'all layers' : ''}>
      <Grid templateColumns="1fr 92px" alignItems="center" gap="8px">
        <Muted>Chords stand off by at most</Muted>
        <TypedLength
          label="Largest distance of a chord from its curve"
          metres={chord_m}
          bare="mm"
          onChange={(m) => {
            if (m !== null) onChord(m);
          }}
        />
      </Grid>
      <Text mt="6px">
        {n === 0 ? (
          <Muted>No curves in this layer.</Muted>
        ) : (
          <Mono>
            {plural(n, 'curved object')} → about {plural(chords, 'chord')}
          </Mono>
        )}
      </Text>
    </Section>
  );
}

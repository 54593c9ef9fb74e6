import { Text } from '@chakra-ui/react';
import { chordsFor } from '@pontrel/core/content/features/plan';
import { useChange, useCrossing } from '../crossing/use-crossing';
import { plural } from '../components/numbers';
import { Mono, Muted } from '../components/parts';
import { TypedLength } from '../components/Typed';
import { Rule } from './Rule';
import { useShaping } from './shaping';

/** How far a chord may stand off its curve; for all layers of the crossing. */
export function Curves() {
  const { recipe } = useCrossing();
  const change = useChange();
  const { chosen } = useShaping();
  const curved = chosen.flatMap(({ source, layer }) => {
    const unit_m = recipe.sources[source.name]?.placement?.unit_m ?? source.unit?.metres ?? 1;
    return layer.profile.groups
      .filter((g) => g.curved > 0)
      .map((g) => ({ n: g.curved, chords: chordsFor(g.chordLoad, unit_m, recipe.chord_m) }));
  });
  return (
    <Rule
      title="Curves"
      aside="off by at most"
      control={
        <TypedLength
          label="Largest distance of a chord from its curve"
          metres={recipe.chord_m}
          bare="mm"
          width="76px"
          onChange={(m) => {
            if (m !== null) change('chord tolerance', (draft) => void (draft.chord_m = m));
          }}
        />
      }
    >
      <Text>
        {curved.length === 0 ? (
          <Muted textStyle="small">For all layers; there are no curves in {chosen.length === 1 ? 'this one' : 'these'}.</Muted>
        ) : (
          <Mono>
            {plural(
              curved.reduce((sum, c) => sum + c.n, 0),
              'curved object',
            )}{' '}
            → about{' '}
            {plural(
              curved.reduce((sum, c) => sum + c.chords, 0),
              'chord',
            )}
          </Mono>
        )}
      </Text>
    </Rule>
  );
}

import type { Recipe } from '@pontrel/core/crossing/recipe';
import { parseTemplate } from '@pontrel/core/filter/template';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { tellsApart } from '@pontrel/core/operations/target-layer';
import { useCrossing } from '../crossing/use-crossing';
import { plural } from '../components/numbers';
import { Muted } from '../components/parts';
import { TypedText } from '../components/Typed';
import { Rule } from './Rule';
import { type ShapedLayer } from './shaped-layers';
import { useShaping } from './shaping';

/** Which layer the records go into. */
export function TargetLayer() {
  const { recipe } = useCrossing();
  const { name, chosen, rule, row, differs, edit } = useShaping();
  const several = chosen.length > 1;
  const shared = rule.to === undefined ? 0 : othersOf(recipe, chosen).filter((o) => o.toLowerCase() === rule.to!.toLowerCase()).length;
  return (
    <Rule
      title="Goes into"
      of={['to']}
      control={
        <TypedText
          width="150px"
          label={`Layer that ${name} ${several ? 'go' : 'goes'} into`}
          value={rule.to ?? (several ? '' : name)}
          maxLength={120}
          {...(several ? { hint: differs.has('to') ? 'one layer for all of them' : 'each into its own' } : {})}
          fault={(text) => (several && text.trim() === '' ? null : layerFault(text))}
          onChange={(text) =>
            edit(`layer of ${name}`, (r, of) => {
              const to = text.trim();
              if (to === '' || to === of.layer.profile.name) delete r.to;
              else r.to = to;
            })
          }
        />
      }
    >
      {tellsApart(rule) && (
        <Muted textStyle="small" display="block" mt="4px">
          {row?.effects.find((e) => e.code === 'told-apart')?.message ?? 'a layer for each value'}
        </Muted>
      )}
      {shared > 0 && (
        <Muted textStyle="small" display="block" mt="4px">
          together with {plural(shared, 'other layer')}
        </Muted>
      )}
    </Rule>
  );
}

/** A name, or a text with fields in braces that gives each record the name of its layer. */
function layerFault(text: string): string | null {
  if (text.trim() === '') return 'A layer needs a name. {FIELD} makes one for each value of a field.';
  const parsed = parseTemplate(text);
  return typeof parsed === 'string' ? parsed : null;
}

/** The layers that all other taken layers go into. */
function othersOf(recipe: Recipe, chosen: readonly ShapedLayer[]): string[] {
  return Object.entries(recipe.sources).flatMap(([name, own]) =>
    Object.entries(own.layers).flatMap(([l, r]) =>
      chosen.some((c) => c.source.name === name && c.layer.profile.name === l) || !isTaken(r) || r.to === undefined ? [] : [r.to],
    ),
  );
}

import type { LayerProfile } from '../content/features/profile';
import { type LinearUnit, verticalOf } from '../crs/crs';
import type { Finding } from '../model/finding';
import { crsOf } from '../placement/route';
import { systemDoubt } from '../placement/stated-system';
import { openUnitQuestion, unitSentence } from '../placement/unit-question';
import type { Extended } from './placement-of';
import type { Recipe } from './recipe';

/**
 * What makes it doubtful that a source lies where a recipe places it: a system that its numbers hardly fit, a unit that nobody has settled,
 * heights of which nobody says whether they are those of the frame.
 */
export function placementFindings(
  recipe: Recipe,
  { name, extent, unit, layers }: Extended & { unit: LinearUnit | null; layers: readonly LayerProfile[] },
): Finding[] {
  const placement = recipe.sources[name]?.placement;
  const crs = placement && crsOf(placement.crs);
  if (!placement || !crs) return [];
  const finding = (code: string, message: string): Finding => ({ code, severity: 'caution', message, count: 1, location: name });
  const doubt = systemDoubt(crs, placement, extent);
  const question = openUnitQuestion(placement, crs, unit, extent);
  const frame = recipe.frame && crsOf(recipe.frame.crs);
  const wanted = frame && verticalOf(frame);
  const unstated = wanted && !verticalOf(crs) && layers.some((l) => l.groups.some((g) => g.heights));
  return [
    ...(unstated
      ? [
          finding(
            'heights-unstated',
            `Its heights are of no stated system, and those of the reference frame are of ${wanted.name}. Place it in a system that says which they are.`,
          ),
        ]
      : []),
    ...(doubt
      ? [finding(doubt.code, `${doubt.message} Choose another system in Place, or say it with --from, if it is not the right one.`)]
      : []),
    ...(question
      ? [finding('unit-question', `${unitSentence(question, crs, placement.unit_m)} Settle in Place which it is, or say it with --unit.`)]
      : []),
  ];
}

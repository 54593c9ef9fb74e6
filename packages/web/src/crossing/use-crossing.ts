import { useOutletContext } from 'react-router';
import type { CrossingState } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { changeRecipe } from '../state/recipe';
import { useAppDispatch } from '../state/store';

/** The crossing that the page is in. */
export function useCrossing(): CrossingState {
  return useOutletContext<CrossingState>();
}

/** Changes the crossing's rules; `label` is what undo calls it. */
export function useChange(): (label: string, change: (draft: Recipe) => void) => void {
  const { id } = useCrossing();
  const dispatch = useAppDispatch();
  return (label, change) => dispatch(changeRecipe(id, label, change));
}

/** The rules of a source in a draft, made when they are not there. */
export function sourceRules(draft: Recipe, source: string): Recipe['sources'][string] {
  return (draft.sources[source] ??= { placement: null, layers: {} });
}

/** Takes or leaves a layer. Taken is what a rule says by saying nothing. */
export function takeLayer(draft: Recipe, source: string, layer: string, taken: boolean): void {
  const rule = layerRules(draft, source, layer);
  if (taken) delete rule.taken;
  else rule.taken = false;
}

/** The rule of a layer in a draft, made when it is not there. */
export function layerRules(draft: Recipe, source: string, layer: string): Recipe['sources'][string]['layers'][string] {
  return (sourceRules(draft, source).layers[layer] ??= {});
}

/** The rule of a source's images in a draft, made when it is not there. */
export function imageRules(draft: Recipe, source: string): NonNullable<Recipe['sources'][string]['image']> {
  return (sourceRules(draft, source).image ??= {});
}

/** How a source's images are shown, in a draft. */
export function shownRules(draft: Recipe, source: string): NonNullable<NonNullable<Recipe['sources'][string]['image']>['shown']> {
  return (imageRules(draft, source).shown ??= {});
}

/** Takes or leaves the images of a source. Taken is what a rule says by saying nothing. */
export function takeImages(draft: Recipe, source: string, taken: boolean): void {
  const rule = imageRules(draft, source);
  if (taken) delete rule.taken;
  else rule.taken = false;
}

import type { CrossingState } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';

/** Rules, by crossing, that were changed here and have not reached the server yet. What the server says meanwhile is older. */
export const unsaved = new Map<string, Recipe>();

/** The newest state of each crossing that the server has told, by its revision. */
const newest = new Map<string, CrossingState>();
/** Crossings of which an answer came that was older than what was known: they are asked for again. */
const late = new Set<string>();
/** Those of them that were asked for again already. */
const asked = new Set<string>();

/**
 * What an answer of the server means for the page: one that was asked for before a change was saved, and arrives after it, takes nothing back;
 * rules that were changed since stay as the person has them.
 */
export function told(answer: CrossingState): CrossingState {
  const known = newest.get(answer.id);
  // asked again and still older, the server itself went back, and is right
  if (known && known.revision > answer.revision && !late.has(answer.id)) late.add(answer.id);
  else {
    newest.set(answer.id, answer);
    asked.delete(answer.id);
    late.delete(answer.id);
  }
  const state = newest.get(answer.id)!;
  return { ...state, recipe: unsaved.get(answer.id) ?? state.recipe };
}

/** True once for a crossing of which an answer came too late, so that it is asked for again. */
export function cameLate(id: string): boolean {
  if (!late.has(id) || asked.has(id)) return false;
  asked.add(id);
  return true;
}

/** Forgets what was told, as a new page does. */
export function forgetTold(): void {
  newest.clear();
  late.clear();
  asked.clear();
}

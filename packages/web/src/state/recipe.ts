import { createNextState } from '@reduxjs/toolkit';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { api, messageOfError } from './api';
import { type AppDispatch, type RootState } from './store';
import { changed, noticeGiven, wentBack, wentForth } from './ui';
import { told, unsaved } from './unsaved';

type Thunk = (dispatch: AppDispatch, getState: () => RootState) => void;

/** One save a crossing at a time; changes made meanwhile go with the next one. */
const saving = new Map<string, Promise<void>>();
const waiting = new Set<string>();

export function isSaving(id: string): boolean {
  return saving.has(id);
}

/** When every change made so far has reached the server. */
export async function allSaved(id: string): Promise<void> {
  await saving.get(id);
}

const current = (state: RootState, id: string): Recipe | undefined => api.endpoints.crossing.select(id)(state).data?.recipe;

/** Changes the rules of a crossing: shown at once, saved behind, and kept for undo under `label`. */
export function changeRecipe(id: string, label: string, change: (draft: Recipe) => void): Thunk {
  return (dispatch, getState) => {
    const before = current(getState(), id);
    if (!before) return;
    const after = createNextState(before, change);
    if (after === before) return;
    dispatch(changed({ id, label, recipe: before }));
    dispatch(put(id, after));
  };
}

/** Takes changes back: the last one, or several. */
export function undo(id: string, changes = 1): Thunk {
  return (dispatch, getState) => step(dispatch, getState, id, 'past', changes);
}

export function redo(id: string): Thunk {
  return (dispatch, getState) => step(dispatch, getState, id, 'future', 1);
}

function step(dispatch: AppDispatch, getState: () => RootState, id: string, side: 'past' | 'future', changes: number): void {
  const now = current(getState(), id);
  const steps = [...(getState().ui.trails[id]?.[side] ?? [])].reverse().slice(0, changes);
  const to = steps.at(-1);
  if (!now || !to) {
    dispatch(
      noticeGiven({ tone: 'caution', message: side === 'past' ? 'There is no earlier change to undo.' : 'There is nothing to redo.' }),
    );
    return;
  }
  let from = now;
  for (const { recipe } of steps) {
    dispatch(side === 'past' ? wentBack({ id, now: from }) : wentForth({ id, now: from }));
    from = recipe;
  }
  dispatch(put(id, to.recipe));
  const what = steps.length === 1 ? to.label : `${steps.length} changes, back to before ${to.label}`;
  dispatch(noticeGiven({ tone: 'good', message: `${side === 'past' ? 'Undone' : 'Done again'}: ${what}.` }));
}

function put(id: string, recipe: Recipe): Thunk {
  return (dispatch) => {
    unsaved.set(id, recipe);
    dispatch(api.util.updateQueryData('crossing', id, (draft) => void (draft.recipe = recipe)));
    waiting.add(id);
    if (!saving.has(id))
      saving.set(
        id,
        dispatch(saveAll(id)).finally(() => saving.delete(id)),
      );
  };
}

function saveAll(id: string): (dispatch: AppDispatch, getState: () => RootState) => Promise<void> {
  return async (dispatch, getState) => {
    while (waiting.delete(id)) {
      const state = api.endpoints.crossing.select(id)(getState()).data;
      if (!state) {
        unsaved.delete(id);
        return;
      }
      const result = await dispatch(api.endpoints.saveRecipe.initiate({ id, recipe: unsaved.get(id)!, revision: state.revision }));
      if (result.error) {
        waiting.delete(id);
        unsaved.delete(id);
        dispatch(noticeGiven({ tone: 'wrong', message: messageOfError(result.error) }));
        dispatch(
          api.util.invalidateTags([
            { type: 'Crossing', id },
            { type: 'Rules', id },
          ]),
        );
        return;
      }
      const saved = result.data;
      if (!waiting.has(id)) unsaved.delete(id);
      told(saved);
      dispatch(
        api.util.updateQueryData('crossing', id, (draft) => {
          // rules changed again while they were saved stay as the person has them
          Object.assign(draft, saved, { recipe: unsaved.get(id) ?? saved.recipe });
        }),
      );
    }
  };
}

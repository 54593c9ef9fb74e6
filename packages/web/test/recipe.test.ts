import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { CrossingState } from '@pontrel/contract/crossing';
import { EMPTY_RECIPE, type Recipe } from '@pontrel/core/crossing/recipe';
import { api } from '../src/state/api';
import { allSaved, changeRecipe, isSaving, redo, undo } from '../src/state/recipe';
import { store } from '../src/state/store';
import { forgetTold } from '../src/state/unsaved';

const crossing: CrossingState = {
  id: 'c1',
  name: 'Quay',
  revision: 1,
  created: '',
  opened: '',
  recipe: EMPTY_RECIPE,
  frame: null,
  tileStamp: 'a',
  frameExtent: null,
  layerExtents: {},
  pictures: [],
  sources: [],
  revisions: [],
  runs: [],
  jobs: [],
};

/** A server that keeps one crossing, and refuses a recipe made on an older revision. */
class FakeServer {
  state = structuredClone(crossing);
  puts: { recipe: Recipe; revision: number }[] = [];
  /** Answers wait here until they are let go. */
  private held: (() => void)[] = [];
  hold = false;
  holdReads = false;

  fetch = async (input: RequestInfo | URL): Promise<Response> => {
    const request = input as Request;
    const answer = (body: unknown, status = 200): Response =>
      new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } });
    if (request.method === 'PUT') {
      const body = (await request.json()) as { recipe: Recipe; revision: number };
      this.puts.push(body);
      if (this.hold) await new Promise<void>((resolve) => this.held.push(resolve));
      if (body.revision !== this.state.revision)
        return answer({ error: { code: 'recipe-stale', message: 'The rules were changed in another window.' } }, 409);
      this.state = { ...this.state, recipe: body.recipe, revision: this.state.revision + 1 };
    }
    // what is read is how it was when it was asked for, however late it arrives
    const now = structuredClone(this.state);
    if (request.method === 'GET' && this.holdReads) await new Promise<void>((resolve) => this.held.push(resolve));
    return answer(now);
  };

  release(): void {
    for (const go of this.held.splice(0)) go();
  }
}

let server: FakeServer;
const shown = (): CrossingState => api.endpoints.crossing.select('c1')(store.getState()).data!;
const chord = (metres: number): void =>
  void store.dispatch(changeRecipe('c1', `chord ${metres}`, (draft) => void (draft.chord_m = metres)));
const notices = (): string[] => store.getState().ui.notices.map((n) => n.message);

beforeEach(async () => {
  server = new FakeServer();
  vi.stubGlobal('fetch', server.fetch);
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(input: RequestInfo | URL, init?: RequestInit) {
        super(typeof input === 'string' ? new URL(input, 'http://127.0.0.1/') : input, init);
      }
    },
  );
  store.dispatch(api.util.resetApiState());
  forgetTold();
  await store.dispatch(api.endpoints.crossing.initiate('c1'));
});
afterEach(() => vi.unstubAllGlobals());

describe('changing the rules', () => {
  it('shows a change at once and saves it behind', async () => {
    chord(0.02);
    expect(shown().recipe.chord_m).toBe(0.02);
    expect(isSaving('c1')).toBe(true);
    await allSaved('c1');
    expect(server.state.recipe.chord_m).toBe(0.02);
    expect(shown().revision).toBe(2);
    expect(isSaving('c1')).toBe(false);
  });

  it('saves one at a time, each on the revision that the last one made, and what piles up goes together', async () => {
    server.hold = true;
    chord(0.01);
    await vi.waitFor(() => expect(server.puts).toHaveLength(1));
    chord(0.02);
    chord(0.03);
    expect(shown().recipe.chord_m).toBe(0.03);
    server.hold = false;
    server.release();
    await allSaved('c1');
    expect(server.puts.map((p) => [p.revision, p.recipe.chord_m])).toEqual([
      [1, 0.01],
      [2, 0.03],
    ]);
    // the answer to the first did not undo the later ones on the page
    expect(shown().recipe.chord_m).toBe(0.03);
  });

  it('is not undone, on the page or in what is saved, by an older answer that arrives late', async () => {
    server.holdReads = true;
    const late = store.dispatch(api.endpoints.crossing.initiate('c1', { forceRefetch: true }));
    server.hold = true;
    chord(0.02);
    await vi.waitFor(() => expect(server.puts).toHaveLength(1));
    chord(0.03);
    server.hold = false;
    server.holdReads = false;
    server.release();
    await late;
    expect(shown().recipe.chord_m).toBe(0.03);
    await allSaved('c1');
    expect(server.state.recipe.chord_m).toBe(0.03);
    expect(shown().recipe.chord_m).toBe(0.03);
  });

  it('is not undone by an answer that was asked for before it was saved and arrives after that; the newest is asked for again', async () => {
    server.holdReads = true;
    const late = store.dispatch(api.endpoints.crossing.initiate('c1', { forceRefetch: true }));
    await new Promise((resolve) => setTimeout(resolve, 5));
    chord(0.02);
    await allSaved('c1');
    expect(shown().revision).toBe(2);
    server.holdReads = false;
    server.release();
    await late;
    expect(shown()).toMatchObject({ revision: 2, recipe: { chord_m: 0.02 } });
    chord(0.03);
    await allSaved('c1');
    expect(server.state.recipe.chord_m).toBe(0.03);
    expect(notices()).not.toContain('The rules were changed in another window.');
  });

  it('that change nothing are neither saved nor kept for undo', async () => {
    const before = store.getState().ui.trails.c1?.past.length ?? 0;
    chord(EMPTY_RECIPE.chord_m);
    await allSaved('c1');
    expect(server.puts).toHaveLength(0);
    expect(store.getState().ui.trails.c1?.past.length ?? 0).toBe(before);
  });

  it('goes back and forth, and says what was undone', async () => {
    chord(0.02);
    chord(0.05);
    store.dispatch(undo('c1'));
    expect(shown().recipe.chord_m).toBe(0.02);
    store.dispatch(undo('c1'));
    expect(shown().recipe.chord_m).toBe(EMPTY_RECIPE.chord_m);
    store.dispatch(redo('c1'));
    expect(shown().recipe.chord_m).toBe(0.02);
    await allSaved('c1');
    expect(server.state.recipe.chord_m).toBe(0.02);
    expect(notices()).toContain('Undone: chord 0.05.');
    // a new change makes what was undone unreachable
    chord(0.5);
    store.dispatch(redo('c1'));
    expect(shown().recipe.chord_m).toBe(0.5);
    expect(notices()).toContain('There is nothing to redo.');
    await allSaved('c1');
  });

  it('goes back over several changes at once, and forth again one by one', async () => {
    const before = shown().recipe.chord_m;
    for (const metres of [0.11, 0.12, 0.13]) chord(metres);
    store.dispatch(undo('c1', 2));
    expect(shown().recipe.chord_m).toBe(0.11);
    expect(notices().at(-1)).toBe('Undone: 2 changes, back to before chord 0.12.');
    store.dispatch(redo('c1'));
    expect(shown().recipe.chord_m).toBe(0.12);
    store.dispatch(redo('c1'));
    expect(shown().recipe.chord_m).toBe(0.13);
    store.dispatch(undo('c1', 3));
    expect(shown().recipe.chord_m).toBe(before);
    await allSaved('c1');
    expect(server.state.recipe.chord_m).toBe(before);
  });

  it('that another window overtook are told, and the page shows what is there', async () => {
    server.state = { ...server.state, revision: 7, recipe: { ...EMPTY_RECIPE, chord_m: 0.9 } };
    chord(0.02);
    await allSaved('c1');
    expect(notices()).toContain('The rules were changed in another window.');
    await store.dispatch(api.endpoints.crossing.initiate('c1', { forceRefetch: true }));
    expect(shown().recipe.chord_m).toBe(0.9);
    expect(server.state.recipe.chord_m).toBe(0.9);
  });
});

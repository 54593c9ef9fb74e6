import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { IntakeEntry } from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import type { Recipe } from '@pontrel/core/crossing/recipe';

export interface Notice {
  id: number;
  tone: 'good' | 'caution' | 'wrong';
  message: string;
}

export interface Change {
  label: string;
  recipe: Recipe;
}

/** What was changed in one crossing, for going back and forth; each entry holds the rules on the other side of it. */
interface Trail {
  past: Change[];
  future: Change[];
}

const DEPTH = 200;

const slice = createSlice({
  name: 'ui',
  initialState: {
    jobs: {} as Record<string, Job>,
    /** Jobs whose message was put away here; an older answer does not bring it back. */
    dismissed: [] as string[],
    notices: [] as Notice[],
    /** What became of the files that came last, while it is being shown. */
    intake: [] as IntakeEntry[],
    trails: {} as Record<string, Trail>,
    /** The jobs of each crossing that were started together last, until they are put away. */
    batches: {} as Record<string, string[]>,
    nextNotice: 1,
    keysShown: false,
    /** The crossing whose name is being changed on Home. */
    renaming: null as string | null,
    night: false,
    /** False while the event stream is broken. */
    connected: true,
  },
  reducers: {
    jobMoved(state, { payload }: PayloadAction<Job>) {
      state.jobs[payload.id] = payload;
    },
    jobsKnown(state, { payload }: PayloadAction<Job[]>) {
      for (const job of payload) if (!state.dismissed.includes(job.id)) state.jobs[job.id] ??= job;
    },
    jobGone(state, { payload }: PayloadAction<string>) {
      delete state.jobs[payload];
      state.dismissed = [...state.dismissed, payload].slice(-DEPTH);
    },
    noticeGiven(state, { payload }: PayloadAction<Omit<Notice, 'id'>>) {
      state.notices = [...state.notices.filter((n) => n.message !== payload.message), { ...payload, id: state.nextNotice++ }].slice(-3);
    },
    /** Shown when some were not taken; an empty list puts it away. */
    intakeLogged(state, { payload }: PayloadAction<IntakeEntry[]>) {
      state.intake = payload.some((l) => l.outcome === 'refused') ? payload : [];
    },
    noticeGone(state, { payload }: PayloadAction<number>) {
      state.notices = state.notices.filter((n) => n.id !== payload);
    },
    changed(state, { payload }: PayloadAction<{ id: string } & Change>) {
      const trail = (state.trails[payload.id] ??= { past: [], future: [] });
      trail.past = [...trail.past, { label: payload.label, recipe: payload.recipe }].slice(-DEPTH);
      trail.future = [];
    },
    wentBack(state, { payload }: PayloadAction<{ id: string; now: Recipe }>) {
      const trail = state.trails[payload.id]!;
      const step = trail.past.pop()!;
      trail.future.push({ label: step.label, recipe: payload.now });
    },
    wentForth(state, { payload }: PayloadAction<{ id: string; now: Recipe }>) {
      const trail = state.trails[payload.id]!;
      const step = trail.future.pop()!;
      trail.past.push({ label: step.label, recipe: payload.now });
    },
    /** No jobs put the batch of a crossing away. */
    batchIs(state, { payload }: PayloadAction<{ crossing: string; jobs: string[] }>) {
      if (payload.jobs.length > 0) state.batches[payload.crossing] = payload.jobs;
      else delete state.batches[payload.crossing];
    },
    keysToggled(state, { payload }: PayloadAction<boolean>) {
      state.keysShown = payload;
    },
    renamingIn(state, { payload }: PayloadAction<string | null>) {
      state.renaming = payload;
    },
    nightToggled(state, { payload }: PayloadAction<boolean>) {
      state.night = payload;
    },
    connectionChanged(state, { payload }: PayloadAction<boolean>) {
      state.connected = payload;
    },
  },
});

export const {
  jobMoved,
  jobsKnown,
  jobGone,
  noticeGiven,
  noticeGone,
  intakeLogged,
  changed,
  wentBack,
  wentForth,
  keysToggled,
  nightToggled,
  connectionChanged,
  renamingIn,
  batchIs,
} = slice.actions;
export const ui = slice.reducer;

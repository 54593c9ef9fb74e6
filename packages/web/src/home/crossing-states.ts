import type { CrossingRow } from '@pontrel/contract/crossing';

/** Where a crossing stands, stage by stage, and what its runs say. */
export interface Standing {
  states: ('done' | 'caution' | 'todo')[];
  /** The first stage that is not done; -1 where all are. */
  next: number;
  /** Deliverables that have been run, and those of them whose rules have changed since. */
  ran: number;
  stale: number;
}

/** Works out where a crossing stands. */
export function standingOf(r: CrossingRow): Standing {
  const ran = r.runs.match + r.runs.differs;
  const states: Standing['states'] = [
    r.sources.length > 0 ? 'done' : 'todo',
    r.placed > 0 && r.placed === r.sources.length ? 'done' : 'todo',
    r.deliverables > 0 && r.taken > 0 ? 'done' : 'todo',
    r.deliverables > 0 && ran === r.deliverables ? 'done' : 'todo',
    ran === 0 ? 'todo' : r.runs.differs > 0 || r.runs.current < ran ? 'caution' : 'done',
  ];
  return { states, next: states.findIndex((state) => state !== 'done'), ran, stale: ran - r.runs.current };
}

/** Whether everything of it is run, matches, and would be made by the rules as they are. */
export const isProved = (r: CrossingRow): boolean => standingOf(r).next < 0;

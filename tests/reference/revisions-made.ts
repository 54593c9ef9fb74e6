/** What `make_revisions.py` did to the records of the older revision: how many have which fate, and which lots are gone. */
export interface RevisionsMade {
  same: number;
  moved: number;
  changed: number;
  /** Moved, and with other values as well. */
  both: number;
  removed: number;
  added: number;
  removed_lots: string[];
}

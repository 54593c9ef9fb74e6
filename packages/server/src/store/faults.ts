import { messageOf } from '@pontrel/core/model/problem';

/**
 * What goes wrong with a machine rather than with a file or a program, as system calls (errno(3)) and SQLite (sqlite.org/rescode.html) say it.
 * Errors that come from a worker keep their message and lose their code.
 */
const FAULTS: readonly (readonly [RegExp, string])[] = [
  [/ENOSPC|EDQUOT|disk is full/, 'The disk is full. Free some space on it and try again; nothing that was there is changed.'],
  [
    /EIO|disk I\/O error/,
    'The disk reported an error while it was written to. Look after it, or move the data folder to another one; what was there is unchanged.',
  ],
  [
    /EROFS|EACCES|EPERM|readonly database/,
    'The data folder cannot be written to. Give Pontrel the right to, and try again; nothing that was there is changed.',
  ],
  [
    /SQLITE_BUSY|database is locked/,
    'The catalog in the data folder is held by another program. Close that one and try again; nothing that was there is changed.',
  ],
];

/** A sentence for whatever ended a job; what is no fault of the machine is one of the program, and goes to its window as well. */
export function sentenceOf(error: unknown): string {
  const fault = faultOf(error);
  if (fault === null) console.error(error);
  return fault ?? `Something went wrong that should not have: ${messageOf(error)}`;
}

/** The sentence for a fault of the machine; null for what is none. */
export function faultOf(error: unknown): string | null {
  const message = messageOf(error);
  return FAULTS.find(([mark]) => mark.test(message))?.[1] ?? null;
}

import type { Crs } from '../crs/crs';
import type { Finding } from '../model/finding';

/** Tells that a file cannot say at which date its coordinates hold, where they hold at one: no format that is written here can. */
export const dateNotStated = ({ epoch }: Crs, format: string): Finding[] =>
  epoch === undefined
    ? []
    : [
        {
          code: 'date-not-stated',
          severity: 'caution',
          message: `${format} cannot say that its coordinates hold at ${epoch}: hand that date over with the files.`,
          count: 1,
        },
      ];

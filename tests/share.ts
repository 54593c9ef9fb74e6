/** Whether all is to be checked; `npm run nightly` does. */
const ALL = process.env.ALL === 'yes';

/** Every so manieth of a long list of like cases, beginning with the first; all of them in the nightly run. */
export const shareOf = <T>(list: readonly T[], every: number): T[] => (ALL ? [...list] : list.filter((_, k) => k % every === 0));

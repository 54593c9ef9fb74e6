/** What a command said, and what it took. */
export interface Measured {
  status: number;
  out: string;
  err: string;
  /** What all of its threads worked, not how long it took: what else the machine does is not its own. */
  cpu_s: number;
  /** The most memory that it held, MB. */
  peak_MB: number;
}

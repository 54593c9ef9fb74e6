/** Gives each of many names once: one that is taken gets a number behind it. */
export class FreeNames {
  private readonly taken: Set<string>;
  /** The next number of each name that came more than once, so that a thousand of one name are not tried a thousand times each. */
  private readonly next = new Map<string, number>();

  constructor(
    taken: Iterable<string> = [],
    private readonly numbered = (name: string, n: number): string => `${name}_${n}`,
  ) {
    this.taken = new Set(taken);
  }

  take(name: string): string {
    let free = name;
    let n = this.next.get(name) ?? 2;
    for (; this.taken.has(free); n++) free = this.numbered(name, n);
    if (free !== name) this.next.set(name, n);
    this.taken.add(free);
    return free;
  }
}

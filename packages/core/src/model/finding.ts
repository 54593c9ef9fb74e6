/** How much a finding asks of a person: to know it, to look at it, to mend it. */
export type Severity = 'info' | 'caution' | 'wrong';

/** One thing that a person should know. */
export interface Finding {
  /** Stable, lower case with hyphens; for programs. */
  code: string;
  severity: Severity;
  /** One plain sentence: what, and what to do where something can be done. */
  message: string;
  /** How many records or values it is about. */
  count: number;
  /** Where: a layer, a field, a line of the file. */
  location?: string;
  /** True where things of the file stay behind by it, so many as it counts: they are in the account of the layer that `location` names. */
  left?: true;
}

/** Sums findings that share code, message and place, in the order in which they first came. */
export class Findings {
  private readonly byKey = new Map<string, Finding>();

  add(finding: Finding): void {
    const key = `${finding.code}\n${finding.location ?? ''}\n${finding.message}`;
    const known = this.byKey.get(key);
    if (known) known.count += finding.count;
    else this.byKey.set(key, { ...finding });
  }

  list(): Finding[] {
    return [...this.byKey.values()];
  }
}

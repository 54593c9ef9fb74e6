import type { FeatureBatch } from '../model/batch';
import type { Cause, Reason } from '../model/reason';

/** Records of a layer that stay behind for one reason. */
export interface LeftBehind {
  reason: string;
  by: Cause;
  count: number;
  /** For people. */
  message: string;
  /** Where the first of them stand in their source: line, record or feature numbers. Empty for what only the reader met. */
  locations: number[];
}

/** Records of a layer that arrive in another way than they were. */
export interface ChangedOnTheWay {
  code: string;
  count: number;
}

/**
 * What became of everything that one layer of a source holds, in one deliverable: `read` is `crossed` and all that was left together. It
 * counts what the file holds as one thing (features, entities, rows), however many records each becomes.
 */
export interface AccountRow {
  source: string;
  layer: string;
  read: number;
  crossed: number;
  left: LeftBehind[];
  /** Of those that crossed. */
  changed: ChangedOnTheWay[];
  /** What neither arrived nor was left for a reason: zero where the account closes. */
  missing: number;
}

/** Locations that are kept of each reason. */
const LISTED = 20;

/** What became of an item: nothing known yet, arrived, or left for the reason with this number less {@link FIRST_REASON}. */
const OPEN = 0,
  CROSSED = 1,
  FIRST_REASON = 2;

/** Follows the items of one layer, a byte each. */
export class LayerAccount {
  private fates = new Uint8Array(1024);
  private count = 0;
  private lastLocation = NaN;
  private readonly reasons: { reason: Reason; first: { item: number; location: number }[] }[] = [];
  private readonly unread = new Map<string, LeftBehind>();
  private readonly changes = new Map<string, { count: number; last: number }>();

  constructor(
    readonly source: string,
    readonly layer: string,
  ) {}

  /** The batch with its items numbered. Records that stand at one location, one after the other, are one item. */
  numbered(batch: FeatureBatch): FeatureBatch {
    const items = new Uint32Array(batch.count);
    for (let i = 0; i < batch.count; i++) {
      const location = batch.locations[i]!;
      if (location !== this.lastLocation) {
        this.lastLocation = location;
        this.count++;
      }
      items[i] = this.count - 1;
    }
    if (this.count > this.fates.length) {
      const grown = new Uint8Array(Math.max(this.count, 2 * this.fates.length));
      grown.set(this.fates);
      this.fates = grown;
    }
    return { ...batch, items };
  }

  /** A record of the item has arrived: whatever else was said of it, it has crossed. */
  crossed(item: number): void {
    this.fates[item] = CROSSED;
  }

  /** A record of the item stays behind. What is said first of an item counts, and only if no record of it arrives. */
  left(item: number, reason: Reason, location: number): void {
    if (this.fates[item] !== OPEN) return;
    let k = this.reasons.findIndex((r) => r.reason.code === reason.code && r.reason.by === reason.by);
    if (k < 0) k = this.reasons.push({ reason, first: [] }) - 1;
    this.fates[item] = FIRST_REASON + k;
    const { first } = this.reasons[k]!;
    if (first.length < LISTED) first.push({ item, location });
  }

  /** Things that the reader met and made no record of. */
  notRead(code: string, count: number, message: string): void {
    const known = this.unread.get(code);
    if (known) known.count += count;
    else this.unread.set(code, { reason: code, by: 'reader', count, message, locations: [] });
  }

  /** An item arrives in another way than it was; said again of the same item, it counts once. */
  changed(item: number, code: string): void {
    const known = this.changes.get(code);
    if (!known) this.changes.set(code, { count: 1, last: item });
    else if (known.last !== item) {
      known.count++;
      known.last = item;
    }
  }

  row(): AccountRow {
    const counts = new Uint32Array(FIRST_REASON + this.reasons.length);
    for (let item = 0; item < this.count; item++) counts[this.fates[item]!]!++;
    const unread = [...this.unread.values()];
    const left = this.reasons.map(({ reason, first }, k): LeftBehind => {
      const count = counts[FIRST_REASON + k]!;
      return {
        reason: reason.code,
        by: reason.by,
        count,
        message: reason.sentence(count),
        locations: first
          .filter((f) => this.fates[f.item] === FIRST_REASON + k)
          .map((f) => f.location)
          .sort((a, b) => a - b),
      };
    });
    return {
      source: this.source,
      layer: this.layer,
      read: this.count + unread.reduce((n, u) => n + u.count, 0),
      crossed: counts[CROSSED]!,
      left: [...left.filter((l) => l.count > 0), ...unread],
      changed: [...this.changes].map(([code, { count }]) => ({ code, count })),
      missing: counts[OPEN]!,
    };
  }
}

/** The account of one deliverable: a row a layer of a source. */
export class Account {
  private readonly layers = new Map<string, LayerAccount>();

  layer(source: string, layer: string): LayerAccount {
    const key = `${source}\n${layer}`;
    let own = this.layers.get(key);
    if (!own) this.layers.set(key, (own = new LayerAccount(source, layer)));
    return own;
  }

  rows(): AccountRow[] {
    return [...this.layers.values()].map((layer) => layer.row());
  }
}

/** Sums of some rows. */
export function accountTotals(rows: readonly AccountRow[]): {
  read: number;
  crossed: number;
  byYou: number;
  notCarried: number;
  missing: number;
} {
  const left = rows.flatMap((r) => r.left);
  const sum = <T>(list: readonly T[], of: (item: T) => number): number => list.reduce((n, item) => n + of(item), 0);
  return {
    read: sum(rows, (r) => r.read),
    crossed: sum(rows, (r) => r.crossed),
    byYou: sum(
      left.filter((l) => l.by === 'you' || l.by === 'rule'),
      (l) => l.count,
    ),
    notCarried: sum(
      left.filter((l) => l.by !== 'you' && l.by !== 'rule'),
      (l) => l.count,
    ),
    missing: sum(rows, (r) => r.missing),
  };
}

/** A line between the blocks of two columns, by their numbers from the top. */
export interface Link {
  from: number;
  to: number;
}

/** How often links cross each other. */
export function crossings(links: readonly Link[]): number {
  let n = 0;
  for (let i = 0; i < links.length; i++)
    for (let j = i + 1; j < links.length; j++) {
      const [a, b] = [links[i]!, links[j]!];
      if ((a.from - b.from) * (a.to - b.to) < 0) n++;
    }
  return n;
}

/** Links of more than this many are left as they are: they could not be told apart anyway. */
const MOST_LINKS = 1500;
const ROUNDS = 12;

/**
 * An order of the blocks of both columns in which their links cross less, if there is one. Blocks stay within their groups, and these in
 * their order.
 * Source: K. Sugiyama, S. Tagawa, M. Toda, "Methods for visual understanding of hierarchical system structures" (1981): the barycentre
 * of what a block is linked to
 * @param groups of the blocks of the left and of the right column; blocks of one group stand together
 * @returns for each column the numbers of the blocks from the top
 */
export function untangled(
  links: readonly Link[],
  groups: { from: readonly unknown[]; to: readonly unknown[] },
): { from: number[]; to: number[] } {
  const usual = { from: groups.from.map((_, k) => k), to: groups.to.map((_, k) => k) };
  if (links.length > MOST_LINKS) return usual;
  const placed = ({ from, to }: typeof usual): Link[] => {
    const [at, end] = [inverse(from), inverse(to)];
    return links.map((l) => ({ from: at[l.from]!, to: end[l.to]! }));
  };
  let best = usual;
  let least = crossings(placed(usual));
  let now = usual;
  for (let k = 0; k < ROUNDS && least > 0; k++) {
    const side = k % 2 === 0 ? 'to' : 'from';
    now = { ...now, [side]: byBarycentre(now[side], side, links, inverse(now[side === 'to' ? 'from' : 'to']), groups[side]) };
    const n = crossings(placed(now));
    if (n < least) [best, least] = [now, n];
  }
  return best;
}

const inverse = (order: readonly number[]): number[] => {
  const out: number[] = [];
  order.forEach((block, k) => (out[block] = k));
  return out;
};

function byBarycentre(
  order: readonly number[],
  side: 'from' | 'to',
  links: readonly Link[],
  at: readonly number[],
  groups: readonly unknown[],
): number[] {
  const other = side === 'to' ? 'from' : 'to';
  const middle = order.map((block) => {
    const own = links.filter((l) => l[side] === block).map((l) => at[l[other]]!);
    return own.length === 0 ? null : own.reduce((n, v) => n + v, 0) / own.length;
  });
  const rank = new Map<unknown, number>();
  for (const block of order) if (!rank.has(groups[block])) rank.set(groups[block], rank.size);
  return order
    .map((block, k) => ({ block, k, middle: middle[k]! }))
    .sort(
      (a, b) =>
        rank.get(groups[a.block])! - rank.get(groups[b.block])! ||
        (a.middle === null || b.middle === null ? 0 : a.middle - b.middle) ||
        a.k - b.k,
    )
    .map((b) => b.block);
}

import type { TargetSet } from '../format';

/** What the records of a set are in a file. */
export type Part = 'points' | 'plan features' | 'alignments' | 'parcels' | 'faces' | 'breaklines' | 'contours' | 'structures' | 'pipes';

/** Sets that stand in one element together, by their numbers: a surface with its lines, a network, or a set by itself. */
export interface SetGroup {
  name: string;
  sets: { set: number; part: Part }[];
}

const PIPE_FIELDS = ['id', 'from_id', 'to_id'],
  STRUCTURE_FIELDS = ['id'];

const has = (set: TargetSet, fields: readonly string[]): boolean => fields.every((f) => set.fields.some((own) => own.to === f));

/** What the names of the two layers of a network begin with. */
const networkOf = (name: string): string => name.replace(/[\s_-]*(structures?|pipes?)$/i, '');

/** Whether all records of a set are triangles with heights, as far as counts tell. */
export const isTriangles = (set: TargetSet): boolean =>
  set.kind === 'polygon' && set.heights && set.most === 4 && set.vertices === 4 * set.count && !set.several;

/** A face has no room for values. */
const isSurface = (set: TargetSet): boolean => isTriangles(set) && set.fields.length === 0;

const LINES_OF = /^(.+?)[\s_-]+(breaklines|contours)$/i;

/** The elements that sets go into. A network is a layer of pipes and one of structures whose names begin alike, or the only ones of their kind. */
export function groupsOf(sets: readonly TargetSet[]): SetGroup[] {
  const numbered = sets.map((set, k) => ({ set, k }));
  const pipes = numbered.filter(({ set }) => set.kind === 'line' && has(set, PIPE_FIELDS));
  const structures = numbered.filter(({ set }) => set.kind === 'point' && has(set, STRUCTURE_FIELDS) && !set.several);
  const networks = pipes.flatMap((p) => {
    const own = structures.filter((s) => networkOf(s.set.name).toLowerCase() === networkOf(p.set.name).toLowerCase());
    const [partner] = own.length > 0 || pipes.length > 1 ? own : structures.length === 1 ? structures : [];
    return partner ? [{ pipes: p, structures: partner }] : [];
  });
  const taken = new Set(networks.flatMap((n) => [n.pipes.k, n.structures.k]));
  const surfaces = new Map<string, SetGroup>();
  const groups: SetGroup[] = [];
  for (const { set, k } of numbered) {
    if (taken.has(k)) {
      const own = networks.find((n) => n.structures.k === k);
      if (own)
        groups.push({
          name: networkOf(own.pipes.set.name) || own.pipes.set.name,
          sets: [
            { set: k, part: 'structures' },
            { set: own.pipes.k, part: 'pipes' },
          ],
        });
      continue;
    }
    const [, ground, lines] = (set.kind === 'line' && !set.several && LINES_OF.exec(set.name)) || [];
    const name = ground ?? set.name;
    if (ground !== undefined || isSurface(set)) {
      const part: Part = lines === undefined ? 'faces' : lines.toLowerCase() === 'contours' ? 'contours' : 'breaklines';
      const known = surfaces.get(name);
      if (known && !known.sets.some((s) => s.part === part)) {
        known.sets.push({ set: k, part });
        continue;
      }
      const group: SetGroup = { name, sets: [{ set: k, part }] };
      if (!known) surfaces.set(name, group);
      groups.push(group);
      continue;
    }
    groups.push({ name: set.name, sets: [{ set: k, part: partOf(set) }] });
  }
  return groups;
}

function partOf(set: TargetSet): Part {
  if (set.kind === 'polygon') return 'parcels';
  if (set.kind !== 'line') return 'points';
  return has(set, ['staStart']) || /^alignments$/i.test(set.name) ? 'alignments' : 'plan features';
}

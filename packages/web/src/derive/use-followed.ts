import { useEffect, useMemo, useState } from 'react';
import type { LongProfileView, SourceState } from '@pontrel/contract/crossing';
import { useCrossing } from '../crossing/use-crossing';
import type { Picked } from '../map/styles';
import { messageOfError, useLazyRecordQuery, useLongProfileQuery, useRecordsQuery } from '../state/api';

/** Structures that can be chosen from a list: of a longer one, the rest is chosen on the map. */
const MOST_LISTED = 200;

/** A run that is followed through a network, on the map and from the side. */
export interface Followed {
  /** Ids of structures to begin from. */
  structures: readonly string[];
  from: string | undefined;
  way: 'downstream' | 'upstream';
  /** The source that is the ground; null for none. */
  ground: SourceState | null;
  grounds: readonly SourceState[];
  profile: LongProfileView['run'];
  along: LongProfileView['ground'];
  /** Why there is no run; "" where there is one, or none is known yet. */
  why: string;
  follow(from: string): void;
  turn(way: 'downstream' | 'upstream'): void;
  lay(ground: SourceState | null): void;
  /** What is asked for, for an address. */
  asked: { from: string; way: string; ground?: string };
}

/**
 * Follows a network from a structure: one of the list, or one that is picked on the map.
 * @param source null where no network is chosen
 */
export function useFollowed(source: SourceState | null, picked: Picked | null): Followed {
  const { id, sources, recipe } = useCrossing();
  const layer = `${source?.derived?.name ?? ''}-structures`;
  const { data: page } = useRecordsQuery({ id, source: source?.id ?? '', layer, offset: 0, limit: MOST_LISTED }, { skip: source === null });
  const structures = useMemo(() => (source ? (page?.records ?? []).map((r) => String(r.attributes.id)) : []), [source, page]);
  const [chosen, setChosen] = useState<{ source: string; from: string } | null>(null);
  const [way, turn] = useState<Followed['way']>('downstream');
  const grounds = useMemo(
    () => sources.filter((s) => s.derived?.operation === 'surface' && recipe.sources[s.name]?.placement),
    [sources, recipe],
  );
  // the first surface is the ground until somebody says otherwise
  const [laid, setLaid] = useState<string | null | undefined>(undefined);
  const ground = laid === undefined ? (grounds[0] ?? null) : (grounds.find((s) => s.id === laid) ?? null);
  const [ask] = useLazyRecordQuery();
  const follow = (from: string): void => setChosen({ source: source!.id, from });
  useEffect(() => {
    if (!source || picked?.source !== source.name || picked.layer !== layer) return;
    void ask({ id, source: source.name, record: picked.id }, true)
      .unwrap()
      .then((record) => setChosen({ source: source.id, from: String(record.attributes.id) }));
  }, [ask, id, source, layer, picked]);
  const from = chosen !== null && chosen.source === source?.id ? chosen.from : structures[0];
  const asked = { from: from ?? '', way, ...(ground ? { ground: ground.id } : {}) };
  const { currentData: found, error } = useLongProfileQuery(
    { id, source: source?.id ?? '', ...asked },
    { skip: source === null || from === undefined },
  );
  return {
    structures: from === undefined || structures.includes(from) ? structures : [...structures, from],
    from,
    way,
    ground,
    grounds,
    profile: found?.run ?? null,
    along: found?.ground ?? [],
    why: error ? messageOfError(error) : (found?.why ?? ''),
    follow,
    turn,
    lay: (s) => setLaid(s?.id ?? null),
    asked,
  };
}

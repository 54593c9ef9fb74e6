import { useEffect, useMemo, useState } from 'react';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { joinFields } from '@pontrel/core/content/features/profile';
import { faultOfFilter } from '../components/FilterInput';
import { useCrossing } from '../crossing/use-crossing';
import { api } from '../state/api';
import { useAppDispatch } from '../state/store';
import type { ShapedLayer } from './shaped-layers';

export interface LeftOut {
  /** Why a record stays behind, for people; null where it crosses. */
  why(source: string, layer: string, id: number, entity: string): string | null;
  /** How many records a filter that is being typed takes; null where none is, or where it is not known. */
  typed: number | null;
  /** Whether it is known of every record; not while it is asked for, nor where there are too many to be told one by one. */
  known: boolean;
}

/**
 * Which records of some layers are left out by what a person said of them.
 * @param typed a filter that is being typed for these layers, in place of the one that they have
 */
export function useLeftOut(layers: readonly ShapedLayer[], typed: string | null): LeftOut {
  const { id, recipe } = useCrossing();
  const dispatch = useAppDispatch();
  const [passing, setPassing] = useState<ReadonlyMap<string, ReadonlySet<number>>>(new Map());
  const filters = layers.flatMap((l) => {
    const where = typed ?? l.rule.where ?? '';
    // fields that the rules add are not in the source, which is what is asked
    const own = { fields: joinFields(l.layer.profile.groups), placed: (recipe.sources[l.source.name]?.placement ?? null) !== null };
    return where === '' || faultOfFilter(where, own) !== null
      ? []
      : [{ key: l.key, source: l.source.id, layer: l.layer.profile.name, where }];
  });
  const asked = JSON.stringify(filters);
  useEffect(() => {
    let gone = false;
    const questions = (JSON.parse(asked) as typeof filters).map(({ key, ...of }) => ({
      key,
      answer: dispatch(api.endpoints.recordIds.initiate({ id, ...of })),
    }));
    void Promise.all(questions.map(async ({ key, answer }) => [key, (await answer).data?.ids] as const)).then((answers) => {
      // what has too many to be told one by one, or could not be asked, is shown as if it crossed
      if (!gone) setPassing(new Map(answers.flatMap(([key, ids]) => (ids ? [[key, new Set(ids)]] : []))));
    });
    return () => {
      gone = true;
      for (const { answer } of questions) answer.unsubscribe();
    };
  }, [asked, id, dispatch]);
  return useMemo(() => {
    const shaped = new Map(layers.map((l) => [l.key, l]));
    const why: LeftOut['why'] = (source, layer, record, entity) => {
      const key = `${source}\n${layer}`;
      const of = shaped.get(key);
      if (!of) return null;
      if (!isTaken(of.rule)) return 'the layer is not taken';
      if (of.rule.leftOut?.includes(entity)) return 'objects of this kind are not taken';
      const where = typed ?? of.rule.where;
      return where !== undefined && passing.get(key)?.has(record) === false ? `not where ${where}` : null;
    };
    const taken = layers.map((l) => passing.get(l.key)?.size ?? null);
    const filtered = layers.filter((l) => (typed ?? l.rule.where ?? '') !== '');
    const known = filtered.every((l) => passing.has(l.key));
    return { why, known, typed: typed === null || typed === '' || taken.includes(null) ? null : taken.reduce((n: number, k) => n + k!, 0) };
  }, [layers, typed, passing]);
}

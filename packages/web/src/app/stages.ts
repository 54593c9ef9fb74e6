import { isTaken } from '@pontrel/core/operations/layer-rule';
import type { CrossingState } from '@pontrel/contract/crossing';
import { imageRule, layerRule } from '@pontrel/core/crossing/recipe';
import { liesSomewhere } from '../components/lies-somewhere';
import { plural } from '../components/numbers';

export const STAGES = ['gather', 'place', 'shape', 'deliver', 'prove'] as const;
export type Stage = (typeof STAGES)[number];

export const STAGE_NAMES: Record<Stage, string> = { gather: 'Gather', place: 'Place', shape: 'Shape', deliver: 'Deliver', prove: 'Prove' };

export type StageState = 'todo' | 'done' | 'caution';

export interface StageView {
  stage: Stage;
  state: StageState;
  /** The live figure under the pier. */
  figure: string;
}

/** Where a crossing stands, stage by stage. */
export function stagesOf(c: CrossingState): StageView[] {
  const layers = c.sources.flatMap((s) => s.layers.map((l) => ({ source: s.name, layer: l.profile.name, records: l.profile.count })));
  const images = c.sources.filter((s) => s.images);
  const takenImages = images.filter((s) => imageRule(c.recipe, s.name).taken !== false).length;
  const all = layers.length + images.length;
  const taken = layers.filter((l) => isTaken(layerRule(c.recipe, l.source, l.layer)));
  const placed = c.sources.filter((s) => c.recipe.sources[s.name]?.placement || !liesSomewhere(s)).length;
  const runs = c.runs.filter((r) => c.recipe.deliverables.some((d) => d.id === r.deliverable));
  const stale = runs.filter((r) => !r.current).length;
  const match = runs.filter((r) => r.status === 'match').length;
  const { deliverables } = c.recipe;
  return [
    {
      stage: 'gather',
      state: c.sources.length > 0 ? 'done' : 'todo',
      figure:
        c.sources.length === 0
          ? 'no source yet'
          : [
              plural(c.sources.length, 'source'),
              layers.length > 0 || images.length === 0 ? plural(layers.length, 'layer') : plural(images.length, 'image'),
            ].join(' · '),
    },
    {
      stage: 'place',
      state: c.frame && placed > 0 && placed === c.sources.length ? 'done' : 'todo',
      figure: !c.frame
        ? 'no frame yet'
        : placed === c.sources.length && placed > 0
          ? 'all placed'
          : `${placed} of ${c.sources.length} placed`,
    },
    {
      stage: 'shape',
      state: taken.length + takenImages > 0 && deliverables.length > 0 ? 'done' : 'todo',
      figure:
        all === 0
          ? 'nothing to shape'
          : layers.length === 0
            ? `${takenImages} of ${plural(images.length, 'image')} cross`
            : `${taken.length} of ${layers.length} layers cross`,
    },
    {
      stage: 'deliver',
      state: deliverables.length > 0 && runs.length === deliverables.length ? 'done' : 'todo',
      figure: deliverables.length === 0 ? 'none yet' : plural(deliverables.length, 'deliverable'),
    },
    {
      stage: 'prove',
      state: runs.length === 0 ? 'todo' : match === runs.length && stale === 0 ? 'done' : 'caution',
      figure:
        runs.length === 0
          ? 'not run'
          : stale > 0
            ? 'rules changed since'
            : runs.length === 1
              ? match === 1
                ? 'match'
                : 'differs'
              : `${match} of ${runs.length} match`,
    },
  ];
}

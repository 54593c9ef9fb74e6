import type { CrossingState } from '@pontrel/contract/crossing';
import type { Crs } from '@pontrel/core/crs/crs';
import { isTaken, layerRule } from '@pontrel/core/crossing/recipe';
import { useCrsQuery } from '../state/api';
import type { SheetLayer } from './PlanSheet';

/** The frame's definition; undefined until it is there. */
export function useFrame(crossing: CrossingState): Crs | undefined {
  const { data } = useCrsQuery(crossing.frame?.id ?? '', { skip: !crossing.frame });
  return crossing.frame ? data : undefined;
}

/** The crossing's own records as they lie in the frame; layers left behind are not shown. */
export function sourceTiles(crossing: CrossingState, look: SheetLayer['look'], all = false): SheetLayer {
  return {
    key: 'sources', address: `/api/crossings/${crossing.id}/tiles/${crossing.tileStamp}`, look, pickable: true,
    visible: (source, layer) => all || isTaken(layerRule(crossing.recipe, source, layer)),
  };
}

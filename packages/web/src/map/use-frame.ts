import { isTaken } from '@pontrel/core/operations/layer-rule';
import type { CrossingState } from '@pontrel/contract/crossing';
import type { Crs } from '@pontrel/core/crs/crs';
import { layerRule } from '@pontrel/core/crossing/recipe';
import { type Scales, styleBy } from '@pontrel/core/symbology/layer-style';
import { useCrsQuery } from '../state/api';
import type { SheetLayer } from './sheet-layers';

/** The frame's definition; undefined until it is there. */
export function useFrame(crossing: CrossingState): Crs | undefined {
  const { data } = useCrsQuery(crossing.frame?.id ?? '', { skip: !crossing.frame });
  return crossing.frame ? data : undefined;
}

const isShown = (scales: Scales | null | undefined, denominator: number): boolean =>
  !scales || ((scales.min === null || denominator >= scales.min) && (scales.max === null || denominator < scales.max));

/** The crossing's own records as they lie in the frame; layers left behind are not shown. */
export function sourceTiles(crossing: CrossingState, look: SheetLayer['look'], all = false): SheetLayer {
  const styles = crossing.sources.flatMap((s) =>
    s.layers.map(
      ({ profile, style }) => [`${s.name}\n${profile.name}`, styleBy(layerRule(crossing.recipe, s.name, profile.name), style)] as const,
    ),
  );
  const scales = new Map(styles.map(([key, style]) => [key, style.scales]));
  const looks = new Map<string, ReturnType<SheetLayer['look']>>();
  return {
    key: 'sources',
    address: `/api/crossings/${crossing.id}/tiles/${crossing.tileStamp}`,
    pickable: true,
    labelled: styles.some(([, style]) => style.label !== null),
    look: (source) => {
      // asked for every record that is drawn
      let known = looks.get(source);
      if (!known)
        looks.set(
          source,
          (known = { ...look(source), shown: (layer, denominator) => isShown(scales.get(`${source}\n${layer}`), denominator) }),
        );
      return known;
    },
    visible: (source, layer) => all || isTaken(layerRule(crossing.recipe, source, layer)),
  };
}

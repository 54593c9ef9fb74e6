import { isTaken } from '@pontrel/core/operations/layer-rule';
import type { CrossingState } from '@pontrel/contract/crossing';
import type { Crs } from '@pontrel/core/crs/crs';
import { imageRule, layerRule } from '@pontrel/core/crossing/recipe';
import { type Scales, styleBy } from '@pontrel/core/symbology/layer-style';
import { useCrsQuery } from '../state/api';
import type { PictureSheetLayer, RecordSheetLayer } from './sheet-layers';

/** The frame's definition; undefined until it is there. */
export function useFrame(crossing: CrossingState): Crs | undefined {
  const { data } = useCrsQuery(crossing.frame?.id ?? '', { skip: !crossing.frame });
  return crossing.frame ? data : undefined;
}

const isShown = (scales: Scales | null | undefined, denominator: number): boolean =>
  !scales || ((scales.min === null || denominator >= scales.min) && (scales.max === null || denominator < scales.max));

/** The crossing's own records as they lie in the frame; layers left behind are not shown. */
export function sourceTiles(crossing: CrossingState, look: RecordSheetLayer['look'], all = false): RecordSheetLayer {
  const styles = crossing.sources.flatMap((s) =>
    s.layers.map(
      ({ profile, style }) => [`${s.name}\n${profile.name}`, styleBy(layerRule(crossing.recipe, s.name, profile.name), style)] as const,
    ),
  );
  const scales = new Map(styles.map(([key, style]) => [key, style.scales]));
  const looks = new Map<string, ReturnType<RecordSheetLayer['look']>>();
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

/** Where the picture tiles of a source are. */
export const pictureAddress = (crossing: string, sourceId: string, stamp: string): string =>
  `/api/crossings/${crossing}/sources/${sourceId}/picture-tiles/${stamp}`;

/**
 * The crossing's pictures as they lie in the frame, those on top last; left out are those that are hidden.
 * @param dim 0 to 1: how far all of them are faded
 */
export function pictureTiles({ id, recipe, sources, pictures }: CrossingState, dim = 0): PictureSheetLayer[] {
  return [...pictures].reverse().flatMap(({ source, stamp }): PictureSheetLayer[] => {
    const { taken, shown } = imageRule(recipe, source);
    const known = sources.find((s) => s.name === source);
    if (!known || shown?.hidden || taken === false) return [];
    return [{ key: `picture-${known.id}`, address: pictureAddress(id, known.id, stamp), opacity: (shown?.opacity ?? 1) * (1 - dim) }];
  });
}

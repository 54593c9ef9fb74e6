import { useMemo } from 'react';
import { useKept } from '../state/kept';
import type { RecordSheetLayer, SheetLayer } from './sheet-layers';

/** How layers of records are shown on the maps of a crossing; none of it is a rule, and nothing that is written changes by it. */
export interface MapLayers {
  isHidden(source: string, layer: string): boolean;
  isDimmed(source: string, layer: string): boolean;
  hide(of: readonly LayerName[], on: boolean): void;
  dim(of: readonly LayerName[], on: boolean): void;
  /** How many are hidden or dimmed. */
  touched: number;
}

export interface LayerName {
  source: string;
  layer: string;
}

const keyOf = ({ source, layer }: LayerName): string => `${source}\n${layer}`;

/** Which layers of a crossing are switched off or dimmed on its maps; the browser remembers it. */
export function useMapLayers(crossing: string): MapLayers {
  const [hidden, setHidden] = useKept<string[]>(`map.hidden.${crossing}`, []);
  const [dimmed, setDimmed] = useKept<string[]>(`map.dimmed.${crossing}`, []);
  return useMemo(() => {
    const [out, back] = [new Set(hidden), new Set(dimmed)];
    const put =
      (before: Set<string>, keep: (keys: string[]) => void) =>
      (of: readonly LayerName[], on: boolean): void => {
        const next = new Set(before);
        for (const one of of) {
          if (on) next.add(keyOf(one));
          else next.delete(keyOf(one));
        }
        keep([...next]);
      };
    return {
      isHidden: (source, layer) => out.has(keyOf({ source, layer })),
      isDimmed: (source, layer) => back.has(keyOf({ source, layer })),
      hide: put(out, setHidden),
      dim: put(back, setDimmed),
      touched: new Set([...hidden, ...dimmed]).size,
    };
  }, [hidden, dimmed, setHidden, setDimmed]);
}

const isOfSources = (layer: SheetLayer): layer is RecordSheetLayer => layer.key === 'sources';

/** The layers of a sheet as somebody wants to see those of the sources. */
export const asShown = (layers: readonly SheetLayer[], { isHidden, isDimmed, touched }: MapLayers): SheetLayer[] =>
  layers.map((l) => {
    if (touched === 0 || !isOfSources(l)) return l;
    return {
      ...l,
      visible: (source, layer) => l.visible(source, layer) && !isHidden(source, layer),
      look: (source) => {
        const own = l.look(source);
        return { ...own, shown: (layer, denominator) => !isDimmed(source, layer) && own.shown?.(layer, denominator) !== false };
      },
    };
  });

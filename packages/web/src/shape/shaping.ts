import { createContext, useContext } from 'react';
import type { Forecast, ForecastRow } from '@pontrel/core/content/features/forecast';
import type { LayerReport } from '@pontrel/core/operations/apply';
import type { LayerRule } from '@pontrel/core/operations/layer-rule';
import type { JointLayer, ShapedLayer } from './shaped-layers';

/**
 * Changes the rule of every chosen layer, in one step of undo.
 * @param label what undo calls it
 * @param on the layers that it is about; all chosen ones where nothing is said
 */
export type EditRules = (label: string, how: (rule: LayerRule, of: ShapedLayer) => void, on?: (of: ShapedLayer) => boolean) => void;

/** What the rules beside the map are about: one layer, or several at once. */
export interface Shaping extends JointLayer {
  chosen: readonly ShapedLayer[];
  edit: EditRules;
  forecast: Forecast | null;
  /** What becomes of the layer; null of several. */
  row: ForecastRow | null;
  report: LayerReport | null;
  /** Shows a place on the map. */
  onFind(at: { x: number; y: number }): void;
  /** Is told of a filter while it is being typed; null when it is not any more. */
  onTyped(where: string | null): void;
}

export const ShapingContext = createContext<Shaping | null>(null);

export function useShaping(): Shaping {
  return useContext(ShapingContext)!;
}

/** What becomes of a layer in a forecast. */
export const rowOf = (forecast: Forecast | null, { source, layer }: ShapedLayer): ForecastRow | undefined =>
  forecast?.rows.find((r) => r.source === source.name && r.layer === layer.profile.name);

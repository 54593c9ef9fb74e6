import type { SourceLayer, SourceState } from '@pontrel/contract/crossing';

/** A layer with the source that it is of. */
export interface LayerAt {
  source: SourceState;
  layer: SourceLayer;
  taken: boolean;
}

export const keyOf = (at: Pick<LayerAt, 'source' | 'layer'>): string => `${at.source.name}\n${at.layer.profile.name}`;

/** The gravest thing found in a layer. */
export function worst({ source, layer }: LayerAt): 'caution' | 'wrong' | null {
  const own = source.findings.filter((f) => f.location === layer.profile.name && f.severity !== 'info');
  return own.some((f) => f.severity === 'wrong') ? 'wrong' : own.length > 0 ? 'caution' : null;
}

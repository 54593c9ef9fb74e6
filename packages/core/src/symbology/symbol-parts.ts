import type { Value } from '../model/value';
import { type BatchBuilder } from '../model/batch-builder';
import { type FeatureBatch, TEXT } from '../model/batch';
import { BY_BLOCK, BY_LAYER } from './library';
import { addMapped, type Affine, mapDirection } from '../geometry/affine';

/** What a part of a symbol is drawn with. */
export interface PartSymbology {
  color: Value;
  linetype: Value;
  lineweight_mm: Value;
}

/** What the parts of a block take from where it is placed. */
export interface SymbologyWherePlaced {
  /** Of the placed block itself. */
  own: PartSymbology & { layer: Value };
  /** Of the layer that it is placed on. */
  ofLayer: PartSymbology;
}

/**
 * Adds the parts of a symbol as records of their own: mapped, with what follows the block's place taken from `look`, and
 * lettering turned and sized with it.
 * @param as where the parts stand in their source when that is where the block stands, and further fields of each, by its number
 */
export function addParts(
  parts: FeatureBatch,
  map: Affine,
  look: SymbologyWherePlaced,
  out: BatchBuilder,
  as: { location?: number; item?: number | undefined; also?(out: BatchBuilder, i: number): void } = {},
): void {
  const angles = parts.columns.get('text_angle');
  for (let i = 0; i < parts.count; i++) {
    addMapped(parts, i, map, out);
    as.also?.(out, i);
    for (const [name, column] of parts.columns) {
      const value = column[i]!;
      if (value === BY_BLOCK || (value === BY_LAYER && name === 'layer'))
        out.set(name, look.own[name as keyof SymbologyWherePlaced['own']]);
      else if (value === BY_LAYER) out.set(name, look.own.layer === BY_LAYER ? BY_LAYER : look.ofLayer[name as keyof PartSymbology]);
      else if (name === 'text_height') out.set(name, Number(value) * mapDirection(map, Number(angles?.[i] ?? 0) + 90).length);
      else if (name !== 'text_angle') out.set(name, value);
    }
    if (parts.kinds[i] === TEXT) out.set('text_angle', mapDirection(map, Number(angles?.[i] ?? 0)).angle);
    out.endFeature(parts.kinds[i]!, parts.entities[i]!, as.location ?? parts.locations[i]!, as.item);
  }
}

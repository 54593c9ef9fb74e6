import { type BatchBuilder } from '../model/batch-builder';
import { type FeatureBatch, TEXT, type Value } from '../model/batch';
import { BY_BLOCK, BY_LAYER } from './library';
import { addMapped, type Affine, mapDirection } from '../geometry/affine';

export interface PartLook {
  color: Value;
  linetype: Value;
  lineweight_mm: Value;
}

/** What the parts of a block take from where it is placed. */
export interface PlaceLook {
  /** Of the placed block itself. */
  own: PartLook & { layer: Value };
  /** Of the layer that it is placed on. */
  ofLayer: PartLook;
}

/**
 * Adds the parts of a symbol as records of their own: mapped, with what follows the block's place taken from `look`, and
 * lettering turned and sized with it.
 * @param also sets further fields on each part, told by its number
 */
export function addParts(
  parts: FeatureBatch,
  map: Affine,
  look: PlaceLook,
  out: BatchBuilder,
  also: (out: BatchBuilder, i: number) => void = () => {},
): void {
  const angles = parts.columns.get('text_angle');
  for (let i = 0; i < parts.count; i++) {
    addMapped(parts, i, map, out);
    also(out, i);
    for (const [name, column] of parts.columns) {
      const value = column[i]!;
      if (value === BY_BLOCK || (value === BY_LAYER && name === 'layer')) out.set(name, look.own[name as keyof PlaceLook['own']]);
      else if (value === BY_LAYER) out.set(name, look.own.layer === BY_LAYER ? BY_LAYER : look.ofLayer[name as keyof PartLook]);
      else if (name === 'text_height') out.set(name, Number(value) * mapDirection(map, Number(angles?.[i] ?? 0) + 90).length);
      else if (name !== 'text_angle') out.set(name, value);
    }
    if (parts.kinds[i] === TEXT) out.set('text_angle', mapDirection(map, Number(angles?.[i] ?? 0)).angle);
    out.endFeature(parts.kinds[i]!, parts.entities[i]!, parts.places[i]!);
  }
}

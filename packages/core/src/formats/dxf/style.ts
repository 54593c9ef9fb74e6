import type { CommonEntity, LayerRecord } from './entities';
import { hex, indexColor } from './colors';

const BY_LAYER = 256;
const BY_BLOCK = 0;

export interface Look {
  /** "#rrggbb" */
  color: string;
  linetype: string;
  /** Millimetres; null for the default weight. */
  lineweight_mm: number | null;
}

/** What an object looks like once "by layer" is looked up. By block, outside any block, is the foreground colour. */
export function lookOf(entity: CommonEntity, layer: LayerRecord | undefined): Look {
  return { color: colorOf(entity, layer), linetype: linetypeOf(entity, layer), lineweight_mm: lineweightOf(entity, layer) };
}

function colorOf(entity: CommonEntity, layer: LayerRecord | undefined): string {
  if (entity.trueColor >= 0) return hex(entity.trueColor);
  if (entity.color === BY_LAYER) {
    if (!layer) return indexColor(7);
    // a negative colour marks a layer that is off
    return layer.trueColor >= 0 ? hex(layer.trueColor) : indexColor(Math.abs(layer.color));
  }
  return entity.color === BY_BLOCK ? indexColor(7) : indexColor(Math.abs(entity.color));
}

function linetypeOf(entity: CommonEntity, layer: LayerRecord | undefined): string {
  const name = entity.linetype.toUpperCase();
  if (name === 'BYLAYER') return layer?.linetype ?? 'CONTINUOUS';
  return name === 'BYBLOCK' ? 'CONTINUOUS' : entity.linetype;
}

function lineweightOf(entity: CommonEntity, layer: LayerRecord | undefined): number | null {
  const hundredths = entity.lineweight === -1 ? (layer?.lineweight ?? -3) : entity.lineweight;
  return hundredths < 0 ? null : hundredths / 100;
}

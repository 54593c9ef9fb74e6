import type { SymbologyWherePlaced } from '../../symbology/symbol-parts';
import { BY_BLOCK, BY_LAYER, type LayerLook } from '../../symbology/library';
import type { CommonEntity, LayerRecord } from './entities';
import { hex, indexColor } from './colors';

const COLOR_BY_LAYER = 256;
const COLOR_BY_BLOCK = 0;
const WEIGHT_BY_LAYER = -1;
const WEIGHT_BY_BLOCK = -2;
/** The layer whose objects in a block are drawn as on the layer of the block. */
const FLOATING = '0';

/** What an entity is drawn with, layers and blocks worked in. */
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

/** The look of an object within a block definition, with words where it follows the block's place. */
export function partLook(entity: CommonEntity, layer: LayerRecord | undefined): SymbologyWherePlaced {
  const floating = entity.layer === FLOATING;
  const own = lookOf(entity, layer);
  const linetype = entity.linetype.toUpperCase();
  return {
    own: {
      layer: floating ? BY_LAYER : entity.layer,
      color:
        entity.trueColor >= 0
          ? own.color
          : entity.color === COLOR_BY_BLOCK
            ? BY_BLOCK
            : entity.color === COLOR_BY_LAYER && floating
              ? BY_LAYER
              : own.color,
      linetype: linetype === 'BYBLOCK' ? BY_BLOCK : linetype === 'BYLAYER' && floating ? BY_LAYER : own.linetype,
      lineweight_mm:
        entity.lineweight === WEIGHT_BY_BLOCK ? BY_BLOCK : entity.lineweight === WEIGHT_BY_LAYER && floating ? BY_LAYER : own.lineweight_mm,
    },
    ofLayer: lookOf(BARE, layer),
  };
}

/** An object that leaves all of its look to its layer. */
const BARE = { linetype: 'BYLAYER', color: COLOR_BY_LAYER, trueColor: -1, lineweight: WEIGHT_BY_LAYER } as CommonEntity;

/** Flags of a layer. Source: DXF Reference, LAYER. */
const FROZEN = 1,
  LOCKED = 4;

/** What a layer of the LAYER table draws with, and its states. */
export function layerLook(record: LayerRecord): LayerLook {
  const states: string[] = [];
  // a negative colour marks a layer that is off
  if (record.color < 0) states.push('off');
  if (record.flags & FROZEN) states.push('frozen');
  if (record.flags & LOCKED) states.push('locked');
  if (record.plots === 0) states.push('not plotted');
  return { name: record.name, ...lookOf(BARE, record), states };
}

function colorOf(entity: CommonEntity, layer: LayerRecord | undefined): string {
  if (entity.trueColor >= 0) return hex(entity.trueColor);
  if (entity.color === COLOR_BY_LAYER) {
    if (!layer) return indexColor(7);
    return layer.trueColor >= 0 ? hex(layer.trueColor) : indexColor(Math.abs(layer.color));
  }
  return entity.color === COLOR_BY_BLOCK ? indexColor(7) : indexColor(Math.abs(entity.color));
}

function linetypeOf(entity: CommonEntity, layer: LayerRecord | undefined): string {
  const name = entity.linetype.toUpperCase();
  if (name === 'BYLAYER') return layer?.linetype ?? 'CONTINUOUS';
  return name === 'BYBLOCK' ? 'CONTINUOUS' : entity.linetype;
}

function lineweightOf(entity: CommonEntity, layer: LayerRecord | undefined): number | null {
  const hundredths = entity.lineweight === WEIGHT_BY_LAYER ? (layer?.lineweight ?? -3) : entity.lineweight;
  return hundredths < 0 ? null : hundredths / 100;
}

/** How far one sees through it, 0 to 1; null where it is not said. Source: DXF Reference, group 440: the low byte is how solid it is. */
export function transparencyOf(entity: CommonEntity): number | null {
  const value = entity.transparency >>> 0;
  return value >>> 24 === 2 ? Number((1 - (value & 255) / 255).toFixed(3)) : null;
}

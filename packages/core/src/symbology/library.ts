import type { Value } from '../model/value';
import type { LayerStyle } from './layer-style';
import type { FeatureBatch } from '../model/batch';

/** The pattern of a line, as drawings tell it. */
export interface LinePattern {
  description: string;
  /** Lengths of dashes (positive), gaps (negative) and dots (zero), in the source's unit; empty for a solid line. */
  dashes: number[];
}

/** What a layer says of the objects on it. */
export interface LayerLook {
  name: string;
  /** "#rrggbb" */
  color: string;
  linetype: string;
  /** Millimetres; null for the default. */
  lineweight_mm: number | null;
  /** Words for its state, when it is not simply shown: "off", "frozen", "locked", "not plotted". */
  states: string[];
}

/** A piece of data that a block asks for when it is placed. */
export interface BlockAttribute {
  tag: string;
  prompt: string;
  /** What it holds when nothing is said; always, when it is constant. */
  value: string;
  constant: boolean;
  invisible: boolean;
  /** Where and how large it is lettered, in the block's own frame. */
  at: [number, number, number];
  height: number;
  angle: number;
}

/** What a block draws, in its own frame and unit. */
export interface BlockSymbol {
  name: string;
  base: [number, number, number];
  /**
   * Its geometry, nested blocks taken apart. The columns color, linetype and layer hold {@link BY_BLOCK} or {@link BY_LAYER} where
   * they follow the block's place.
   */
  parts: FeatureBatch;
  attributes: BlockAttribute[];
}

/** Stands in a part's look where that is taken from the block as placed. */
export const BY_BLOCK = 'by block';
/** The same, from the layer on which the block is placed. */
export const BY_LAYER = 'by layer';

/** What the records of a source are drawn with, beyond their own geometry. Keys are lower case. */
export interface SymbolLibrary {
  layers: Map<string, LayerLook>;
  lines: Map<string, LinePattern>;
  blocks: Map<string, BlockSymbol>;
  /** What styles say of layers as a whole. */
  styles: Map<string, LayerStyle>;
  /** Names of applications that have left data on records. */
  applications: Set<string>;
}

/** A library with nothing in it. */
export const emptyLibrary = (): SymbolLibrary => ({
  layers: new Map(),
  lines: new Map(),
  blocks: new Map(),
  styles: new Map(),
  applications: new Set(),
});

/** The library with all lengths multiplied, for a target in another unit. */
export function scaledLibrary(library: SymbolLibrary, ratio: number): SymbolLibrary {
  if (ratio === 1) return library;
  const point = ([x, y, z]: [number, number, number]): [number, number, number] => [x * ratio, y * ratio, z * ratio];
  const heights = (column: Value[]): Value[] => column.map((v) => (typeof v === 'number' ? v * ratio : v));
  const scaledBlock = (symbol: BlockSymbol): BlockSymbol => ({
    ...symbol,
    base: point(symbol.base),
    parts: {
      ...symbol.parts,
      coords: symbol.parts.coords.map((v) => v * ratio),
      columns: new Map([...symbol.parts.columns].map(([name, column]) => [name, name === 'text_height' ? heights(column) : column])),
    },
    attributes: symbol.attributes.map((a) => ({ ...a, at: point(a.at), height: a.height * ratio })),
  });
  return {
    ...library,
    lines: new Map([...library.lines].map(([key, line]) => [key, { ...line, dashes: line.dashes.map((d) => d * ratio) }])),
    blocks: new Map([...library.blocks].map(([key, symbol]) => [key, scaledBlock(symbol)])),
  };
}

/** Names in drawings are compared without regard to case. */
export const symbolKey = (name: string): string => name.toLowerCase();

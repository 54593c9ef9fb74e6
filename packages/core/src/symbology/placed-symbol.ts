import type { Value } from '../model/value';
import { type Affine, insertionMap } from '../geometry/affine';
import { type FeatureBatch, vertexRange } from '../model/batch';
import { BatchBuilder } from '../model/batch-builder';
import { type BlockSymbol, type SymbolLibrary, symbolKey } from './library';
import { addParts, type SymbologyWherePlaced } from './symbol-parts';

/** How the fields of a record say that its block is placed: the map from the block's own frame into the source's numbers. */
export function insertionOf(batch: FeatureBatch, i: number, symbol: BlockSymbol): Affine {
  const number = (name: string, otherwise: number): number => {
    const value = batch.columns.get(name)?.[i];
    return typeof value === 'number' ? value : otherwise;
  };
  const [v] = vertexRange(batch, i);
  const normal = String(batch.columns.get('extrusion')?.[i] ?? '0 0 1')
    .split(' ')
    .map(Number);
  const z = batch.coords[3 * v + 2]!;
  return insertionMap(
    {
      at: [batch.coords[3 * v]!, batch.coords[3 * v + 1]!, Number.isNaN(z) ? 0 : z],
      angle: number('block_angle', 0),
      scale: [number('scale_x', 1), number('scale_y', 1), number('scale_z', 1)],
      normal: normal.length === 3 && normal.every(Number.isFinite) ? [normal[0]!, normal[1]!, normal[2]!] : [0, 0, 1],
    },
    symbol.base,
  );
}

/** What the parts of a record's block take from where it is placed. */
export function symbologyWherePlaced(batch: FeatureBatch, i: number, library: SymbolLibrary | null): SymbologyWherePlaced {
  const at = (name: string): Value => batch.columns.get(name)?.[i] ?? null;
  const own = { layer: at('layer') ?? batch.layer, color: at('color'), linetype: at('linetype'), lineweight_mm: at('lineweight_mm') };
  return { own, ofLayer: library?.layers.get(symbolKey(String(own.layer))) ?? own };
}

/** What a record's block draws where it stands, in the source's own numbers. */
export function placedSymbol(batch: FeatureBatch, i: number, symbol: BlockSymbol, library: SymbolLibrary | null): FeatureBatch {
  const out = new BatchBuilder(batch.layer);
  addParts(symbol.parts, insertionOf(batch, i, symbol), symbologyWherePlaced(batch, i, library), out);
  return out.take();
}

/** What the block that a record names draws where it stands; null where it names none, or one that draws nothing. */
export function drawnBlock(batch: FeatureBatch, i: number, library: SymbolLibrary | null): FeatureBatch | null {
  const block = batch.columns.get('block')?.[i];
  const symbol = typeof block === 'string' ? library?.blocks.get(symbolKey(block)) : undefined;
  return symbol && symbol.parts.count > 0 ? placedSymbol(batch, i, symbol, library) : null;
}

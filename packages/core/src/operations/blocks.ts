import { z } from 'zod';
import { flatten } from '../geometry/flatten';
import { convexHull } from '../geometry/hull';
import { type FeatureBatch, POLYGON, vertexRange } from '../model/batch';
import { BatchBuilder, copyRecord, copyValues } from '../model/batch-builder';
import { type BlockSymbol, type SymbolLibrary, symbolKey } from '../symbology/library';
import { insertionOf, placedSymbol, symbologyWherePlaced } from '../symbology/placed-symbol';
import { addParts } from '../symbology/symbol-parts';
import { counted, type Operation } from './operation';

/** How a block crosses: as a point with its data, taken apart into its geometry, or as the outline around it. */
export const BLOCK_TREATMENTS = ['point', 'apart', 'outline'] as const;
export type BlockTreatment = (typeof BLOCK_TREATMENTS)[number];

/** By block name; those not named cross as points. */
export const Blocks = z.record(z.string(), z.enum(BLOCK_TREATMENTS));
type Blocks = z.infer<typeof Blocks>;

interface Tally {
  apart: number;
  /** Records that came of them. */
  parts: number;
  outlined: number;
}

/** Takes blocks apart, or draws the outline around them. */
export const blocks: Operation<Blocks, Tally, { blocks?: Blocks | undefined }> = {
  id: 'blocks',
  scope: 'record',
  schema: Blocks,
  parameters(layer, rules) {
    const own = rules[layer]?.blocks;
    return own && Object.values(own).some((treatment) => treatment !== 'point') ? own : undefined;
  },
  sentence: (own) =>
    Object.entries(own)
      .filter(([, treatment]) => treatment !== 'point')
      .map(([name, treatment]) => `${name} ${treatment === 'apart' ? 'taken apart' : 'as an outline'}`)
      .join(', '),
  tally: () => ({ apart: 0, parts: 0, outlined: 0 }),
  stage: (own, { library }, tally) => ({
    *apply(batch) {
      const column = batch.columns.get('block');
      if (!column || !library) return void (yield batch);
      const treated = (i: number): { treatment: BlockTreatment; symbol: BlockSymbol } | null => {
        const name = column[i];
        const treatment = typeof name === 'string' ? own[name] : undefined;
        const symbol = treatment !== undefined && treatment !== 'point' ? library.blocks.get(symbolKey(String(name))) : undefined;
        return symbol && symbol.parts.count > 0 ? { treatment: treatment!, symbol } : null;
      };
      const out = new BatchBuilder(batch.layer, batch.to);
      for (let i = 0; i < batch.count; i++) {
        const block = treated(i);
        if (block?.treatment === 'apart') {
          tally.apart++;
          tally.parts += block.symbol.parts.count;
          takeApart(batch, i, block.symbol, library, out);
        } else if (block && outline(batch, i, block.symbol, out)) tally.outlined++;
        else copyRecord(batch, i, out);
      }
      yield { ...out.take(), declared: batch.declared };
    },
  }),
  effects: ({ apart, parts, outlined }) => [
    ...(apart > 0
      ? [
          {
            effect: 'told' as const,
            code: 'blocks-apart',
            count: apart,
            message: `${counted(apart, 'block')} taken apart into ${parts} parts`,
          },
        ]
      : []),
    ...(outlined > 0
      ? [
          {
            effect: 'told' as const,
            code: 'blocks-outlined',
            count: outlined,
            message: `${counted(outlined, 'block')} as the outline around it`,
          },
        ]
      : []),
  ],
};

/** Fields of a placed block that say nothing of its parts. */
const OF_THE_PLACE: ReadonlySet<string> = new Set([
  'layer',
  'entity',
  'color',
  'linetype',
  'lineweight_mm',
  'block_angle',
  'scale_x',
  'scale_y',
  'scale_z',
  'extrusion',
  'text',
  'text_height',
  'text_angle',
  'text_align',
]);

/** The parts of a block, each with the block's data. */
function takeApart(batch: FeatureBatch, i: number, symbol: BlockSymbol, library: SymbolLibrary, out: BatchBuilder): void {
  addParts(symbol.parts, insertionOf(batch, i, symbol), symbologyWherePlaced(batch, i, library), out, {
    location: batch.locations[i]!,
    item: batch.items?.[i],
    also(to, k) {
      copyValues(batch, i, to, OF_THE_PLACE);
      to.set('entity', symbol.parts.entities[k]!);
    },
  });
}

/** Chord tolerance of an outline, as a share of a symbol's size. */
const OUTLINE_FINE = 0.005;

/** The hull around what a block draws; false when that has no inside. */
function outline(batch: FeatureBatch, i: number, symbol: BlockSymbol, out: BatchBuilder): boolean {
  const parts = placedSymbol(batch, i, symbol, null);
  const size = widthOf(parts.coords);
  const { coords } = flatten(parts, Math.max(size * OUTLINE_FINE, 1e-9));
  const hull = convexHull(Array.from({ length: coords.length / 3 }, (_, v) => [coords[3 * v]!, coords[3 * v + 1]!] as const));
  if (hull.length < 3) return false;
  const z = batch.coords[3 * vertexRange(batch, i)[0] + 2]!;
  for (const [x, y] of [...hull, hull[0]!]) out.vertex(x, y, z);
  out.endPart();
  copyValues(batch, i, out);
  out.endFeature(POLYGON, batch.entities[i]!, batch.locations[i]!, batch.items?.[i]);
  return true;
}

function widthOf(coords: Float64Array): number {
  let low = Infinity,
    high = -Infinity;
  for (let k = 0; k < coords.length; k += 3) {
    low = Math.min(low, coords[k]!);
    high = Math.max(high, coords[k]!);
  }
  return high - low;
}

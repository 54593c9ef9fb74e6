import { BatchBuilder } from '../model/batch-builder';
import { LINE, POLYGON } from '../model/batch';
import { BY_BLOCK, BY_LAYER, type BlockSymbol } from './library';

/** A symbol for points that bring none of their own: one unit across, about its middle. */
export interface DrawnSymbol {
  id: string;
  label: string;
  symbol: BlockSymbol;
}

type Stroke = { closed: boolean; at: readonly (readonly [number, number, number?])[] };

const ring = (r: number): Stroke => ({
  closed: true,
  at: [
    [r, 0, 1],
    [-r, 0, 1],
  ],
});
const line = (...at: (readonly [number, number])[]): Stroke => ({ closed: false, at });
const area = (...at: (readonly [number, number])[]): Stroke => ({ closed: true, at });
/** Five points about the middle, the first one up. */
const starPoints = (outer: number, inner: number): [number, number][] =>
  Array.from({ length: 10 }, (_, k) => {
    const r = k % 2 === 0 ? outer : inner,
      a = Math.PI / 2 + (k * Math.PI) / 5;
    return [r * Math.cos(a), r * Math.sin(a)];
  });
const cross = [line([-0.5, 0], [0.5, 0]), line([0, -0.5], [0, 0.5])];

const STROKES: readonly [string, string, Stroke[]][] = [
  ['POINT_RING', 'Ring', [ring(0.5)]],
  ['POINT_CROSS', 'Cross', cross],
  ['POINT_MARK', 'Ring with cross', [ring(0.35), ...cross]],
  ['POINT_SQUARE', 'Square', [area([-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5])]],
  ['POINT_TRIANGLE', 'Triangle', [area([-0.5, -0.433], [0.5, -0.433], [0, 0.433])]],
  ['POINT_DIAGONAL', 'Diagonal cross', [line([-0.4, -0.4], [0.4, 0.4]), line([-0.4, 0.4], [0.4, -0.4])]],
  ['POINT_STAR', 'Star', [area(...starPoints(0.5, 0.19))]],
  ['POINT_TREE', 'Tree', [ring(0.5), ring(0.06)]],
  ['POINT_VALVE', 'Valve', [area([-0.5, -0.3], [0, 0], [-0.5, 0.3]), area([0.5, -0.3], [0.5, 0.3], [0, 0])]],
];

function symbolOf(name: string, strokes: readonly Stroke[]): BlockSymbol {
  const out = new BatchBuilder(name);
  for (const { closed, at } of strokes) {
    for (const [x, y, bulge] of at) out.vertex(x, y, 0, bulge ?? 0);
    if (closed) out.vertex(at[0]![0], at[0]![1], 0);
    out.endPart();
    out.set('layer', BY_LAYER);
    out.set('color', BY_BLOCK);
    out.set('linetype', BY_BLOCK);
    out.endFeature(closed ? POLYGON : LINE, 'LWPOLYLINE', 0);
  }
  return { name, base: [0, 0, 0], parts: out.take(), attributes: [] };
}

/** The symbols that ship with the application. */
export const DRAWN_SYMBOLS: readonly DrawnSymbol[] = STROKES.map(([id, label, strokes]) => ({ id, label, symbol: symbolOf(id, strokes) }));

/** A symbol by its id; the first where there is no such. */
export function drawnSymbol(id: string): DrawnSymbol {
  return DRAWN_SYMBOLS.find((s) => s.id === id) ?? DRAWN_SYMBOLS[0]!;
}

import { type FeatureBatch, POINT } from '../../model/batch';
import type { Reason } from '../../model/reason';
import { inverseMap, type PixelGrid, pixelSize } from '../../raster/pixel-grid';
import type { SymbolLibrary } from '../../symbology/library';
import { lengthUnit } from '../../symbology/sizes';
import { drawnBlock } from '../../symbology/placed-symbol';
import type { Label } from '../../symbology/layer-style';
import { inPieces, placeBatch, resizeBatch, type SourceTransform, transformBatch } from '../features/transform-batch';
import { dotOnGround, type MapScale } from './map-scale';
import { type Shape, type ShapeContext, shapesOf } from './shapes';

/** A source whose records are drawn. */
export interface DrawnSource {
  name: string;
  transform: SourceTransform;
  library: SymbolLibrary | null;
  /** Its records as the rules want them, in the same order whenever they are asked for. */
  read(): AsyncIterable<FeatureBatch>;
  /** What the records of a layer are labelled with; null where they are not. */
  label(layer: string): Label | null;
  /** Why a layer is not drawn, as a whole or those of its records that were such entities; null where it is. */
  notDrawn(layer: string): { reason: Reason; entities: readonly string[] | null } | null;
}

/** Records to be drawn into a grid. */
export interface RecordsToDraw {
  grid: PixelGrid;
  map: MapScale;
  sources: readonly DrawnSource[];
}

/** A record on its way onto the picture. */
export interface DrawnRecord {
  /** Its batch as the operations gave it, and as it lies on the picture: coordinates are pixels. */
  batch: FeatureBatch;
  inPixels: FeatureBatch;
  i: number;
  /** Whether it has no position in the system of the picture. */
  lost: boolean;
  /** Worked out when asked for. */
  shapes(): Shape[];
}

/** Share of a pixel by which chords may stand off their curve. */
const CHORD_PX = 0.25;

/** A batch whose coordinates are pixels of a grid. */
function inPixels(batch: FeatureBatch, { map }: PixelGrid): FeatureBatch {
  const a = inverseMap(map);
  const coords = Float64Array.from(batch.coords);
  for (let k = 0; k < coords.length; k += 3) {
    const x = coords[k]!,
      y = coords[k + 1]!;
    coords[k] = a[0] + a[1] * x + a[2] * y;
    coords[k + 1] = a[3] + a[4] * x + a[5] * y;
  }
  return { ...batch, coords };
}

/** The records of a source on a picture, batch by batch. Those that are not to be drawn are passed over, after `skipped` was told. */
export async function* recordsOf(
  source: DrawnSource,
  { grid, map }: Pick<RecordsToDraw, 'grid' | 'map'>,
  skipped: (batch: FeatureBatch, i: number, reason: Reason) => void = () => {},
): AsyncGenerator<DrawnRecord[]> {
  const { transform, library } = source;
  const chord_m = CHORD_PX * dotOnGround(map);
  const context: ShapeContext = {
    map,
    library,
    unit_m: lengthUnit(transform.crs, transform.unit_m),
    letterPixels: 1 / pixelSize(grid)[0],
  };
  const onPicture = (batch: FeatureBatch): { batch: FeatureBatch; lost: ReadonlySet<number> } => {
    const { batch: there, lost } = transformBatch(resizeBatch(placeBatch(batch, transform, chord_m), transform), transform.transform);
    return { batch: inPixels(there, grid), lost };
  };
  for await (const batch of inPieces(source.read(), transform, chord_m)) {
    const not = source.notDrawn(batch.layer);
    const drawn: number[] = [];
    for (let i = 0; i < batch.count; i++) {
      if (not && (not.entities === null || not.entities.includes(batch.entities[i]!))) skipped(batch, i, not.reason);
      else drawn.push(i);
    }
    if (drawn.length === 0) continue;
    const { batch: own, lost } = onPicture(batch);
    yield drawn.map((i): DrawnRecord => ({
      batch,
      inPixels: own,
      i,
      lost: lost.has(i),
      shapes: () => {
        const symbol = batch.kinds[i] === POINT ? drawnBlock(batch, i, library) : null;
        if (!symbol) return shapesOf(own, i, context);
        const { batch: parts, lost: away } = onPicture(symbol);
        const drawn = Array.from({ length: parts.count }, (_, k) => (away.has(k) ? [] : shapesOf(parts, k, context))).flat();
        return drawn.length > 0 ? drawn : shapesOf(own, i, context);
      },
    }));
  }
}

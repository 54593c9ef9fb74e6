import { type Extended, placementOf } from './placement-of';
import { type Crs, metresPerUnit, northUp } from '../crs/crs';
import { type Bounds, emptyBounds, grow, isEmpty } from '../geometry/bounds';
import { type Region, intersects } from '../geometry/within';
import { type FeatureBatch, partsOf, POLYGON } from '../model/batch';
import { Problem } from '../model/problem';
import { type SourceTransform, sourceTransform, placeBatch, transformBatch } from '../content/features/transform-batch';
import { crsOf } from '../placement/route';
import type { ReadBatches } from '../operations/operation';
import type { AreaOfInterest, Recipe } from './recipe';

/** Metres by which chords may stand off where an area is asked for what lies in it. */
const CHORD_M = 0.05;

function frameOf(recipe: Recipe): Crs {
  const frame = recipe.frame && crsOf(recipe.frame.crs);
  if (!frame) throw new Problem('frame-missing', 'An area of interest needs a reference frame. Choose it in Place.');
  return northUp(frame);
}

function transformTo(recipe: Recipe, source: Extended, frame: Crs): SourceTransform {
  const placed = placementOf(recipe, source);
  if (!placed)
    throw new Problem('source-not-placed', `${source.name} has no place yet, so nothing can be told from what it covers. Place it first.`);
  return sourceTransform(source.name, placed, frame);
}

/** The records of a source, or of one of its layers, as they are and as they lie in the frame. @throws Problem `frame-missing`, `source-not-placed` */
export async function* recordsInFrame(
  recipe: Recipe,
  source: Extended & { records: ReadBatches },
  layer: string | null,
): AsyncGenerator<{ batch: FeatureBatch; moved: FeatureBatch }> {
  const transform = transformTo(recipe, source, frameOf(recipe));
  for await (const batch of source.records())
    if (layer === null || batch.layer === layer)
      yield { batch, moved: transformBatch(placeBatch(batch, transform, CHORD_M), transform.transform).batch };
}

/** An area of interest worked out, in the frame. @param find gives a source by its name */
export async function regionOf(
  recipe: Recipe,
  area: AreaOfInterest,
  find: (source: string) => Extended & { records: ReadBatches },
): Promise<Region> {
  const frame = frameOf(recipe);
  if (area.kind === 'box') return { box: [...area.box] as Bounds, rings: [] };
  if (area.kind === 'drawn') {
    const ring = [...area.ring, area.ring[0]!];
    const drawn = emptyBounds();
    for (const [x, y] of ring) grow(drawn, x, y);
    return { box: drawn, rings: [ring.flat()] };
  }
  const box = emptyBounds();
  const rings: number[][] = [];
  for await (const { moved } of recordsInFrame(recipe, find(area.source), area.kind === 'layer' ? area.layer : null)) {
    for (let k = 0; k < moved.coords.length; k += 3) if (!Number.isNaN(moved.coords[k]!)) grow(box, moved.coords[k]!, moved.coords[k + 1]!);
    if (area.kind !== 'layer') continue;
    for (let i = 0; i < moved.count; i++) if (moved.kinds[i] === POLYGON) rings.push(...partsOf(moved, i));
  }
  if (isEmpty(box) || (area.kind === 'layer' && rings.length === 0))
    throw new Problem(
      'area-empty',
      `${area.kind === 'layer' ? `${area.layer} of ${area.source} has no areas` : `${area.source} covers nothing`}. Choose another area of interest.`,
    );
  if (area.kind === 'layer') return { box, rings };
  const plus = area.plus_m / metresPerUnit(frame, null);
  return { box: [box[0] - plus, box[1] - plus, box[2] + plus, box[3] + plus], rings };
}

/** Tells which records of a source lie in a region of the frame. */
export function inAreaOf(recipe: Recipe, source: Extended, region: Region): (batch: FeatureBatch) => (i: number) => boolean {
  return touching(transformTo(recipe, source, frameOf(recipe)), region, CHORD_M);
}

/** Carries records of a source into the frame, in its own signs, curves as chords: what filters ask where they lie. Null while there is no frame or no place. */
export function intoFrame(recipe: Recipe, source: Extended): ((batch: FeatureBatch) => FeatureBatch) | null {
  const frame = recipe.frame && crsOf(recipe.frame.crs),
    placed = placementOf(recipe, source);
  if (!frame || !placed) return null;
  // made when it is asked for: a way that does not lead there stands in the way of nobody else
  let transform: SourceTransform | undefined;
  return (batch) => {
    transform ??= sourceTransform(source.name, placed, frame);
    return transformBatch(placeBatch(batch, transform, CHORD_M), transform.transform).batch;
  };
}

/** Tells which records of a batch touch a region of the system that the transform leads into. */
export function touching(transform: SourceTransform, region: Region, chord_m: number): (batch: FeatureBatch) => (i: number) => boolean {
  return (batch) => {
    const { batch: moved } = transformBatch(placeBatch(batch, transform, chord_m), transform.transform);
    return (i) => intersects(moved, i, region);
  };
}

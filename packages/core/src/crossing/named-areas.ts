import { partsOf, POLYGON } from '../model/batch';
import { Problem } from '../model/problem';
import type { ReadBatches } from '../operations/operation';
import { recordsInFrame } from './area-of-interest';
import type { Extended } from './placement-of';
import type { Recipe } from './recipe';

/** An area of a layer with the name that a field gives it. */
export interface NamedArea {
  /** Null where the field has no value, or none was chosen. */
  name: string | null;
  /** In the frame: x and y of corners by twos; holes are rings as well. */
  rings: number[][];
}

/** The areas of a layer in the frame, one for each of its records. @throws Problem `areas-none` where it has none */
export async function namedAreas(
  recipe: Recipe,
  { layer, field }: { layer: string; field?: string | undefined },
  source: Extended & { records: ReadBatches },
): Promise<NamedArea[]> {
  const out: NamedArea[] = [];
  for await (const { batch, moved } of recordsInFrame(recipe, source, layer)) {
    const names = field === undefined ? undefined : batch.columns.get(field);
    for (let i = 0; i < moved.count; i++) {
      if (moved.kinds[i] !== POLYGON) continue;
      const value = names?.[i];
      out.push({ name: value === null || value === undefined || value === '' ? null : String(value), rings: partsOf(moved, i) });
    }
  }
  if (out.length === 0)
    throw new Problem('areas-none', `${layer} of ${source.name} has no areas to split by. Choose a layer that has some.`);
  return out;
}

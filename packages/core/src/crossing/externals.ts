import { placementOf } from './placement-of';
import type { ControlPoint } from '../placement/placement';
import { metresPerUnit } from '../crs/crs';
import type { External } from '../formats/format';
import { compilePlacement } from '../placement/placement-transform';
import type { Recipe } from './recipe';

/** Distance of the marks by which a shown drawing is placed, in its own unit: far enough for any rounding. */
const REACH = 1000;

/**
 * Places the sources that other sources show, by where they are shown; those that have a place already keep it.
 * @returns the recipe itself where nothing changes
 */
export function placeExternals(recipe: Recipe, sources: readonly { name: string; externals?: readonly External[] | undefined }[]): Recipe {
  let placed = recipe;
  for (const host of sources) {
    const own = placementOf(recipe, { name: host.name, extent: null });
    if (!own || !host.externals) continue;
    const { forward } = compilePlacement(own.crs, own.parameters);
    for (const external of host.externals) {
      const shown = sources.find((s) => s.name.toLowerCase() === external.file.toLowerCase() && s !== host);
      if (!shown || placed.sources[shown.name]?.placement) continue;
      const [sx, sy] = external.scale;
      if (sx === 0 || sy === 0) continue;
      const a = (external.angle * Math.PI) / 180;
      const pairs = (
        [
          ['origin', 0, 0],
          ['east', REACH, 0],
          ['north', 0, REACH],
        ] as const
      ).map(([name, x, y]): ControlPoint => {
        const to = Float64Array.of(
          external.at[0] + sx * x * Math.cos(a) - sy * y * Math.sin(a),
          external.at[1] + sx * x * Math.sin(a) + sy * y * Math.cos(a),
        );
        forward(to, 0, 1, 2);
        return { from: [x, y], to: [to[0]!, to[1]!], name };
      });
      const unit_m = (own.parameters.unit_m ?? metresPerUnit(own.crs, null)) * Math.abs(sx);
      const { crs } = recipe.sources[host.name]!.placement!;
      // a similarity has one scale and no mirror
      const kind = sx === sy && sx > 0 ? 'similarity' : 'affine';
      placed = {
        ...placed,
        sources: {
          ...placed.sources,
          [shown.name]: { layers: {}, ...placed.sources[shown.name], placement: { crs, unit_m, fit: { kind, pairs } } },
        },
      };
    }
  }
  return placed;
}

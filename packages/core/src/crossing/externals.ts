import { gridOf, type ImageProfile } from '../content/raster/profile';
import { metresPerUnit } from '../crs/crs';
import type { ClippingLine, External, ShownPicture } from '../formats/format';
import type { ControlPoint, Placement } from '../placement/placement';
import { compilePlacement, type PlacementTransform } from '../placement/placement-transform';
import type { PlacedIn } from '../placement/route';
import { through } from '../raster/pixel-grid';
import { placementOf } from './placement-of';
import type { Recipe } from './recipe';

/** Distance of the marks by which a shown drawing is placed, in its own unit: far enough for any rounding. */
const REACH = 1000;

/** A source as far as it shows others, or may be shown. */
export interface Showing {
  name: string;
  externals?: readonly External[] | undefined;
  pictures?: readonly ShownPicture[] | undefined;
  images?: ImageProfile | undefined;
}

/**
 * Places the sources that other sources show, drawings and pictures, by where they are shown; those that have a place already keep it.
 * @returns the recipe itself where nothing changes
 */
export function placeExternals(recipe: Recipe, sources: readonly Showing[]): Recipe {
  let placed = recipe;
  for (const host of sources) {
    const own = placementOf(recipe, { name: host.name, extent: null });
    if (!own || (!host.externals && !host.pictures)) continue;
    const plane = compilePlacement(own.crs, own.parameters);
    const { crs } = recipe.sources[host.name]!.placement!;
    const found = (file: string): Showing | undefined =>
      sources.find((s) => s.name.toLowerCase() === file.toLowerCase() && s !== host && !placed.sources[s.name]?.placement);
    const put = ({ name }: Showing, placement: Placement, clip?: ClippingLine): void => {
      const known = placed.sources[name];
      const image = clip ? { image: { ...known?.image, clip: { [name]: clip } } } : {};
      placed = { ...placed, sources: { ...placed.sources, [name]: { layers: {}, ...known, ...image, placement } } };
    };
    for (const external of host.externals ?? []) {
      const shown = found(external.file);
      if (shown && external.scale[0] !== 0 && external.scale[1] !== 0) put(shown, placedAs(external, crs, own, plane));
    }
    for (const picture of host.pictures ?? []) {
      const shown = found(picture.file);
      const [image, ...others] = shown?.images?.members ?? [];
      if (shown && image && others.length === 0)
        put(
          shown,
          { crs, unit_m: null, fit: { kind: 'affine', pairs: cornersOf(picture, gridOf(image), plane) } },
          picture.clip && inPixelsOf(image.info, picture, picture.clip),
        );
    }
  }
  return placed;
}

/** A clipping line in the pixels of a picture of another size than the drawing says. */
const inPixelsOf = (
  { width, height }: { width: number; height: number },
  shown: ShownPicture,
  { ring, keeps }: ClippingLine,
): ClippingLine => ({ ring: ring.map((v, k) => (k % 2 === 0 ? (v * width) / shown.width : (v * height) / shown.height)), keeps });

/** Where a drawing lies that another one shows. */
function placedAs({ at, angle, scale: [sx, sy] }: External, crs: string, own: PlacedIn, { forward }: PlacementTransform): Placement {
  const a = (angle * Math.PI) / 180;
  const pairs = (
    [
      ['origin', 0, 0],
      ['east', REACH, 0],
      ['north', 0, REACH],
    ] as const
  ).map(([name, x, y]): ControlPoint => {
    const to = Float64Array.of(at[0] + sx * x * Math.cos(a) - sy * y * Math.sin(a), at[1] + sx * x * Math.sin(a) + sy * y * Math.cos(a));
    forward(to, 0, 1, 2);
    return { from: [x, y], to: [to[0]!, to[1]!], name };
  });
  const unit_m = (own.parameters.unit_m ?? metresPerUnit(own.crs, null)) * Math.abs(sx);
  // a similarity has one scale and no mirror
  return { crs, unit_m, fit: { kind: sx === sy && sx > 0 ? 'similarity' : 'affine', pairs } };
}

/** The corners of a picture in its own numbers, and where the drawing shows them. A picture of another size is shown in the same frame. */
function cornersOf(picture: ShownPicture, grid: ReturnType<typeof gridOf>, { forward }: PlacementTransform): ControlPoint[] {
  return (
    [
      ['upper left', 0, 0],
      ['upper right', 1, 0],
      ['lower right', 1, 1],
      ['lower left', 0, 1],
    ] as const
  ).map(([name, across, down]): ControlPoint => {
    const from = Float64Array.of(across * grid.width, down * grid.height);
    through(grid.map, from);
    const to = Float64Array.of(across * picture.width, down * picture.height);
    through(picture.map, to);
    forward(to, 0, 1, 2);
    return { from: [from[0]!, from[1]!], to: [to[0]!, to[1]!], name };
  });
}

import type { TargetSet } from '../format';
import type { OptionValues } from '../format-option';
import type { PlaceColumns } from './columns';

/** Columns with places, which come first. */
export const PLACES = ['x', 'y', 'z'],
  GEOMETRY = 'wkt';

/** The choice that a format of tables offers for points. */
export const PLACES_OPTION = {
  id: 'places',
  label: 'Places of points',
  kind: 'choice',
  choices: [
    { value: 'xy', label: 'In columns x, y, z' },
    { value: 'wkt', label: 'As well-known text' },
  ],
} as const;

/** Where a written table has the places of its records: points by columns of coordinates, everything else, and points of several places or with measures, as well-known text. */
export function placesOf(set: TargetSet, options: OptionValues): { places: PlaceColumns; head: string[] } {
  if (set.kind === 'none') return { places: { kind: 'none' }, head: [] };
  if (options.places === 'xy' && set.kind === 'point' && !set.several && !set.measures)
    return { places: { kind: 'xy', x: 0, y: 1, z: set.heights ? 2 : null }, head: PLACES.slice(0, set.heights ? 3 : 2) };
  return { places: { kind: 'wkt', column: 0 }, head: [GEOMETRY] };
}

import type { SourceState } from '@pontrel/contract/crossing';
import { plural } from '../components/numbers';
import type { ImageAt } from './image-at';
import type { LayerAt } from './layer-at';

/** What stands together on the contact sheet: the layers of a source, those of all sources with one layer, or the images. */
export interface SheetGroup {
  title: string;
  /** What it is, in a few words. */
  says: string;
  layers: LayerAt[];
  images: ImageAt[];
}

/** The groups of what is shown: sources of several layers in their order, then those of one together, and the images before all. */
export function sheetGroups(sources: readonly SourceState[], layers: readonly LayerAt[], images: readonly ImageAt[]): SheetGroup[] {
  const groups: SheetGroup[] =
    images.length > 0 ? [{ title: 'Images', says: plural(images.length, 'source'), layers: [], images: [...images] }] : [];
  const single: LayerAt[] = [];
  for (const source of sources) {
    const own = layers.filter((at) => at.source === source);
    if (own.length === 0) continue;
    if (source.layers.length === 1) single.push(...own);
    else groups.push({ title: source.name, says: told(source), layers: own, images: [] });
  }
  if (single.length === 1) groups.push({ title: single[0]!.source.name, says: told(single[0]!.source), layers: single, images: [] });
  else if (single.length > 1) groups.push({ title: plural(single.length, 'source'), says: 'one layer each', layers: single, images: [] });
  return groups;
}

const told = ({ formatName, unit }: SourceState): string => `${formatName}${unit ? ` in ${unit.name}s` : ''}`;

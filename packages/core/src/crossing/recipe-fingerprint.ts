import type { ImageRule } from './image-rule';
import { isUnused } from './chosen-layers';
import type { Recipe } from './recipe';

/** All that a deliverable is made by, as one text: the same text means the same files. Order of members does not matter, nor do selections that are only kept, nor rules that say nothing. */
export function recipeFingerprint({ frame, chord_m, sources, images, deliverables }: Recipe, deliverable: string): string {
  const own = deliverables.find((d) => d.id === deliverable) ?? null;
  // what becomes of images, and in which order they lie, is nothing to records
  const ofImages = own?.image !== undefined;
  const unused = (name: string): boolean => own !== null && isUnused({ sources }, own, name);
  const used = Object.entries(sources)
    .filter(([name]) => !unused(name))
    // which faults somebody lets be changes nothing that is written, nor what a file was made by, or expected to be, that is there
    .map(([name, { faultsLeft: _left, workedOut: _rule, slot: _expected, ...source }]) => [
      name,
      {
        ...source,
        image: ofImages && source.image ? { ...source.image, shown: own.image?.drawn ? asDrawn(source.image) : undefined } : undefined,
        layers: Object.fromEntries(
          Object.entries(source.layers).flatMap(([layer, { selections: _kept, ...rule }]) =>
            Object.keys(rule).length > 0 ? [[layer, rule]] : [],
          ),
        ),
      },
    ]);
  // what has nothing to do with it may come and go
  const left = Object.entries(own?.without ?? {}).filter(([name]) => !unused(name));
  const stillLeft = left.length > 0 ? Object.fromEntries(left) : undefined;
  return canonical({
    frame,
    chord_m,
    images: ofImages ? images : undefined,
    sources: Object.fromEntries(used),
    deliverable: own && { ...own, without: stillLeft },
  });
}

/** What of the way in which images are shown is also on a map that is drawn. */
const asDrawn = ({ shown }: ImageRule): ImageRule['shown'] => ({ stretch: shown?.stretch, bands: shown?.bands });

function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const members = Object.entries(value)
    .filter(([, v]) => v !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${members.map(([name, v]) => `${JSON.stringify(name)}:${canonical(v)}`).join(',')}}`;
}

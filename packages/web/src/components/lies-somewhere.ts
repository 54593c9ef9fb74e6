import type { SourceState } from '@pontrel/contract/crossing';
import { hasGeometry } from '@pontrel/core/content/features/profile';

/** Whether a source is images, or some record of it has a place, so that it can be placed at all. */
export const liesSomewhere = (source: SourceState): boolean => source.images !== null || hasGeometry(source.layers.map((l) => l.profile));

import type { SourceState } from '@pontrel/contract/crossing';
import { hasGeometry } from '@pontrel/core/content/features/profile';

/** Whether some record of a source has a place, so that it can be placed at all. */
export const liesSomewhere = (source: SourceState): boolean => hasGeometry(source.layers.map((l) => l.profile));

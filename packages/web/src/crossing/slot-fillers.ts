import type { SourceState } from '@pontrel/contract/crossing';
import type { SlotFiller } from '@pontrel/core/crossing/slots';

/** The sources of records as what may stand in the slots of a recipe. */
export const fillersOf = (sources: readonly SourceState[]): SlotFiller[] =>
  sources.filter((s) => !s.images).map(({ name, format, layers }) => ({ name, format, layers: layers.map((l) => l.profile) }));

import type { Bounds } from '@pontrel/core/geometry/bounds';
import type { Placement } from '@pontrel/core/placement/placement';
import { crsOf } from '@pontrel/core/placement/route';
import { isSevere, type StatedPlace, statedDoubt } from '@pontrel/core/placement/stated-system';
import { proposedUnit } from '@pontrel/core/placement/unit-question';
import type { StoredFacts } from '../store/records';

/** What stored facts say of where a source lies; its system null where it cannot be understood. */
export const statedPlace = ({ crs, unit, fit }: StoredFacts): StatedPlace => ({ crs: crs && crsOf(crs.text), unit, fit });

/** Where a source lies as it states; null where it states no system, or one that its numbers hardly fit, which a person has to decide. */
export function statedPlacement(facts: StoredFacts, extent: Bounds | null): Placement | null {
  const stated = statedPlace(facts);
  if (!stated.crs || isSevere(statedDoubt(stated, extent))) return null;
  return { crs: facts.crs!.text, unit_m: proposedUnit(stated.crs, facts.unit, extent), ...(facts.fit ? { fit: facts.fit } : {}) };
}

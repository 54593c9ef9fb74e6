import type { Bounds } from '@pontrel/core/geometry/bounds';
import type { Placement } from '@pontrel/core/placement/placement';
import { crsOf } from '@pontrel/core/placement/route';
import { isSevere, type SystemDoubt, systemDoubt } from '@pontrel/core/placement/stated-system';
import { proposedUnit } from '@pontrel/core/placement/unit-question';
import type { StoredFacts } from '../store/records';

/** A source placed as it states. */
function asStated({ crs: stated, unit, fit }: StoredFacts, extent: Bounds | null): Placement | null {
  const crs = stated && crsOf(stated.text);
  return stated && crs ? { crs: stated.text, unit_m: proposedUnit(crs, unit, extent), ...(fit ? { fit } : {}) } : null;
}

/** Why the system that a source states can hardly be its own; null where nothing speaks against it. */
export function statedDoubt(facts: StoredFacts, extent: Bounds | null): SystemDoubt | null {
  const placement = asStated(facts, extent);
  return placement && systemDoubt(crsOf(placement.crs)!, placement, extent);
}

/** Where a source lies as it states; null where it states no system, or one that its numbers hardly fit, which a person has to decide. */
export function statedPlacement(facts: StoredFacts, extent: Bounds | null): Placement | null {
  return isSevere(statedDoubt(facts, extent)) ? null : asStated(facts, extent);
}

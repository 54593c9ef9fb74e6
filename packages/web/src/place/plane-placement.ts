import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { localPlane } from '@pontrel/core/crs/local-plane';
import type { Placement } from '@pontrel/core/placement/placement';
import { unitOfLength } from '@pontrel/core/placement/ratio';

/** A source kept in the plane of its own numbers. @param unit_m metres in one of them; metres when null */
export function planePlacement(unit_m: number | null): Placement {
  const unit = unitOfLength(unit_m ?? 1);
  return { crs: definitionOf(localPlane(unit)), unit_m: unit.metres };
}

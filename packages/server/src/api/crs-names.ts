import type { CrsName } from '@pontrel/contract/crossing';
import type { Recipe } from '@pontrel/core/crossing/recipe';
import { type Crs, isOnEarth, isPlane, metresPerUnit, unitSymbol, verticalOf } from '@pontrel/core/crs/crs';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { label } from '@pontrel/core/crs/transform';
import { crsOf } from '@pontrel/core/placement/route';

/** The reference frame as the page knows it: the whole of the system, while what is drawn is a plane. */
export function frameName({ frame }: Recipe): CrsName | null {
  const crs = frame && crsOf(frame.crs);
  return crs && crsName(crs, frame.crs);
}

/** A system as the page knows it. @param text what recipes call it; its code, or its definition, when absent */
export function crsName(crs: Crs, text = definitionOf(crs)): CrsName {
  const vertical = verticalOf(crs);
  return {
    id: text,
    label: crs.id !== null ? label(crs) : isOnEarth(crs) ? 'own definition' : 'site grid',
    name: crs.name,
    kind: crs.kind,
    unit: unitSymbol(crs),
    unit_m: isPlane(crs) ? metresPerUnit(crs, null) : null,
    area: crs.area?.name ?? null,
    heights: vertical && `${vertical.name}, ${vertical.unit.name}`,
  };
}

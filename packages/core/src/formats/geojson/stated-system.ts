import type { Crs } from '../../crs/crs';
import { readPositions } from '../../crs/definitions/read-definition';
import { lookupCrs } from '../../crs/registry/registry';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { WGS84 } from '../globe';

/** The system that a file states, and the text that does. */
export interface Stated {
  crs: Crs | null;
  text: string | null;
}

/** Whether a position is none of degrees: beyond a pole, or more than ten times round the earth, as what is written is held to. */
export const noDegrees = (x: number, y: number): boolean => Math.abs(x) > 3600 || Math.abs(y) > 90.000001;

/**
 * The system that a file states by the older member, or by the rule that there is but one.
 * Source: RFC 7946, section 4; "The GeoJSON Format Specification", 2008, section 3, for the member.
 * @param member what stands as "crs"; undefined where nothing does
 * @param beyond whether most positions are none of degrees
 */
export function statedSystem(member: unknown, beyond: boolean, file: string, findings: Findings): Stated {
  if (member === undefined) {
    if (!beyond) return { crs: lookupCrs(WGS84)!, text: WGS84 };
    findings.add({
      code: 'geojson-no-degrees',
      severity: 'wrong',
      message: `${file} states no system, so its numbers should be degrees of WGS 84, but they are none. Choose its system in Place.`,
      count: 1,
    });
    return { crs: null, text: null };
  }
  const name = (member as { properties?: { name?: unknown } } | null)?.properties?.name;
  if (typeof name === 'string') {
    const found = /(^|[:/])(CRS84|WGS84)h?$/i.test(name) ? lookupCrs(WGS84)! : systemOf(name);
    if (found) return { crs: found, text: name };
  }
  findings.add({
    code: 'geojson-crs-unread',
    severity: 'caution',
    message: `${file} states a system that is not understood (${JSON.stringify(member).slice(0, 80)}). Choose it in Place.`,
    count: 1,
  });
  return { crs: null, text: typeof name === 'string' ? name : null };
}

function systemOf(name: string): Crs | null {
  try {
    return readPositions(name, 'The crs member');
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
}

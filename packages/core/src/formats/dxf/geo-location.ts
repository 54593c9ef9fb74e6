import type { Crs } from '../../crs/crs';
import { readPositions } from '../../crs/definitions/read-definition';
import { lookupCrs } from '../../crs/registry/registry';
import { Problem } from '../../model/problem';
import type { SourceFacts } from '../format';

/** How a drawing is tied to the earth: its GEODATA object. Source: DXF Reference 2010 and later, OBJECTS section, GEODATA. */
export interface GeoLocation {
  /** 1 local grid, 2 projected grid, 3 geographic; others are unknown. */
  type: number;
  /** The same point in the drawing and in the coordinate system. */
  design: [number, number];
  reference: [number, number];
  /** Metres in one unit of the drawing. */
  unit_m: number;
  /** Which way north is in the drawing. */
  north: [number, number];
  /** An OSGeo coordinate system dictionary as XML, or well-known text. */
  definition: string;
}

/** Collects the groups of one GEODATA object. */
export class GeoLocationReader {
  readonly location: GeoLocation = { type: 0, design: [0, 0], reference: [0, 0], unit_m: 1, north: [0, 1], definition: '' };

  take(code: number, text: string, number: number): void {
    const { location: at } = this;
    switch (code) {
      case 70:
        at.type = number;
        break;
      case 10:
        at.design[0] = number;
        break;
      case 20:
        at.design[1] = number;
        break;
      case 11:
        at.reference[0] = number;
        break;
      case 21:
        at.reference[1] = number;
        break;
      case 40:
        at.unit_m = number;
        break;
      case 12:
        at.north[0] = number;
        break;
      case 22:
        at.north[1] = number;
        break;
      case 301:
      case 303:
        at.definition += text.replaceAll('^J', '\n');
        break;
      default:
    }
  }
}

const LOCAL = 1;
/** Metres between the two marks by which a local grid is tied. */
const ARM_M = 1000;

/** What the object states: the system, and for a local grid the two marks that tie it. */
export function statedBy(geo: GeoLocation): Pick<SourceFacts, 'crs' | 'crsText' | 'fit'> {
  const crs = systemOf(geo.definition);
  if (!crs || geo.type !== LOCAL || crs.kind !== 'projected') return { crs, crsText: geo.definition || null };
  const size = Math.hypot(...geo.north);
  const [nx, ny] = size > 0 ? [geo.north[0] / size, geo.north[1] / size] : [0, 1];
  const arm = ARM_M / geo.unit_m;
  return {
    crs,
    crsText: geo.definition,
    fit: {
      kind: 'similarity',
      pairs: [
        { from: geo.design, to: geo.reference, name: 'origin' },
        {
          from: [geo.design[0] + arm * nx, geo.design[1] + arm * ny],
          to: [geo.reference[0], geo.reference[1] + ARM_M / crs.unit.metres],
          name: 'north',
        },
      ],
    },
  };
}

/** By its EPSG alias, or the text itself. */
function systemOf(definition: string): Crs | null {
  const alias = [...definition.matchAll(/<Alias\s+id="(\d+)"\s+type="CoordinateSystem"\s*>([\s\S]*?)<\/Alias>/g)].find((m) =>
    /EPSG/i.test(m[2]!),
  )?.[1];
  if (alias) return lookupCrs(alias) ?? null;
  try {
    return definition.trim() === '' || definition.includes('<')
      ? null
      : readPositions(definition, 'The geographic location of the drawing');
  } catch (error) {
    if (error instanceof Problem) return null;
    throw error;
  }
}

import { Problem } from '../../model/problem';
import { type AnyCrs, type Crs, withHeights } from '../crs';
import { isDeprecated, lookup, replacementsOf } from '../registry/registry';
import { LOCAL, localPlane, METRE } from '../local-plane';
import { readProjString } from './proj-string';
import { systemOf } from './wkt1';
import { isWkt2, systemOfWkt2 } from './wkt2';
import { parseWkt } from './wkt-tree';

/** Systems that people have saved by a name of their own. */
export type SavedDefinitions = ReadonlyMap<string, string>;

/**
 * The system that a text means: a code ("EPSG:2193", "2193", a URN or the address of a code), one that was saved by name, two
 * codes for positions and heights ("EPSG:2193+7839"), one of these with the date at which its coordinates hold ("EPSG:9000@2026.5"),
 * well-known text of either generation, a .prj text, or a PROJ string.
 * @param what it is called in messages
 * @throws Problem `crs-unknown` for a code or name that is not held; those of the readers of texts
 */
export function readDefinition(text: string, what = 'The definition', saved: SavedDefinitions = new Map()): AnyCrs {
  const trimmed = text
    .replace(/^\ufeff/, '')
    .replace(/\0+$/, '')
    .trim();
  if (trimmed.toLowerCase() === LOCAL) return localPlane(METRE);
  if (trimmed === '') throw new Problem('crs-unknown', `${what} is empty.`);
  const own = saved.get(trimmed);
  if (own !== undefined) return { ...readDefinition(own, trimmed), name: trimmed };
  if (/^\+?[a-z_]+=|^\+proj/i.test(trimmed)) return readProjString(trimmed, what);
  if (/^[A-Za-z][A-Za-z0-9_]*\s*[[(]/.test(trimmed)) {
    const node = parseWkt(joinedDefinitions(trimmed), what);
    return isWkt2(node) ? systemOfWkt2(node, what) : systemOf(node, what);
  }
  const dated = /^(.+?)\s*@\s*(\d{4}(?:\.\d+)?)$/.exec(trimmed);
  if (dated) return atDate(readDefinition(dated[1]!, what, saved), Number(dated[2]), what);
  const pair = /^(?:EPSG:)?(\d+)\+(?:EPSG:)?(\d+)$/i.exec(trimmed);
  if (pair) {
    const horizontal = byCode(pair[1]!),
      vertical = byCode(pair[2]!);
    if (horizontal.kind !== 'geographic' && horizontal.kind !== 'projected')
      throw new Problem('crs-kind', `${horizontal.id} (${horizontal.name}) holds no positions of a map.`);
    if (vertical.kind !== 'vertical') throw new Problem('crs-kind', `${vertical.id} (${vertical.name}) is not a system for heights.`);
    return { kind: 'compound', id: null, name: `${horizontal.name} + ${vertical.name}`, area: horizontal.area, horizontal, vertical };
  }
  const code =
    /^(?:urn:ogc:def:crs:|https?:\/\/www\.opengis\.net\/(?:def\/crs\/|gml\/srs\/epsg\.xml#))?EPSG[:/#](?:[\d.]*[:/])?(\d+)$/i.exec(
      trimmed,
    )?.[1] ?? /^\d+$/.exec(trimmed)?.[0];
  if (code) return byCode(code);
  const known = WELL_KNOWN[trimmed.toUpperCase().replace(/^.*[:/]/, '')];
  if (known) return byCode(known);
  throw new Problem(
    'crs-unknown',
    `${what}, "${trimmed.slice(0, 60)}", is no code, no saved name and no definition. Write a code such as EPSG:2193, or paste WKT or a PROJ string.`,
  );
}

/**
 * Two definitions, one after the other, as one compound system: .prj files state heights so.
 * Source: common practice, no source.
 */
function joinedDefinitions(text: string): string {
  const [, horizontal, vertical] = /^((?:PROJCS|GEOGCS)\s*[[(].*[\])])\s*,?\s*(VERT_?CS\s*[[(].*)$/is.exec(text) ?? [];
  return horizontal === undefined ? text : `COMPD_CS["",${horizontal},${vertical}]`;
}

/**
 * The same, where positions are wanted: of a compound system the horizontal part, which keeps the whole of it.
 * @throws Problem also `crs-kind` for a system that holds no positions of a map
 */
export function readPositions(text: string, what?: string, saved?: SavedDefinitions): Crs {
  const crs = readDefinition(text, what, saved);
  if (crs.kind === 'compound') return withHeights(crs);
  if (crs.kind === 'geographic' || crs.kind === 'projected' || crs.kind === 'local') return crs;
  throw new Problem(
    'crs-kind',
    `${crs.id ?? 'The text'} (${crs.name}) holds no positions of a map. Name a geographic or a projected system.`,
  );
}

/** Years of which a coordinate may be. */
const [FIRST_YEAR, LAST_YEAR] = [1900, 2200];

/** A system whose coordinates hold at a date. @throws Problem `crs-epoch` */
function atDate(crs: AnyCrs, epoch: number, what: string): AnyCrs {
  if (crs.kind === 'local' || crs.kind === 'vertical')
    throw new Problem('crs-epoch', `${what}: ${crs.name} has no place on earth that moves. Leave "@${epoch}" out.`);
  if (!(epoch >= FIRST_YEAR && epoch <= LAST_YEAR))
    throw new Problem(
      'crs-epoch',
      `${what}: a date is a year from ${FIRST_YEAR} to ${LAST_YEAR} with decimals, such as 2026.5; "${epoch}" is none.`,
    );
  return { ...crs, epoch };
}

/** Names without a code that GeoJSON and web services use. Source: RFC 7946 and OGC 06-042, annex B. */
const WELL_KNOWN: Readonly<Record<string, string>> = { CRS84: '4326', CRS83: '4269', CRS27: '4267', WGS84: '4326' };

function byCode(code: string): AnyCrs {
  const crs = lookup(code);
  if (!crs) throw new Problem('crs-unknown', `EPSG:${code} is not in the registry. Search for the system by its name or its country.`);
  return crs;
}

/** What to say about a system that the registry has put aside; null when there is nothing to say. */
export function deprecationNote(crs: AnyCrs): string | null {
  if (!crs.id || !isDeprecated(crs.id)) return null;
  const others = replacementsOf(crs.id);
  return `${crs.id} is deprecated in the registry${others.length > 0 ? `; ${others.join(' or ')} takes its place` : ''}.`;
}

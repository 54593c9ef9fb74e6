import { type Crs, type LinearUnit } from '@pontrel/core/crs/crs';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { LOCAL, localPlane, METRE } from '@pontrel/core/crs/local-plane';
import { label } from '@pontrel/core/crs/transform';
import type { SourceFacts } from '@pontrel/core/formats/format';
import { Problem } from '@pontrel/core/model/problem';
import { MISTAKEN_UNITS, unitOfLength } from '@pontrel/core/placement/ratio';
import type { GatheredSource } from './gathered';
import { parseLength } from '@pontrel/core/io/length-text';
import { Usage } from './result';

/** A unit by its name ("millimetre", "US survey foot"), its plural, the sign that is typed behind lengths ("ft"), or its length in metres. */
export function unitOf(text: string | undefined): LinearUnit | undefined {
  if (text === undefined) return undefined;
  const wanted = text.trim().toLowerCase().replace(/[_-]+/g, ' ');
  const named = MISTAKEN_UNITS.find((u) => [u.name, u.plural].some((name) => name.toLowerCase() === wanted));
  const metres = named?.metres ?? parseLength(`1 ${wanted}`, '') ?? Number(text);
  if (!(metres > 0))
    throw new Usage(
      `--unit wants the name of a unit (${MISTAKEN_UNITS.map((u) => u.name).join(', ')}) or its length in metres; "${text}" is none.`,
    );
  return unitOfLength(metres);
}

export const isLocal = (text: string | undefined): boolean => text?.trim().toLowerCase() === LOCAL;

/** The system that --from names for a file; a local plane has the unit that is told, or that the file states, so that its numbers stay. */
export type From = ((facts: SourceFacts) => Crs) | undefined;

export function fromOf(text: string | undefined, unit: LinearUnit | undefined): From {
  if (text === undefined) return undefined;
  if (isLocal(text)) return (facts) => localPlane(unit ?? facts.unit ?? METRE);
  const crs = readPositions(text, '--from');
  return () => crs;
}

/** What the coordinates of a source are in: told, stated by the file, or taken as the target's own. */
export function systemOf(s: Pick<GatheredSource, 'name' | 'facts'>, from: From, to: Crs | undefined): Crs {
  const crs = from?.(s.facts) ?? s.facts.crs;
  if (crs) return crs;
  throw new Problem(
    'crs-not-stated',
    to
      ? `${s.name} states no coordinate system. Say with --from which one its numbers are in (the same as --to when they are in ${label(to)} already).`
      : `${s.name} states no coordinate system. Say with --from which one its numbers are in, for example --from EPSG:2193, ` +
          `or --from local when they are those of a site grid.`,
  );
}

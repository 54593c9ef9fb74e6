import { eachPart, type FeatureBatch, hasHeight, LINE, NO_GEOMETRY, partsOf, POLYGON, vertexRange } from '../../model/batch';
import type { Finding } from '../../model/finding';
import type { Fault } from '../derived/fault';
import { recordName } from '../derived/record-name';
import type { Area } from './coverage';

/** An area of a record. */
export interface ReadArea extends Area {
  /** What people call the record. */
  name: string;
}

/** The areas of some layers, and what among their records is none. */
export interface AreasRead {
  areas: ReadArea[];
  /** Lines that all but close. */
  unclosed: Fault[];
  findings: Finding[];
}

/**
 * Reads areas together.
 * @param batches without curves, in one plane
 * @param names the field that records are called by; their layer and number where it is "", or says nothing
 * @param reach a line whose ends are no farther apart is an outline that was not closed; in units of the coordinates
 * @param keep is told of each batch, with the numbers of its areas: -1 for records that are none
 */
export async function readAreas(
  batches: AsyncIterable<FeatureBatch>,
  { names, reach, unit_m }: { names: string; reach: number; unit_m: number },
  keep: (batch: FeatureBatch, areas: Int32Array) => void = () => {},
): Promise<AreasRead> {
  const areas: ReadArea[] = [],
    unclosed: Fault[] = [];
  let [others, nowhere, high] = [0, 0, 0];
  for await (const batch of batches) {
    const own = new Int32Array(batch.count).fill(-1);
    for (let i = 0; i < batch.count; i++) {
      const kind = batch.kinds[i]!;
      const name = recordName(batch, i, names);
      if (kind === LINE) {
        const gap = openBy(batch, i);
        if (gap !== null && gap.apart <= reach) unclosed.push({ kind: 'unclosed', at: gap.at, size: gap.apart * unit_m, about: name });
      }
      if (kind === NO_GEOMETRY) nowhere++;
      else if (kind !== POLYGON) others++;
      else {
        const rings = partsOf(batch, i).filter((ring) => ring.length >= 8);
        if (rings.length === 0 || !rings.every((ring) => ring.every(Number.isFinite))) nowhere++;
        else {
          own[i] = areas.length;
          areas.push({ rings, name });
          if (hasHeight(batch, i)) high++;
        }
      }
    }
    keep(batch, own);
  }
  const findings: Finding[] = [
    { code: 'not-areas', count: others, message: 'Records are no areas: they are not looked at.' },
    { code: 'no-place', count: nowhere, message: 'Records lie nowhere in this system, or have no outline: they are not looked at.' },
    { code: 'heights-left', count: high, message: 'Areas have heights: they are looked at as if they were flat.' },
  ].flatMap((f): Finding[] => (f.count > 0 ? [{ ...f, severity: 'caution' }] : []));
  return { areas, unclosed, findings };
}

/** How far apart the ends of a line are that goes round something; null where it does not, or is closed. */
function openBy(batch: FeatureBatch, i: number): { at: [number, number]; apart: number } | null {
  const { coords } = batch;
  const [first, after] = vertexRange(batch, i);
  let parts = 0;
  eachPart(batch, i, () => void parts++);
  if (parts !== 1 || after - first < 4) return null;
  const last = after - 1;
  const apart = Math.hypot(coords[3 * last]! - coords[3 * first]!, coords[3 * last + 1]! - coords[3 * first + 1]!);
  return apart > 0 ? { at: [coords[3 * last]!, coords[3 * last + 1]!], apart } : null;
}

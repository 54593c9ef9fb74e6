import { copyValues, BatchBuilder } from '../model/batch-builder';
import { type FeatureBatch, NO_GEOMETRY, partRanges, POLYGON } from '../model/batch';
import type { Findings } from '../model/finding';

/** Vertices of a ring of straight sides, with the one at which it ends again. */
const FEWEST = 4;

/**
 * A batch without the rings that bound nothing: of straight sides, and of fewer than three corners. A record without another ring keeps its
 * values, and lies nowhere. Source: OGC 06-103r4, section 6.1.11 (a ring is closed and simple).
 */
export function withoutShortRings(batch: FeatureBatch, findings: Findings): FeatureBatch {
  const isShort = ([s, e]: readonly [number, number]): boolean => {
    if (e - s >= FEWEST) return false;
    for (let v = s; v < e; v++) if ((batch.bulges?.[v] ?? 0) !== 0) return false;
    return true;
  };
  let any = false;
  for (let i = 0; i < batch.count && !any; i++) any = batch.kinds[i] === POLYGON && partRanges(batch, i).some(isShort);
  if (!any) return batch;
  const out = new BatchBuilder(batch.layer, batch.to);
  if (batch.declared) out.declare(batch.declared);
  let left = 0;
  for (let i = 0; i < batch.count; i++) {
    const parts = partRanges(batch, i);
    const kept = batch.kinds[i] === POLYGON ? parts.filter((part) => !isShort(part)) : parts;
    left += parts.length - kept.length;
    for (const [s, e] of kept) {
      for (let v = s; v < e; v++)
        out.vertex(
          batch.coords[3 * v]!,
          batch.coords[3 * v + 1]!,
          batch.coords[3 * v + 2]!,
          batch.bulges?.[v] ?? 0,
          batch.measures?.[v] ?? NaN,
        );
      out.endPart();
    }
    copyValues(batch, i, out);
    const stated = batch.symbology?.[i];
    if (stated) out.drawnWith(stated);
    out.endFeature(
      kept.length === 0 && parts.length > 0 ? NO_GEOMETRY : batch.kinds[i]!,
      batch.entities[i]!,
      batch.locations[i]!,
      batch.items?.[i],
    );
  }
  findings.add({
    code: 'ring-too-short',
    severity: 'caution',
    message: 'A ring of an area has fewer than three corners and bounds nothing: it is left out.',
    count: left,
    location: batch.layer,
  });
  return out.take();
}

import type { BatchBuilder } from '../model/batch-builder';
import type { Findings } from '../model/finding';

/** Tells of rings that did not end where they began; to be called when a layer was read. Source: OGC 06-103r4, section 6.1.11 (rings are closed). */
export function tellClosedRings({ layer, ringsClosed }: BatchBuilder, findings: Findings): void {
  if (ringsClosed > 0)
    findings.add({
      code: 'ring-closed',
      severity: 'info',
      message: 'A ring that did not end where it begins was closed.',
      count: ringsClosed,
      location: layer,
    });
}

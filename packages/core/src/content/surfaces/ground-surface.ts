import { type FeatureBatch, POLYGON } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { Derivation } from '../derived/derivation';
import { OF_SURFACES, SURFACE, surfaceFigures, surfaceOf } from './surface-role';
import type { Tin } from './tin';

/** A ground surface of heights: its triangles are the records. */
export const SURFACE_OF: Derivation = {
  id: 'surface',
  title: 'Ground surface',
  says: 'Triangles between points, texts and lines that have heights; lines are sides of them (breaklines, contours).',
  roles: [SURFACE],
  settings: OF_SURFACES,
  async run(input) {
    const read = await surfaceOf(input, 'surface');
    return {
      records: () => triangleRecords(input.name, read.tin),
      figures: surfaceFigures(read, input.unit_m),
      faults: read.faults,
      findings: read.findings,
    };
  },
};

function* triangleRecords(layer: string, { xyz, triangles }: Tin): Generator<FeatureBatch> {
  let builder = new BatchBuilder(layer);
  for (let t = 0; t < triangles.length; t += 3) {
    for (const n of [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!, triangles[t]!])
      builder.vertex(xyz[3 * n]!, xyz[3 * n + 1]!, xyz[3 * n + 2]!);
    builder.endPart();
    builder.endFeature(POLYGON, 'Triangle', t / 3 + 1);
    if (builder.full) {
      yield builder.take();
      builder = new BatchBuilder(layer);
    }
  }
  if (builder.count > 0) yield builder.take();
}

import { type FeatureBatch, POLYGON } from '../../model/batch';
import { inBatches } from '../../model/batch-builder';
import type { Derivation } from '../derived/derivation';
import { OF_SURFACES, SURFACE, surfaceFigures, surfaceOf } from './surface-role';
import type { Tin } from './tin';

/** A ground surface of heights: its triangles are the records. */
export const SURFACE_OF: Derivation = {
  id: 'surface',
  title: 'Ground surface',
  says: 'Triangles between points, texts and lines that have heights; lines are sides of them (breaklines, contours).',
  heights: true,
  roles: [SURFACE],
  settings: OF_SURFACES,
  async run(input) {
    const read = await surfaceOf(input, 'surface');
    return {
      records: () => triangleRecords(input.name, read.tin),
      surface: read.tin,
      figures: surfaceFigures(read, input.unit_m),
      faults: read.faults,
      findings: read.findings,
    };
  },
};

const triangleRecords = (layer: string, tin: Tin): Generator<FeatureBatch> =>
  inBatches(layer, cornersOf(tin), (builder, corners, k) => {
    for (const n of corners) builder.vertex(tin.xyz[3 * n]!, tin.xyz[3 * n + 1]!, tin.xyz[3 * n + 2]!);
    builder.endPart();
    builder.endFeature(POLYGON, 'Triangle', k + 1);
  });

/** The corners of each triangle, the first again at the end. */
function* cornersOf({ triangles }: Tin): Generator<[number, number, number, number]> {
  for (let t = 0; t < triangles.length; t += 3) yield [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!, triangles[t]!];
}

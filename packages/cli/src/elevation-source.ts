import path from 'node:path';
import { Profiler } from '@pontrel/core/content/features/profile';
import { elevationPoints } from '@pontrel/core/content/surfaces/elevation-points';
import { extentOf } from '@pontrel/core/crossing/placement-of';
import { Findings } from '@pontrel/core/model/finding';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { fileSource } from '@pontrel/host-node/files';
import type { GatheredSource } from './gathered';
import type { ImageInput } from './images';

/** A source as far as records are worked out of it. */
export type WorkedSource = Pick<GatheredSource, 'name' | 'path' | 'layers' | 'extent' | 'facts' | 'findings' | 'records'>;

/** An elevation model as points with heights, one a pixel. @throws Problem where it is none */
export async function elevationSource({ file, format }: ImageInput): Promise<WorkedSource> {
  const name = path.basename(file);
  const findings = new Findings();
  async function* records(): AsyncGenerator<FeatureBatch> {
    const image = await format.images.open(await fileSource(file), new Findings());
    try {
      yield* elevationPoints(image, name);
    } finally {
      await image.close();
    }
  }
  const profiler = new Profiler();
  for await (const batch of records()) profiler.add(batch);
  const image = await format.images.open(await fileSource(file), findings);
  const { crs, crsText } = image.where;
  await image.close();
  const layers = profiler.layers();
  return {
    name,
    path: file,
    layers,
    extent: extentOf(layers),
    facts: { crs, crsText, unit: null, version: image.version },
    findings: findings.list(),
    records,
  };
}

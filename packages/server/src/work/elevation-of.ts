import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { surfaceFrom } from '@pontrel/core/content/surfaces/surface-from';
import { surfaceImage } from '@pontrel/core/content/surfaces/surface-image';
import { runImageDeliverable } from '@pontrel/core/crossing/image-pipeline';
import { EMPTY_RECIPE } from '@pontrel/core/crossing/recipe';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { crsOf } from '@pontrel/core/placement/route';
import { folderAt } from '@pontrel/host-node/files';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';
import { proofFailed } from './proof-failed';

/** Asks for a surface that was worked out as an elevation model. */
export interface ElevationRequest {
  /** Its store, and the layer of its triangles. */
  store: string;
  layer: string;
  /** The plane of its numbers, as a recipe has it, and metres in one unit of them. */
  crs: string;
  unit_m: number;
  /** In units of that plane. */
  pixel: number;
}

/** @returns a GeoTIFF @throws Problem `grid-large`; when what was written is not the surface */
export async function elevationOf({ store: file, layer, crs: text, unit_m, pixel }: ElevationRequest): Promise<Uint8Array> {
  const store = new FeatureStore(file);
  const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-elevation-'));
  try {
    const of = async function* (): AsyncGenerator<FeatureBatch> {
      for (const batch of store.batches()) if (batch.layer === layer) yield batch;
    };
    const { tin } = await surfaceFrom(of(), { height: '', longest: 0, spike: 0, unit_m });
    const image = surfaceImage(tin, crsOf(text)!, pixel);
    const { proof, files } = await runImageDeliverable(
      { ...EMPTY_RECIPE, frame: { crs: text }, sources: { [layer]: { placement: { crs: text, unit_m: null }, layers: {} } } },
      {
        id: 'elevation',
        name: layer,
        stem: 'elevation',
        format: 'geotiff',
        crs: text,
        grouping: 'kind',
        image: { resampling: 'nearest' },
      },
      [{ source: layer, name: layer, open: () => Promise.resolve(image) }],
      folderAt(folder),
    );
    if (proof.status !== 'match') throw proofFailed(layer, proof.differences);
    return await readFile(path.join(folder, files[0]!));
  } finally {
    store.close();
    await rm(folder, { recursive: true, force: true });
  }
}

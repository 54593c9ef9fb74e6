import path from 'node:path';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';
import { Recent } from '../store/recent';
import type { TileSource } from '../tiles/cut-tile';
import { READ_BACK_FILE } from '../work/run-records';

/** Bounds of what runs read back as, by store: a run never changes. */
const extents = new Recent<Bounds | null>(64);

/** What the files of a run read back as, as a source of the map. @param folder that of the run */
export function readBackSource({ name, target }: { name: string; target: string }, folder: string): TileSource {
  const file = path.join(folder, READ_BACK_FILE);
  const extent = extents.get(file, () => {
    const store = new FeatureStore(file);
    try {
      return store.extent();
    } finally {
      store.close();
    }
  });
  return { file, name, extent, placement: { crs: target, unit_m: null } };
}

import type { LongProfileView } from '@pontrel/contract/crossing';
import { longProfile } from '@pontrel/core/content/networks/long-profile';
import { NETWORK_FIELDS, type NetworkField, readNetwork } from '@pontrel/core/content/networks/read-network';
import type { FeatureBatch } from '@pontrel/core/model/batch';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';

/** Asks for the long profile of a run in a network that was worked out. */
export interface ProfileRequest {
  /** Its store. */
  store: string;
  /** Names of its layers. */
  structures: string;
  pipes: string;
  /** Metres in one unit of its numbers. */
  unit_m: number;
  /** Ids of structures. */
  from: string;
  to: string | null;
  way: 'downstream' | 'upstream';
}

/** What a network that was worked out calls its fields. */
const FIELDS: Readonly<Partial<Record<NetworkField, string>>> = {
  structureId: 'id',
  pipeId: 'id',
  from: 'from_id',
  to: 'to_id',
  rim: 'rim',
  sump: 'sump',
  start: 'inv_start',
  end: 'inv_end',
  diameter: 'diameter',
  material: 'material',
  kind: 'kind',
};

/** Ends of what was worked out lie on their structures, but for what a file rounds. */
const TIED_M = 1e-4;

/** The run that is asked for, in the unit of the network; where there is none, why. */
export async function profileOf({ store: file, structures, pipes, unit_m, from, to, way }: ProfileRequest): Promise<LongProfileView> {
  const store = new FeatureStore(file);
  try {
    const of = async function* (layer: string): AsyncGenerator<FeatureBatch> {
      for (const batch of store.batches()) if (batch.layer === layer) yield batch;
    };
    const network = await readNetwork(of(pipes), of(structures), {
      tolerance: TIED_M / unit_m,
      makeMissing: false,
      textReach: 0,
      fields: Object.fromEntries(NETWORK_FIELDS.map((f) => [f, FIELDS[f] ?? ''])) as Record<NetworkField, string>,
      unit_m,
    });
    const number = (id: string): number => network.structures.findIndex((s) => s.id === id);
    const gone = [from, to].find((id) => id !== null && number(id) < 0);
    if (gone !== undefined) return { run: null, why: `There is no structure ${gone} in this network.` };
    const run = longProfile(network, number(from), way, to === null ? undefined : number(to));
    const none =
      to === null ? `No pipe leads ${way} from ${from} to where the water leaves.` : `No pipe leads from ${from} ${way} to ${to}.`;
    return { run, why: run ? '' : none };
  } finally {
    store.close();
  }
}

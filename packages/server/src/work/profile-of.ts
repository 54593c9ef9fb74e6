import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type { LongProfileView } from '@pontrel/contract/crossing';
import { placeBatch, sourceTransform, transformBatch } from '@pontrel/core/content/features/transform-batch';
import { type GroundPlace, groundAlong } from '@pontrel/core/content/networks/ground-along';
import { type LongProfile, longProfile } from '@pontrel/core/content/networks/long-profile';
import { profileRecords } from '@pontrel/core/content/networks/profile-records';
import { NETWORK_FIELDS, type NetworkField, readNetwork } from '@pontrel/core/content/networks/read-network';
import { surfaceFrom } from '@pontrel/core/content/surfaces/surface-from';
import { Ground } from '@pontrel/core/content/surfaces/tin';
import { DERIVED_CHORD_M, derivedSource } from '@pontrel/core/crossing/derived-source';
import { runDeliverable } from '@pontrel/core/crossing/pipeline';
import { EMPTY_RECIPE } from '@pontrel/core/crossing/recipe';
import { definitionOf } from '@pontrel/core/crs/definitions/definition-of';
import { localPlane, METRE } from '@pontrel/core/crs/local-plane';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import { emptyBounds, featureBounds } from '@pontrel/core/geometry/bounds';
import { type FeatureBatch, sliceOf } from '@pontrel/core/model/batch';
import { Problem } from '@pontrel/core/model/problem';
import { crsOf, placedBy } from '@pontrel/core/placement/route';
import type { Placement } from '@pontrel/core/placement/placement';
import { folderAt } from '@pontrel/host-node/files';
import { FeatureStore } from '@pontrel/host-node/store/feature-store';
import { proofFailed } from './proof-failed';

/** Asks for the long profile of a run in a network that was worked out. */
export interface ProfileRequest {
  /** Its store. */
  store: string;
  /** Names of its layers. */
  structures: string;
  pipes: string;
  /** The plane of its numbers, as a recipe has it, and metres in one unit of them. */
  crs: string;
  unit_m: number;
  /** Ids of structures. */
  from: string;
  to: string | null;
  way: 'downstream' | 'upstream';
  /** A surface of triangles, and where it lies; null where none is asked for. */
  ground: { name: string; store: string; placement: Placement; extent: Bounds | null } | null;
}

/** A run, and the ground along it; where there is none, why. */
interface FoundRun {
  run: LongProfile | null;
  why: string;
  ground: GroundPlace[];
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
export const profileOf = (request: ProfileRequest): Promise<LongProfileView> => foundRun(request);

/**
 * The same as a drawing in a plane of its own, in metres.
 * @returns a DXF file
 * @throws Problem `no-run`; when what was written is not what was drawn
 */
export async function profileDrawing(request: ProfileRequest & { name: string; times: number; scale: number }): Promise<Uint8Array> {
  const { run, why, ground } = await foundRun(request);
  if (!run) throw new Problem('no-run', why);
  const { name } = request;
  const batches = profileRecords(run, ground, request);
  const plane = definitionOf(localPlane(METRE));
  const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-profile-'));
  try {
    const { proof, prepared } = await runDeliverable(
      {
        ...EMPTY_RECIPE,
        chord_m: DERIVED_CHORD_M,
        frame: { crs: plane },
        sources: { [name]: { placement: { crs: plane, unit_m: null }, layers: {} } },
      },
      { id: 'profile', name, stem: 'profile', format: 'dxf', crs: plane, grouping: 'layer' },
      [derivedSource(name, () => batches)],
      folderAt(folder),
    );
    if (proof.status !== 'match') throw proofFailed(name, proof.differences);
    const [file] = prepared.format.features.write!.files(prepared.plan.sets, prepared.target);
    return await readFile(path.join(folder, file!.name));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function foundRun({ store: file, structures, pipes, crs, unit_m, from, to, way, ground }: ProfileRequest): Promise<FoundRun> {
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
    if (gone !== undefined) return { run: null, why: `There is no structure ${gone} in this network.`, ground: [] };
    const run = longProfile(network, number(from), way, to === null ? undefined : number(to));
    const none =
      to === null ? `No pipe leads ${way} from ${from} to where the water leaves.` : `No pipe leads from ${from} ${way} to ${to}.`;
    return { run, why: run ? '' : none, ground: run && ground ? await groundOf(ground, run.course, crs, unit_m) : [] };
  } finally {
    store.close();
  }
}

/** The ground along a course: only the triangles that lie near it are read into a surface. */
async function groundOf(
  { name, store: file, placement, extent }: NonNullable<ProfileRequest['ground']>,
  course: readonly number[],
  crs: string,
  unit_m: number,
): Promise<GroundPlace[]> {
  const box = emptyBounds();
  for (let k = 0; k < course.length; k += 2) {
    box[0] = Math.min(box[0], course[k]!);
    box[1] = Math.min(box[1], course[k + 1]!);
    box[2] = Math.max(box[2], course[k]!);
    box[3] = Math.max(box[3], course[k + 1]!);
  }
  const store = new FeatureStore(file);
  try {
    const way = sourceTransform(name, placedBy(placement, extent)!, crsOf(crs)!);
    const near = async function* (): AsyncGenerator<FeatureBatch> {
      for (const batch of store.batches()) {
        const placed = transformBatch(placeBatch(batch, way, DERIVED_CHORD_M), way.transform).batch;
        for (let i = 0; i < placed.count; i++) {
          const own = emptyBounds();
          featureBounds(placed, i, own);
          if (own[0] <= box[2] && own[2] >= box[0] && own[1] <= box[3] && own[3] >= box[1]) yield sliceOf(placed, i, i + 1);
        }
      }
    };
    const { tin } = await surfaceFrom(near(), { height: '', longest: 0, spike: 0, unit_m });
    return groundAlong(new Ground(tin), course);
  } catch (error) {
    // where no triangle lies near, the run has no ground
    if (error instanceof Problem && error.code === 'no-surface') return [];
    throw error;
  } finally {
    store.close();
  }
}

import path from 'node:path';
import type { DeriveRequest, FaultList, FaultView, LongProfileView } from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import { derivationById } from '@pontrel/core/content/derived/derivations';
import type { Fault } from '@pontrel/core/content/derived/fault';
import { layerRoles } from '@pontrel/core/crossing/derive-records';
import { type DerivationRule, type WorkedOut, workedOutOf } from '@pontrel/core/crossing/worked-out';
import { isPlane, metresPerUnit, northUp } from '@pontrel/core/crs/crs';
import { label } from '@pontrel/core/crs/transform';
import { Problem } from '@pontrel/core/model/problem';
import { crsOf } from '@pontrel/core/placement/route';
import type { Catalog } from '../store/catalog';
import type { DataFolder } from '../store/data-folder';
import type { Placement } from '@pontrel/core/placement/placement';
import { readJson } from '../store/json-file';
import type { SourceRecord } from '../store/records';
import { carrierOf } from '../tiles/cut-tile';
import { storedImages } from '../work/image-files';
import { FAULTS_FILE } from '../work/work-out-stored';
import type { LookUps } from '../work/look-ups';
import { STORE_FILE } from '../work/read-source';
import { storedSource } from './asked-for';
import { frameOf, placedSources } from './frame';
import { inputsMark } from './inputs-mark';
import type { SourceReader } from './source-reader';
import { extentOfSource } from './views';

/** Faults that the page gets at once. */
const MOST_LISTED = 5000;

/** Records that are worked out of layers: made, made again, and where they do not hold together. */
export class DerivedService {
  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly reader: SourceReader,
    private readonly lookUps: LookUps,
  ) {}

  /**
   * Works records out of layers; they become a source of their own.
   * @throws Problem `operation-unknown`, `frame-degrees`, `derive-unplaced`, `role-empty`, `source-unknown`
   */
  derive(id: string, { again, ...request }: DeriveRequest): Job {
    const { recipe } = this.catalog.crossing(id);
    const derivation = derivationById(request.operation);
    if (!derivation) throw new Problem('operation-unknown', `There is no operation "${request.operation}".`);
    const frame = recipe.frame && crsOf(recipe.frame.crs);
    if (!frame || !recipe.frame)
      throw new Problem('frame-missing', 'Choose the reference frame first: lengths and areas are worked out in it.');
    if (!isPlane(frame))
      throw new Problem(
        'frame-degrees',
        `The reference frame, ${label(frame)}, is in degrees, and lengths and areas want a plane. Choose another frame in Place.`,
      );
    const all = this.catalog.sources(id);
    const before = again === undefined ? undefined : this.catalog.source(id, again);
    // an image is its own layer
    const layersOf = (s: SourceRecord): string[] => (s.facts.images ? [s.name] : s.layers.map((l) => l.profile.name));
    for (const { source, layer } of Object.values(request.roles).flat())
      if (!all.some((s) => s.name === source && layersOf(s).includes(layer)))
        throw new Problem('layer-unknown', `${source} has no layer ${layer} any more. Choose another one.`);
    // what nobody chose has no part: a page shows what it is about
    const roles = layerRoles(
      derivation,
      [],
      Object.fromEntries(derivation.roles.flatMap(({ id: role }) => (request.roles[role]?.length ? [[role, request.roles[role]]] : []))),
    );
    const rule: WorkedOut = { ...request, by: 'operation', roles: roles as DerivationRule['roles'], crs: recipe.frame.crs };
    const used = all.filter((s) => workedOutOf(rule).includes(s.name));
    if (before && used.includes(before))
      throw new Problem('derive-itself', `${before.name} cannot be made of itself. Choose other layers, or make a new one.`);
    const placed = placedSources(recipe, all);
    // a table lies nowhere, and need not
    const unplaced = used.filter((s) => !placed.some((p) => p.name === s.name) && (s.facts.images || extentOfSource(s) !== null));
    if (unplaced.length > 0)
      throw new Problem('derive-unplaced', `${unplaced.map((s) => s.name).join(', ')}: place it first, so that it is known where it lies.`);
    const placementOf = (s: SourceRecord): Placement | null => recipe.sources[s.name]?.placement ?? null;
    return this.reader.workOut(
      id,
      request.name,
      {
        rule,
        inputs: inputsMark(recipe, all, rule),
        sources: used.filter((s) => !s.facts.images).map((s) => ({ source: storedSource(this.folder, s), placement: placementOf(s) })),
        models: used.flatMap((s) => {
          if (!s.facts.images) return [];
          const { members } = s.facts.images;
          return [{ pictures: { files: storedImages(this.folder.source(id, s.id), s.name, members), members }, placement: placementOf(s) }];
        }),
      },
      before,
    );
  }

  /**
   * The long profile of a run in a network that was worked out.
   * @param to the id of the structure that it ends at; the farthest where null
   * @throws Problem `no-network`
   */
  async profile(id: string, sourceId: string, from: string, to: string | null, way: 'downstream' | 'upstream'): Promise<LongProfileView> {
    const source = this.catalog.source(id, sourceId);
    const { recipe } = this.catalog.crossing(id);
    const rule = recipe.sources[source.name]?.workedOut;
    if (rule?.by !== 'operation' || rule.operation !== 'network')
      throw new Problem('no-network', `${source.name} is no network: it has no long profile.`);
    const crs = crsOf(recipe.sources[source.name]?.placement?.crs ?? '');
    return this.lookUps.ask('profile', {
      store: path.join(this.folder.source(id, sourceId), STORE_FILE),
      structures: `${rule.name}-structures`,
      pipes: `${rule.name}-pipes`,
      unit_m: crs && isPlane(crs) ? metresPerUnit(crs, null) : 1,
      from,
      to,
      way,
    });
  }

  /** Where the records of a source that was worked out do not hold together; none for other sources. */
  faults(id: string, sourceId: string): FaultList {
    const { recipe } = this.catalog.crossing(id);
    const source = this.catalog.source(id, sourceId);
    const kept = readJson<Fault[]>(path.join(this.folder.source(id, sourceId), FAULTS_FILE)) ?? [];
    const frame = frameOf(recipe);
    const [placed] = placedSources(recipe, [source]);
    if (!frame || !placed) return { faults: [], total: kept.length };
    const { placement, transform } = carrierOf(placed, northUp(frame));
    const faults = kept.slice(0, MOST_LISTED).map((fault): FaultView => {
      const at = Float64Array.from(fault.at);
      placement.forward(at, 0, 1, 2);
      transform.apply(at, 0, 1, 2);
      return { ...fault, key: faultKey(fault), at: [at[0]!, at[1]!] };
    });
    return { faults: faults.filter((f) => f.at.every(Number.isFinite)), total: kept.length };
  }
}

/** What tells a fault from others, to the centimetre: it is the same one when records are worked out again. */
const faultKey = ({ kind, about, at }: Fault): string => `${kind} ${about} ${at.map((v) => v.toFixed(2)).join(' ')}`;

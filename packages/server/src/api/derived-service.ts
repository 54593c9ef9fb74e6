import path from 'node:path';
import type {
  DeriveRequest,
  FaultList,
  FaultView,
  LongProfileRequest,
  LongProfileView,
  ProfileSheetRequest,
} from '@pontrel/contract/crossing';
import type { Job } from '@pontrel/contract/job';
import { derivationById } from '@pontrel/core/content/derived/derivations';
import type { Fault } from '@pontrel/core/content/derived/fault';
import { layerRoles } from '@pontrel/core/crossing/derive-records';
import { type DerivationRule, type OperationRule, type WorkedOut, workedOutOf } from '@pontrel/core/crossing/worked-out';
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
import type { ProfileRequest } from '../work/profile-of';
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

  /** The long profile of a run in a network that was worked out. @throws Problem `no-network`, `no-ground` */
  async profile(id: string, sourceId: string, asked: LongProfileRequest): Promise<LongProfileView> {
    const view = await this.lookUps.ask('profile', this.profileRequest(id, sourceId, asked));
    const onMap = this.carrier(id, this.catalog.source(id, sourceId));
    if (!view.run || !onMap) return view;
    const structures = view.run.structures.map((s) => {
      const [x, y] = onMap([s.x, s.y]) as [number, number];
      return { ...s, x, y };
    });
    return { ...view, run: { ...view.run, structures, course: onMap(view.run.course) } };
  }

  /** The same as a drawing. @returns a DXF file and what it is to be called @throws Problem `no-network`, `no-ground`, `no-run` */
  async profileDrawing(
    id: string,
    sourceId: string,
    { times, scale, ...asked }: ProfileSheetRequest,
  ): Promise<{ file: Uint8Array; name: string }> {
    const request = this.profileRequest(id, sourceId, asked);
    const name = request.pipes.replace(/-pipes$/, '');
    const file = await this.lookUps.ask('profileDrawing', { ...request, name, times, scale });
    return { file, name: `${name} from ${asked.from}` };
  }

  /**
   * A ground that was worked out as an elevation model.
   * @param pixel in units of the plane that it was worked out in
   * @returns a GeoTIFF and what it is to be called
   * @throws Problem `no-surface`, `grid-large`
   */
  async elevation(id: string, sourceId: string, pixel: number): Promise<{ file: Uint8Array; name: string }> {
    const { source, rule, crs, unit_m } = this.workedOut(id, sourceId);
    if (rule?.operation !== 'surface') throw new Problem('no-surface', `${source.name} is no ground: it cannot be an elevation model.`);
    const store = path.join(this.folder.source(id, sourceId), STORE_FILE);
    return { file: await this.lookUps.ask('elevation', { store, layer: rule.name, crs, unit_m, pixel }), name: rule.name };
  }

  /** A source with the operation that it was worked out by, and the plane that its numbers are in. */
  private workedOut(id: string, sourceId: string): { source: SourceRecord; rule: OperationRule | null; crs: string; unit_m: number } {
    const source = this.catalog.source(id, sourceId);
    const { workedOut, placement } = this.catalog.crossing(id).recipe.sources[source.name] ?? {};
    const rule = workedOut?.by === 'operation' ? workedOut : null;
    const text = placement?.crs ?? rule?.crs ?? '';
    const crs = crsOf(text);
    return { source, rule, crs: text, unit_m: crs && isPlane(crs) ? metresPerUnit(crs, null) : 1 };
  }

  private profileRequest(id: string, sourceId: string, { from, to, way, ground: groundId }: LongProfileRequest): ProfileRequest {
    const { recipe } = this.catalog.crossing(id);
    const { source, rule, crs, unit_m } = this.workedOut(id, sourceId);
    if (rule?.operation !== 'network') throw new Problem('no-network', `${source.name} is no network: it has no long profile.`);
    const ground = groundId === undefined ? null : this.catalog.source(id, groundId);
    const placement = ground && recipe.sources[ground.name]?.placement;
    if (ground && !placement) throw new Problem('no-ground', `${ground.name} is not placed: it is no ground for a profile.`);
    return {
      store: path.join(this.folder.source(id, sourceId), STORE_FILE),
      structures: `${rule.name}-structures`,
      pipes: `${rule.name}-pipes`,
      crs,
      unit_m,
      from,
      to: to ?? null,
      way,
      ground: ground && {
        name: ground.name,
        store: path.join(this.folder.source(id, ground.id), STORE_FILE),
        placement: placement!,
        extent: extentOfSource(ground),
      },
    };
  }

  /** Carries places, x and y by twos, from the numbers of a source into the frame as the map has it; null where it lies nowhere. */
  private carrier(id: string, source: SourceRecord): ((places: readonly number[]) => number[]) | null {
    const { recipe } = this.catalog.crossing(id);
    const frame = frameOf(recipe);
    const [placed] = placedSources(recipe, [source]);
    if (!frame || !placed) return null;
    const { placement, transform } = carrierOf(placed, northUp(frame));
    return (places) => {
      const at = Float64Array.from(places);
      placement.forward(at, 0, at.length / 2, 2);
      transform.apply(at, 0, at.length / 2, 2);
      return [...at];
    };
  }

  /** Where the records of a source that was worked out do not hold together; none for other sources. */
  faults(id: string, sourceId: string): FaultList {
    const source = this.catalog.source(id, sourceId);
    const kept = readJson<Fault[]>(path.join(this.folder.source(id, sourceId), FAULTS_FILE)) ?? [];
    const onMap = this.carrier(id, source);
    if (!onMap) return { faults: [], total: kept.length };
    const faults = kept.slice(0, MOST_LISTED).map((fault): FaultView => ({
      ...fault,
      key: faultKey(fault),
      at: onMap(fault.at) as [number, number],
      place: fault.at,
    }));
    return { faults: faults.filter((f) => f.at.every(Number.isFinite)), total: kept.length };
  }
}

/** What tells a fault from others, to the centimetre: it is the same one when records are worked out again. */
const faultKey = ({ kind, about, at }: Fault): string => `${kind} ${about} ${at.map((v) => v.toFixed(2)).join(' ')}`;

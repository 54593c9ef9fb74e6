import { placementOf } from '@pontrel/core/crossing/placement-of';
import type { Placement } from '@pontrel/core/placement/placement';
import { createHash } from 'node:crypto';
import path from 'node:path';
import type { Candidate, CrsName, GridList, Outliers, PathView, PlaceView, Preview, UnitQuestion } from '@pontrel/contract/crossing';
import { toGreenwich } from '@pontrel/core/crs/area';
import { type Crs, type EarthCrs, isOnEarth, type LocalCrs, northUp } from '@pontrel/core/crs/crs';
import { gridFiles, heightGrid, shiftGrid } from '@pontrel/core/crs/datum/grid-registry';
import { readPositions } from '@pontrel/core/crs/definitions/read-definition';
import { findCandidates, type Known } from '@pontrel/core/placement/finder';
import { BY_PART } from '@pontrel/core/crs/by-part';
import { nameOf, operationKey } from '@pontrel/core/crs/operations';
import { identify } from '@pontrel/core/crs/registry/identify';
import { lookupCrs } from '@pontrel/core/crs/registry/registry';
import { LOCAL, localPlane } from '@pontrel/core/crs/local-plane';
import { MISTAKEN_UNITS } from '@pontrel/core/placement/ratio';
import { searchCrs } from '@pontrel/core/crs/registry/search';
import { compileTransform } from '@pontrel/core/crs/transform';
import { systemDoubt } from '@pontrel/core/placement/stated-system';
import { openUnitQuestion, proposedUnit, unitSentence } from '@pontrel/core/placement/unit-question';
import { type OperationChoice, operationChoices, operationFindings } from '@pontrel/core/placement/operation-advice';
import { compilePlacement, type PlacementTransform } from '@pontrel/core/placement/placement-transform';
import { crsOf, placedBy, type PlacedIn, routeTo } from '@pontrel/core/placement/route';
import { isEmpty } from '@pontrel/core/geometry/bounds';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import { type GridFolder, registerGrids } from '@pontrel/host-node/grid-folders';
import type { Catalog } from '../store/catalog';
import type { CrossingRecord, SourceRecord } from '../store/records';
import type { DataFolder } from '../store/data-folder';
import type { TileSource } from '../tiles/cut-tile';
import { storeExtent } from '../tiles/cut-tile';
import type { LookUps } from '../work/look-ups';
import { STORE_FILE } from '../work/read-source';
import { crsName } from './crs-names';
import { summaryOf } from './views';
import { frameExtent, frameOf, isPlaced, placedSources, sourceExtent } from './frame';

const LISTED = 12;
/** Systems among which those that were used before are looked for, when a text is searched. */
const MOST_FOUND = 50;
/** Ways that a choice shows; beyond these they differ by nothing that a person could weigh. */
const MOST_OPERATIONS = 12;
/** Previews that are kept for their tiles. */
const MOST_PREVIEWS = 60;
const WGS84 = lookupCrs('EPSG:4326')!;

/** Where on earth a source is: what could be meant, the way of a coordinate, and what a placement would look like. */
export class PlaceService {
  /** Placements that are looked at, by stamp. */
  private readonly previews = new Map<string, Placement>();

  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly lookUps: LookUps,
    private readonly grids: readonly GridFolder[],
  ) {}

  /**
   * Systems in which a source's numbers would make sense.
   * @param unit_m metres in one unit of the numbers; null when that is the unit of each system; undefined when it is not settled
   */
  candidates(id: string, sourceId: string, near: readonly [number, number] | null, unit_m: number | null | undefined): Candidate[] {
    const source = this.catalog.source(id, sourceId);
    const { unit } = source.facts;
    const extent = sourceExtent(source);
    if (!extent) return [];
    const { whose, ...known } = this.known(id, sourceId);
    const used = new Set(this.usedSystems().map((c) => c.id));
    return findCandidates(
      extent,
      unit_m === undefined ? (unit?.metres ?? null) : unit_m,
      { ...known, near, unit_m: unit_m ?? unit?.metres ?? null },
      LISTED,
    ).map(({ crs, parameters: numbers, mistake, lon, lat, inside, clear, away_km, pointed_km }): Candidate => {
      const { axesSwapped: swapped, signReversed: turned, offset: plus } = numbers;
      return {
        placement: {
          crs: crs.id!,
          unit_m: unit_m === undefined && mistake === null ? proposedUnit(crs, unit, extent) : numbers.unit_m,
          ...(swapped ? { axesSwapped: swapped } : {}),
          ...(turned ? { signReversed: turned } : {}),
          ...(plus ? { offset: [plus[0], plus[1]] } : {}),
        },
        crs: used.has(crs.id!) ? { ...crsName(crs), used: true } : crsName(crs),
        lon,
        lat,
        inside,
        clear,
        mistake,
        why: `${away_km !== null && away_km < 60 ? `${distance(away_km)} ${whose}, in` : pointed_km !== null ? `${distance(pointed_km)} the place you pointed at, in` : 'numbers lie in'} ${crs.area!.name}`,
      };
    });
  }

  /**
   * What this crossing has to do with already, besides the source in question; what others have to do with where it has nothing yet.
   * @returns `whose` says of whom the places are
   */
  private known(id: string, sourceId: string): Known & { whose: string } {
    const systems = new Set<string>();
    const familiar = new Set<string>();
    const own: [number, number][] = [];
    const elsewhere: [number, number][] = [];
    for (const crossing of this.catalog.crossings()) {
      const frame = frameOf(crossing.recipe);
      if (!frame || !isOnEarth(frame)) continue;
      const isOwn = crossing.id === id;
      if (frame.id) (isOwn ? systems : familiar).add(frame.id);
      const place = this.middleOf(crossing, frame, sourceId);
      if (place) (isOwn ? own : elsewhere).push(place);
    }
    return own.length > 0
      ? { systems, familiar, places: own, whose: 'what is placed' }
      : { systems: new Set([...systems, ...familiar]), places: elsewhere, whose: 'other work' };
  }

  /** The middle of what a crossing has placed, besides one source, as longitude and latitude in degrees. */
  private middleOf({ id, recipe }: CrossingRecord, frame: EarthCrs, besides: string): [number, number] | null {
    const sources = this.catalog.sources(id).filter((s) => s.id !== besides);
    const extent = frameExtent(frame, sources, placedSources(recipe, sources));
    if (!extent) return null;
    const middle = Float64Array.of((extent[0] + extent[2]) / 2, (extent[1] + extent[3]) / 2);
    toGreenwich(frame, middle, 1, 2);
    return middle.every(Number.isFinite) ? [middle[0]!, middle[1]!] : null;
  }

  /** The way of a source's coordinates into the frame, with the middle of its extent as an example, and what else there is to choose. */
  path(id: string, sourceId: string): PathView {
    this.refreshGrids();
    const source = this.catalog.source(id, sourceId);
    const { recipe } = this.catalog.crossing(id);
    const frame = recipe.frame && crsOf(recipe.frame.crs);
    const placed = isPlaced(recipe, source) ? placementOf(recipe, summaryOf(source)) : null;
    const extent = sourceExtent(source);
    const none: PathView = {
      problem: null,
      ballpark: false,
      accuracy_m: null,
      steps: [],
      from: null,
      to: null,
      unit: null,
      operations: [],
      notes: [],
    };
    if (!placed || !frame || !extent) return none;
    const from: [number, number] = [(extent[0] + extent[2]) / 2, (extent[1] + extent[3]) / 2];
    try {
      const route = routeTo(placed, frame);
      const { placement: plane, transform, steps, accuracy_m } = route;
      const point = Float64Array.of(...from);
      plane.forward(point, 0, 1, 2);
      const inPlane: [number, number] = [point[0]!, point[1]!];
      const trace = transform.trace(inPlane);
      const own = steps.length - transform.steps.length;
      const at = (k: number): [number, number] | null => {
        const p = k < own ? (k === own - 1 ? inPlane : null) : trace[k - own]!;
        return p && Number.isFinite(p[0]!) && Number.isFinite(p[1]!) ? [p[0]!, p[1]!] : null;
      };
      if (transform.apply(point, 0, 1, 2) > 0)
        throw new Problem(
          'no-image',
          `As they are placed, the numbers of ${source.name} lie where ${frame.name} has no coordinates. Choose another unit or system.`,
        );
      return {
        problem: null,
        ballpark: transform.path.ballpark,
        accuracy_m,
        from,
        to: [point[0]!, point[1]!],
        steps: steps.map((s, k) => ({ id: s.id, name: s.name, method: s.method, accuracy_m: s.accuracy_m, grids: s.grids, at: at(k) })),
        unit: unitView(recipe.sources[source.name]!.placement!, source),
        operations: operationViews(placed, plane, frame, placed.operation === BY_PART ? BY_PART : operationKey(transform.path)),
        notes: operationFindings(source.name, placed, route, frame).map(({ severity, message }) => ({ severity, message })),
      };
    } catch (error) {
      return {
        ...none,
        problem: messageOf(error),
        ballpark: error instanceof Problem && error.code === 'crs-no-datum-path',
        from,
        operations: operationViews(placed, compilePlacement(placed.crs, placed.parameters), frame, null),
      };
    }
  }

  /** Objects of a source that lie far from the rest. */
  outliers(id: string, sourceId: string): Outliers {
    const source = this.catalog.source(id, sourceId);
    const { recipe } = this.catalog.crossing(id);
    const [placed, frame] = [placementOf(recipe, summaryOf(source)), frameOf(recipe)];
    const { count, records } = source.facts.outliers ?? { count: 0, records: [] };
    const place = (at: [number, number]): [number, number] | null => {
      if (!placed || !frame) return null;
      try {
        const { placement: plane, transform } = routeTo(placed, frame);
        const p = Float64Array.of(...at);
        plane.forward(p, 0, 1, 2);
        return transform.apply(p, 0, 1, 2) > 0 ? null : [p[0]!, p[1]!];
      } catch (error) {
        if (error instanceof Problem) return null;
        throw error;
      }
    };
    return { count, records: records.map((r) => ({ ...r, place: place(r.at) })) };
  }

  /** Bounds of a source in the frame if it were placed so, or why it cannot be. */
  preview(id: string, sourceId: string, placement: Placement): Preview {
    const source = this.catalog.source(id, sourceId);
    const stamp = createHash('sha256')
      .update(JSON.stringify([id, source.name, placement]))
      .digest('hex')
      .slice(0, 16);
    this.previews.delete(stamp);
    this.previews.set(stamp, placement);
    for (const oldest of this.previews.keys()) if (this.previews.size > MOST_PREVIEWS) this.previews.delete(oldest);
    const frame = drawn(crsOf(this.frameFor(id, placement)));
    const extent = sourceExtent(source);
    const told = { unit: unitView(placement, source), doubt: doubtOf(placement, source) };
    if (!frame || !extent || !placedBy(placement, extent)) return { stamp, extent: null, problem: null, ...told };
    try {
      const lies = storeExtent(this.previewSource(id, source, placement), extent, frame);
      return isEmpty(lies)
        ? {
            stamp,
            extent: null,
            problem: `So placed, the numbers of ${source.name} lie where ${frame.name} has no coordinates. Choose another system or unit.`,
            ...told,
          }
        : { stamp, extent: lies, problem: null, ...told };
    } catch (error) {
      return { stamp, extent: null, problem: messageOf(error), ...told };
    }
  }

  /** A placement that is looked at. @throws Problem `preview-unknown` */
  previewOf(id: string, stamp: string): { placement: Placement; frame: string } {
    const placement = this.previews.get(stamp);
    if (!placement) throw new Problem('preview-unknown', 'This preview is not kept any more. Choose the candidate again.');
    return { placement, frame: this.frameFor(id, placement) };
  }

  /** A vector tile of one source alone, as it would lie if it were placed so. */
  async previewTile(id: string, sourceId: string, stamp: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const source = this.catalog.source(id, sourceId);
    const { placement, frame } = this.previewOf(id, stamp);
    return this.lookUps.ask('tile', { sources: [this.previewSource(id, source, placement)], frame, z, x, y });
  }

  /** The vertex of a source, placed so, that is nearest to a place in the frame. */
  async previewVertex(id: string, sourceId: string, stamp: string, x: number, y: number, reach: number): Promise<[number, number] | null> {
    const source = this.catalog.source(id, sourceId);
    const { placement, frame } = this.previewOf(id, stamp);
    return this.lookUps.ask('nearest', { sources: [this.previewSource(id, source, placement)], frame, x, y, reach });
  }

  /** What a placement that is tried is drawn in: the frame, but a plane of its own in itself, as nothing leads from it into the frame. */
  private frameFor(id: string, placement: Placement): string {
    const { frame } = this.catalog.crossing(id).recipe;
    return frame && crsOf(placement.crs)?.kind !== 'local' ? frame.crs : placement.crs;
  }

  /** A source placed in a system in the unit that is proposed for it there. */
  proposal(id: string, sourceId: string, crs: string): Placement {
    const { extent, unit } = summaryOf(this.catalog.source(id, sourceId));
    return { crs, unit_m: proposedUnit(readPositions(crs), unit, extent) };
  }

  private previewSource(id: string, source: SourceRecord, placement: Placement): TileSource {
    const { name, extent } = summaryOf(source);
    return { file: this.store(id, source), name, extent, placement };
  }

  /** Grid files at hand, and the folder into which more can be put. */
  gridList(): GridList {
    this.refreshGrids();
    return {
      folder: path.resolve(this.folder.grids),
      files: gridFiles().map(({ name, place }) => {
        const height = /\.gtx$/i.test(name);
        try {
          const grid = height ? heightGrid(name) : shiftGrid(name);
          return { name, place, kind: height ? 'heights' : 'shifts of datum', bounds: grid.bounds, problem: null };
        } catch (error) {
          return { name, place, kind: height ? 'heights' : 'shifts of datum', bounds: null, problem: messageOf(error) };
        }
      }),
    };
  }

  /**
   * Systems that a line of text means: by words, by code, by a saved name, or by a definition that was pasted; those that were used
   * before come first, and are all there is where nothing is typed.
   */
  search(text: string, limit: number): CrsName[] {
    const used = this.usedSystems();
    if (text.trim() === '') return used.slice(0, limit);
    const before = new Set(used.map((c) => c.id));
    const found = this.found(text, MOST_FOUND);
    return [...found.filter((c) => before.has(c.id)), ...found.filter((c) => !before.has(c.id))]
      .map((c) => (before.has(c.id) ? { ...c, used: true as const } : c))
      .slice(0, limit);
  }

  /** The systems of frames, placements and deliverables: those of the crossing that was opened last first. */
  private usedSystems(): CrsName[] {
    const texts = new Set(
      this.catalog
        .crossings()
        .filter((c) => c.binned === null)
        .flatMap(({ recipe: { frame, sources, deliverables } }) => [
          frame?.crs,
          ...Object.values(sources).map((s) => s.placement?.crs),
          ...deliverables.map((d) => d.crs),
        ]),
    );
    return [...texts].flatMap((text) => {
      const crs = text === undefined ? null : crsOf(text);
      return crs && isOnEarth(crs) ? [{ ...crsName(crs, text), used: true as const }] : [];
    });
  }

  private found(text: string, limit: number): CrsName[] {
    const saved = this.catalog.definitions();
    const own = saved
      .filter((d) => text.length >= 2 && d.name.toLowerCase().includes(text.toLowerCase()))
      .map((d) => ({ ...crsName(readPositions(d.text), d.text), name: d.name, label: 'saved' }));
    if (/[[=]/.test(text)) {
      const crs = readPositions(text);
      const known = identify(crs)
        .filter((f) => f.confidence >= 70)
        .slice(0, 3)
        .map((f) => crsName(f.crs));
      return [...known, crsName({ ...crs, id: null, name: crs.name || 'Pasted definition' }, text)];
    }
    return [...own, ...planesFor(text).map((c) => crsName(c)), ...searchCrs(text, { limit }).map((c) => crsName(c))].slice(0, limit);
  }

  saveDefinition(name: string, text: string): void {
    readPositions(text);
    this.catalog.saveDefinition(name, text, new Date().toISOString());
  }

  /** A place that was typed, in the frame; and a place of the frame in degrees of WGS 84 and in a pinned system. */
  where(
    id: string,
    ask: {
      frame?: [number, number] | undefined;
      degrees?: [number, number] | undefined;
      other?: [number, number] | undefined;
      crs?: string | undefined;
    },
  ): PlaceView {
    const frame = frameOf(this.catalog.crossing(id).recipe);
    if (!frame) return { frame: null, degrees: null, other: null };
    const other = ask.crs === undefined ? null : readPositions(ask.crs);
    const at =
      ask.frame ?? (ask.degrees ? carried(WGS84, frame, ask.degrees) : other && ask.other ? carried(other, frame, ask.other) : null);
    return { frame: at, degrees: at && carried(frame, WGS84, at), other: at && other && carried(frame, other, at) };
  }

  private refreshGrids(): void {
    registerGrids(this.grids);
  }

  private store(id: string, source: SourceRecord): string {
    return path.join(this.folder.source(id, source.id), STORE_FILE);
  }
}

/** The question of its unit that a placement leaves open. */
function unitView(placement: Placement, source: SourceRecord): UnitQuestion | null {
  const { extent, unit } = summaryOf(source);
  const crs = crsOf(placement.crs);
  const question = crs && openUnitQuestion(placement, crs, unit, extent);
  return question && { message: unitSentence(question, crs, placement.unit_m), stated: question.stated, own: question.own };
}

function doubtOf(placement: Placement, source: SourceRecord): string | null {
  const crs = crsOf(placement.crs);
  return (crs && systemDoubt(crs, placement, summaryOf(source).extent)?.message) ?? null;
}

/** Operations that a source can get into the frame by; none where there is nothing to choose. @param chosen key of the one that is used */
function operationViews(placed: PlacedIn, placement: PlacementTransform, frame: Crs, chosen: string | null): PathView['operations'] {
  const all = operationChoices(placed, { placement }, frame);
  const shown = all.slice(0, MOST_OPERATIONS);
  const used = all.find(({ path }) => operationKey(path) === chosen);
  if (used && !shown.includes(used)) shown.push(used);
  if (shown.length < 2 && !all[0]?.path.ballpark) return [];
  const usable = all.filter(({ path }) => path.missing.length === 0 && !path.ballpark);
  const views = shown.map(({ path, share }): PathView['operations'][number] => ({
    key: operationKey(path),
    name: path.ballpark ? 'No change of datum: numbers are taken over' : nameOf(path),
    codes: path.steps.map((s) => s.operation.id).join(' '),
    accuracy_m: path.accuracy_m,
    area: path.areaOf?.name ?? path.steps.map((s) => s.operation.area?.name).find((n) => n !== undefined) ?? null,
    share,
    missing: path.missing,
    on: operationKey(path) === chosen,
  }));
  // where one of several holds everything best there is nothing to take by parts
  if (chosen !== BY_PART && !isSplit(usable)) return views;
  return [
    ...views,
    {
      key: BY_PART,
      name: 'For each position the best one of its area',
      codes: '',
      accuracy_m: null,
      area: 'What lies across the edge of an area is bent there by the difference of two operations.',
      share: null,
      missing: [],
      on: chosen === BY_PART,
    },
  ];
}

/** Whether some operation is better than the first in a part of where a source lies. */
const isSplit = ([first, ...others]: readonly OperationChoice[]): boolean =>
  others.some(
    ({ path, share }) =>
      (share ?? 0) > 0 && ((path.accuracy_m ?? Infinity) < (first!.path.accuracy_m ?? Infinity) || (first!.share ?? 1) < 1 - 1e-6),
  );

const drawn = (crs: Crs | null): Crs | null => crs && northUp(crs);

const distance = (km: number): string => (km < 1 ? 'at' : `${Math.round(km)} km from`);

/** A place in another system; null where it has no image. A display of coordinates takes what is there rather than nothing. */
/** Local planes that words ask for: "local", "site grid", "local foot". */
function planesFor(text: string): LocalCrs[] {
  const words = text.toLowerCase().split(/\s+/);
  if (!words.some((w) => w === LOCAL || w === 'site')) return [];
  const said = (unit: string): string[] => [LOCAL, 'plane', 'site', 'grid', ...unit.toLowerCase().split(' ')];
  return MISTAKEN_UNITS.filter((u) => words.every((w) => said(u.name).some((s) => s.startsWith(w)))).map(({ name, metres }) =>
    localPlane({ name, metres }),
  );
}

function carried(from: Crs, to: Crs, at: readonly [number, number]): [number, number] | null {
  // nothing leads into a plane of its own, nor out of it
  if (!isOnEarth(from) || !isOnEarth(to)) return null;
  const p = Float64Array.of(at[0], at[1]);
  return compileTransform(from, to, { acceptBallpark: true }).apply(p, 0, 1, 2) > 0 ? null : [p[0]!, p[1]!];
}

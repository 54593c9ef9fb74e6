import { createHash } from 'node:crypto';
import path from 'node:path';
import type { PictureSizes, PieceView, PixelValues, PlacedPictures, RegistrationView } from '@pontrel/contract/pictures';
import type { ImageForecast } from '@pontrel/core/content/raster/forecast';
import { gridOf, imagesExtent } from '@pontrel/core/content/raster/profile';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { chosenMembers, imageOrder } from '@pontrel/core/crossing/chosen-images';
import { type Deliverable, imageRule, type Recipe, sourcesOfAreas } from '@pontrel/core/crossing/recipe';
import { type Crs } from '@pontrel/core/crs/crs';
import { label } from '@pontrel/core/crs/transform';
import type { OptionValues } from '@pontrel/core/formats/format-option';
import { Problem } from '@pontrel/core/model/problem';
import type { PixelWindow } from '@pontrel/core/model/raster';
import { crsOf, placedBy, pointMaps, routeTo } from '@pontrel/core/placement/route';
import { corners, extentOfGrid, toGround } from '@pontrel/core/raster/pixel-grid';
import type { Catalog } from '../store/catalog';
import type { DataFolder } from '../store/data-folder';
import type { CrossingRecord, RunRecord, SourceRecord } from '../store/records';
import { Recent } from '../store/recent';
import type { ImageTileSource } from '../tiles/image-tile';
import { storedImages, THUMBNAIL_FILE } from '../work/image-files';
import type { LookUps } from '../work/look-ups';
import type { PictureRequest } from '../work/picture-look-ups';
import type { StoredPictures } from '../work/stored-source';
import { deliverableOf, storedSource } from './asked-for';
import { frameOf, isPlaced, placedSources } from './frame';
import type { PlaceService } from './place-service';
import { extentOfSource } from './views';

/** Answers about deliverables that are kept, since the page asks again and again. */
const MOST_KEPT = 60;

/** Pixels along the longer side of a picture that is looked at as a whole. */
const OVERVIEW = 460;

/** Places along a side of a picture by which its outline is drawn. */
const ALONG = 6;

/** Pictures on the map, and what will become of them. */
export class PictureService {
  private readonly forecasts = new Recent<Promise<ImageForecast>>(MOST_KEPT);
  private readonly sizes = new Recent<Promise<PictureSizes>>(MOST_KEPT);

  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly lookUps: LookUps,
    private readonly places: PlaceService,
  ) {}

  /** The pictures of a crossing that lie in its frame, those on top first. */
  placed(crossing: CrossingRecord, sources: readonly SourceRecord[]): PlacedPictures[] {
    const frame = frameOf(crossing.recipe);
    if (!frame) return [];
    const { recipe } = crossing;
    const drawn = new Set(placedSources(recipe, sources).map((p) => p.name));
    return fromTheTop(
      recipe,
      sources.filter((s) => s.facts.images && drawn.has(s.name)),
    ).map((source) => {
      const { name } = source;
      const outlines = outlinesOf(recipe, source, frame);
      const [xs, ys] = [0, 1].map((k) => outlines.flatMap((o) => o.ring.map((p) => p[k]!)));
      const { placement, image } = recipe.sources[name]!;
      const shown = { ...image?.shown, hidden: undefined, opacity: undefined };
      const stamp = stampOf([source.id, frame.id === null ? frame : label(frame), placement, { ...image, taken: undefined, shown }]);
      return { source: name, stamp, outlines, extent: [Math.min(...xs!), Math.min(...ys!), Math.max(...xs!), Math.max(...ys!)] };
    });
  }

  /** A tile of the pictures of a source, in the frame. */
  tile(id: string, sourceId: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const { recipe } = this.catalog.crossing(id);
    const source = this.source(id, sourceId);
    const { placement } = recipe.sources[source.name] ?? {};
    if (!recipe.frame || !placement) return Promise.resolve(new Uint8Array(0));
    return this.lookUps.ask('pictureTile', { source: this.placedSource(recipe, source), frame: recipe.frame.crs, z, x, y });
  }

  /** A tile of them in their own numbers, for finding control points. */
  ownTile(id: string, sourceId: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const source = this.tileSource(this.catalog.crossing(id).recipe, this.source(id, sourceId));
    return this.lookUps.ask('pictureTile', { source: { ...source, placement: null }, frame: null, z, x, y });
  }

  /** A tile of them as they would lie if they were placed so. */
  previewTile(id: string, sourceId: string, stamp: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const { placement, frame } = this.places.previewOf(id, stamp);
    const source = this.tileSource(this.catalog.crossing(id).recipe, this.source(id, sourceId));
    return this.lookUps.ask('pictureTile', { source: { ...source, placement }, frame, z, x, y });
  }

  /** A tile of the picture that a run wrote, as it was read back, in the frame. */
  readBackTile(runId: string, z: number, x: number, y: number): Promise<Uint8Array> {
    const run = this.catalog.run(runId);
    const { frame } = this.catalog.crossing(run.crossing).recipe;
    if (!frame || !isImageProof(run.proof)) return Promise.resolve(new Uint8Array(0));
    const members = [run.proof.shown];
    const source: ImageTileSource = {
      folder: this.folder.run(run.crossing, run.id),
      name: run.name,
      members,
      extent: imagesExtent(members)!,
      placement: { crs: run.target, unit_m: null },
      rule: {},
    };
    return this.lookUps.ask('pictureTile', { source, frame: frame.crs, z, x, y });
  }

  /** Where the registration of a run's picture was measured, on the map; null where it wrote records, or nothing leads into the frame. */
  measuredAt({ recipe }: CrossingRecord, { proof, target }: RunRecord): RegistrationView[] | null {
    const frame = frameOf(recipe);
    const crs = crsOf(target);
    if (!frame || !crs || !isImageProof(proof) || !proof.shown.map) return null;
    const { map } = proof.shown;
    const grid = gridOf(proof.shown);
    const { toTarget } = pointMaps(routeTo({ crs, parameters: { unit_m: null }, extent: extentOfGrid(grid) }, frame));
    return proof.registration.places.flatMap(({ x, y, shift }): RegistrationView[] => {
      const { dx, dy } = shift ?? { dx: 0, dy: 0 };
      const p = Float64Array.of(x, y, x + dx * map[1] + dy * map[2], y + dx * map[4] + dy * map[5]);
      toTarget(p);
      if (p.some(Number.isNaN)) return [];
      const off = shift && { dx: p[2]! - p[0]!, dy: p[3]! - p[1]!, px: Math.hypot(dx, dy) };
      return [{ at: [p[0]!, p[1]!], off }];
    });
  }

  /** The file of a source's small picture. */
  thumbnail(id: string, sourceId: string): string {
    return path.join(this.folder.source(id, this.source(id, sourceId).id), THUMBNAIL_FILE);
  }

  /** The values of all placed pictures at a place of the frame. */
  async values(id: string, x: number, y: number): Promise<PixelValues> {
    const { recipe } = this.catalog.crossing(id);
    if (!recipe.frame) return [];
    const pictures = this.catalog.sources(id).filter((s) => s.facts.images && isPlaced(recipe, s));
    const sources = fromTheTop(recipe, pictures).map((source) => this.placedSource(recipe, source));
    return this.lookUps.ask('pixels', { sources, frame: recipe.frame.crs, x, y });
  }

  /** What will become of a deliverable that is a picture; what was worked out is kept while the rules are the same. */
  forecast(crossing: CrossingRecord, deliverable: Deliverable): Promise<ImageForecast> {
    const request = this.request(crossing, deliverable);
    return kept(this.forecasts, keyOf(request), () => this.lookUps.ask('pictureForecast', request));
  }

  /** About how large its files will be. */
  size(id: string, deliverableId: string): Promise<PictureSizes> {
    const request = this.requestFor(id, deliverableId);
    return kept(this.sizes, keyOf(request), () => this.lookUps.ask('pictureSizes', request));
  }

  /** What it is to look like as a whole, as a data URL. */
  async overview(id: string, deliverableId: string): Promise<{ image: string }> {
    const crossing = this.catalog.crossing(id);
    const { recipe, deliverable } = this.requestFor(id, deliverableId);
    const { map, info, sources } = await this.forecast(crossing, deliverable);
    const all = this.catalog.sources(id);
    const names = [...new Set(sources.map((s) => s.source))];
    // so many times larger pixels
    const times = Math.max(1, Math.max(info.width, info.height) / OVERVIEW);
    const [width, height] = [Math.max(1, Math.round(info.width / times)), Math.max(1, Math.round(info.height / times))];
    const { drawn } = deliverable.image ?? {};
    if (drawn) {
      const request = this.requestFor(id, deliverableId);
      const smaller = { ...deliverable, image: { ...deliverable.image!, drawn: { ...drawn, dpi: drawn.dpi / times } } };
      return { image: await this.lookUps.ask('mapOverview', { ...request, deliverable: smaller }) };
    }
    const [sx, sy] = [info.width / width, info.height / height];
    const image = await this.lookUps.ask('pictureOverview', {
      sources: names.map((name) =>
        this.placedSource(
          recipe,
          all.find((s) => s.name === name)!,
        ),
      ),
      crs: deliverable.crs,
      grid: { map: [map[0], map[1] * sx, map[2] * sy, map[3], map[4] * sx, map[5] * sy], width, height },
    });
    return { image };
  }

  /** A piece of it at full resolution. */
  piece(id: string, deliverableId: string, window: PixelWindow, options: OptionValues): Promise<PieceView> {
    return this.lookUps.ask('picturePiece', { ...this.requestFor(id, deliverableId), window, options });
  }

  /** All that a picture is made by, as a worker is told of it. */
  request({ id, recipe }: CrossingRecord, deliverable: Deliverable): PictureRequest {
    const all = this.catalog.sources(id);
    const from = sourcesOfAreas(deliverable);
    const drawn = deliverable.image?.drawn !== undefined;
    return {
      // other deliverables, and what is only shown, change nothing of it
      recipe: { ...recipe, deliverables: [] },
      deliverable,
      sources: all.filter((s) => (drawn || from.includes(s.name)) && !s.facts.images).map((s) => storedSource(this.folder, s)),
      pictures: all.flatMap((s) => this.pictures(s)),
    };
  }

  private requestFor(id: string, deliverableId: string): PictureRequest {
    const crossing = this.catalog.crossing(id);
    return this.request(crossing, deliverableOf(crossing.recipe, deliverableId));
  }

  /** The pictures of a source as a worker is told of them; none where it holds records. */
  pictures(record: SourceRecord): StoredPictures[] {
    const { images } = record.facts;
    if (!images) return [];
    const folder = this.folder.source(record.crossing, record.id);
    return [{ files: storedImages(folder, record.name, images.members), members: images.members }];
  }

  private tileSource(recipe: Recipe, source: SourceRecord): Omit<ImageTileSource, 'placement'> {
    const { members } = source.facts.images!;
    return {
      folder: this.folder.source(source.crossing, source.id),
      name: source.name,
      members,
      extent: extentOfSource(source)!,
      rule: imageRule(recipe, source.name),
    };
  }

  private placedSource(recipe: Recipe, source: SourceRecord): ImageTileSource {
    return { ...this.tileSource(recipe, source), placement: recipe.sources[source.name]!.placement };
  }

  /** The images that the map shows, from the top. */
  shown(id: string): ImageTileSource[] {
    const { recipe } = this.catalog.crossing(id);
    const placed = this.catalog.sources(id).filter((s) => {
      const { taken, shown } = imageRule(recipe, s.name);
      return s.facts.images && recipe.sources[s.name]?.placement && taken !== false && shown?.hidden !== true;
    });
    return fromTheTop(recipe, placed).map((s) => this.placedSource(recipe, s));
  }

  private source(id: string, sourceId: string): SourceRecord {
    const source = this.catalog.sources(id).find((s) => s.id === sourceId && s.facts.images);
    if (!source) throw new Problem('source-unknown', 'This source is not in the crossing any more.');
    return source;
  }
}

/** Sources in the order in which their pictures cover each other. */
const fromTheTop = (recipe: Recipe, sources: readonly SourceRecord[]): SourceRecord[] =>
  imageOrder(
    recipe,
    sources.map((s) => s.name),
  ).map((name) => sources.find((s) => s.name === name)!);

const stampOf = (made: unknown): string => createHash('sha256').update(JSON.stringify(made)).digest('hex').slice(0, 16);

/** What an answer depends on: of the rules those that change what is written. */
const keyOf = ({ recipe, deliverable, sources, pictures }: PictureRequest): string =>
  JSON.stringify([
    recipe.frame,
    recipe.images,
    Object.entries(recipe.sources).map(([name, { placement, image }]) => [name, placement, { ...image, shown: undefined }]),
    deliverable,
    // a map is drawn by all rules
    deliverable.image?.drawn ? recipe.sources : null,
    sources.map((s) => s.files.folder),
    pictures.map((p) => p.files.folder),
  ]);

function kept<T>(recent: Recent<Promise<T>>, key: string, make: () => Promise<T>): Promise<T> {
  return recent.get(key, () => {
    const made = make();
    made.catch(() => recent.forget(key));
    return made;
  });
}

/** The outlines of the pictures of a source in the frame. */
function outlinesOf(recipe: Recipe, source: SourceRecord, frame: Crs): PlacedPictures['outlines'] {
  const { members } = source.facts.images!;
  const { toTarget } = pointMaps(routeTo(placedBy(recipe.sources[source.name]!.placement!, extentOfSource(source))!, frame));
  return chosenMembers(
    imageRule(recipe, source.name),
    members.filter((m) => m.unfit === null),
  ).map((member) => {
    const grid = gridOf(member);
    const four = corners({ ...grid, map: [0, 1, 0, 0, 0, 1] });
    const points = new Float64Array(8 * ALONG);
    for (let side = 0, at = 0; side < 4; side++)
      for (let k = 0; k < ALONG; k++)
        for (const c of [0, 1]) points[at++] = four[2 * side + c]! + ((four[(2 * side + 2 + c) % 8]! - four[2 * side + c]!) * k) / ALONG;
    toGround(grid, points);
    toTarget(points);
    const ring = Array.from({ length: points.length / 2 }, (_, k): [number, number] => [points[2 * k]!, points[2 * k + 1]!]);
    return { name: member.name, ring: ring.filter((p) => !Number.isNaN(p[0] + p[1])) };
  });
}

import { placementOf } from '@pontrel/core/crossing/placement-of';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import path from 'node:path';
import { pipeline } from 'node:stream/promises';
import { crsOf, routeTo } from '@pontrel/core/placement/route';
import { layerRule } from '@pontrel/core/crossing/recipe';
import { label } from '@pontrel/core/crs/transform';
import { REGISTRY_VERSION } from '@pontrel/core/crs/registry/registry';
import { isImageProof } from '@pontrel/core/content/raster/proof';
import { anyFormatById } from '@pontrel/core/formats/every-format';
import { messageOf, Problem } from '@pontrel/core/model/problem';
import type { PrintRequest } from '@pontrel/contract/crossing';
import { FOREGROUND } from '@pontrel/contract/palette';
import { PICTURE, type Report } from '../report/blocks';
import { type ReportFacts, reportOf } from '../report/content';
import { reportHtml } from '../report/report-html';
import { reportPdf } from '../report/report-pdf';
import type { Catalog } from '../store/catalog';
import type { SourceRecord } from '../store/records';
import type { PictureService } from './picture-service';
import type { DataFolder } from '../store/data-folder';
import type { Picture, PictureRequest } from '../tiles/sample-picture';
import type { LookUps } from '../work/look-ups';
import { memberFile, storedImages } from '../work/image-files';
import { mainFile, storedFiles } from '../work/read-source';
import { FILES_FOLDER } from '../work/run-records';
import { readBackSource } from './read-back';
import { isCurrent, summaryOf } from './views';
import { frameName } from './crs-names';
import { sourceExtent, storedTileSources } from './frame';
import { storedSource } from './asked-for';

/** A colour as it is printed: what drawings show in the colour of their foreground is ink. */
const inked = (color: string): string => (FOREGROUND.has(color.toLowerCase()) ? '' : color);

/** What is made to be handed over beside the files: the report of a run, and the map of a crossing as a sheet. */
export class ReportService {
  constructor(
    private readonly catalog: Catalog,
    private readonly folder: DataFolder,
    private readonly lookUps: LookUps,
    private readonly pictures: PictureService,
    private readonly version: string,
  ) {}

  /** @throws Problem when the run is gone */
  async html(runId: string): Promise<string> {
    return reportHtml(await this.report(runId));
  }

  /** @throws Problem when the run is gone */
  async pdf(runId: string): Promise<Buffer> {
    return reportPdf(await this.report(runId));
  }

  /** The map of a crossing as a PDF of one sheet. @throws Problem `frame-missing` */
  async print(id: string, { without, ...wanted }: PrintRequest): Promise<Buffer> {
    const { recipe } = this.catalog.crossing(id);
    if (!recipe.frame) throw new Problem('frame-missing', 'There is no reference frame yet, and so no map. Choose it in Place.');
    const records = this.catalog.sources(id).filter((s) => !s.facts.images);
    const legend = records.flatMap((s) =>
      s.layers
        .filter(
          ({ profile }) =>
            profile.extent !== null &&
            recipe.sources[s.name]?.placement &&
            isTaken(layerRule(recipe, s.name, profile.name)) &&
            without[s.name]?.includes(profile.name) !== true,
        )
        .map(({ profile, plan }) => ({
          name: profile.name,
          count: profile.count,
          kinds: [...new Set(profile.groups.flatMap((g) => (g.kind === 'none' || g.kind === null ? [] : [g.kind])))].map((kind) => ({
            kind,
            color: inked(plan.strokes.find((t) => t.kind === kind)?.color ?? plan.strokes[0]?.color ?? ''),
          })),
        })),
    );
    const bytes = await this.lookUps.ask('print', {
      ...wanted,
      recipe,
      sources: records.map((r) => storedSource(this.folder, r)),
      without,
      legend,
      pictures: this.pictures.shown(id),
      made: new Date().toISOString().slice(0, 10),
    });
    return Buffer.from(bytes);
  }

  private async report(runId: string): Promise<Report> {
    const run = this.catalog.run(runId);
    const crossing = this.catalog.crossing(run.crossing);
    const { recipe } = crossing;
    const sources = this.catalog.sources(run.crossing);
    const deliverable = recipe.deliverables.find((d) => d.id === run.deliverable);
    const target = crsOf(run.target);
    if (!target) throw new Problem('crs-unknown', `${run.target} is not in the registry any more.`);
    const folder = this.folder.run(run.crossing, run.id);
    const facts: ReportFacts = {
      crossing: { name: crossing.name, frame: frameName(recipe) },
      deliverable: {
        name: run.name,
        format: anyFormatById(deliverable?.format ?? '')?.name ?? 'not in the rules any more',
        crs: { id: label(target), name: target.name },
      },
      finished: run.finished,
      seconds: run.seconds,
      proof: run.proof,
      stale: !isCurrent(run, crossing, sources),
      files: await Promise.all(run.files.map(async (f) => ({ ...f, sha256: await sha256(path.join(folder, FILES_FOLDER, f.name)) }))),
      sources: await Promise.all(
        this.filesOf(run.crossing, sources).map(async ({ source: s, name, file, bytes }) => ({
          name,
          format: anyFormatById(s.format)?.name ?? s.format,
          bytes,
          records: s.layers.reduce((n, l) => n + l.profile.count, 0),
          sha256: await sha256(file),
          placed: recipe.sources[s.name]?.placement?.crs.split('\n')[0]!.slice(0, 60) ?? 'not placed',
        })),
      ),
      picture: recipe.frame && !isImageProof(run.proof) ? await this.picture(run.crossing, run.id, run.name, run.target) : null,
      way: sources.flatMap((s) => this.wayOf(s, run.crossing, run.target)),
      versions: [
        ['Pontrel', this.version],
        ['EPSG dataset', REGISTRY_VERSION],
        ['Node.js', process.versions.node],
      ],
    };
    return reportOf(facts);
  }

  /** The files of sources: of a mosaic, each picture. */
  private filesOf(
    crossing: string,
    sources: readonly SourceRecord[],
  ): { source: SourceRecord; name: string; file: string; bytes: number }[] {
    return sources.flatMap((source) => {
      const folder = this.folder.source(crossing, source.id);
      const { images } = source.facts;
      if (!images) {
        const file = mainFile(storedFiles(folder, source.name, source.format, undefined));
        return [{ source, name: source.name, file, bytes: source.bytes }];
      }
      return storedImages(folder, source.name, images.members).members.map(({ name, extension }, k) => ({
        source,
        name,
        file: memberFile(folder, k, extension),
        bytes: images.members[k]!.bytes,
      }));
    });
  }

  private async picture(crossing: string, run: string, name: string, target: string): Promise<Picture> {
    const known = this.catalog.crossing(crossing);
    const { recipe } = known;
    const sources = this.catalog.sources(crossing);
    const taken = Object.fromEntries(
      sources.map((s) => [s.name, s.layers.map((l) => l.profile.name).filter((l) => isTaken(layerRule(recipe, s.name, l)))]),
    );
    const request: PictureRequest = {
      ...PICTURE,
      frame: recipe.frame!.crs,
      sheets: [
        {
          sources: storedTileSources(this.folder, known, sources),
          layers: taken,
        },
        {
          sources: [readBackSource({ name, target }, this.folder.run(crossing, run))],
          layers: null,
        },
      ],
    };
    return this.lookUps.ask('picture', request);
  }

  /** The middle of a source's extent on its way into the target system. */
  private wayOf(source: SourceRecord, crossing: string, target: string): ReportFacts['way'] {
    const placed = placementOf(this.catalog.crossing(crossing).recipe, summaryOf(source));
    const extent = sourceExtent(source);
    if (!placed || !extent) return [];
    const accuracy = (m: number | null): string => (m === null ? 'not known' : m === 0 ? 'exact' : `±${Number(m.toPrecision(2))} m`);
    try {
      const { placement: plane, transform } = routeTo(placed, crsOf(target)!);
      const p = Float64Array.of((extent[0] + extent[2]) / 2, (extent[1] + extent[3]) / 2);
      const steps = [{ name: 'as drawn', x: p[0]!, y: p[1]!, accuracy: '' }];
      plane.forward(p, 0, 1, 2);
      steps.push({ name: `in ${placed.crs.name}`, x: p[0]!, y: p[1]!, accuracy: plane.fit ? 'by the fit' : 'exact' });
      const trace = transform.trace([p[0]!, p[1]!]);
      transform.steps.forEach((s, k) => {
        const at = trace[k];
        if (at) steps.push({ name: `${s.name}${s.id ? ` (${s.id})` : ''}`, x: at[0]!, y: at[1]!, accuracy: accuracy(s.accuracy_m) });
      });
      return [{ source: source.name, steps }];
    } catch (error) {
      return [{ source: source.name, steps: [{ name: messageOf(error), x: NaN, y: NaN, accuracy: '' }] }];
    }
  }
}

async function sha256(file: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(file), hash);
  return hash.digest('hex');
}

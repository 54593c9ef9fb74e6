import type { FolderSink, FolderSource } from '../../io/bytes';
import { UNWATCHED } from '../../io/bytes';
import { emptyBounds, join } from '../../geometry/bounds';
import { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import { extentOfGrid, gridFromCorners } from '../../raster/pixel-grid';
import type { ImageFormat } from '../format';
import type { OptionValues } from '../format-option';
import { geotiff } from '../geotiff/index';
import type { ImageFace, ImageWriter, OpenImage, TargetImage } from '../image-face';
import { formatOptions } from '../options';
import { jpeg, png } from '../picture/index';
import { qualityOption } from '../picture/quality';
import { dxf } from './index';
import { openDrawing } from './write/document';
import { GroupWriter } from './write/groups';
import { putPicture } from './write/picture';
import { symbolTables, validName } from './write/symbol-tables';
import { type Version, WRITTEN } from './write/versions';

/** Formats of the picture beside the drawing. */
const PICTURES: Record<string, ImageFormat> = { jpeg, png, tiff: geotiff };

const pictureOf = (options: OptionValues): ImageFormat => PICTURES[String(options.picture)]!;

/** What is chosen for the picture itself, in the words of its format. */
const ownOptions = (options: OptionValues): OptionValues => formatOptions(pictureOf(options), { quality: options.quality });

const writing = (options: OptionValues): NonNullable<ImageFace['write']> => pictureOf(options).images.write!;

/** Versions that have pictures. */
const VERSIONS = WRITTEN.filter((v) => v.modern);

const versionOf = (options: OptionValues): Version => VERSIONS.find((v) => v.id === options.version) ?? VERSIONS[0]!;

/**
 * A drawing that shows a picture in its place, with the picture's file beside it. Source: DXF Reference 2010, IMAGE, IMAGEDEF.
 */
export const drawingWithPicture: ImageFormat = {
  id: 'dxf-picture',
  name: 'DXF drawing with a picture',
  brief: 'DXF, in place',
  extensions: ['.dxf'],
  companions: [],
  // a drawing is read as records
  sniff: () => false,
  images: {
    carries: (options) => pictureOf(options).images.carries(ownOptions(options)),
    open: (source) => {
      throw new Problem('image-unread', `${source.name} is a drawing: it is read as records. Give the picture that it shows.`, {
        file: source.name,
      });
    },
    write: {
      options: [
        {
          id: 'picture',
          label: 'Picture',
          kind: 'choice',
          choices: [
            { value: 'jpeg', label: 'JPEG' },
            { value: 'png', label: 'PNG' },
            { value: 'tiff', label: 'TIFF' },
          ],
        },
        qualityOption(({ picture }) => picture === 'jpeg'),
        {
          id: 'version',
          label: 'Version',
          kind: 'choice',
          choices: VERSIONS.map(({ id }) => ({ value: id, label: id })),
        },
      ],
      files: (stem, options) => [`${stem}.dxf`, ...writing(options).files(stem, ownOptions(options))],
      create: writeDrawing,
      readBack: readDrawing,
    },
  },
};

async function writeDrawing(folder: FolderSink, image: TargetImage): Promise<ImageWriter> {
  const { options, stem, grid, crs } = image;
  const own = { ...image, options: ownOptions(options) };
  const [file] = writing(options).files(stem, own.options) as [string];
  const picture = await writing(options).create(folder, own);
  return {
    rows: picture.rows,
    append: (rows) => picture.append(rows),
    async close() {
      await picture.close();
      const version = versionOf(options);
      const out = new GroupWriter(await folder.create(`${stem}.dxf`), version);
      const layer = validName(stem, version);
      const tables = symbolTables({ crs, stem, options: {}, libraries: [] }, [], version);
      const frame = await openDrawing(out, [{ name: layer, color: null }], tables, crs, true);
      const shown = putPicture(frame.model, layer, file, grid);
      const extent = emptyBounds();
      join(extent, extentOfGrid(grid));
      await frame.finish(extent, [0, 0], new Map(), [shown]);
    },
  };
}

/** The drawing is read by the reader of drawings, which tells the frame of the picture and its file; the pixels by that of the picture. */
async function readDrawing(
  folder: FolderSource,
  { stem, options }: Pick<TargetImage, 'stem' | 'options'>,
  findings: Findings,
): Promise<OpenImage> {
  const drawing = await dxf.features.open(await folder.open(`${stem}.dxf`));
  const frames: { file: string; corners: number[] }[] = [];
  for await (const batch of drawing.read(new Findings(), UNWATCHED))
    for (let i = 0; i < batch.count; i++) {
      const file = batch.columns.get('image')?.[i];
      // one ring, from the upper left corner to the right and round
      if (typeof file === 'string') frames.push({ file, corners: [...batch.coords.subarray(0, 12)] });
    }
  const [frame, ...others] = frames;
  if (!frame || others.length > 0) throw new Problem('image-missing', `${stem}.dxf shows ${frames.length} pictures and not one.`);
  if (!(await folder.has(frame.file))) throw new Problem('image-missing', `${stem}.dxf shows ${frame.file}, which is not beside it.`);
  const image = await writing(options).readBack(folder, { stem, options: ownOptions(options) }, findings);
  const { width, height } = image.info;
  const { corners: c } = frame;
  // a version that cannot state a system leaves that to the file beside the drawing, which is the picture's as well
  const crs = drawing.facts().crs ?? (versionOf(options).located ? null : image.where.crs);
  return {
    ...image,
    where: { ...image.where, grid: gridFromCorners([c[0]!, c[1]!], [c[3]!, c[4]!], [c[9]!, c[10]!], width, height), crs },
  };
}

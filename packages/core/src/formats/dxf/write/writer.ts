import { METRES_PER_DEGREE, isPlane, metresPerUnit } from '../../../crs/crs';
import { emptyBounds, grow, join } from '../../../geometry/bounds';
import { extentOfGrid } from '../../../raster/pixel-grid';
import type { FolderSink } from '../../../io/bytes';
import { vertexRange } from '../../../model/batch';
import { Findings } from '../../../model/finding';
import { symbolKey } from '../../../symbology/library';
import { writePrj } from '../../../crs/definitions/wkt1';
import type { DeliverableWriter, TargetSet, WriteContext } from '../../format';
import { putText } from '../../prj';
import { indexColor } from '../colors';
import { openDrawing } from './document';
import { GroupWriter } from './groups';
import { seenColor } from './symbology';
import { putPicture } from './picture';
import { markDrawn, RecordDrawer } from './records';
import { symbolTables, uniqueIn, validName } from './symbol-tables';
import { type Version, WRITTEN } from './versions';

/** The layer of pictures that lie below the records. */
const PICTURES_LAYER = 'IMAGES';

/** The version that is chosen. */
export function versionOf(options: WriteContext['options']): Version {
  return WRITTEN.find((v) => v.id === options.version) ?? WRITTEN[0]!;
}

/** Writes one drawing, each set on a layer of its own; and its system beside it where the version cannot state one. */
export async function createDrawing(folder: FolderSink, sets: readonly TargetSet[], context: WriteContext): Promise<DeliverableWriter> {
  const version = versionOf(context.options);
  const { crs, stem } = context;
  const out = new GroupWriter(await folder.create(`${stem}.dxf`), version);
  const tables = symbolTables(
    context,
    sets.flatMap((set) => set.symbology),
    version,
  );
  const taken = new Set<string>();
  const pens = sets.map((set) => {
    const color = seenColor(set.color ?? indexColor(7), version.trueColor);
    return { set, layer: uniqueIn(taken, validName(set.name, version), version), color };
  });
  const { shown = [] } = context;
  const below = shown.length > 0 ? uniqueIn(taken, validName(PICTURES_LAYER, version), version) : null;
  const frame = await openDrawing(
    out,
    [
      ...(below === null ? [] : [{ name: below, color: null }]),
      ...pens.map(({ layer, set }) => ({ name: layer, color: set.color })),
      ...tables.layers.filter((l) => !taken.has(symbolKey(l.name))),
    ],
    tables,
    crs,
    below !== null,
  );
  const extent = emptyBounds();
  // what is drawn first lies below all others
  const pictures = shown.map(({ file, ...grid }) => {
    join(extent, extentOfGrid(grid));
    return putPicture(frame.model, below!, file, grid, markDrawn);
  });
  if (!version.located) await putText(folder, `${stem}.prj`, writePrj(crs));
  const plane = isPlane(crs);
  const perMetre = 1 / (plane ? metresPerUnit(crs, null) : METRES_PER_DEGREE);
  const told = new Findings();
  const drawer = new RecordDrawer(frame.model, {
    options: context.options,
    perMetre,
    perLength: plane ? 1 : perMetre,
    tables,
    findings: told,
  });
  const z: [number, number] = [Infinity, -Infinity];
  return {
    async append(set, batch, rows, n, source) {
      for (let k = 0; k < n; k++) {
        const i = rows[k]!;
        const [start, end] = vertexRange(batch, i);
        for (let v = start; v < end; v++) {
          grow(extent, batch.coords[3 * v]!, batch.coords[3 * v + 1]!);
          const h = batch.coords[3 * v + 2]!;
          if (h < z[0]) z[0] = h;
          if (h > z[1]) z[1] = h;
        }
        drawer.draw(pens[set]!, batch, i, source);
        if (out.full) await out.flush();
      }
    },
    async close(findings) {
      await frame.finish(extent, z, drawer.groups, pictures);
      for (const finding of told.list()) findings.add(finding);
    },
  };
}

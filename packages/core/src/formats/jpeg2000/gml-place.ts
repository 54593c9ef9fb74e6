import type { ByteSource } from '../../io/bytes';
import { childOf, everyNode, readXml, type XmlNode } from '../../io/xml';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { GridMap } from '../../raster/pixel-grid';
import { firstSrs, readSrsName } from '../gml/srs-name';
import type { Georeference } from '../image-face';
import { documentBoxes } from './boxes';

/**
 * Where a picture lies by the GML in it: the centre of its first pixel, and the steps to the next column and the next row, in the order of
 * axes of its system. Source: OGC 08-085r8 (GMLJP2 2.1; its number from memory), section 7; OGC 07-036, section 19.2 (RectifiedGrid).
 * @returns null where no GML says it
 */
export async function gmlPlace(source: ByteSource, findings: Findings): Promise<Georeference | null> {
  for await (const document of documentBoxes(source)) {
    let root: XmlNode;
    try {
      root = readXml(source.name, document);
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      findings.add({ code: 'gml-unread', severity: 'caution', message: `The GML in it cannot be read: ${error.message}`, count: 1 });
      continue;
    }
    const [grid] = everyNode(root, 'RectifiedGrid');
    if (!grid) continue;
    const found = placeOf(grid);
    if (found) return found;
    findings.add({
      code: 'gml-unread',
      severity: 'caution',
      message: 'The GML in it does not say in numbers where its pixels lie. Put a world file beside it.',
      count: 1,
    });
  }
  return null;
}

function placeOf(grid: XmlNode): Georeference | null {
  const point = childOf(childOf(grid, 'origin'), 'Point');
  const origin = numbersOf(childOf(point, 'pos') ?? childOf(point, 'coordinates'));
  const [column, row] = grid.children.filter((c) => c.name === 'offsetVector').map(numbersOf);
  const said = point?.attributes.srsName ?? grid.attributes.srsName ?? firstSrs(grid);
  const srs = said === undefined ? null : readSrsName(said);
  const all = [origin, column, row].map((v) => (v && v.length >= 2 && v.every(Number.isFinite) ? v : null));
  if (all.some((v) => v === null)) return null;
  // east first, whatever the order of axes
  const [[x, y], [ux, uy], [vx, vy]] = all.map((v) => (srs?.northFirst ? [v![1]!, v![0]!] : [v![0]!, v![1]!])) as [XY, XY, XY];
  const map: GridMap = [x - (ux + vx) / 2, ux, vx, y - (uy + vy) / 2, uy, vy];
  return { grid: { map, width: 0, height: 0 }, pairs: null, crs: srs?.crs ?? null, crsText: said ?? null };
}

type XY = [number, number];

const numbersOf = (node: XmlNode | undefined): number[] | null =>
  node
    ? node.text
        .trim()
        .split(/[\s,]+/)
        .map(Number)
    : null;

import { type DrawingProof, LETTERING_CUT, proveDrawing } from '../content/map/prove-drawing';
import type { MapScale } from '../content/map/map-scale';
import type { ImagePlan } from '../content/raster/plan';
import type { ImageDifference, ImageProof } from '../content/raster/proof';
import type { FolderSource, Watch } from '../io/bytes';
import { type Finding, Findings } from '../model/finding';
import { type Reason, REASONS } from '../model/reason';
import type { CrossingSource } from './crossing-source';
import { drawnSources, type MapRecords } from './map-image';
import { placementOf } from './placement-of';
import type { Recipe } from './recipe';
import { untaken } from './source-records';

/** Looks for the records of a map in what was written; sources of which nothing is drawn are in the account too. */
export async function proveMap(
  recipe: Recipe,
  scale: MapScale,
  plan: ImagePlan,
  map: MapRecords,
  records: readonly CrossingSource[],
  folder: FolderSource,
  watch: Watch,
): Promise<DrawingProof> {
  const { format, target, within } = plan;
  const shown = await format.images.write!.readBack(folder, target, new Findings());
  try {
    const proof = await proveDrawing(
      { grid: target.grid, map: scale },
      map.proved(watch),
      { read: (window) => shown.read(window), within, packed: format.images.carries(target.options).packed },
      watch,
    );
    const unplaced = (s: CrossingSource): Reason | null => (s.extent !== null && !placementOf(recipe, s) ? REASONS.notPlaced : null);
    return { ...proof, account: [...proof.account, ...untaken(recipe, records, drawnSources(recipe, records), unplaced)] };
  } finally {
    await shown.close();
  }
}

/** The proof of a picture with that of the map on it. */
export function withDrawing(proof: ImageProof, drawn: DrawingProof): ImageProof {
  const { records, pixels } = drawn;
  const found: ImageDifference[] = [];
  const differs = (code: ImageDifference['code'], count: number, message: string): void =>
    void (count > 0 && found.push({ code, count, expected: false, message }));
  differs('records', records.unseen, `Of ${records.unseen} of ${records.drawn} records nothing is to be seen where they lie.`);
  differs('drawing', pixels.different, `${pixels.different} of ${pixels.solid} pixels that are drawn have another colour in the file.`);
  return { ...proof, drawn, status: found.length > 0 ? 'differs' : proof.status, differences: [...proof.differences, ...found] };
}

/** What a person should know of the lettering of a map. */
export function letteringFindings({ labels, account }: DrawingProof): Finding[] {
  const cut = account.flatMap((row) => row.changed).filter((c) => c.code === LETTERING_CUT);
  const told: [string, number, string][] = [
    [
      'labels-no-room',
      labels.noRoom,
      'Labels have no room where others stand, or reach over the edge: they are left out. A larger scale has room for more.',
    ],
    [
      LETTERING_CUT,
      cut.reduce((n, c) => n + c.count, 0),
      'Texts reach over the edge of the picture and are cut there. A larger area has room for them.',
    ],
  ];
  return told.filter(([, count]) => count > 0).map(([code, count, message]) => ({ code, severity: 'caution', message, count }));
}

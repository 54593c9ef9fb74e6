import type { Thumbnail } from '@pontrel/contract/crossing';
import { flatten } from '@pontrel/core/geometry/flatten';
import { eachPart, type FeatureBatch, KINDS, POINT, TEXT } from '@pontrel/core/model/batch';
import type { Bounds } from '@pontrel/core/geometry/bounds';
import type { LayerProfile } from '@pontrel/core/content/features/profile';
import type { FeatureStore } from '@pontrel/host-node/store/feature-store';

const WIDTH = 160;
const HEIGHT = 100;
const MARGIN = 6;
const MOST_RECORDS = 1500;
const MOST_CHARACTERS = 24_000;

type Stroke = Thumbnail['strokes'][number];

/** Draws a small plan of one layer; of a large layer, evenly picked records. */
export function thumbnail(store: FeatureStore, layer: LayerProfile): Thumbnail {
  const strokes = new Map<string, Stroke>();
  if (layer.extent) drawLayer(store, layer.name, layer.extent, strokes, MOST_RECORDS);
  return { width: WIDTH, height: HEIGHT, strokes: [...strokes.values()] };
}

function drawLayer(store: FeatureStore, layer: string, extent: Bounds, strokes: Map<string, Stroke>, most: number): void {
  const scale = Math.min(
    (WIDTH - 2 * MARGIN) / Math.max(extent[2] - extent[0], 1e-9),
    (HEIGHT - 2 * MARGIN) / Math.max(extent[3] - extent[1], 1e-9),
  );
  const x0 = WIDTH / 2 - (scale * (extent[0] + extent[2])) / 2;
  const y0 = HEIGHT / 2 + (scale * (extent[1] + extent[3])) / 2;
  let length = 0;
  for (const { batch } of store.byIds(store.sampleIds(layer, most))) {
    const flat = flatten(batch, 0.3 / scale);
    for (let i = 0; i < flat.count && length < MOST_CHARACTERS; i++) {
      const path = pathOf(
        flat,
        i,
        (x) => x0 + x * scale,
        (y) => y0 - y * scale,
        scale,
      );
      length += path.length;
      const kind = KINDS[flat.kinds[i]!]!;
      if (kind === 'none') continue;
      const color = String(flat.columns.get('color')?.[i] ?? '');
      const key = `${kind} ${color}`;
      const stroke = strokes.get(key);
      if (stroke) stroke.path += path;
      else strokes.set(key, { color, kind, path });
    }
  }
}

function pathOf(batch: FeatureBatch, i: number, X: (x: number) => number, Y: (y: number) => number, scale: number): string {
  const round = (n: number): number => Math.round(n * 2) / 2;
  const point = batch.kinds[i] === POINT;
  let path = '';
  eachPart(batch, i, (start, end) => {
    // of a record of very many parts the first ones show what it is
    if (path.length > MOST_CHARACTERS) return;
    let px = NaN,
      py = NaN,
      moved = false;
    for (let v = start; v < end; v++) {
      const x = round(X(batch.coords[3 * v]!)),
        y = round(Y(batch.coords[3 * v + 1]!));
      if ((x === px && y === py) || path.length > 2 * MOST_CHARACTERS) continue;
      // the places of a point are dots, each by its round caps, in one part or in several
      path += point ? `M${x} ${y}h0` : `${v === start ? 'M' : 'L'}${x} ${y}`;
      moved ||= v > start;
      px = x;
      py = y;
    }
    if (batch.kinds[i] === TEXT) path += lettering(batch, i, scale);
    else if (!point && !moved) path += 'h0'; // too small for a line
  });
  return path;
}

/** A text as a stroke of its length in its direction. */
function lettering(batch: FeatureBatch, i: number, scale: number): string {
  const text = String(batch.columns.get('text')?.[i] ?? '').split('\n')[0]!;
  const length = Math.max(1.5, text.length * Number(batch.columns.get('text_height')?.[i] ?? 0) * 0.6 * scale);
  const angle = (Number(batch.columns.get('text_angle')?.[i] ?? 0) * Math.PI) / 180;
  return `l${(Math.cos(angle) * length).toFixed(1)} ${(-Math.sin(angle) * length).toFixed(1)}`;
}

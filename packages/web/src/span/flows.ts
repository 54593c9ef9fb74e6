import { isWithout } from '@pontrel/core/crossing/chosen-layers';
import { isTaken } from '@pontrel/core/operations/layer-rule';
import type { CrossingState, DeliverableForecast } from '@pontrel/contract/crossing';
import { imageRule, layerRule } from '@pontrel/core/crossing/recipe';
import { pixelsText, plural } from '../components/numbers';
import { untangled } from './untangle';

/** What becomes of the records of one layer on their way to one deliverable, or instead of it. */
export interface Band {
  key: string;
  /** Numbers among the layers and the ends. */
  from: number;
  to: number;
  fate: 'unchanged' | 'changed' | 'excluded' | 'left';
  /** Records, or pixels. */
  count: number;
  of: 'records' | 'pixels';
  /** Why, in the forecast's words. */
  reasons: string[];
  /** Top at either side, and height, pixels. */
  y0: number;
  y1: number;
  h: number;
}

/** A block of either side. */
export interface Block {
  name: string;
  /** What stands in small beside it. */
  note: string;
  /** Of records. */
  count: number;
  pixels: number;
  y: number;
  h: number;
}

export interface LayerBlock extends Block {
  source: string;
  sourceId: string;
}

export interface EndBlock extends Block {
  /** A deliverable's id; null for what stays behind. */
  deliverable: string | null;
  /** Whether what ends there was left out by choice, and is not lost. */
  excluded?: boolean;
}

export interface Flows {
  layers: LayerBlock[];
  ends: EndBlock[];
  bands: Band[];
  height: number;
}

/** Rows of lettering need so much. */
const PITCH = 19;
const END_PITCH = 38;
const BLOCK_GAP = 4,
  END_GAP = 16,
  SOURCE_GAP = 22;
/** The height that the picture is to have where its lettering allows it. */
const HEIGHT = 575;
/** The least that a band is drawn with, so that a single record can be seen; what stays behind matters most. */
const THINNEST = { unchanged: 1.5, changed: 1.5, excluded: 1.5, left: 3 } as const;

/** The reason of what was left in Gather, which no forecast knows of. */
const LEFT_IN_GATHER = 'left in Gather';

/** The reason of images of which no deliverable is made. */
const NOT_ASKED_FOR = 'images that no deliverable is made of';

/** Pixels of all images of a source that can be one. */
const pixelsOf = ({ images }: CrossingState['sources'][number]): number =>
  (images?.members ?? []).reduce((n, m) => n + (m.unfit === null ? m.info.width * m.info.height : 0), 0);

/** Works out blocks and bands: layers and images at the left, deliverables and reasons at the right. */
export function flowsOf(crossing: CrossingState, all: readonly DeliverableForecast[]): Flows {
  const forecasts = all.filter((f) => f.forecast !== undefined || f.picture !== undefined);
  const layers: LayerBlock[] = [];
  const numberOf = new Map<string, number>();
  for (const source of crossing.sources) {
    for (const { profile } of source.layers) {
      numberOf.set(`${source.name}\n${profile.name}`, layers.length);
      const own = { name: profile.name, note: '', source: source.name, sourceId: source.id, count: profile.count, pixels: 0, y: 0, h: 0 };
      layers.push(own);
    }
    if (!source.images) continue;
    numberOf.set(source.name, layers.length);
    const { members } = source.images;
    const name = members.length === 1 ? 'image' : `${members.length} images`;
    layers.push({ name, note: '', source: source.name, sourceId: source.id, count: 0, pixels: pixelsOf(source), y: 0, h: 0 });
  }
  const ends: EndBlock[] = forecasts.map((f) => {
    const d = crossing.recipe.deliverables.find((x) => x.id === f.deliverable);
    return { name: d?.name ?? f.deliverable, note: '', deliverable: f.deliverable, count: 0, pixels: 0, y: 0, h: 0 };
  });
  const reasons = new Map<string, number>();
  const endOf = (reason: string, excluded: boolean): number => {
    let k = reasons.get(reason);
    if (k === undefined) {
      reasons.set(reason, (k = ends.length));
      ends.push({ name: reason, note: '', deliverable: null, excluded, count: 0, pixels: 0, y: 0, h: 0 });
    }
    return k;
  };
  const bands: Band[] = [];
  const add = (from: number, to: number, fate: Band['fate'], count: number, why: string[], of: Band['of'] = 'records'): void => {
    if (count > 0) bands.push({ key: `${from} ${to} ${fate}`, from, to, fate, count, of, reasons: why, y0: 0, y1: 0, h: 0 });
  };
  for (const [k, { deliverable, forecast, picture }] of forecasts.entries()) {
    const own = crossing.recipe.deliverables.find((d) => d.id === deliverable);
    const { drawn } = own?.image ?? {};
    if (drawn && !forecast)
      for (const source of crossing.sources)
        for (const { profile } of source.layers)
          if (
            crossing.recipe.sources[source.name]?.placement &&
            isTaken(layerRule(crossing.recipe, source.name, profile.name)) &&
            !isWithout(own!, source.name, profile.name)
          )
            add(numberOf.get(`${source.name}\n${profile.name}`)!, k, 'changed', profile.count, [`drawn on a map of 1:${drawn.scale}`]);
    for (const name of new Set(picture?.sources.map((s) => s.source))) {
      const source = crossing.sources.find((s) => s.name === name);
      if (source)
        add(
          numberOf.get(name)!,
          k,
          picture!.samePixels ? 'unchanged' : 'changed',
          pixelsOf(source),
          picture!.samePixels ? [] : ['pixels are worked out anew'],
          'pixels',
        );
    }
    if (!forecast) continue;
    for (const row of forecast.rows) {
      const from = numberOf.get(`${row.source}\n${row.layer}`);
      if (from === undefined) continue;
      add(from, k, 'unchanged', row.unchanged, []);
      add(
        from,
        k,
        'changed',
        row.changed,
        row.effects.filter((e) => e.effect === 'changed').map((e) => e.message),
      );
      for (const e of row.effects) {
        const excluded = e.by === 'you';
        if (e.effect === 'left')
          merge(bands, add, from, endOf(reasonOf(e.message), excluded), excluded ? 'excluded' : 'left', e.count, e.message);
      }
    }
  }
  for (const source of crossing.sources) {
    for (const { profile } of source.layers) {
      if (!isTaken(layerRule(crossing.recipe, source.name, profile.name)))
        add(numberOf.get(`${source.name}\n${profile.name}`)!, endOf(LEFT_IN_GATHER, true), 'excluded', profile.count, [
          `${profile.count} ${LEFT_IN_GATHER}`,
        ]);
    }
  }
  for (const source of crossing.sources) {
    const from = source.images ? numberOf.get(source.name)! : -1;
    if (from < 0 || bands.some((b) => b.from === from)) continue;
    const taken = imageRule(crossing.recipe, source.name).taken !== false;
    add(from, endOf(taken ? NOT_ASKED_FOR : LEFT_IN_GATHER, true), 'excluded', pixelsOf(source), [], 'pixels');
  }
  for (const band of bands) ends[band.to]![band.of === 'pixels' ? 'pixels' : 'count'] += band.count;
  return laidOut(...inOrder(layers, ends, bands));
}

/** Blocks in an order in which the bands cross less: layers stay with their source, and what stays behind below the deliverables. */
function inOrder(layers: LayerBlock[], ends: EndBlock[], bands: Band[]): [LayerBlock[], EndBlock[], Band[]] {
  const { from, to } = untangled(bands, { from: layers.map((l) => l.source), to: ends.map((e) => e.deliverable === null) });
  for (const band of bands) [band.from, band.to] = [from.indexOf(band.from), to.indexOf(band.to)];
  return [from.map((k) => layers[k]!), to.map((k) => ends[k]!), bands];
}

/** A reason without its count, so that those of several layers are one. */
const reasonOf = (message: string): string => message.replace(/^\d+ (× )?/, '');

function merge(
  bands: Band[],
  add: (from: number, to: number, fate: Band['fate'], count: number, why: string[]) => void,
  from: number,
  to: number,
  fate: Band['fate'],
  count: number,
  why: string,
): void {
  const known = bands.find((b) => b.from === from && b.to === to);
  // the same records are left by each deliverable: they are shown once
  if (known) known.count = Math.max(known.count, count);
  else add(from, to, fate, count, [why]);
}

function laidOut(layers: LayerBlock[], ends: EndBlock[], bands: Band[]): Flows {
  const sum = (of: Band['of']): number => bands.reduce((n, b) => n + (b.of === of ? b.count : 0), 0);
  const [records, pixels] = [sum('records'), sum('pixels')];
  // pixels are millions where records are hundreds: all images together are as wide as half of all records, or as all there is
  const ofPixel = pixels === 0 ? 0 : records === 0 ? 1 : records / 2 / pixels;
  const weights = new Map(bands.map((b) => [b, b.of === 'pixels' ? b.count * ofPixel : b.count]));
  const most = HEIGHT / Math.max(1, records + ofPixel * pixels);
  // bands as wide as there is room for beside the gaps and the lettering
  let low = 0,
    high = most;
  for (let k = 0; k < 20; k++) {
    const scale = (low + high) / 2;
    if (stacked(layers, ends, bands, weights, scale) <= HEIGHT) low = scale;
    else high = scale;
  }
  const height = stacked(layers, ends, bands, weights, Math.max(low, most / 5));
  return { layers, ends, bands, height: height + 12 };
}

/** Puts blocks and bands one below the other; returns how far they reach. */
function stacked(layers: LayerBlock[], ends: EndBlock[], bands: Band[], weights: ReadonlyMap<Band, number>, scale: number): number {
  for (const band of bands) band.h = Math.max(THINNEST[band.fate], weights.get(band)! * scale);
  const stack = <B extends Block>(
    blocks: B[],
    side: 'from' | 'to',
    pitch: number,
    gap: (block: B, before: B | undefined) => number,
  ): number => {
    let y = 0;
    blocks.forEach((block, k) => {
      y += gap(block, blocks[k - 1]);
      block.y = y;
      let at = y;
      for (const band of bands
        .filter((b) => b[side] === k)
        .sort((a, b) => (side === 'from' ? a.to - b.to : a.from - b.from) || a.fate.localeCompare(b.fate) * -1)) {
        band[side === 'from' ? 'y0' : 'y1'] = at;
        at += band.h;
      }
      block.h = at - y;
      y = Math.max(at, y + pitch);
    });
    return y;
  };
  const left = stack(layers, 'from', PITCH, (block, before) =>
    before === undefined || before.source !== block.source ? SOURCE_GAP : BLOCK_GAP,
  );
  const right = stack(ends, 'to', END_PITCH, (block, before) =>
    before === undefined ? SOURCE_GAP : before.deliverable !== null && block.deliverable === null ? 3 * END_GAP : END_GAP,
  );
  return Math.max(left, right);
}

/** How much a block or a band holds, for people. */
export const holds = ({ count, pixels }: Pick<Block, 'count' | 'pixels'>): string =>
  [...(count > 0 || pixels === 0 ? [plural(count, 'record')] : []), ...(pixels > 0 ? [pixelsText(pixels)] : [])].join(', ');

/** The outline of a band between two edges. */
export function bandPath({ y0, y1, h }: Band, x0: number, x1: number): string {
  const m = (x0 + x1) / 2;
  return `M${x0} ${y0}C${m} ${y0} ${m} ${y1} ${x1} ${y1}V${y1 + h}C${m} ${y1 + h} ${m} ${y0 + h} ${x0} ${y0 + h}Z`;
}

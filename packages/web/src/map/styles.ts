import type { FeatureLike } from 'ol/Feature';
import { Circle, Fill, Stroke, Style, Text } from 'ol/style';
import { onPaper } from '../theme/on-paper';
import type { Palette } from '@pontrel/contract/palette';

/** How a layer of tiles is drawn. */
export interface Look {
  /** One colour for all, or the drawing's own. */
  color: string | null;
  /** Pushed into the background. */
  ghost?: boolean;
  /** Records that stand out, by id. */
  standing?: ReadonlySet<number>;
  /** Only these are not in the background, by id; all where it is not there. */
  only?: ReadonlySet<number>;
}

export interface Picked {
  source: string;
  layer: string;
  id: number;
}

/** Sizes of lettering, pixels, between which it is drawn. */
const SMALLEST = 5, LARGEST = 160;

/** A style function for records; `visible` says which layers are shown, `picked` which record stands out. */
export function recordStyle(palette: Palette, look: (source: string) => Look, visible: (source: string, layer: string) => boolean, picked: () => Picked | null): (feature: FeatureLike, resolution: number) => Style | Style[] | undefined {
  const cache = new Map<string, Style>();
  return (feature, resolution) => {
    const source = String(feature.get('source')), layer = String(feature.get('layer'));
    if (!visible(source, layer)) return undefined;
    const how = look(source);
    const chosen = picked();
    const id = Number(feature.getId());
    const stands = (chosen !== null && chosen.id === id && chosen.source === source) || how.standing?.has(id) === true;
    const ghost = how.ghost === true || how.only?.has(id) === false;
    const color = stands ? palette.oxide : ghost ? palette.ghost : (how.color ?? onPaper(String(feature.get('color') ?? ''), palette));
    const kind = String(feature.get('kind'));
    if (kind === 'text') return lettering(feature, resolution, color, palette);
    const near = resolution < 0.06 ? 2 : resolution < 0.35 ? 1 : 0;
    // where its symbol is drawn, the point itself is only a place to take hold of
    const bare = kind === 'point' && feature.get('drawn') === 1 && !stands;
    const dot = feature.get('dot') === 1 && !stands;
    const key = `${kind} ${color} ${stands} ${ghost} ${near} ${bare} ${dot}`;
    let style = cache.get(key);
    if (!style) cache.set(key, (style = bare ? handle(color) : dot ? speck(color, ghost) : drawn(kind, color, stands, ghost, near, palette)));
    return style;
  };
}

/** Radius of a point's ring when it is far off, near, and close. */
const RADII = [1.5, 2.6, 3.6];

function drawn(kind: string, color: string, stands: boolean, ghost: boolean, near: number, palette: Palette): Style {
  const width = stands ? 3.4 : ghost ? 0.8 : 1.3;
  if (kind === 'point') return new Style({ zIndex: stands ? 9 : 2, image: new Circle({ declutterMode: 'none', radius: stands ? 5.5 : ghost ? RADII[near]! * 0.7 : RADII[near]!, fill: new Fill({ color: near === 0 && !stands ? color : palette.map }), stroke: new Stroke({ color, width: stands ? 2.6 : near === 0 ? 0.6 : 1.2 }) }) });
  const stroke = new Stroke({ color, width, lineCap: 'round', lineJoin: 'round' });
  if (kind === 'line') return new Style({ zIndex: stands ? 9 : 1, stroke });
  return new Style({ zIndex: stands ? 9 : 0, stroke, fill: new Fill({ color: `${color}${stands ? '40' : '12'}` }) });
}

/** An area of about a pixel. */
function speck(color: string, ghost: boolean): Style {
  return new Style({ zIndex: 0, image: new Circle({ declutterMode: 'none', radius: ghost ? 0.7 : 0.9, fill: new Fill({ color }) }) });
}

/** A dot by which a drawn symbol is picked up. */
function handle(color: string): Style {
  return new Style({ zIndex: 2, image: new Circle({ declutterMode: 'none', radius: 0.8, fill: new Fill({ color }) }) });
}

function lettering(feature: FeatureLike, resolution: number, color: string, palette: Palette): Style | undefined {
  const px = Number(feature.get('size')) / resolution;
  const text = String(feature.get('text') ?? '');
  if (px < SMALLEST || text === '') {
    return px >= 1.5 && text !== '' ? new Style({ zIndex: 1, image: new Circle({ declutterMode: 'none', radius: 1.2, fill: new Fill({ color }) }) }) : undefined;
  }
  return new Style({
    zIndex: 5,
    // symbols and lettering that take no part in making room can be picked
    text: new Text({
      declutterMode: 'none', text, font: `${Math.min(px, LARGEST) * 1.25}px "Public Sans"`, fill: new Fill({ color }), stroke: new Stroke({ color: palette.map, width: 2.5 }), textAlign: 'left', textBaseline: 'bottom',
      rotation: (-Number(feature.get('angle')) * Math.PI) / 180, rotateWithView: true, overflow: true, justify: 'left',
    }),
  });
}

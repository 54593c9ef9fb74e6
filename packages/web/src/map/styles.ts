import { hsl, interpolateRgb, interpolateRgbBasis, rgb } from 'd3';
import type { FeatureLike } from 'ol/Feature';
import LineString from 'ol/geom/LineString';
import type RenderFeature from 'ol/render/Feature';
import { Circle, Fill, RegularShape, Stroke, Style, Text } from 'ol/style';
import { FAR_M, LETTER_WIDTH } from '@pontrel/contract/tile-grid';
import { readLookText, type TileLook } from '@pontrel/contract/tile-look';
import { FILL_SHOWN, MARK_SHAPES } from '@pontrel/core/symbology/drawn-as';
import { CSS_PIXEL_MM, PLAIN_MARK_MM, SHEET_MM_PER_M } from '@pontrel/core/symbology/symbolizer';
import { onPaper } from '../theme/on-paper';
import { HEIGHT_TONES } from './height-tones';
import type { Palette } from '@pontrel/contract/palette';

/** How a layer of tiles is drawn. */
export interface Look {
  /** One colour for all, or the drawing's own. */
  color: string | null;
  /** Pushed into the background. */
  ghost?: boolean;
  /** Whether a layer is shown at a scale, 1 to so much; at others it is in the background. */
  shown?(layer: string, denominator: number): boolean;
  /** Records that stand out, by id. */
  standing?: ReadonlySet<number>;
  /** Whether a record of a layer is left out; it is in the background then, and its lines are dashed. */
  isOut?(layer: string, id: number, entity: string): boolean;
}

export interface Picked {
  source: string;
  layer: string;
  id: number;
}

/** Sizes of lettering, pixels, between which it is drawn. */
const SMALLEST = 5,
  LARGEST = 160;

/** The scale at a resolution, metres a pixel: 1 to so much, as it is printed below the map. */
export const scaleAt = (metresPerPixel: number): number => (metresPerPixel * 1000) / CSS_PIXEL_MM;

/**
 * A style function for records; `visible` says which layers are shown, `picked` which record stands out.
 * @param unit_m metres in one unit of the frame
 */
export function recordStyle(
  palette: Palette,
  unit_m: number,
  look: (source: string) => Look,
  visible: (source: string, layer: string) => boolean,
  picked: () => Picked | null,
): (feature: FeatureLike, resolution: number) => Style | Style[] | undefined {
  const cache = new Map<string, Style>();
  return (feature, resolution) => {
    const source = String(feature.get('source')),
      layer = String(feature.get('layer'));
    if (!visible(source, layer)) return undefined;
    const how = look(source);
    const chosen = picked();
    const id = Number(feature.getId());
    const stands = (chosen !== null && chosen.id === id && chosen.source === source) || how.standing?.has(id) === true;
    const out = how.isOut?.(layer, id, String(feature.get('entity'))) === true;
    const ghost = out || how.ghost === true || how.shown?.(layer, scaleAt(resolution * unit_m)) === false;
    const color = stands ? palette.oxide : ghost ? palette.ghost : (how.color ?? onPaper(String(feature.get('color') ?? ''), palette));
    const kind = String(feature.get('kind'));
    if (kind === 'text' && feature.get('cover') !== 1) return lettering(feature, resolution, color, palette);
    const near = resolution * unit_m < 0.06 ? 2 : resolution * unit_m < FAR_M ? 1 : 0;
    // where its symbol is drawn, the point itself is only a place to take hold of
    const bare = kind === 'point' && feature.get('drawn') === 1 && !stands;
    const dot = feature.get('dot') === 1;
    // pixels that many records cover together: none of them stands out or is left out by itself
    if (feature.get('cover') === 1) return covering(color, kind, cache);
    // what is in the background, or in one colour for all, is not drawn as it says
    const told = ghost || how.color !== null ? undefined : (feature.get('look') as string | undefined);
    // a triangle of a ground is shaded relief, unless it is in the background or stands out
    const light = feature.get('light') as number | undefined;
    if (light !== undefined && !ghost && !stands && !dot)
      return relief(light / 100, feature.get('height') as number | undefined, near, palette, cache);
    const key = `${kind} ${color} ${stands} ${ghost} ${out} ${near} ${bare} ${dot} ${told ?? ''} ${told === undefined ? '' : resolution}`;
    let style = cache.get(key);
    if (!style)
      cache.set(
        key,
        (style = bare
          ? handle(color)
          : dot
            ? speck(kind, color, ghost, stands)
            : drawn(
                {
                  kind,
                  color,
                  stands,
                  ghost,
                  out,
                  near,
                  told: told === undefined ? null : readLookText(told),
                  metresPerPixel: resolution * unit_m,
                },
                palette,
              )),
      );
    const label = ghost || dot ? undefined : (feature.get('label') as string | undefined);
    return label === undefined ? style : [style, labelled(label, color, kind, palette, cache)];
  };
}

/** How much of the ink lies on the side away from the light, and in the night look on the side towards it. */
const DARKEST = 0.62,
  LIGHTEST = 0.5;

/** How much of its colour a ground has by night where no light falls. */
const BY_NIGHT = 0.2;

/** How much of the paper shows through the colours of heights: what lies below a ground is seen faintly. */
const TINTED = 0.86;

const hex = (color: string): string => rgb(color).formatHex();

/** From the lowest ground to the highest. */
const heightColor = (p: Palette, isNight: boolean): ((t: number) => string) =>
  interpolateRgbBasis(HEIGHT_TONES[isNight ? 'night' : 'day'].map((tone) => p[tone]));

/**
 * A triangle of a ground: darker the less light it has; at night, where paper is dark, lighter the more it has. In the colour of its
 * height where that is known.
 * @param height 0 (the lowest of its layer) to 100
 */
function relief(light: number, height: number | undefined, near: number, palette: Palette, cache: Map<string, Style>): Style {
  const key = `relief ${light} ${height} ${near}`;
  let style = cache.get(key);
  if (!style) {
    const isNight = hsl(palette.map).l < 0.5;
    const shade = isNight ? LIGHTEST * light : DARKEST * (1 - light) ** 1.5;
    const tint = height === undefined ? null : heightColor(palette, isNight)(height / 100);
    const fill =
      tint === null
        ? faded(palette.ink, shade)
        : faded(hex(isNight ? interpolateRgb(palette.map, tint)(BY_NIGHT + shade) : interpolateRgb(tint, palette.ink)(shade)), TINTED);
    // up close each triangle has its outline; farther off it would hide the ground
    style = new Style({
      zIndex: 0,
      fill: new Fill({ color: fill }),
      ...(near === 2 ? { stroke: new Stroke({ color: palette.line, width: 0.6 }) } : {}),
    });
    cache.set(key, style);
  }
  return style;
}

/** Pixels that records cover, filled with the colour of their lines. */
function covering(color: string, kind: string, cache: Map<string, Style>): Style {
  const key = `cover ${color} ${kind}`;
  let style = cache.get(key);
  if (!style) cache.set(key, (style = new Style({ zIndex: kind === 'polygon' ? 0 : kind === 'line' ? 1 : 2, fill: new Fill({ color }) })));
  return style;
}

function labelled(text: string, color: string, kind: string, palette: Palette, cache: Map<string, Style>): Style {
  const key = `label ${kind} ${color} ${text}`;
  let style = cache.get(key);
  if (!style) {
    if (cache.size > MOST_STYLES) cache.clear();
    cache.set(
      key,
      (style = new Style({
        zIndex: 6,
        text: new Text({
          text,
          font: '11px "Public Sans"',
          placement: kind === 'line' ? 'line' : 'point',
          fill: new Fill({ color }),
          stroke: new Stroke({ color: palette.map, width: 2.5 }),
          ...(kind === 'point' ? { textAlign: 'left' as const, offsetX: 7 } : {}),
        }),
      })),
    );
  }
  return style;
}

/** Styles that are kept: labels are as many as their values. */
const MOST_STYLES = 20_000;

/** Radius of a point's ring when it is far off, near, and close. */
const RADII = [1.5, 2.6, 3.6];

interface Drawn {
  kind: string;
  color: string;
  stands: boolean;
  ghost: boolean;
  /** Left out by a person. */
  out: boolean;
  near: number;
  told: TileLook | null;
  metresPerPixel: number;
}

/** The widest line far off, near, and close, pixels: wide lines would hide a town. */
const WIDEST = [1.7, 5, 14];
/** Pixels that a pattern of dashes has at the least before it is drawn. */
const LEAST_PATTERN = 5;

/** Pixels of the dashes, and of the gaps, of what is left out. */
const OUT_DASH = [4, 3];

function strokeOf({ color, stands, ghost, out, near, told, metresPerPixel }: Drawn): Stroke {
  const said = told?.width_m ? told.width_m / metresPerPixel : told?.width_mm ? told.width_mm / CSS_PIXEL_MM : null;
  // far off, thin lines with plain corners: round ones take a software painter several times as long
  const far = near === 0 && !stands;
  const width = said === null ? (ghost ? 0.8 : far ? 1 : 1.3) : Math.min(WIDEST[near]!, Math.max(0.7, said));
  // patterns are lengths on the ground
  const dash = told?.dash_mm?.map((mm) => mm / SHEET_MM_PER_M / metresPerPixel);
  const seen = dash && dash.reduce((n, d) => n + d, 0) >= LEAST_PATTERN;
  return new Stroke({
    color: faded(color, stands ? null : (told?.opacity ?? null)),
    width: stands ? Math.max(3.4, width + 1.5) : width,
    lineCap: seen || far ? 'butt' : 'round',
    lineJoin: far ? 'bevel' : 'round',
    ...(out ? { lineDash: OUT_DASH } : seen ? { lineDash: dash } : {}),
  });
}

/** A colour let through. */
const faded = (color: string, opacity: number | null): string =>
  opacity === null
    ? color
    : `${color}${Math.round(255 * opacity)
        .toString(16)
        .padStart(2, '0')}`;

function drawn(how: Drawn, palette: Palette): Style {
  const { kind, color, stands, ghost, near, told } = how;
  if (kind === 'point') {
    const mark = told && near > 0 ? markImage(told, stands, color, palette) : null;
    return new Style({
      zIndex: stands ? 9 : 2,
      image:
        mark ??
        new Circle({
          declutterMode: 'none',
          radius: stands ? 5.5 : ghost ? RADII[near]! * 0.7 : RADII[near]!,
          fill: new Fill({ color: near === 0 && !stands ? color : palette.map }),
          stroke: new Stroke({ color, width: stands ? 2.6 : near === 0 ? 0.6 : 1.2 }),
        }),
    });
  }
  const stroke = strokeOf(how);
  if (kind === 'line') return new Style({ zIndex: stands ? 9 : 1, stroke });
  const fill = stands
    ? `${color}40`
    : told && (told.fill !== null || told.opacity !== null)
      ? faded(told.fill === null ? color : onPaper(told.fill, palette), FILL_SHOWN * (told.opacity ?? 1))
      : `${color}12`;
  return new Style({ zIndex: stands ? 9 : 0, stroke, fill: new Fill({ color: fill }) });
}

/** The mark of a point in its size; null where it is a plain one, or the drawing of a block. */
function markImage({ marker, marker_mm }: TileLook, stands: boolean, color: string, palette: Palette): RegularShape | null {
  const shape = marker === null ? undefined : MARK_SHAPES[marker];
  if (!shape) return null;
  const radius = Math.max(3, Math.min(14, (marker_mm ?? PLAIN_MARK_MM) / CSS_PIXEL_MM / 2)) + (stands ? 1.5 : 0);
  return new RegularShape({
    declutterMode: 'none',
    points: shape.points,
    radius,
    angle: shape.angle ?? 0,
    ...(shape.inner === undefined ? {} : { radius2: shape.inner * radius }),
    stroke: new Stroke({ color, width: stands ? 2.6 : 1.3 }),
    ...(shape.open ? {} : { fill: new Fill({ color: palette.map }) }),
  });
}

/** A point far off, or an area of about a pixel: a line of no length, by its ends. */
function speck(kind: string, color: string, ghost: boolean, stands: boolean): Style {
  const width = stands ? 9 : kind === 'point' ? (ghost ? 2.2 : 3) : ghost ? 1.3 : 1.7;
  return new Style({
    zIndex: stands ? 9 : kind === 'point' ? 2 : 0,
    stroke: new Stroke({ color, width, lineCap: kind === 'point' || stands ? 'round' : 'square' }),
  });
}

/** A dot by which a drawn symbol is picked up. */
function handle(color: string): Style {
  return new Style({ zIndex: 2, image: new Circle({ declutterMode: 'none', radius: 0.8, fill: new Fill({ color }) }) });
}

/** A line as long as a text, from where it begins. */
function textStroke(feature: FeatureLike): LineString {
  const [x, y] = (feature as RenderFeature).getFlatCoordinates();
  const length = Number(feature.get('size')) * LETTER_WIDTH * String(feature.get('text')).length,
    angle = (Number(feature.get('angle')) * Math.PI) / 180;
  return new LineString([
    [x!, y!],
    [x! + length * Math.cos(angle), y! + length * Math.sin(angle)],
  ]);
}

function lettering(feature: FeatureLike, resolution: number, color: string, palette: Palette): Style | undefined {
  const px = Number(feature.get('size')) / resolution;
  const text = String(feature.get('text') ?? '');
  if (text === '') return undefined;
  // below legibility a stroke says that there is a text, how long it is and how it is turned
  if (px < SMALLEST)
    return new Style({
      zIndex: 1,
      geometry: textStroke,
      stroke: new Stroke({ color: faded(color, 0.7), width: Math.max(0.8, px * 0.45), lineCap: 'butt' }),
    });
  return new Style({
    zIndex: 5,
    // symbols and lettering that take no part in making room can be picked
    text: new Text({
      declutterMode: 'none',
      text,
      font: `${Math.min(px, LARGEST) * 1.25}px "Public Sans"`,
      fill: new Fill({ color }),
      stroke: new Stroke({ color: palette.map, width: 2.5 }),
      textAlign: 'left',
      textBaseline: 'bottom',
      rotation: (-Number(feature.get('angle')) * Math.PI) / 180,
      rotateWithView: true,
      overflow: true,
      justify: 'left',
    }),
  });
}

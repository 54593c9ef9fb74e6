import { childOf, childText, type XmlNode } from '../../io/xml';

/** How a feature is drawn; what is not said is not there. */
export interface KmlSymbology {
  color?: string;
  /** 0 solid, 1 not to be seen. */
  transparency?: number;
  /** The same of the inside of an area. */
  fillTransparency?: number;
  /** Pixels. */
  width?: number;
  /** Metres on the ground. */
  groundWidth?: number;
  fill?: string;
  icon?: string;
}

/** A colour as alpha, blue, green, red. Source: OGC 07-147r2, section 16.7, kml:color. */
export function colorOf(text: string | null): { color: string; transparency: number } | null {
  const [, a, b, g, r] = /^#?([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})$/i.exec(text ?? '') ?? [];
  return a === undefined ? null : { color: `#${r}${g}${b}`.toLowerCase(), transparency: Number((1 - parseInt(a, 16) / 255).toFixed(3)) };
}

/** A colour in the order of KML: alpha, blue, green, red. @param color "#rrggbb" @param transparency 0 to 1 */
export function colorText(color: string, transparency: number): string {
  const a = Math.round((1 - transparency) * 255)
    .toString(16)
    .padStart(2, '0');
  return `${a}${color.slice(5, 7)}${color.slice(3, 5)}${color.slice(1, 3)}`;
}

/** The colour that tells most of a feature: its line, its fill where it has no line, its symbol. */
export function lookOf(style: XmlNode): KmlSymbology {
  const line = childOf(style, 'LineStyle'),
    poly = childOf(style, 'PolyStyle'),
    icon = childOf(style, 'IconStyle'),
    label = childOf(style, 'LabelStyle');
  const drawn = colorOf(childText(line, 'color')),
    filled = colorOf(childText(poly, 'color'));
  const first =
    (childText(poly, 'outline') === '0' ? (filled ?? drawn) : (drawn ?? filled)) ??
    colorOf(childText(icon, 'color')) ??
    colorOf(childText(label, 'color'));
  const look: KmlSymbology = {};
  if (first) {
    look.color = first.color;
    if (first.transparency > 0) look.transparency = first.transparency;
  }
  const width = Number(childText(line, 'width') ?? NaN);
  if (Number.isFinite(width)) look.width = width;
  const ground = Number(childText(line, 'physicalWidth') ?? NaN);
  if (ground > 0) look.groundWidth = ground;
  if (filled && filled.color !== look.color) look.fill = filled.color;
  if (filled && filled.transparency > 0) look.fillTransparency = filled.transparency;
  const href = childText(childOf(icon, 'Icon'), 'href');
  if (href !== null) look.icon = href;
  return look;
}

/** The styles of a file, by their names. */
export class StyleTable {
  private readonly styles = new Map<string, KmlSymbology>();
  private readonly maps = new Map<string, string>();

  take(node: XmlNode): void {
    const id = node.attributes.id;
    if (id === undefined) return;
    if (node.name === 'Style') this.styles.set(id, lookOf(node));
    else {
      const normal = node.children.find((c) => c.name === 'Pair' && childText(c, 'key') === 'normal');
      const own = childOf(normal, 'Style');
      if (own) this.styles.set(id, lookOf(own));
      else this.maps.set(id, idOf(childText(normal, 'styleUrl') ?? ''));
    }
  }

  /** Undefined where it is not there; null where styles name one another in a ring. */
  find(url: string): KmlSymbology | null | undefined {
    let id = idOf(url);
    for (const seen = new Set<string>(); !seen.has(id);) {
      seen.add(id);
      const style = this.styles.get(id);
      if (style) return style;
      const next = this.maps.get(id);
      if (next === undefined) return undefined;
      id = next;
    }
    return null;
  }
}

/** The name behind the mark of a fragment. */
export const idOf = (url: string): string => url.slice(url.indexOf('#') + 1);

import { childOf, childText, type XmlNode } from '../../io/xml';

/** Sides of the box of a picture on the ground, degrees, and by how much it is turned counter-clockwise; NaN for what does not stand there. */
export interface LatLonBox {
  north: number;
  south: number;
  east: number;
  west: number;
  rotation: number;
}

/** Source: OGC 07-147r2, section 11.3. */
export function latLonBox(overlay: XmlNode): LatLonBox {
  const box = childOf(overlay, 'LatLonBox');
  const side = (name: string, absent = NaN): number => Number(childText(box, name) ?? absent);
  return { north: side('north'), south: side('south'), east: side('east'), west: side('west'), rotation: side('rotation', 0) };
}

/**
 * Its corners, from the lower left one counter-clockwise, turned about its middle as it would be seen there, where a degree of longitude is
 * shorter.
 */
export function cornersOfBox({ north: n, south: s, east: e, west: w, rotation }: LatLonBox): [number, number][] {
  const [cx, cy] = [(e + w) / 2, (n + s) / 2],
    a = (rotation * Math.PI) / 180,
    stretch = Math.cos((cy * Math.PI) / 180) || 1;
  const corners: [number, number][] = [
    [w, s],
    [e, s],
    [e, n],
    [w, n],
  ];
  return corners.map(([x, y]) => {
    const [dx, dy] = [(x - cx) * stretch, y - cy];
    return [cx + (dx * Math.cos(a) - dy * Math.sin(a)) / stretch, cy + dx * Math.sin(a) + dy * Math.cos(a)];
  });
}

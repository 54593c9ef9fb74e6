/**
 * Colour indexes of the DXF Reference as #rrggbb. Indexes 10 to 249 are 24 hues of ten: five brightnesses, each pure and
 * paled half-way to white. 1 to 9 and 250 to 255 are a table. Common practice, no source; checked against ezdxf.
 */
const FIXED: Record<number, string> = {
  1: '#ff0000', 2: '#ffff00', 3: '#00ff00', 4: '#00ffff', 5: '#0000ff', 6: '#ff00ff', 7: '#ffffff', 8: '#808080', 9: '#c0c0c0',
  249: '#581317', 250: '#000000', 251: '#656565', 252: '#666666', 253: '#999999', 254: '#cccccc', 255: '#ffffff',
};
const BRIGHTNESS = [1, 0.65, 0.5, 0.3, 0.15];

const PALETTE: string[] = Array.from({ length: 256 }, (_, i) => FIXED[i] ?? (i === 0 ? '#ffffff' : hueColor(i)));

function hueColor(index: number): string {
  const hue = Math.floor((index - 10) / 10); // of 24, from red through yellow
  const brightness = BRIGHTNESS[Math.floor((index % 10) / 2)]!;
  const pale = index % 2 === 1;
  const channel = (shift: number): number => {
    const steps = Math.abs(((hue - shift + 36) % 24) - 12); // away from the hue in which this channel peaks
    const c = (Math.min(4, Math.max(0, 8 - steps)) / 4) * 255;
    return Math.floor(((pale ? (c + 255) / 2 : c) * brightness));
  };
  return hex((channel(0) << 16) | (channel(8) << 8) | channel(16));
}

/** "#rrggbb" of a colour index; index 0 and 256 (by block, by layer) must have been resolved before. */
export function indexColor(index: number): string {
  return PALETTE[index] ?? '#ffffff';
}

/** "#rrggbb" of a 24-bit true colour value (group code 420). */
export function hex(rgb: number): string {
  return `#${(rgb & 0xffffff).toString(16).padStart(6, '0')}`;
}

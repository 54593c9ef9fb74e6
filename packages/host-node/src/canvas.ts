import { createRequire } from 'node:module';
import type { Canvas as Sheet, SKRSContext2D } from '@napi-rs/canvas';
import { type Canvas, type CanvasMaker, type Fill, type Lettering, type Pen, registerCanvas } from '@pontrel/core/io/canvas';
import type { PixelWindow } from '@pontrel/core/model/raster';
import { EM_PER_CAPITAL, fontFile } from './fonts';

const require = createRequire(import.meta.url);

/** The engine, loaded when something is drawn: most jobs draw nothing, and should not wait for it. */
const skia = (): typeof import('@napi-rs/canvas') => require('@napi-rs/canvas') as typeof import('@napi-rs/canvas');

/** Letters of the typeface, which comes in pieces. */
const SUBSETS = ['latin-400', 'latin-ext-400', 'vietnamese-400'];

const FAMILY = SUBSETS.map((subset) => `"Pontrel ${subset}"`).join(', ');

let lettered: SKRSContext2D | null = null;

/** Makes the typeface known, and gives what letters are measured with. */
function letters(): SKRSContext2D {
  if (lettered) return lettered;
  const { createCanvas, GlobalFonts } = skia();
  for (const subset of SUBSETS) GlobalFonts.register(fontFile('public-sans', subset), `Pontrel ${subset}`);
  lettered = createCanvas(1, 1).getContext('2d');
  lettered.font = fontOf(MEASURED);
  return lettered;
}

/** Height of capitals at which letters are measured: sizes are rounded to no pixel there. */
const MEASURED = 100;

const fontOf = (size: number): string => `${size * EM_PER_CAPITAL}px ${FAMILY}`;

class SkiaCanvas implements Canvas {
  private readonly sheet: Sheet;
  private readonly context: SKRSContext2D;

  constructor(private readonly window: PixelWindow) {
    this.sheet = skia().createCanvas(window.width, window.height);
    this.context = this.sheet.getContext('2d');
    this.context.lineJoin = 'round';
    this.context.translate(-window.x, -window.y);
  }

  line(points: readonly number[], { color, opacity, width, dash }: Pen, closed: boolean): void {
    const { context: c } = this;
    c.globalAlpha = opacity;
    c.strokeStyle = color;
    c.lineWidth = width;
    c.lineCap = dash ? 'butt' : 'round';
    c.setLineDash(dash ? [...dash] : []);
    c.beginPath();
    this.trace(points, closed);
    c.stroke();
  }

  area(rings: readonly (readonly number[])[], { color, opacity }: Fill): void {
    const { context: c } = this;
    c.globalAlpha = opacity;
    c.fillStyle = color;
    c.beginPath();
    for (const ring of rings) this.trace(ring, true);
    c.fill('evenodd');
  }

  letters({ text, x, y, at, size, angle, color, rim }: Lettering): void {
    const { context: c } = this;
    letters();
    c.save();
    c.globalAlpha = 1;
    c.translate(x, y);
    c.rotate((-angle * Math.PI) / 180);
    c.font = fontOf(size);
    c.textAlign = at === 'start' ? 'left' : 'center';
    c.textBaseline = 'alphabetic';
    const down = at === 'start' ? 0 : size / 2;
    if (rim > 0) {
      c.setLineDash([]);
      c.lineCap = 'round';
      c.strokeStyle = '#ffffff';
      c.lineWidth = rim;
      c.strokeText(text, 0, down);
    }
    c.fillStyle = color;
    c.fillText(text, 0, down);
    c.restore();
  }

  over(other: Canvas): void {
    this.context.globalAlpha = 1;
    this.context.drawImage((other as SkiaCanvas).sheet, this.window.x, this.window.y);
  }

  pixels(): Uint8ClampedArray {
    return this.context.getImageData(0, 0, this.window.width, this.window.height).data;
  }

  private trace(points: readonly number[], closed: boolean): void {
    const { context: c } = this;
    for (let k = 0; k + 1 < points.length; k += 2)
      if (k === 0) c.moveTo(points[0]!, points[1]!);
      else c.lineTo(points[k]!, points[k + 1]!);
    if (closed) c.closePath();
  }
}

const SKIA: CanvasMaker = {
  create: (window) => new SkiaCanvas(window),
  lengthOf: (text) => letters().measureText(text).width / MEASURED,
};

/** Has the core draw with Skia. */
export const registerSkia = (): void => registerCanvas(SKIA);

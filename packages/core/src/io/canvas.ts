import type { PixelWindow } from '../model/raster';

/** A line as it is drawn; lengths in pixels. */
export interface Pen {
  /** "#rrggbb". */
  color: string;
  /** 1 solid, 0 not to be seen. */
  opacity: number;
  width: number;
  /** Dashes and gaps by turns; solid when absent. */
  dash?: readonly number[] | undefined;
}

/** The inside of an area. */
export interface Fill {
  color: string;
  opacity: number;
}

/** A line of lettering. */
export interface Lettering {
  text: string;
  /** Where it begins (its left end on the base line), or its middle. */
  x: number;
  y: number;
  at: 'start' | 'middle';
  /** Height of a capital letter, pixels. */
  size: number;
  /** Degrees, counter-clockwise as it is looked at. */
  angle: number;
  color: string;
  /** Width of the light rim around the letters, pixels. */
  rim: number;
}

/**
 * A window of a picture that is drawn on. Positions are pixels of the whole picture, x to the right and y downwards, by twos; (0.5, 0.5) is
 * the centre of the first pixel.
 */
export interface Canvas {
  line(points: readonly number[], pen: Pen, closed: boolean): void;
  /** Rings by the even-odd rule. */
  area(rings: readonly (readonly number[])[], fill: Fill): void;
  letters(lettering: Lettering): void;
  /** Puts another canvas of the same window over it. */
  over(other: Canvas): void;
  /** Red, green, blue and opacity of its pixels, row after row; colours are not multiplied by the opacity. */
  pixels(): Uint8ClampedArray;
}

/** What a host draws with. */
export interface CanvasMaker {
  /** An empty canvas for a window of a picture. */
  create(window: PixelWindow): Canvas;
  /** How long a text of capital letters one pixel high is, pixels. */
  lengthOf(text: string): number;
}

let maker: CanvasMaker | null = null;

/** To be called once by a host that has one. */
export function registerCanvas(own: CanvasMaker): void {
  maker = own;
}

/** @throws Error where the host has none */
export function canvasMaker(): CanvasMaker {
  if (!maker) throw new Error('No canvas was registered.');
  return maker;
}

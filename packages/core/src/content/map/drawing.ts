import { type Bounds, overlapping } from '../../geometry/bounds';
import { type Canvas, canvasMaker } from '../../io/canvas';
import { LINE, POLYGON, TEXT } from '../../model/batch';
import type { PixelWindow } from '../../model/raster';
import { PIECE } from '../raster/expected';
import { type Labels, placeLabels } from './labels';
import { recordsOf, type RecordsToDraw } from './records';
import { shapeBox } from './shape-box';
import type { Shape } from './shapes';
import { withinReach } from './within-reach';

/** Some rows of a drawing. */
export interface Band {
  top: number;
  height: number;
  /** Red, green, blue and opacity, colours not multiplied by it. */
  pixels: Uint8ClampedArray;
}

/** Pixels of a band, where as many rows have room in it. */
const BAND_PIXELS = 1 << 22;

/** What is drawn over what: areas below lines, lines below symbols, lettering above all. */
const LEVELS = 4;
const LETTERS = LEVELS - 1;
const levelOf = (kind: number): number => (kind === POLYGON ? 0 : kind === LINE ? 1 : kind === TEXT ? LETTERS : 2);

/**
 * Records drawn as a picture by themselves, over nothing. It is drawn band by band, as it is asked for: all records are read for each
 * band, so that memory depends on the width of the picture alone.
 */
export class MapDrawing {
  private readonly rows: number;
  private readonly kept = new Map<number, Promise<Band>>();
  private labelling: Promise<Labels> | null = null;
  private drawing: Promise<unknown> = Promise.resolve();

  /**
   * @param check is asked again and again whether to go on
   * @param piecewise whether single windows are asked for, each of which is drawn by itself then
   */
  constructor(
    readonly records: RecordsToDraw,
    private readonly check: () => void = () => {},
    private readonly piecewise = false,
  ) {
    // pieces of a picture do not lie across two bands
    this.rows = PIECE * Math.max(1, Math.floor(BAND_PIXELS / (PIECE * records.grid.width)));
  }

  /** All bands from the top. */
  async *bands(): AsyncGenerator<Band> {
    for (let k = 0; k * this.rows < this.records.grid.height; k++) yield await this.band(k);
  }

  /** Red, green, blue and opacity of a window, row after row. */
  async read(window: PixelWindow): Promise<Uint8ClampedArray> {
    if (this.piecewise) return this.draw(window);
    const { x, y, width, height } = window;
    const out = new Uint8ClampedArray(4 * width * height);
    const across = this.records.grid.width;
    for (let row = y; row < y + height;) {
      const band = await this.band(Math.floor(row / this.rows));
      const end = Math.min(y + height, band.top + band.height);
      for (; row < end; row++) {
        const from = 4 * ((row - band.top) * across + x);
        out.set(band.pixels.subarray(from, from + 4 * width), 4 * (row - y) * width);
      }
    }
    return out;
  }

  /** Where the labels stand. */
  labels(): Promise<Labels> {
    return (this.labelling ??= placeLabels(this.records));
  }

  /** A window of a picture may lie across two bands. */
  private band(k: number): Promise<Band> {
    const known = this.kept.get(k);
    if (known) return known;
    if (this.kept.size > 1) this.kept.delete(this.kept.keys().next().value!);
    const { width, height } = this.records.grid;
    const window = { x: 0, y: k * this.rows, width, height: Math.min(this.rows, height - k * this.rows) };
    // one after the other: each holds canvases as large as itself
    const band = this.drawing.then(async (): Promise<Band> => ({ top: window.y, height: window.height, pixels: await this.draw(window) }));
    this.drawing = band.catch(() => undefined);
    this.kept.set(k, band);
    return band;
  }

  /**
   * Draws on a canvas that cannot be laid over another one: all records are read for each level, the lowest first.
   * @param canvas of the whole picture
   */
  async onto(canvas: Omit<Canvas, 'over' | 'pixels'>): Promise<void> {
    const { width, height } = this.records.grid;
    for (let own = 0; own < LEVELS; own++) await this.paint({ x: 0, y: 0, width, height }, (level) => (level === own ? canvas : null));
  }

  /** Puts what lies in a window on the canvas of its level; nothing where there is none. */
  private async paint(window: PixelWindow, canvasOf: (level: number) => Omit<Canvas, 'over' | 'pixels'> | null): Promise<void> {
    const { grid, sources } = this.records;
    const { placed } = await this.labels();
    const box: Bounds = [window.x, window.y, window.x + window.width, window.y + window.height];
    for (const source of sources) {
      for await (const drawn of recordsOf(source, this.records)) {
        this.check();
        for (const { batch, i, lost, shapes } of drawn) {
          const canvas = lost ? null : canvasOf(levelOf(batch.kinds[i]!));
          if (!canvas) continue;
          for (const shape of shapes()) {
            const own = shapeBox(shape);
            if (overlapping(own, box)) for (const piece of withinReach(shape, own, grid)) put(canvas, piece);
          }
        }
      }
    }
    const letters = canvasOf(LETTERS);
    if (letters) for (const lettering of placed) if (overlapping(shapeBox({ kind: 'letters', lettering }), box)) letters.letters(lettering);
  }

  private async draw(window: PixelWindow): Promise<Uint8ClampedArray> {
    const maker = canvasMaker();
    const levels = Array.from({ length: LEVELS }, () => maker.create(window));
    await this.paint(window, (level) => levels[level]!);
    const [lowest, ...others] = levels as [Canvas, ...Canvas[]];
    for (const level of others) lowest.over(level);
    return lowest.pixels();
  }
}

function put(canvas: Omit<Canvas, 'over' | 'pixels'>, shape: Shape): void {
  if (shape.kind === 'line') canvas.line(shape.points, shape.pen, shape.closed);
  else if (shape.kind === 'area') canvas.area(shape.rings, shape.fill);
  else canvas.letters(shape.lettering);
}

import { type FeatureBatch, LINE, POLYGON, TEXT } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import type { Value } from '../../model/value';
import { type GroundPlace, groundLines } from './ground-along';
import type { LongProfile } from './long-profile';

/** How a long profile is drawn. */
export interface ProfileSheet {
  /** What its layers begin with. */
  name: string;
  /** How many times heights are drawn as large as lengths. */
  times: number;
  /** The drawing is to be plotted at 1 to so much: lettering is as high as that wants. */
  scale: number;
  /** Metres in one unit of the profile. */
  unit_m: number;
}

/** Heights of lettering and of a row of the table on paper, millimetres: common practice, no source. */
const LETTER_MM = 2.5,
  ROW_MM = 6;

/** Colours of the drawing: ground brown, rims grey, pipes blue, those against the fall red; common practice, no source. */
const COLORS = { ground: '#8a5a2b', rims: '#8a8f94', pipes: '#2f6fb3', wrong: '#b3261e', structures: '#000000', table: '#000000' };

/** Rows of the table below a profile. */
const ROWS = ['Pipe', 'Slope', 'Invert', 'Ground', 'Rim', 'Station'] as const;

/**
 * A long profile as records of a plane of its own, in metres: x is the station, y the height above the datum, enlarged.
 * @param ground heights along the run; empty where nothing is known of it
 */
export function profileRecords(profile: LongProfile, ground: readonly GroundPlace[], sheet: ProfileSheet): FeatureBatch[] {
  return new ProfileDrawing(profile, ground, sheet).batches();
}

class ProfileDrawing {
  private readonly datum: number;
  private readonly letter: number;
  private readonly row: number;
  private number = 0;

  constructor(
    private readonly profile: LongProfile,
    private readonly ground: readonly GroundPlace[],
    private readonly sheet: ProfileSheet,
  ) {
    const { structures, pipes } = profile;
    const heights = [...structures.flatMap((s) => [s.rim, s.sump]), ...pipes.flatMap((p) => [p.start, p.end]), ...ground.map(([, h]) => h)];
    const lowest = Math.min(...heights.filter((h) => h !== null), Infinity);
    this.datum = Number.isFinite(lowest) ? Math.floor(lowest * sheet.unit_m) - 1 : 0;
    this.letter = (LETTER_MM * sheet.scale) / 1000;
    this.row = (ROW_MM * sheet.scale) / 1000;
  }

  batches(): FeatureBatch[] {
    return [this.groundLayer(), this.rims(), this.pipes(), this.structures(), this.table()].filter((b) => b.count > 0);
  }

  private x(station: number): number {
    return station * this.sheet.unit_m;
  }

  private y(height: number): number {
    return (height * this.sheet.unit_m - this.datum) * this.sheet.times;
  }

  private layer(part: string): BatchBuilder {
    return new BatchBuilder(`${this.sheet.name}-${part}`);
  }

  private draw(
    builder: BatchBuilder,
    kind: number,
    vertices: readonly (readonly [number, number])[],
    values: Readonly<Record<string, Value>>,
  ): void {
    for (const [x, y] of vertices) builder.vertex(x, y, NaN);
    builder.endPart();
    for (const [field, value] of Object.entries(values)) builder.set(field, value);
    builder.endFeature(kind, kind === TEXT ? 'TEXT' : kind === LINE ? 'LWPOLYLINE' : 'Pipe', ++this.number);
  }

  private groundLayer(): FeatureBatch {
    const builder = this.layer('ground');
    for (const line of groundLines(this.ground))
      this.draw(
        builder,
        LINE,
        line.map(([s, h]) => [this.x(s), this.y(h)]),
        { color: COLORS.ground },
      );
    return builder.take();
  }

  private rims(): FeatureBatch {
    const builder = this.layer('rims');
    const known = this.profile.structures.filter((s) => s.rim !== null);
    if (known.length > 1)
      this.draw(
        builder,
        LINE,
        known.map((s) => [this.x(s.station), this.y(s.rim!)]),
        { color: COLORS.rims },
      );
    return builder.take();
  }

  private pipes(): FeatureBatch {
    const builder = this.layer('pipes');
    const { structures, pipes } = this.profile;
    for (const [k, pipe] of pipes.entries()) {
      const { id, start, end, slope, diameter, length } = pipe;
      if (start === null || end === null) continue;
      const [a, b] = [this.x(structures[k]!.station), this.x(structures[k + 1]!.station)];
      const high = ((diameter ?? 0) / 1000) * this.sheet.times;
      const [low, lower] = [this.y(start), this.y(end)];
      const values = {
        id,
        inv_start: start,
        inv_end: end,
        length,
        slope_pct: slope,
        diameter,
        color: slope !== null && slope < 0 ? COLORS.wrong : COLORS.pipes,
      };
      // of a pipe whose diameter nobody knows only the invert is drawn
      if (high > 0)
        this.draw(
          builder,
          POLYGON,
          [
            [a, low],
            [b, lower],
            [b, lower + high],
            [a, low + high],
            [a, low],
          ],
          values,
        );
      else
        this.draw(
          builder,
          LINE,
          [
            [a, low],
            [b, lower],
          ],
          values,
        );
    }
    return builder.take();
  }

  private structures(): FeatureBatch {
    const builder = this.layer('structures');
    const { structures, pipes } = this.profile;
    for (const [k, { id, station, rim, sump }] of structures.entries()) {
      const inverts = [pipes[k - 1]?.end, pipes[k]?.start].filter((v) => v !== null && v !== undefined);
      const foot = sump ?? (inverts.length > 0 ? Math.min(...inverts) : null);
      const x = this.x(station);
      if (rim !== null && foot !== null)
        this.draw(
          builder,
          LINE,
          [
            [x, this.y(rim)],
            [x, this.y(foot)],
          ],
          { id, rim, sump, color: COLORS.structures },
        );
      const top = rim ?? foot;
      this.text(builder, id, x, (top === null ? 0 : this.y(top)) + 0.6 * this.letter, 'bottom centre');
    }
    return builder.take();
  }

  private text(builder: BatchBuilder, text: string, x: number, y: number, align: string, angle = 0): void {
    this.draw(builder, TEXT, [[x, y]], {
      text,
      text_height: this.letter,
      text_angle: angle,
      text_align: align,
      color: COLORS.table,
    });
  }

  private table(): FeatureBatch {
    const builder = this.layer('table');
    const { structures, pipes } = this.profile;
    const end = this.x(structures.at(-1)!.station);
    const left = -9 * this.letter;
    const top = -this.row;
    const line = (from: [number, number], to: [number, number]): void => this.draw(builder, LINE, [from, to], { color: COLORS.table });
    const middle = (row: number): number => top - (row + 0.5) * this.row - this.letter / 2;
    const cell = (row: (typeof ROWS)[number], x: number, text: string, align: string): void =>
      this.text(builder, text, x, middle(ROWS.indexOf(row)), align);
    for (let k = 0; k <= ROWS.length; k++) line([left, top - k * this.row], [end, top - k * this.row]);
    for (const name of ROWS) cell(name, left + 0.5 * this.letter, name, 'bottom left');
    this.text(builder, `Datum ${this.datum.toFixed(1)} m`, left, 0.4 * this.letter, 'bottom left');
    line([left, 0], [end, 0]);
    const height = (h: number | null): string => (h === null ? '' : (h * this.sheet.unit_m).toFixed(3));
    for (const [k, { station, rim }] of structures.entries()) {
      const x = this.x(station);
      line([x, top], [x, top - ROWS.length * this.row]);
      // the first stands to the right of its line, all others to the left of theirs
      const [at, align] = k === 0 ? [x + 0.4 * this.letter, 'bottom left'] : [x - 0.4 * this.letter, 'bottom right'];
      const put = (row: (typeof ROWS)[number], text: string): void => {
        if (text !== '') cell(row, at, text, align);
      };
      put('Rim', height(rim));
      put('Ground', height(this.groundAt(station)));
      put('Station', this.x(station).toFixed(2));
    }
    for (const [k, { start, end: last, slope, diameter, length }] of pipes.entries()) {
      const [a, b] = [this.x(structures[k]!.station), this.x(structures[k + 1]!.station)];
      const sized = diameter === null ? '' : `DN ${diameter} `;
      cell('Pipe', (a + b) / 2, `${sized}L ${(length * this.sheet.unit_m).toFixed(2)}`, 'bottom centre');
      if (slope !== null) cell('Slope', (a + b) / 2, `${slope.toFixed(2)} %`, 'bottom centre');
      if (start !== null) cell('Invert', a + 0.4 * this.letter, height(start), 'bottom left');
      if (last !== null) cell('Invert', b - 0.4 * this.letter, height(last), 'bottom right');
    }
    return builder.take();
  }

  /** The ground at a station, between the two places that it lies between; null where there is none. */
  private groundAt(station: number): number | null {
    const next = this.ground.findIndex(([s]) => s >= station - 1e-9);
    if (next < 0) return null;
    const [s, h] = this.ground[next]!;
    if (next === 0 || Math.abs(s - station) < 1e-6) return h;
    const [s0, h0] = this.ground[next - 1]!;
    return h === null || h0 === null ? null : h0 + ((h - h0) * (station - s0)) / (s - s0);
  }
}

import { LINE } from '../../model/batch';
import { inBatches } from '../../model/batch-builder';
import { Problem } from '../../model/problem';
import { type Derivation, lengthOf } from '../derived/derivation';
import { contoursOf } from './contours';
import { OF_SURFACES, SURFACE, surfaceFigures, surfaceOf } from './surface-role';

/** Contours of a surface. */
export const CONTOURS: Derivation = {
  id: 'contours',
  title: 'Contours',
  says: 'Lines of equal height on a surface, one interval apart.',
  heights: true,
  roles: [SURFACE],
  settings: [
    { id: 'interval', label: 'Interval', kind: 'length', initial_m: 1 },
    { id: 'base', label: 'One of them at', kind: 'number', initial: 0, least: -1e5, most: 1e5 },
    { id: 'index', label: 'Index contour every', kind: 'number', initial: 5, least: 1, most: 1000 },
    ...OF_SURFACES,
  ],
  async run(input) {
    const { settings, unit_m, name } = input;
    const interval = lengthOf(settings, 'interval', unit_m);
    const read = await surfaceOf(input, 'surface');
    const figures = surfaceFigures(read, unit_m);
    const { lowest_m, highest_m } = figures;
    if ((highest_m! - lowest_m!) / unit_m / interval > MOST_LEVELS)
      throw new Problem(
        'interval-small',
        `From ${lowest_m} m to ${highest_m} m there would be more than ${MOST_LEVELS} heights: give a larger interval.`,
      );
    const base = Number(settings.base) / unit_m;
    const every = Math.round(Number(settings.index));
    let [lines, length] = [0, 0];
    for (const { line } of contoursOf(read.tin, interval, base)) {
      lines++;
      for (let k = 0; k + 3 < line.length; k += 2) length += Math.hypot(line[k + 2]! - line[k]!, line[k + 3]! - line[k + 1]!);
    }
    return {
      records: () =>
        inBatches(name, contoursOf(read.tin, interval, base), (builder, { height, line }, k) => {
          for (let v = 0; v < line.length; v += 2) builder.vertex(line[v]!, line[v + 1]!, height);
          builder.endPart();
          builder.set('elevation', height);
          builder.set('kind', Math.round((height - base) / interval) % every === 0 ? 'index' : 'intermediate');
          builder.endFeature(LINE, 'Contour', k + 1);
        }),
      figures: { contours: lines, length_m: length * unit_m, ...figures },
      faults: read.faults,
      findings: read.findings,
    };
  },
};

/** Heights of contours: more would be drawn over each other on any map. */
const MOST_LEVELS = 100_000;

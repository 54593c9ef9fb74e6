import { type EarthCrs, isOnEarth } from '../../crs/crs';
import { lengthOnEllipsoid } from '../../crs/on-ellipsoid';
import { bearingText, planeBearing, quadrantText } from '../../geometry/bearing';
import { eachPart, type FeatureBatch, LINE, POLYGON, TEXT } from '../../model/batch';
import { BatchBuilder, inBatches } from '../../model/batch-builder';
import { Problem } from '../../model/problem';
import { type Derivation, type DerivationInput, type Derived, lengthOf } from '../derived/derivation';
import { namedBy, recordName } from '../derived/record-name';
import { HEIGHT, leftOut, raisedBy, rounded } from './measures';
import { sideLabels } from './side-labels';

/** The sides of areas and lines with their bearings and distances, and labels along them. */
export const SIDES: Derivation = {
  id: 'sides',
  title: 'Bearings and distances',
  says: 'Every side of an outline or a line as a record, with its bearing, its length and what adjoins it; on request as labels for a plan as well.',
  roles: [{ id: 'outlines', title: 'Outlines', kinds: ['polygon', 'line'] }],
  settings: [
    HEIGHT,
    { id: 'shortest', label: 'Leave out shorter than', kind: 'length', initial_m: 0, orNone: true },
    {
      id: 'labels',
      label: 'Labels say',
      kind: 'choice',
      choices: [
        { value: 'none', label: 'nothing: there are none' },
        { value: 'distance', label: 'distances' },
        { value: 'both', label: 'bearings and distances' },
      ],
    },
    { id: 'letters', label: 'Height of letters', kind: 'length', initial_m: 1 },
    { id: 'decimals', label: 'Decimals', kind: 'number', initial: 2, least: 0, most: 6 },
    namedBy('Outlines are called by'),
  ],
  run: sides,
};

interface Side {
  outline: string;
  number: number;
  from: [number, number];
  to: [number, number];
  /** Outlines that have the same side. */
  adjoins: string[];
  /** Whether another outline had it before. */
  again: boolean;
}

async function sides({ records, settings, name, unit_m, crs }: DerivationInput): Promise<Derived> {
  const raised = raisedBy(crs, Number(settings.height));
  const shortest = lengthOf(settings, 'shortest', unit_m);
  const all: Side[] = [];
  const byEnds = new Map<string, Side[]>();
  const figures = { outlines: 0, sides: 0, length_m: 0, shared: 0, shorter: 0, labels: 0, labelsLeft: 0 };
  let others = 0;
  for await (const batch of records('outlines'))
    for (let i = 0; i < batch.count; i++) {
      if (batch.kinds[i] !== POLYGON && batch.kinds[i] !== LINE) {
        others++;
        continue;
      }
      figures.outlines++;
      const outline = recordName(batch, i, String(settings.names));
      let number = 0;
      eachPart(batch, i, (start, end) => {
        for (let v = start; v + 1 < end; v++) {
          const from: [number, number] = [batch.coords[3 * v]!, batch.coords[3 * v + 1]!];
          const to: [number, number] = [batch.coords[3 * v + 3]!, batch.coords[3 * v + 4]!];
          const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
          if (!(length > 0)) continue;
          number++;
          if (length < shortest) {
            figures.shorter++;
            continue;
          }
          const key = [from.join(' '), to.join(' ')].sort().join(' ');
          const known = byEnds.get(key) ?? [];
          const side: Side = { outline, number, from, to, adjoins: known.map((s) => s.outline), again: known.length > 0 };
          for (const other of known) other.adjoins.push(outline);
          byEnds.set(key, [...known, side]);
          all.push(side);
          figures.length_m += length * unit_m;
          if (side.again) figures.shared++;
        }
      });
    }
  if (all.length === 0) throw new Problem('no-lines', 'There is no side to measure. Choose layers that have areas or lines.');
  figures.sides = all.length;
  const decimals = Number(settings.decimals);
  const asked = settings.labels === 'none' ? [] : all.filter((s) => !s.again);
  const height = lengthOf(settings, 'letters', unit_m);
  const { labels, left } = sideLabels(
    asked.map(({ from, to }) => {
      const distance = (Math.hypot(to[0] - from[0], to[1] - from[1]) * unit_m).toFixed(decimals);
      return { from, to, text: settings.labels === 'both' ? `${bearingText(planeBearing(...from, ...to))}  ${distance}` : distance };
    }),
    height,
  );
  figures.labels = labels.length;
  figures.labelsLeft = left;
  return {
    *records() {
      yield* sideRecords(name, all, unit_m, (s) => (isOnEarth(crs) ? onEllipsoid(s, crs) * raised(...s.from) : null));
      yield* inBatches(`${name}-labels`, labels, (builder, { text, x, y, angle }, k) => {
        builder.vertex(x, y, NaN);
        builder.endPart();
        builder.set('text', text);
        builder.set('text_height', height);
        builder.set('text_angle', angle);
        builder.set('text_align', 'bottom centre');
        builder.endFeature(TEXT, 'TEXT', k + 1);
      });
    },
    figures,
    faults: [],
    findings: [
      ...leftOut(others, 'Records have no sides: they are left out.'),
      ...(left > 0
        ? [
            {
              code: 'labels-left',
              severity: 'caution' as const,
              message:
                'Labels are longer than their side, or would lie over another one: they are left out. Smaller letters have more room.',
              count: left,
            },
          ]
        : []),
    ],
  };
}

const sideRecords = (layer: string, all: readonly Side[], unit_m: number, ground: (side: Side) => number | null): Generator<FeatureBatch> =>
  inBatches(layer, all, (builder, side, k) => {
    const { outline, number, from, to, adjoins } = side;
    const bearing = planeBearing(...from, ...to);
    const onGround = ground(side);
    builder.vertex(...from, NaN);
    builder.vertex(...to, NaN);
    builder.endPart();
    builder.set('outline', outline);
    builder.set('side', number);
    builder.set('bearing', rounded(bearing, 9));
    builder.set('bearing_t', bearingText(bearing));
    builder.set('quadrant', quadrantText(bearing));
    builder.set('distance', rounded(Math.hypot(to[0] - from[0], to[1] - from[1]) * unit_m));
    builder.set('dist_gnd', onGround === null ? null : rounded(onGround));
    builder.set('adjoins', adjoins.join(', '));
    builder.endFeature(LINE, 'Side', k + 1);
  });

/** The length of a side on the ellipsoid, metres. */
function onEllipsoid({ from, to }: Side, crs: EarthCrs): number {
  const line = new BatchBuilder('');
  line.vertex(...from, NaN);
  line.vertex(...to, NaN);
  line.endPart();
  line.endFeature(LINE, 'Side', 1);
  return lengthOnEllipsoid(line.take(), 0, crs);
}

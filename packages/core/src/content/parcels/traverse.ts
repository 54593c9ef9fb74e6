import { bearingText, parseBearing, planeBearing, quadrantText } from '../../geometry/bearing';
import { ringArea2 } from '../../geometry/ring-area';
import { type FeatureBatch, LINE, POINT, POLYGON } from '../../model/batch';
import { BatchBuilder } from '../../model/batch-builder';
import { Problem } from '../../model/problem';
import type { FormatOption } from '../../formats/format-option';
import type { Derivation, DerivationInput, Derived } from '../derived/derivation';
import { atText, type Fault } from '../derived/fault';

/** A leg of a traverse: a bearing in degrees clockwise from north, a distance in the unit of the plane. */
export interface Leg {
  bearing: number;
  distance: number;
}

/** A traverse from its start to where it should end. */
export interface Closed {
  /** x and y of the stations, the start first, by twos; adjusted where that was asked for. */
  stations: number[];
  /** How far the end misses where it should be, before it is adjusted. */
  east: number;
  north: number;
  length: number;
}

/**
 * Runs a traverse, and spreads what it misses its end by over its legs, each by its share of the length (compass rule, Bowditch's).
 * Source: common practice in plane surveying, no source.
 * @param end where it should end
 */
export function runTraverse(
  start: readonly [number, number],
  legs: readonly Leg[],
  end: readonly [number, number],
  adjust: boolean,
): Closed {
  const raw = [start[0], start[1]];
  for (const { bearing, distance } of legs) {
    const angle = (bearing * Math.PI) / 180;
    raw.push(raw.at(-2)! + distance * Math.sin(angle), raw.at(-1)! + distance * Math.cos(angle));
  }
  const [east, north] = [raw.at(-2)! - end[0], raw.at(-1)! - end[1]];
  const length = legs.reduce((n, l) => n + l.distance, 0);
  let along = 0;
  const stations = raw.map((v, k) => {
    if (k % 2 === 0 && k > 0) along += legs[k / 2 - 1]!.distance;
    return adjust ? v - ((k % 2 === 0 ? east : north) * along) / length : v;
  });
  return { stations, east, north, length };
}

const place = (id: string, label: string): FormatOption => ({ id, label, kind: 'number', initial: 0, least: -1e8, most: 1e8 });

/** A traverse of bearings and distances, with its misclosure. */
export const TRAVERSE: Derivation = {
  id: 'traverse',
  title: 'Traverse',
  says: 'The course of bearings and distances from a table, one leg a row, with its misclosure, adjusted by the compass rule on request.',
  roles: [{ id: 'legs', title: 'Table of legs', kinds: ['none', 'line', 'point'] }],
  settings: [
    { id: 'bearing', label: 'Bearing in', kind: 'text', asks: 'field', hint: 'bearing' },
    { id: 'distance', label: 'Distance in', kind: 'text', asks: 'field', hint: 'distance' },
    place('east', 'Starts at easting'),
    place('north', 'Starts at northing'),
    {
      id: 'closes',
      label: 'Closes on',
      kind: 'choice',
      choices: [
        { value: 'start', label: 'its start' },
        { value: 'end', label: 'a known point' },
      ],
    },
    place('endEast', 'Known easting'),
    place('endNorth', 'Known northing'),
    {
      id: 'adjust',
      label: 'Adjusted',
      kind: 'choice',
      choices: [
        { value: 'none', label: 'not at all' },
        { value: 'compass', label: 'compass rule' },
      ],
    },
    { id: 'ratio', label: 'Should close to 1 :', kind: 'number', initial: 5000, least: 1, most: 1e9 },
  ],
  run: traverse,
};

async function traverse({ records, settings, name, unit_m }: DerivationInput): Promise<Derived> {
  const [bearingField, distanceField] = [String(settings.bearing) || 'bearing', String(settings.distance) || 'distance'];
  const legs: Leg[] = [];
  for await (const batch of records('legs'))
    for (let i = 0; i < batch.count; i++) {
      const [b, d] = [batch.columns.get(bearingField)?.[i] ?? null, batch.columns.get(distanceField)?.[i] ?? null];
      const bearing = b === null ? null : parseBearing(String(b)),
        distance = d === null ? NaN : Number(String(d).replace(',', '.'));
      if (bearing === null || !(distance > 0))
        throw new Problem(
          'leg-unread',
          `Row ${batch.locations[i]!} of ${batch.layer} is no leg: a bearing such as 36°52′12″ or N 36°52′12″ E in ${bearingField}, and a distance in ` +
            `${distanceField}, are wanted; it has "${String(b ?? '')}" and "${String(d ?? '')}".`,
        );
      legs.push({ bearing, distance: distance / unit_m });
    }
  if (legs.length < 2) throw new Problem('legs-few', 'A traverse takes two legs at the least.');
  const number = (id: string): number => Number(settings[id]) / unit_m;
  const start: [number, number] = [number('east'), number('north')];
  const closesOnStart = settings.closes === 'start';
  const end: [number, number] = closesOnStart ? start : [number('endEast'), number('endNorth')];
  const adjusted = settings.adjust === 'compass';
  const { stations, east, north, length } = runTraverse(start, legs, end, adjusted);
  const misclosure = Math.hypot(east, north);
  const ratio = misclosure > 0 ? length / misclosure : Infinity;
  const last: [number, number] = [stations.at(-2)!, stations.at(-1)!];
  const faults: Fault[] =
    ratio < Number(settings.ratio)
      ? [{ kind: 'misclosure', at: last, size: misclosure * unit_m, about: `1 : ${Math.floor(ratio)}, at ${atText(end)}` }]
      : [];
  return {
    records: () => [
      ...legRecords(`${name}-legs`, stations, legs, unit_m),
      courseRecord(name, stations, closesOnStart && adjusted),
      stationRecords(`${name}-stations`, stations),
    ],
    figures: {
      legs: legs.length,
      length_m: length * unit_m,
      misclosureEast_m: east * unit_m,
      misclosureNorth_m: north * unit_m,
      misclosure_m: misclosure * unit_m,
      ...(misclosure > 0 ? { closesTo: ratio } : {}),
      area_m2: closesOnStart && adjusted ? (Math.abs(ringArea2(stations, 0, stations.length / 2, 2)) / 2) * unit_m ** 2 : 0,
    },
    faults,
    findings: [],
  };
}

/** The legs as they came out, beside what they were. */
function* legRecords(layer: string, stations: readonly number[], legs: readonly Leg[], unit_m: number): Generator<FeatureBatch> {
  const builder = new BatchBuilder(layer);
  for (const [k, leg] of legs.entries()) {
    const [x1, y1, x2, y2] = stations.slice(2 * k, 2 * k + 4) as [number, number, number, number];
    builder.vertex(x1, y1, NaN);
    builder.vertex(x2, y2, NaN);
    builder.endPart();
    const bearing = planeBearing(x1, y1, x2, y2);
    builder.set('leg', k + 1);
    builder.set('measured', bearingText(leg.bearing, 1));
    builder.set('meas_dist', leg.distance * unit_m);
    builder.set('bearing', bearingText(bearing, 1));
    builder.set('quadrant', quadrantText(bearing, 1));
    builder.set('distance', Number((Math.hypot(x2 - x1, y2 - y1) * unit_m).toFixed(6)));
    builder.endFeature(LINE, 'Leg', k + 1);
  }
  yield builder.take();
}

function courseRecord(layer: string, stations: readonly number[], closed: boolean): FeatureBatch {
  const builder = new BatchBuilder(layer);
  for (let k = 0; k < stations.length; k += 2) {
    const last = closed && k === stations.length - 2;
    // adjusted it is back at its start, but for the last digit
    builder.vertex(last ? stations[0]! : stations[k]!, last ? stations[1]! : stations[k + 1]!, NaN);
  }
  builder.endPart();
  builder.set('name', layer);
  builder.endFeature(closed ? POLYGON : LINE, 'Traverse', 1);
  return builder.take();
}

function stationRecords(layer: string, stations: readonly number[]): FeatureBatch {
  const builder = new BatchBuilder(layer);
  for (let k = 0; k < stations.length; k += 2) {
    builder.vertex(stations[k]!, stations[k + 1]!, NaN);
    builder.endPart();
    builder.set('station', k / 2);
    builder.endFeature(POINT, 'Station', k / 2 + 1);
  }
  return builder.take();
}

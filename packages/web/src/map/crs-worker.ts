import { geodesic } from '@pontrel/core/geometry/geodesic';
import { type Crs, datumOf, type EarthCrs, type GeographicCrs, isOnEarth } from '@pontrel/core/crs/crs';
import { areaOnEllipsoid } from '@pontrel/core/crs/on-ellipsoid';
import { type FeatureBatch, POLYGON } from '@pontrel/core/model/batch';
import { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { compileTransform, type Transform } from '@pontrel/core/crs/transform';

/** What the page asks of its worker; coordinates are in the frame. */
export type CrsQuestion =
  | { ask: 'degrees'; frame: Crs; points: number[] }
  | { ask: 'distance'; frame: Crs; points: number[] }
  /** The area of the outline through the points, drawn straight in the frame. */
  | { ask: 'area'; frame: Crs; points: number[] };

export type CrsAnswer =
  | { points: number[] }
  /** Along the ellipsoid, metres; bearing of the last leg, degrees clockwise from north. */
  | { total_m: number; last_m: number; bearing: number }
  /** On the ellipsoid, square metres. */
  | { area_m2: number };

const ways = new Map<string, Transform>();

function toDegrees(frame: EarthCrs, points: number[]): Float64Array {
  const base: GeographicCrs = frame.kind === 'projected' ? frame.base : frame;
  const key = JSON.stringify(frame);
  let way = ways.get(key);
  if (!way) ways.set(key, (way = compileTransform(frame, base)));
  const out = Float64Array.from(points);
  way.apply(out, 0, out.length / 2, 2);
  return out.map((v) => v * base.degreesPerUnit);
}

function answer(question: CrsQuestion): CrsAnswer {
  const { frame } = question;
  if (question.ask === 'area') return { area_m2: isOnEarth(frame) ? areaOnEllipsoid(outline(question.points), 0, frame) : NaN };
  // a local plane has no ellipsoid: lengths there are those of its numbers
  if (!isOnEarth(frame)) return question.ask === 'degrees' ? { points: [] } : alongLegs(question.points, straight(frame.unit.metres));
  const degrees = toDegrees(frame, question.points);
  if (question.ask === 'degrees') return { points: [...degrees] };
  const { ellipsoid } = datumOf(frame);
  return alongLegs(degrees, (x, y, x2, y2) => geodesic(ellipsoid, x, y, x2, y2));
}

/** An outline as a record. */
function outline(points: readonly number[]): FeatureBatch {
  const out = new BatchBuilder('');
  for (let k = 0; k < points.length; k += 2) out.vertex(points[k]!, points[k + 1]!, NaN);
  out.endPart();
  out.endFeature(POLYGON, '', 1);
  return out.take();
}

type Leg = (x: number, y: number, x2: number, y2: number) => { distance: number; bearing: number };

const straight =
  (metres: number): Leg =>
  (x, y, x2, y2) => ({
    distance: Math.hypot(x2 - x, y2 - y) * metres,
    bearing: ((Math.atan2(x2 - x, y2 - y) * 180) / Math.PI + 360) % 360,
  });

function alongLegs(points: ArrayLike<number>, measure: Leg): CrsAnswer {
  let total_m = 0,
    last_m = 0,
    bearing = NaN;
  for (let i = 0; i + 3 < points.length; i += 2) {
    const leg = measure(points[i]!, points[i + 1]!, points[i + 2]!, points[i + 3]!);
    total_m += leg.distance;
    last_m = leg.distance;
    bearing = leg.bearing;
  }
  return { total_m, last_m, bearing };
}

self.onmessage = ({ data }: MessageEvent<{ id: number; question: CrsQuestion }>) =>
  self.postMessage({ id: data.id, answer: answer(data.question) });

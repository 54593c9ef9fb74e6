import { geodesic } from '@pontrel/core/geometry/geodesic';
import { type Crs, datumOf, type GeographicCrs } from '@pontrel/core/crs/crs';
import { compileTransform, type Transform } from '@pontrel/core/crs/transform';

/** What the page asks of its worker; coordinates are in the frame. */
export type CrsQuestion = { ask: 'degrees'; frame: Crs; points: number[] } | { ask: 'distance'; frame: Crs; points: number[] };

export type CrsAnswer =
  | { points: number[] }
  /** Along the ellipsoid, metres; bearing of the last leg, degrees clockwise from north. */
  | { total_m: number; last_m: number; bearing: number };

const ways = new Map<string, Transform>();

function toDegrees(frame: Crs, points: number[]): Float64Array {
  const base: GeographicCrs = frame.kind === 'projected' ? frame.base : frame;
  const key = JSON.stringify(frame);
  let way = ways.get(key);
  if (!way) ways.set(key, (way = compileTransform(frame, base)));
  const out = Float64Array.from(points);
  way.apply(out, 0, out.length / 2, 2);
  return out.map((v) => v * base.degreesPerUnit);
}

function answer(question: CrsQuestion): CrsAnswer {
  const degrees = toDegrees(question.frame, question.points);
  if (question.ask === 'degrees') return { points: [...degrees] };
  const { ellipsoid } = datumOf(question.frame);
  let total_m = 0,
    last_m = 0,
    bearing = NaN;
  for (let i = 0; i + 3 < degrees.length; i += 2) {
    const leg = geodesic(ellipsoid, degrees[i]!, degrees[i + 1]!, degrees[i + 2]!, degrees[i + 3]!);
    total_m += leg.distance;
    last_m = leg.distance;
    bearing = leg.bearing;
  }
  return { total_m, last_m, bearing };
}

self.onmessage = ({ data }: MessageEvent<{ id: number; question: CrsQuestion }>) =>
  self.postMessage({ id: data.id, answer: answer(data.question) });

/** Works in place on `count` points of `stride` numbers from index `start`; longitude and latitude in degrees are the first two. */
export type Shift = (p: Float64Array, start: number, count: number, stride: number) => void;

/** A change of datum moves points by less than a thousandth of a radian, so each round leaves a thousandth of the error. */
const ROUNDS = 4;

/**
 * What leads back from where a change of datum has led, to the last bits: the point that the change carries there. The
 * registered reverse of an operation is only nearly that (rotations are taken as small, heights are dropped), which a
 * proof must not mistake for a loss.
 */
export function undo(shift: Shift): Shift {
  const trial = new Float64Array(2);
  return (p, start, count, stride) => {
    for (let i = start, end = start + count * stride; i < end; i += stride) {
      const x = p[i]!, y = p[i + 1]!;
      let lon = x, lat = y;
      for (let k = 0; k < ROUNDS; k++) {
        trial[0] = lon;
        trial[1] = lat;
        shift(trial, 0, 1, 2);
        const dLon = x - trial[0]!;
        // across the antimeridian the short way counts
        lon += dLon > 180 ? dLon - 360 : dLon < -180 ? dLon + 360 : dLon;
        lat += y - trial[1]!;
      }
      p[i] = lon > 180 ? lon - 360 : lon < -180 ? lon + 360 : lon;
      p[i + 1] = lat;
    }
  };
}

/** Works in place on `count` points of `stride` numbers from index `start`; longitude and latitude in degrees are the first two. */
export type Shift = (p: Float64Array, start: number, count: number, stride: number) => void;

/**
 * A change of datum moves points by less than a ten-thousandth of a radian, and that is also what each round leaves of
 * the error: the third one is below the last bit.
 */
const ROUNDS = 3;
/** Points that are worked on together. */
const CHUNK = 1024;

/**
 * What leads back from where a change of datum has led, to the last bits: the point that the change carries there. The
 * registered reverse of an operation is only nearly that (rotations are taken as small, heights are dropped), which a
 * proof must not mistake for a loss.
 */
export function undo(shift: Shift): Shift {
  const guess = new Float64Array(2 * CHUNK);
  const trial = new Float64Array(2 * CHUNK);
  return (p, start, count, stride) => {
    for (let first = 0; first < count; first += CHUNK) {
      const n = Math.min(CHUNK, count - first);
      const from = start + first * stride;
      for (let k = 0; k < n; k++) {
        guess[2 * k] = p[from + k * stride]!;
        guess[2 * k + 1] = p[from + k * stride + 1]!;
      }
      for (let round = 0; round < ROUNDS; round++) {
        trial.set(guess);
        shift(trial, 0, n, 2);
        for (let k = 0; k < n; k++) {
          guess[2 * k]! += shortWay(p[from + k * stride]! - trial[2 * k]!);
          guess[2 * k + 1]! += p[from + k * stride + 1]! - trial[2 * k + 1]!;
        }
      }
      for (let k = 0; k < n; k++) {
        p[from + k * stride] = shortWay(guess[2 * k]!);
        p[from + k * stride + 1] = guess[2 * k + 1]!;
      }
    }
  };
}

/** A difference of longitudes, or a longitude, the short way round. */
function shortWay(d: number): number {
  return d > 180 ? d - 360 : d < -180 ? d + 360 : d;
}

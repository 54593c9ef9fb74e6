import type { Shift } from './shift';

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
export function invert(shift: Shift, heights = false): Shift {
  const size = heights ? 3 : 2;
  const guess = new Float64Array(size * CHUNK);
  const trial = new Float64Array(size * CHUNK);
  return (p, start, count, stride) => {
    for (let first = 0; first < count; first += CHUNK) {
      const n = Math.min(CHUNK, count - first);
      const from = start + first * stride;
      for (let k = 0; k < n; k++) for (let d = 0; d < size; d++) guess[size * k + d] = p[from + k * stride + d]!;
      for (let round = 0; round < ROUNDS; round++) {
        trial.set(guess);
        shift(trial, 0, n, size);
        for (let k = 0; k < n; k++) {
          guess[size * k]! += shortWay(p[from + k * stride]! - trial[size * k]!);
          for (let d = 1; d < size; d++) guess[size * k + d]! += p[from + k * stride + d]! - trial[size * k + d]!;
        }
      }
      for (let k = 0; k < n; k++) {
        p[from + k * stride] = shortWay(guess[size * k]!);
        for (let d = 1; d < size; d++) p[from + k * stride + d] = guess[size * k + d]!;
      }
    }
  };
}

/** A difference of longitudes, or a longitude, the short way round. */
function shortWay(d: number): number {
  return d > 180 ? d - 360 : d < -180 ? d + 360 : d;
}

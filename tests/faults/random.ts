/** Numbers from 0 to 1, the same for the same seed. G. Marsaglia, "Xorshift RNGs", Journal of Statistical Software 8 (14), 2003. */
export function randomOf(seed: number): () => number {
  let x = seed | 0 || 1;
  return () => {
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    return (x >>> 0) / 2 ** 32;
  };
}

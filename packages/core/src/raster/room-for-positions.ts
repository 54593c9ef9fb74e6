/** Arrays kept to be used again, and numbers of the longest that is. */
const MOST_KEPT = 4,
  LONGEST = 1 << 20;

const kept: ArrayBuffer[] = [];

/** Room for positions by twos, with whatever stood there before. Large arrays that come and go by the thousand keep the collector busy. */
export function roomForPositions(length: number): Float64Array {
  const at = kept.findIndex((b) => b.byteLength >= 8 * length);
  const [buffer] = at < 0 ? [new ArrayBuffer(8 * length)] : kept.splice(at, 1);
  return new Float64Array(buffer!, 0, length);
}

/** Takes room back from whoever has no use for it any more. */
export function giveBack({ buffer }: Float64Array): void {
  if (kept.length < MOST_KEPT && buffer.byteLength <= 8 * LONGEST) kept.push(buffer as ArrayBuffer);
}

/** How a check is shown: what the forecast did not announce is wrong, what it did is a caution. */
export const toneOf = (differences: readonly { expected: boolean }[]): 'good' | 'caution' | 'wrong' =>
  differences.some((d) => !d.expected) ? 'wrong' : differences.length > 0 ? 'caution' : 'good';

import type { OpenSource } from '../format';

/** Sources that are one, read one after the other; the first tells what they all state. */
export function chained(parts: readonly OpenSource[]): OpenSource {
  const [first] = parts;
  if (parts.length === 1) return first!;
  return {
    ...first!,
    async *read(findings, watch) {
      for (const part of parts) yield* part.read(findings, watch);
    },
  };
}

/** Whether bytes begin with others. */
export const beginsWith = (bytes: Uint8Array, first: readonly number[]): boolean => first.every((b, k) => bytes[k] === b);

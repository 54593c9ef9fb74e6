/** A value of a tag: its type (3 short, 4 long, 12 double, 2 text, 16 long of eight bytes) and its numbers, or its text. */
export interface TagValue {
  tag: number;
  type: 2 | 3 | 4 | 12 | 16;
  values: ArrayLike<number> | string;
}

const SIZES = { 2: 1, 3: 2, 4: 4, 12: 8, 16: 8 } as const;

const countOf = ({ values }: TagValue): number => (typeof values === 'string' ? values.length + 1 : values.length);

/**
 * Directories one after the other, beginning at byte `start` of the file, each with its values behind it; little endian.
 * Source: TIFF 6.0, section 2.
 * @param big as BigTIFF has them
 */
export function directoryBytes(directories: readonly (readonly TagValue[])[], start: number, big: boolean): Uint8Array {
  const [word, entrySize, countSize] = big ? [8, 20, 8] : [4, 12, 2];
  const sizes = directories.map((tags) => {
    const far = tags.map((t) => countOf(t) * SIZES[t.type]).filter((n) => n > word);
    return countSize + tags.length * entrySize + word + far.reduce((n, size) => n + padded(size), 0);
  });
  const bytes = new Uint8Array(sizes.reduce((n, size) => n + padded(size), 0));
  const view = new DataView(bytes.buffer);
  let at = 0;
  directories.forEach((tags, k) => {
    const end = at + padded(sizes[k]!);
    let entry = at + countSize;
    let far = entry + tags.length * entrySize + word;
    if (big) view.setBigUint64(at, BigInt(tags.length), true);
    else view.setUint16(at, tags.length, true);
    for (const t of [...tags].sort((a, b) => a.tag - b.tag)) {
      const n = countOf(t),
        size = n * SIZES[t.type];
      view.setUint16(entry, t.tag, true);
      view.setUint16(entry + 2, t.type, true);
      long(view, entry + 4, n, big);
      const inside = entry + (big ? 12 : 8);
      if (size <= word) putValues(view, inside, t);
      else {
        long(view, inside, start + far, big);
        putValues(view, far, t);
        far += padded(size);
      }
      entry += entrySize;
    }
    long(view, entry, k + 1 < directories.length ? start + end : 0, big);
    at = end;
  });
  return bytes;
}

/** Values begin at even bytes. */
const padded = (n: number): number => n + (n % 2);

function long(view: DataView, at: number, value: number, big: boolean): void {
  if (big) view.setBigUint64(at, BigInt(value), true);
  else view.setUint32(at, value, true);
}

function putValues(view: DataView, at: number, { type, values }: TagValue): void {
  if (typeof values === 'string') {
    for (let k = 0; k < values.length; k++) view.setUint8(at + k, values.charCodeAt(k) & 127);
    return;
  }
  for (let k = 0; k < values.length; k++) {
    const value = values[k]!;
    if (type === 3) view.setUint16(at + 2 * k, value, true);
    else if (type === 4) view.setUint32(at + 4 * k, value, true);
    else if (type === 12) view.setFloat64(at + 8 * k, value, true);
    else if (type === 16) view.setBigUint64(at + 8 * k, BigInt(value), true);
  }
}

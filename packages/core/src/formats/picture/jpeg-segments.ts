/** A segment of a JPEG: its marker, and what stands behind the length. */
export interface JpegSegment {
  marker: number;
  content: Uint8Array;
}

/** The segments at the beginning of a JPEG, up to its pixels; none for files of other kinds. Source: ITU-T T.81, annex B.1.1. */
export function* jpegSegments(head: Uint8Array): Generator<JpegSegment> {
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  if (head.length < 4 || view.getUint16(0) !== 0xffd8) return;
  for (let at = 2; at + 4 <= head.length && head[at] === 0xff; at += 2 + view.getUint16(at + 2)) {
    const end = at + 2 + view.getUint16(at + 2);
    if (end < at + 4) return;
    yield { marker: head[at + 1]!, content: head.subarray(at + 4, Math.min(end, head.length)) };
  }
}

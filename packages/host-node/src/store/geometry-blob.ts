import type { FeatureBatch } from '@pontrel/core/model/batch';
import type { BatchBuilder } from '@pontrel/core/model/batch-builder';
import { hasMeasure, vertexRange } from '@pontrel/core/model/batch';

/**
 * Geometry of one record as bytes, little endian: parts (uint32), vertices (uint32), 1 when there are bulges (uint32),
 * 1 when there are measures (uint32), the end of each part in vertices (uint32, padded to 8 bytes), x y z of every vertex (float64), bulges (float64),
 * measures (float64).
 */
export function packGeometry(batch: FeatureBatch, i: number): Buffer {
  const firstPart = i === 0 ? 0 : batch.featureEnds[i - 1]!;
  const parts = batch.featureEnds[i]! - firstPart;
  const [start, end] = vertexRange(batch, i);
  const n = end - start;
  const bulged = hasBulge(batch, start, end);
  const measured = hasMeasure(batch, i);
  const endsBytes = 4 * (parts + (parts % 2));
  const bytes = new ArrayBuffer(16 + endsBytes + 24 * n + (bulged ? 8 * n : 0) + (measured ? 8 * n : 0));
  const head = new Uint32Array(bytes, 0, 4);
  head[0] = parts;
  head[1] = n;
  head[2] = bulged ? 1 : 0;
  head[3] = measured ? 1 : 0;
  const ends = new Uint32Array(bytes, 16, parts);
  for (let p = 0; p < parts; p++) ends[p] = batch.partEnds[firstPart + p]! - start;
  new Float64Array(bytes, 16 + endsBytes, 3 * n).set(batch.coords.subarray(3 * start, 3 * end));
  if (bulged) new Float64Array(bytes, 16 + endsBytes + 24 * n, n).set(batch.bulges!.subarray(start, end));
  if (measured) new Float64Array(bytes, 16 + endsBytes + (bulged ? 32 : 24) * n, n).set(batch.measures!.subarray(start, end));
  return Buffer.from(bytes);
}

function hasBulge(batch: FeatureBatch, start: number, end: number): boolean {
  if (!batch.bulges) return false;
  for (let v = start; v < end; v++) if (batch.bulges[v] !== 0) return true;
  return false;
}

/** Adds the geometry to the record that `builder` is at. */
export function unpackGeometry(blob: Buffer, builder: BatchBuilder): void {
  // a blob from the database need not begin on a multiple of eight bytes
  const bytes = blob.byteOffset % 8 === 0 ? blob.buffer : blob.buffer.slice(blob.byteOffset, blob.byteOffset + blob.byteLength);
  const offset = blob.byteOffset % 8 === 0 ? blob.byteOffset : 0;
  const [parts, n, bulged, measured] = new Uint32Array(bytes, offset, 4);
  const ends = new Uint32Array(bytes, offset + 16, parts);
  const coordsAt = offset + 16 + 4 * (parts! + (parts! % 2));
  const coords = new Float64Array(bytes, coordsAt, 3 * n!);
  const bulges = bulged ? new Float64Array(bytes, coordsAt + 24 * n!, n) : null;
  const measures = measured ? new Float64Array(bytes, coordsAt + (bulged ? 32 : 24) * n!, n) : null;
  let v = 0;
  for (let p = 0; p < parts!; p++) {
    for (; v < ends[p]!; v++)
      builder.vertex(coords[3 * v]!, coords[3 * v + 1]!, coords[3 * v + 2]!, bulges ? bulges[v]! : 0, measures ? measures[v]! : NaN);
    builder.endPart();
  }
}

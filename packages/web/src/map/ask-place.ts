/** The vertex of the sources that is nearest to a place, to full precision; null when none is within reach. */
export async function nearestVertex(crossing: string, x: number, y: number, reach: number): Promise<[number, number] | null> {
  const response = await fetch(`/api/crossings/${crossing}/vertex?x=${x}&y=${y}&reach=${reach}`);
  return response.ok ? ((await response.json()) as { vertex: [number, number] | null }).vertex : null;
}

/** The record of a layer at a place in the frame, or nearest to it within reach; null where there is none. @param source its id */
export async function recordAt(
  crossing: string,
  source: string,
  layer: string,
  [x, y]: readonly [number, number],
  reach: number,
): Promise<number | null> {
  const asked = new URLSearchParams({ layer, x: String(x), y: String(y), reach: String(reach) });
  const response = await fetch(`/api/crossings/${crossing}/sources/${source}/record-at?${asked}`);
  return response.ok ? ((await response.json()) as { record: number | null }).record : null;
}

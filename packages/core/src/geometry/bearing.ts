/** The bearing from one place to another in the plane: degrees clockwise from grid north, 0 to 360. */
export const planeBearing = (x1: number, y1: number, x2: number, y2: number): number =>
  ((Math.atan2(x2 - x1, y2 - y1) * 180) / Math.PI + 360) % 360;

/** Degrees, minutes and seconds of an angle from 0 on, the seconds rounded; 59.6″ become the next minute. */
function dms(degrees: number, decimals: number): [number, number, string] {
  const unit = 10 ** decimals;
  const all = Math.round(degrees * 3600 * unit);
  const seconds = all % (60 * unit),
    minutes = Math.floor(all / (60 * unit)) % 60;
  return [Math.floor(all / (3600 * unit)), minutes, (seconds / unit).toFixed(decimals)];
}

const two = (value: number | string): string => String(value).padStart(2, '0');

/** A bearing as surveyors write it: 008°05′10″. @param decimals of the seconds */
export function bearingText(bearing: number, decimals = 0): string {
  const [d, m, s] = dms(bearing, decimals);
  return `${String(d % 360).padStart(3, '0')}°${two(m)}′${s.padStart(decimals === 0 ? 2 : 3 + decimals, '0')}″`;
}

/** A bearing by its quadrant: N 08°05′10″ E. */
export function quadrantText(bearing: number, decimals = 0): string {
  const [north, east] = [bearing <= 90 || bearing >= 270, bearing <= 180];
  const from = north ? (east ? bearing : 360 - bearing) : east ? 180 - bearing : bearing - 180;
  const [d, m, s] = dms(from, decimals);
  return `${north ? 'N' : 'S'} ${two(d)}°${two(m)}′${s.padStart(decimals === 0 ? 2 : 3 + decimals, '0')}″ ${east ? 'E' : 'W'}`;
}

/**
 * A bearing from text: decimal degrees, degrees with minutes and seconds (36°52′12″, 36 52 12, 36-52-12), or by its quadrant
 * (N 36°52′12″ E). @returns degrees clockwise from north; null where it is none
 */
export function parseBearing(text: string): number | null {
  const match =
    /^\s*([NS])?\s*(\d+(?:[.,]\d+)?)(?:\s*[°d\s-]\s*(\d+(?:[.,]\d+)?))?(?:\s*['′\s-]\s*(\d+(?:[.,]\d+)?))?\s*(?:["″]|°|['′])?\s*([EW])?\s*$/i.exec(
      text,
    );
  if (!match) return null;
  const [, ns, degrees, minutes, seconds, ew] = match;
  if ((ns === undefined) !== (ew === undefined)) return null;
  const [d, m, s] = [degrees, minutes, seconds].map((t) => (t === undefined ? 0 : Number(t.replace(',', '.')))) as [number, number, number];
  const angle = d + m / 60 + s / 3600;
  if (m >= 60 || s >= 60 || angle > (ns === undefined ? 360 : 90)) return null;
  if (ns === undefined) return angle % 360;
  const [north, east] = [ns.toUpperCase() === 'N', ew!.toUpperCase() === 'E'];
  return (north ? (east ? angle : 360 - angle) : east ? 180 - angle : 180 + angle) % 360;
}

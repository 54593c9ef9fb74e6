import { type Crs, isPlane, ownSigns } from '@pontrel/core/crs/crs';
import { grouped } from '../components/numbers';
import { frameUnit } from './frame-map';
import { dms } from './ticks';

/** A place of the map in the frame's own numbers, with its letters. */
export function frameText(frame: Crs, [x, y]: readonly [number, number]): string {
  if (frameUnit(frame) === null) return `${dms(y, 'NS')}  ${dms(x, 'EW')}`;
  const [sx, sy] = ownSigns(frame);
  const [first, second] = lettersOf(frame);
  return `${first} ${grouped(sx * x, 3)}  ${second} ${grouped(sy * y, 3)}`;
}

export function lettersOf(frame: Crs): readonly [string, string] {
  return isPlane(frame) ? frame.axes.letters : ['Lon', 'Lat'];
}

/** What a line of text means as a place. */
export type Typed = { kind: 'degrees' | 'frame'; at: [number, number] };

/**
 * Reads "1463700.5 5101400.2", "-44.227, 171.298" (latitude first, as people write degrees), "44°13′37″S 171°17′52″E",
 * "E 1463700 N 5101400", with points as decimal marks. Null when it is no place.
 * @param degrees the frame itself is in degrees
 */
export function readPlace(text: string, degrees: boolean): Typed | null {
  const clean = text.replace(/[\u2009\u00a0\u202f]/g, '').trim();
  const sided = [...clean.matchAll(/(\d+(?:\.\d+)?)\s*°?\s*(?:(\d+(?:\.\d+)?)\s*[′'’]\s*)?(?:(\d+(?:\.\d+)?)\s*[″"”]\s*)?([NSEWO])/gi)];
  if (sided.length === 2 && /[NS]/i.test(clean) && /[EWO]/i.test(clean) && !/^[EN]\s*\d/i.test(clean)) {
    const value = (m: RegExpMatchArray): number =>
      (Number(m[1]) + Number(m[2] ?? 0) / 60 + Number(m[3] ?? 0) / 3600) * (/[SW]/i.test(m[4]!) ? -1 : 1);
    const lat = sided.find((m) => /[NS]/i.test(m[4]!)),
      lon = sided.find((m) => /[EWO]/i.test(m[4]!));
    return lat && lon ? { kind: 'degrees', at: [value(lon), value(lat)] } : null;
  }
  const lettered = [...clean.matchAll(/([A-Z]+)\s*=?\s*(-?\d[\d ]*(?:\.\d+)?)/gi)];
  if (lettered.length === 2) {
    const numbers = lettered.map((m) => Number(m[2]!.replace(/ /g, '')));
    const northFirst = /^(n|lat)/i.test(lettered[0]![1]!);
    return { kind: 'frame', at: northFirst ? [numbers[1]!, numbers[0]!] : [numbers[0]!, numbers[1]!] };
  }
  const numbers = clean
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map(Number);
  if (numbers.length !== 2 || numbers.some((n) => !Number.isFinite(n))) return null;
  const [a, b] = numbers as [number, number];
  if (Math.abs(a) <= 90 && Math.abs(b) <= 360) return { kind: 'degrees', at: [b, a] };
  return degrees ? null : { kind: 'frame', at: [a, b] };
}

import { niceStep } from '@pontrel/core/geometry/nice-step';
import { grouped } from '../components/numbers';

export interface Tick {
  value: number;
  label: string | null;
}

/** Ticks between two coordinates, a labelled one at every second of them. @param sign -1 where the frame counts to the west or south */
export function ticksBetween(from: number, to: number, perPixel: number, degrees: boolean, sign = 1): Tick[] {
  const step = niceStep(78 * perPixel);
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const out: Tick[] = [];
  for (let k = Math.ceil(from / step); k * step <= to; k++) {
    const value = k * step;
    out.push({ value, label: k % 2 === 0 ? (degrees ? `${value.toFixed(decimals)}°` : grouped(sign * value + 0, decimals)) : null });
  }
  return out;
}

/** Degrees, minutes and seconds with a letter. */
export function dms(degrees: number, letters: string): string {
  const total = Math.round(Math.abs(degrees) * 36e5) / 1000;
  const d = Math.floor(total / 3600),
    m = Math.floor((total % 3600) / 60),
    s = total % 60;
  return `${d}° ${String(m).padStart(2, '0')}′ ${s.toFixed(3).padStart(6, '0')}″ ${degrees < 0 ? letters[1] : letters[0]}`;
}

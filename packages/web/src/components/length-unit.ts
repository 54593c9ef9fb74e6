import { sameLength } from '@pontrel/core/placement/ratio';
import { useCrossing } from '../crossing/use-crossing';
import { grouped, length } from './numbers';

/** A unit in which lengths are shown and typed. */
export interface LengthUnit {
  /** As people write it behind a number. */
  symbol: string;
  metres: number;
}

/** Units that people have a sign for, and the area that they count in beside its square, with its sign. */
const UNITS: (LengthUnit & { area: { symbol: string; m2: number } | null })[] = [
  { symbol: 'm', metres: 1, area: { symbol: 'ha', m2: 10_000 } },
  // an acre is ten square chains of 66 ft, of whichever foot
  { symbol: 'ft', metres: 0.3048, area: { symbol: 'ac', m2: 43_560 * 0.3048 ** 2 } },
  { symbol: 'ftUS', metres: 1200 / 3937, area: { symbol: 'ac', m2: 43_560 * (1200 / 3937) ** 2 } },
  { symbol: 'yd', metres: 0.9144, area: { symbol: 'ac', m2: 43_560 * 0.3048 ** 2 } },
  { symbol: 'link', metres: 0.201168, area: { symbol: 'ac', m2: 43_560 * 0.3048 ** 2 } },
  { symbol: 'ch', metres: 20.1168, area: { symbol: 'ac', m2: 43_560 * 0.3048 ** 2 } },
];

const METRE = UNITS[0]!;

/** The unit of a frame: metres where it counts in degrees, or in a unit that nobody has a sign for. @param metres in one of its units */
export const lengthUnit = (metres: number | null): LengthUnit =>
  metres === null ? METRE : (UNITS.find((u) => sameLength(u.metres, metres)) ?? METRE);

/** The unit of the crossing's frame. */
export const useLengthUnit = (): LengthUnit => lengthUnit(useCrossing().frame?.unit_m ?? null);

/** A length as it reads in a unit; in metres by the one that reads best. */
export function lengthText(metres: number, unit: LengthUnit): string {
  if (unit.metres === 1) return length(metres);
  const value = metres / unit.metres;
  const size = Math.abs(value);
  if (size === 0) return `0 ${unit.symbol}`;
  if (size < 0.1) return `${Number(value.toPrecision(3))} ${unit.symbol}`;
  return `${grouped(value, size < 10 ? 3 : size < 100 ? 2 : size < 100_000 ? 1 : 0)} ${unit.symbol}`;
}

/** An area in squares of a unit; from one hectare or acre on in these. */
export function areaText(m2: number, unit: LengthUnit): string {
  const { area } = UNITS.find((u) => u.symbol === unit.symbol) ?? METRE;
  if (area && m2 >= area.m2) return `${grouped(m2 / area.m2, m2 / area.m2 < 100 ? 4 : 2)} ${area.symbol}`;
  const value = m2 / unit.metres ** 2;
  return `${grouped(value, value < 100 ? 2 : 1)} ${unit.symbol}²`;
}

/** How a length is written into a field, to be typed over: no more digits than somebody would type. */
export function typedLength(metres: number, unit: LengthUnit): string {
  if (unit.metres !== 1) return `${Number((metres / unit.metres).toPrecision(6))} ${unit.symbol}`;
  return metres < 0.01 ? `${Number((metres * 1000).toPrecision(6))} mm` : `${Number(metres.toPrecision(6))} m`;
}

/** An accuracy in metres, with no more digits than it is worth. */
export const accuracyText = (metres: number): string => `±${Number(metres.toPrecision(2))} m`;

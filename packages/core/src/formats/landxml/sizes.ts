import type { LinearUnit } from '../../crs/crs';
import { plainDecimal } from '../../io/plain-decimal';
import { diameterUnit } from './units';

/** Attributes of cross sections that are lengths in the unit of diameters. Source: LandXML-1.2.xsd, CircPipe, RectPipe, EggPipe, CircStruct; from memory. */
export const SIZES: ReadonlySet<string> = new Set(['diameter', 'width', 'height', 'thickness', 'length', 'lengthDir']);

/** Digits of a size: a millimetre is not told from 0.0393700787402 inches by more. */
const DIGITS = 12;

/** A size in millimetres, from the unit of a file. */
export const sizeIn = (value: number, metres: number): number => Number((value * 1000 * metres).toPrecision(DIGITS));

/** A size in millimetres as it stands in a file whose coordinates are in a unit. */
export const sizeOut = (mm: number, unit: LinearUnit | null): string =>
  plainDecimal(Number((mm / 1000 / diameterUnit(unit).metres).toPrecision(DIGITS + 3)));

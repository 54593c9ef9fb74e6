import { orient2d } from 'robust-predicates';

/**
 * Twice the area of a triangle, above zero where its corners go counter-clockwise; its sign is exact, so that it is zero only where
 * they are on one line. Source: Shewchuk, "Adaptive Precision Floating-Point Arithmetic", 1997.
 */
export const turn = (x1: number, y1: number, x2: number, y2: number, x3: number, y3: number): number => -orient2d(x1, y1, x2, y2, x3, y3);

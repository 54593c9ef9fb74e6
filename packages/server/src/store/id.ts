import { randomInt } from 'node:crypto';

const LETTERS = '0123456789abcdefghijklmnopqrstuvwxyz';

/** Twelve random letters and digits. */
export function newId(): string {
  return Array.from({ length: 12 }, () => LETTERS[randomInt(36)]).join('');
}

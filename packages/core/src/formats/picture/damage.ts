import type { Findings } from '../../model/finding';

/** Tells of a picture that could be unpacked though something is wrong with it. */
export function tellDamage(damage: string | null, findings: Findings): void {
  if (damage !== null)
    findings.add({
      code: 'image-odd',
      severity: 'wrong',
      message: `It could be unpacked all the same, and part of its pixels may be wrong: ${damage}`,
      count: 1,
    });
}

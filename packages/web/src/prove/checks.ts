import type { Difference } from '@pontrel/core/content/features/proof';
import type { DrawingProof } from '@pontrel/core/crossing/drawing-images';
import { deviation, grouped, plural } from '../components/numbers';
import { toneOf } from './tone-of';

export interface Check {
  name: string;
  figure: string;
  tone: 'good' | 'caution' | 'wrong';
  differences: Difference[];
}

/** The proof as a list of checks, in the order in which people would make them by eye. */
export function checksOf(proof: DrawingProof): Check[] {
  const of = (...codes: Difference['code'][]): Difference[] => proof.differences.filter((d) => codes.includes(d.code));
  const check = (name: string, figure: string, differences: Difference[]): Check => ({
    name,
    figure,
    differences,
    tone: toneOf(differences),
  });
  const fields = proof.sets.flatMap((s) => s.fields);
  const same = fields.reduce((n, f) => n + f.same, 0);
  const values = fields.reduce((n, f) => n + f.of, 0);
  const drawn = proof.sets.reduce((n, s) => n + (s.symbology?.of ?? 0), 0),
    alike = proof.sets.reduce((n, s) => n + (s.symbology?.same ?? 0), 0);
  const height = Math.max(0, ...proof.sets.map((s) => s.maxHeightDeviation_m));
  const measured = proof.sets.reduce((n, s) => n + (s.measured ?? 0), 0);
  const systems = [...new Set(proof.sets.map((s) => s.crs ?? 'none'))];
  return [
    check('Record counts', `${grouped(proof.records.out)} of ${grouped(proof.records.in)}`, of('records', 'account', 'unreadable')),
    check('Positions, vertex by vertex', deviation(proof.maxDeviation_m), of('geometry')),
    check('Heights', deviation(height), of('height')),
    ...(measured > 0 || of('measure').length > 0 ? [check('Measures (M)', plural(measured, 'vertex', 'vertices'), of('measure'))] : []),
    check('Coordinate system', systems.join(', '), of('crs')),
    check('Fields there', grouped(fields.length), of('field')),
    check('Values', `${grouped(same)} of ${grouped(values)}`, of('value')),
    ...(proof.below || of('picture').length > 0 ? [check('Image below, where it lies', 'in place', of('picture'))] : []),
    ...(drawn > 0 || of('symbology').length > 0 ? [check('Looks', `${grouped(alike)} of ${grouped(drawn)}`, of('symbology'))] : []),
  ];
}

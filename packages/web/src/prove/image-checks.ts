import { accountTotals } from '@pontrel/core/content/account';
import type { ImageDifference, ImageProof } from '@pontrel/core/content/raster/proof';
import { deviation, grouped } from '../components/numbers';
import type { Tone } from '../components/parts';
import { toneOf } from './tone-of';

export interface ImageCheck {
  name: string;
  figure: string;
  tone: Exclude<Tone, 'plain'>;
  differences: ImageDifference[];
}

/** A distance in pixels. */
export const pixels = (px: number | null): string => (px === null ? 'no texture' : px < 0.005 ? '0.00 px' : `${px.toFixed(2)} px`);

/** The proof of an image as a list of checks, in the order in which people would make them by eye. */
export function imageChecksOf(proof: ImageProof): ImageCheck[] {
  const of = (...codes: ImageDifference['code'][]): ImageDifference[] => proof.differences.filter((d) => codes.includes(d.code));
  const check = (name: string, figure: string, differences: ImageDifference[]): ImageCheck => ({
    name,
    figure,
    differences,
    tone: toneOf(differences),
  });
  const { size, values, registration, drawn } = proof;
  const measured = registration.places.filter((p) => p.shift).length;
  const { missing } = accountTotals(proof.account);
  return [
    check('Size of the image', `${grouped(size.width)} × ${grouped(size.height)}`, of('size', 'unreadable')),
    check('Bands and samples', String(size.bands), of('samples')),
    check('Corners, as the file states them', deviation(proof.maxDeviation_m), of('georeferencing')),
    check('Coordinate system', 'as asked', of('crs')),
    check(`Registration, ${measured} places`, pixels(registration.largest_px), of('registration')),
    check(
      'Values, pixel by pixel',
      values.different === 0 ? `${grouped(values.compared)} equal` : `${values.meanDifference.toFixed(2)} on the mean`,
      of('values'),
    ),
    ...(drawn
      ? [
          check('Records, each looked for', `${grouped(drawn.records.drawn - drawn.records.unseen)} seen`, of('records')),
          check('Colours of what is drawn', `${grouped(drawn.pixels.solid)} px`, of('drawing')),
        ]
      : []),
    ...(proof.account.length > 0
      ? [check('Account of pixels', missing === 0 ? 'closes' : `${grouped(missing)} missing`, of('pixels'))]
      : []),
  ];
}

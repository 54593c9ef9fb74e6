import type { DrawingProof } from '@pontrel/core/content/map/prove-drawing';
import type { ImageProof } from '@pontrel/core/content/raster/proof';
import type { ImageMember } from '@pontrel/core/content/raster/profile';
import { pixelSize } from '@pontrel/core/raster/pixel-grid';
import { accountSection, crossedOf } from './account-section';
import { type Block, coordinate, metres, number, plural, type ReportPart, table, verdictOf } from './blocks';

const pixels = (n: number | null): string => (n === null ? 'not measured' : `${n.toFixed(3)} px`);
const CORNERS = ['first pixel', 'end of the first row', 'last pixel', 'begin of the last row'];

/** What is said of a picture that was written. @param shown as it was read back; null where that was not kept */
export function picturePart(proof: ImageProof, shown: ImageMember | null): ReportPart {
  const { size, registration, values } = proof;
  const unforeseen = proof.differences.filter((d) => !d.expected);
  const measured = registration.places.filter((p) => p.shift).length;
  const step = shown?.map && pixelSize({ map: shown.map, width: size.width, height: size.height });
  return {
    verdict: {
      title: verdictOf(proof.status, unforeseen.length),
      text: [
        proof.drawn ? crossedOf(proof.drawn.account) : crossedOf(proof.account, 'pixel'),
        `The picture of ${number(size.width)} by ${number(size.height)} pixels was read back,`,
        `and lies ${pixels(registration.largest_px)} off its sources at most, ${pixels(0.5)} allowed.`,
      ].join(' '),
    },
    sections: [
      {
        title: 'The picture',
        blocks: [
          table(
            [],
            [
              [
                'Size',
                `${number(size.width)} by ${number(size.height)} pixels, ${plural(size.bands, 'band')}${shown ? ` of ${shown.info.sampleType}` : ''}`,
              ],
              ...(shown
                ? [
                    ['Pixel', step ? `${number(step[0])} by ${number(step[1])} units of the system` : 'not stated'],
                    ['Packing', shown.version],
                  ]
                : []),
              ['Corners as the file states them', `${metres(proof.maxDeviation_m)} off where they should be`],
            ],
          ),
          table(
            ['Outer corner', 'East', 'North', 'East in the source', 'North in the source'],
            proof.corners.map((c, k) => [
              CORNERS[k]!,
              { n: coordinate(c.target[0]) },
              { n: coordinate(c.target[1]) },
              { n: c.source ? coordinate(c.source[0]) : '' },
              { n: c.source ? coordinate(c.source[1]) : '' },
            ]),
          ),
        ],
      },
      {
        title: 'Registration and values',
        blocks: [
          table(
            [],
            [
              [
                'Measured by correlation',
                `at ${measured} of ${plural(registration.places.length, 'place')}; the others have too little texture`,
              ],
              ['RMS', pixels(registration.rms_px)],
              ['Largest', pixels(registration.largest_px)],
              ['Pixels compared with what they should be', number(values.compared)],
              ['Different', `${number(values.different)}, ${values.meanDifference.toFixed(3)} values of a sample on the mean`],
              [
                'Worked out without approximation',
                `${number(values.exact.compared)}, of which ${number(values.exact.beyond)} are off by more than a tenth of a pixel explains`,
              ],
            ],
          ),
        ],
      },
      ...(proof.drawn ? mapSections(proof.drawn) : []),
      accountSection(
        proof.account,
        'Account of pixels',
        'The sources were read again for this: every pixel of every picture is kept, covered by another one, outside the area, or without a value.',
      ),
      { title: 'Differences', blocks: differences(proof) },
    ],
  };
}

/** What is said of the records that are drawn on a map. */
const mapSections = ({ account, records, labels, pixels: drawn }: DrawingProof): ReportPart['sections'] => [
  {
    title: 'Records on the map',
    blocks: [
      table(
        [],
        [
          ['Drawn', plural(records.drawn, 'record')],
          ['Of which nothing is to be seen where they lie', number(records.unseen)],
          ['Pixels that are drawn', `${number(drawn.solid)}, of which ${number(drawn.different)} have another colour in the file`],
          ['Labels', `${number(labels.placed)}, and ${number(labels.noRoom)} without room`],
        ],
      ),
    ],
  },
  accountSection(account, 'Account of records', 'The sources were read again for this, and every record was looked for on the picture.'),
];

function differences({ differences: all }: ImageProof): Block[] {
  if (all.length === 0) return [{ kind: 'text', text: 'None.' }];
  return [
    table(
      ['Count', 'What', 'Forecast'],
      all.map((d) => [{ n: number(d.count) }, d.message, d.expected ? 'announced' : 'not announced']),
    ),
  ];
}

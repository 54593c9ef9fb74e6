import type { DrawingProof } from '@pontrel/core/crossing/drawing-images';
import type { CrossingState } from '@pontrel/contract/crossing';
import type { Proof } from '@pontrel/core/content/features/proof';
import { type ImageProof, type ImageRunProof, isImageProof } from '@pontrel/core/content/raster/proof';
import type { Picture } from '../tiles/sample-picture';
import { accountSection, crossedOf } from './account-section';
import { type Block, bytes, coordinate, metres, number, PICTURE, plural, type Report, type ReportPart, table, verdictOf } from './blocks';
import { picturePart } from './picture-content';

export interface ReportFacts {
  crossing: Pick<CrossingState, 'name' | 'frame'>;
  deliverable: { name: string; format: string; crs: { id: string; name: string } };
  finished: string;
  seconds: number;
  proof: DrawingProof | ImageRunProof;
  files: { name: string; bytes: number; sha256: string }[];
  sources: { name: string; format: string; bytes: number; records: number; sha256: string; placed: string }[];
  picture: Picture | null;
  /** The way of one coordinate, step by step. */
  way: { source: string; steps: { name: string; x: number; y: number; accuracy: string }[] }[];
  versions: [string, string][];
  stale: boolean;
}

const STALE = ' The rules or the sources have been changed since: what would be written now may differ.';

/** What is said of a run, in the order in which a person who is handed the files asks for it. */
export function reportOf(f: ReportFacts): Report {
  const { verdict, sections } = isImageProof(f.proof) ? picturePart(f.proof, f.proof.shown) : recordsPart(f.proof);
  return {
    title: f.deliverable.name,
    of: f.crossing.name,
    made: f.versions,
    verdict: { good: f.proof.status === 'match', title: verdict.title, text: verdict.text + (f.stale ? STALE : '') },
    sections: [
      {
        title: 'What was handed over',
        blocks: [
          table(
            [],
            [
              ['Format', f.deliverable.format],
              [
                'Coordinate system',
                f.deliverable.crs.id === f.deliverable.crs.name
                  ? f.deliverable.crs.name
                  : `${f.deliverable.crs.id} ${f.deliverable.crs.name}`,
              ],
              ['Reference frame of the crossing', f.crossing.frame ? `${f.crossing.frame.label} ${f.crossing.frame.name}` : 'none'],
              ['Written and proved', `${f.finished.replace('T', ' ').slice(0, 19)} UTC, in ${f.seconds.toFixed(1)} s`],
              [
                'Files',
                `${number(f.files.length)}, ${bytes(f.files.reduce((n, x) => n + x.bytes, 0))} in all; their checksums stand at the end`,
              ],
            ],
          ),
        ],
      },
      ...(f.picture ? [{ title: 'Source and read-back, one over the other', blocks: [pictureBlock(f.picture)] }] : []),
      ...sections,
      {
        title: 'Where it came from',
        blocks: [
          table(
            ['Source', 'Format', 'Records', 'Placed as', 'SHA-256'],
            f.sources.map((s) => [s.name, s.format, { n: number(s.records) }, s.placed, { code: s.sha256 }]),
          ),
        ],
      },
      {
        title: 'The path of a coordinate',
        blocks: [
          ...(f.way.length === 0
            ? [{ kind: 'text' as const, text: 'No source was placed.' }]
            : f.way.flatMap((w): Block[] => [
                { kind: 'heading', text: w.source },
                table(
                  ['Step', 'East', 'North', 'Accuracy'],
                  w.steps.map((s) => [s.name, { n: coordinate(s.x) }, { n: coordinate(s.y) }, s.accuracy]),
                ),
              ])),
          {
            kind: 'text',
            small: true,
            text: 'The files agree with the source as said above; the source itself may be off by the accuracy of the change of datum, which no comparison can see.',
          },
        ],
      },
      ...(f.proof.findings.length > 0
        ? [
            {
              title: 'Findings',
              blocks: [
                table(
                  ['Count', 'Where', 'What'],
                  f.proof.findings.map((x) => [{ n: number(x.count) }, x.location ?? '', x.message]),
                ),
              ],
            },
          ]
        : []),
      {
        title: 'Files and their checksums',
        blocks: [
          table(
            ['File', 'Bytes', 'SHA-256'],
            f.files.map((x) => [x.name, { n: bytes(x.bytes) }, { code: x.sha256 }]),
          ),
        ],
      },
    ],
  };
}

/** What is said of records that were written. */
function recordsPart(proof: DrawingProof): ReportPart {
  const unforeseen = proof.differences.filter((d) => !d.expected),
    foreseen = proof.differences.filter((d) => d.expected);
  return {
    verdict: {
      title: verdictOf(proof.status, unforeseen.length),
      text: `${proof.account ? `${crossedOf(proof.account)} ` : ''}${number(proof.records.out)} of ${plural(proof.records.in, 'record')} read back; positions within ${metres(proof.maxDeviation_m)} of where they were, ${metres(proof.tolerance_m)} allowed.`,
    },
    sections: [
      ...(proof.account ? [accountSection(proof.account, 'Account of records', COUNTED)] : []),
      {
        title: 'Records and positions',
        blocks: [
          table(
            ['Set', 'Kind', 'In', 'Read back', 'Vertices', 'Farthest off', 'In height', 'Drawn alike'],
            proof.sets.map((s) => [
              s.name,
              s.kind,
              { n: number(s.in) },
              { n: number(s.out) },
              { n: number(s.vertices) },
              { n: metres(s.maxDeviation_m) },
              { n: metres(s.maxHeightDeviation_m) },
              { n: s.symbology && s.symbology.of > 0 ? `${number(s.symbology.same)} of ${number(s.symbology.of)}` : '' },
            ]),
          ),
          bars(proof),
        ],
      },
      {
        title: 'Differences',
        blocks: [
          ...differences('That the forecast did not announce', unforeseen),
          ...differences('As the forecast announced', foreseen),
          ...(proof.differences.length === 0 ? [{ kind: 'text' as const, text: 'None.' }] : []),
        ],
      },
      {
        title: 'Fields',
        blocks: proof.sets.flatMap((s): Block[] => [
          { kind: 'heading', text: s.name },
          table(
            ['In the source', 'In the file', 'Values', 'The same'],
            s.fields.map((x) => [x.from, x.to, { n: number(x.of) }, { n: number(x.same) }]),
          ),
        ]),
      },
      ...(proof.below ? imageBelowSections(proof.below) : []),
    ],
  };
}

/** What is said of the image that lies below the records. */
function imageBelowSections(below: ImageProof): ReportPart['sections'] {
  const { verdict, sections } = picturePart(below, null);
  return [
    { title: 'The image below', blocks: [{ kind: 'text', text: `${verdict.title} ${verdict.text}` }] },
    ...sections.map((s) => ({ ...s, title: `The image below: ${s.title[0]!.toLowerCase()}${s.title.slice(1)}` })),
  ];
}

const COUNTED =
  'The sources were read again for this: of each layer, what was read is what crossed and what was left, together. Features, entities and rows are counted as the file holds them.';

function differences(title: string, list: Proof['differences']): Block[] {
  if (list.length === 0) return [];
  return [
    { kind: 'heading', text: title },
    table(
      ['Count', 'Set', 'Field', 'What', 'First of them'],
      list.map((d) => [
        { n: number(d.count) },
        d.set,
        d.field ?? '',
        d.message,
        d.samples
          .slice(0, 3)
          .map((s) => `record ${s.record}: ${String(s.source)} → ${String(s.readBack)}`)
          .join('; '),
      ]),
    ),
  ];
}

function pictureBlock(p: Picture): Block {
  // a round length of about a fifth of the width
  const raw = (PICTURE.width / 5) * p.scale_m,
    power = 10 ** Math.floor(Math.log10(raw));
  const bar = [5, 2, 1].map((k) => k * power).find((k) => k <= raw)!;
  return {
    kind: 'picture',
    picture: p,
    bar: { px: bar / p.scale_m, name: bar >= 1000 ? `${number(bar / 1000)} km` : `${number(bar)} m` },
    caption: `${plural(p.drawn, 'record')} drawn${p.drawn >= 3000 ? ', evenly picked of large layers' : ''}. ${p.box.map((v) => coordinate(v)).join(' ')}`,
  };
}

function bars({ histogram, tolerance_m }: Proof): Block {
  const most = Math.max(1, ...histogram.map((b) => b.count));
  return {
    kind: 'bars',
    head: ['Off by at most', 'Vertices'],
    rows: histogram.map((b) => ({
      name: b.upTo_m === null ? 'more' : metres(b.upTo_m),
      count: number(b.count),
      share: b.count / most,
      far: b.upTo_m === null || b.upTo_m > tolerance_m * 10,
    })),
  };
}

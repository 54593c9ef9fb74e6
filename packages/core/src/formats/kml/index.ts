import type { ByteSource, FolderSource } from '../../io/bytes';
import { DRAWN_SYMBOLS } from '../../symbology/drawn-symbols';
import type { FeatureFormat, OpenSource, ReadBack, TargetSet } from '../format';
import type { OptionValues } from '../format-option';
import { lettersOf } from '../../io/letters';
import { entrySource, zipEntries } from '../zip/read';
import { piecesSource, placesOf } from '../pieces-source';
import { WGS84 } from '../globe';
import { openKml } from './read';
import { setOrder } from './folders';
import { createKml, DOCUMENT_END, fileNameOf, folderEnd, folderMark, FOLDERS, liftOf } from './write';

/** KML 2.2 and KMZ. Source: OGC 07-147r2. */
export const kml: FeatureFormat = {
  id: 'kml',
  name: 'KML',
  extensions: ['.kml', '.kmz'],
  companions: [],
  sniff(head, name) {
    const text = lettersOf(head);
    return /<(\w+:)?kml[\s>]/.test(text) || (text.startsWith('PK\x03\x04') && /\.kmz$/i.test(name));
  },
  features: {
    counts: 'feature',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: 'none' },
      oneKindPerSet: false,
      oneFile: true,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: false,
      symbology: false,
      setNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      // an archive of this kind has no room for more in one file
      fieldCount: Infinity,
      text: { maxBytes: Infinity, xml: true },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal', 'boolean'],
      exactIntegers: false,
      maxBytes: 4 * 1024 ** 3 - 1,
    },
    open: (source) => openKml(source),
    write: {
      options: [
        {
          id: 'container',
          label: 'As',
          kind: 'choice',
          choices: [
            { value: 'kml', label: 'KML' },
            { value: 'kmz', label: 'KMZ' },
          ],
        },
        { id: 'name', label: 'Name', kind: 'text', asks: 'template', hint: 'such as {NAME}' },
        {
          id: 'balloon',
          label: 'In the balloon',
          kind: 'choice',
          choices: [
            { value: 'table', label: 'A table of all data' },
            { value: 'text', label: 'A text of fields' },
            { value: 'none', label: 'Nothing' },
          ],
        },
        { id: 'text', label: 'Text', when: (v) => v.balloon === 'text', kind: 'text', asks: 'text', hint: 'such as {NAME}: {area:.1} m²' },
        {
          id: 'texts',
          label: 'Texts',
          kind: 'choice',
          choices: [
            { value: 'labels', label: 'As labels' },
            { value: 'marks', label: 'As labels with a mark' },
          ],
        },
        { id: 'image', label: 'Picture by field', kind: 'text', asks: 'field', hint: 'none' },
        {
          id: 'shown',
          label: 'Folders',
          kind: 'choice',
          choices: [
            { value: 'always', label: 'Seen from anywhere' },
            { value: 'near', label: 'Seen from near only' },
          ],
        },
        {
          id: 'heights',
          label: 'Heights',
          kind: 'choice',
          choices: [
            { value: 'ground', label: 'On the ground' },
            { value: 'above', label: 'Above the ground' },
            { value: 'absolute', label: 'Absolute' },
          ],
        },
        { id: 'raise', label: 'Raised by', kind: 'length', initial_m: 0, when: (v) => v.heights !== 'ground' },
        {
          id: 'extrude',
          label: 'Down to the ground',
          kind: 'choice',
          when: (v) => v.heights !== 'ground',
          choices: [
            { value: 'no', label: 'No' },
            { value: 'yes', label: 'Yes' },
          ],
        },
        {
          id: 'widths',
          label: 'Line widths',
          kind: 'choice',
          choices: [
            { value: 'pixels', label: 'As line weights, in pixels' },
            { value: 'metres', label: 'In metres on the ground' },
          ],
        },
        { id: 'width_m', label: 'Width', kind: 'length', initial_m: 1, when: (v) => v.widths === 'metres' },
        {
          id: 'points',
          label: 'Points',
          kind: 'choice',
          when: (v) => v.container === 'kmz',
          choices: [
            { value: 'plain', label: 'As the viewer shows them' },
            { value: 'symbol', label: 'As a symbol' },
          ],
        },
        {
          id: 'symbol',
          label: 'Symbol',
          kind: 'choice',
          when: (v) => v.container === 'kmz' && v.points === 'symbol',
          choices: DRAWN_SYMBOLS.map((s) => ({ value: s.id, label: s.label })),
        },
        { id: 'description', label: 'About the whole', kind: 'text', asks: 'words', hint: 'none' },
        { id: 'link', label: 'Link', kind: 'text', asks: 'words', hint: 'none' },
      ],
      symbology: (options) => ({
        color: true,
        fill: true,
        opacity: true,
        width: options.widths !== 'metres',
        ground: true,
        dash: false,
        marker: 'none',
        size: false,
        label: String(options.name ?? '').trim() === '',
        scales: true,
        how: 'as shared styles',
      }),
      optionsOf: (extension): OptionValues => (extension === '.kmz' ? { container: 'kmz' } : {}),
      prescribedCrs: () => WGS84,
      rounding_m: () => 0.0001,
      lift_m: liftOf,
      files: (sets, { stem, options }) => [
        {
          name: fileNameOf(stem, options),
          bytes: Math.round(
            (DOCUMENT_BYTES + sets.reduce((n, set) => n + folderBytes(set), 0)) * (options.container === 'kmz' ? PACKED : 1),
          ),
          sets: sets.map((_, k) => k),
        },
      ],
      create: createKml,
      readBack: readFolders,
      crsFindings: () => [],
    },
  },
};

/** Bytes of a file around its folders, of a feature around its data, of a field besides its value, of a vertex; and what packing leaves: measured, roughly. */
const DOCUMENT_BYTES = 600,
  FEATURE_BYTES = 260,
  FIELD_BYTES = 90,
  VERTEX_BYTES = 28,
  HEIGHT_BYTES = 7,
  PACKED = 0.14;

function folderBytes(set: TargetSet): number {
  return (
    set.count * (FEATURE_BYTES + set.fields.reduce((n, f) => n + FIELD_BYTES + 2 * (f.to.length + f.width / 2), 0)) +
    set.vertices * (VERTEX_BYTES + (set.heights ? HEIGHT_BYTES : 0))
  );
}

/**
 * Each set's folder read by itself, with the styles and schemas before the first: records of several sets come by turns when
 * they are written, and stand one set after the other in the file.
 */
async function readFolders(
  folder: FolderSource,
  sets: readonly TargetSet[],
  { stem, options }: { stem: string; options: OptionValues },
): Promise<ReadBack[]> {
  const file = await folder.open(fileNameOf(stem, options));
  const [entry] = options.container === 'kmz' ? (await zipEntries(file)).filter((e) => e.name === 'doc.kml') : [];
  let source: ByteSource = file;
  let done = (): Promise<void> => Promise.resolve();
  if (entry) {
    const scratch = await folder.scratch();
    try {
      for await (const piece of entrySource(file, entry).stream()) await scratch.write(piece);
    } finally {
      await scratch.close();
    }
    source = await scratch.source();
    done = () => scratch.remove();
  }
  const order = setOrder(sets.map((s) => s.name));
  const [folders, ...found] = await placesOf(source, [FOLDERS, ...order.flatMap((k) => [folderMark(k), folderEnd(k)])]);
  const placeOf = new Map(order.map((k, n) => [k, [found[2 * n]!, found[2 * n + 1]! + folderEnd(k).length] as const]));
  const end = source.size - new TextEncoder().encode(DOCUMENT_END).length;
  let left = sets.length;
  return Promise.all(
    sets.map(async (_, k): Promise<ReadBack> => {
      const open = await openKml(piecesSource(`${stem}.kml`, source, [[0, folders!], placeOf.get(k)!, [end, source.size]]));
      return {
        open: thenOnce(open, async () => {
          if (--left === 0) await done();
        }),
        sets: [k],
      };
    }),
  );
}

/** Calls `then` when a source has been read. */
function thenOnce(open: OpenSource, then: () => Promise<void>): OpenSource {
  return {
    ...open,
    async *read(findings, watch) {
      try {
        yield* open.read(findings, watch);
      } finally {
        await then();
      }
    },
  };
}

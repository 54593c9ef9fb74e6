import { lettersOf } from '../../io/letters';
import { type Crs, isPlane } from '../../crs/crs';
import type { FolderSource } from '../../io/bytes';
import type { Finding } from '../../model/finding';
import type { FeatureFormat, OpenSource, ReadBack, TargetSet } from '../format';
import { piecesSource, placesOf } from '../pieces-source';
import { layerOf } from './layer-names';
import { openLandXml } from './read';
import { groupsOf, isTriangles, type SetGroup } from './set-roles';
import { unitName } from './units';
import { beginMark, createLandXml, endMark, FILE_END, fileNameOf } from './write';

/** LandXML 1.2: points, surfaces, parcels, alignments and pipe networks. Source: LandXML-1.2.xsd, 2008; from memory. */
export const landxml: FeatureFormat = {
  id: 'landxml',
  name: 'LandXML',
  extensions: ['.landxml'],
  companions: [],
  sniff: (head) => /<(\w+:)?LandXML[\s>]/.test(lettersOf(head)),
  features: {
    counts: 'record',
    carries: {
      kinds: { point: 'point', text: 'point', line: 'line', polygon: 'polygon', none: null },
      oneKindPerSet: true,
      oneFile: true,
      curves: false,
      heights: true,
      measures: false,
      verticalSystem: true,
      symbology: false,
      setNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldNames: { maxBytes: 200, caseMatters: true, valid: /[^\p{C}]/u, replacement: '_' },
      fieldCount: Infinity,
      mayBeBare: true,
      text: { maxBytes: Infinity, xml: true },
      number: { maxWidth: 24, maxDecimals: 17 },
      types: ['text', 'integer', 'decimal'],
      fieldsByRecord: true,
      maxBytes: Infinity,
    },
    open: (source) => Promise.resolve(openLandXml(source)),
    write: {
      options: [],
      files: (sets, { stem }) => [
        { name: fileNameOf(stem), bytes: FILE_BYTES + sets.reduce((n, set) => n + setBytes(set), 0), sets: sets.map((_, k) => k) },
      ],
      create: createLandXml,
      readBack: readGroups,
      limits: (sets) => groupsOf(sets).flatMap((group) => toldOf(group, sets)),
      crsFindings,
    },
  },
};

/** Bytes of a file around its records, of a record around its data, of a value besides its text, and of a vertex: measured, roughly. */
const FILE_BYTES = 900,
  RECORD_BYTES = 90,
  VALUE_BYTES = 32,
  VERTEX_BYTES = 92;

const setBytes = (set: TargetSet): number =>
  set.count * (RECORD_BYTES + set.fields.reduce((n, f) => n + VALUE_BYTES + f.to.length + f.width / 2, 0)) + set.vertices * VERTEX_BYTES;

/** Each set from the element that it stands in, with the units and the system before the first. */
async function readGroups(folder: FolderSource, sets: readonly TargetSet[], { stem }: { stem: string }): Promise<ReadBack[]> {
  const file = await folder.open(fileNameOf(stem));
  const groups = groupsOf(sets);
  const places = await placesOf(
    file,
    groups.flatMap((_, k) => [beginMark(k), endMark(k)]),
  );
  const end = file.size - new TextEncoder().encode(FILE_END).length;
  return groups
    .flatMap((group, k) =>
      group.sets.map(({ set, part }) => ({
        set,
        open: ofLayer(
          openLandXml(
            piecesSource(file.name, file, [
              [0, places[0]!],
              [places[2 * k]!, places[2 * k + 1]!],
              [end, file.size],
            ]),
          ),
          layerOf(group.name, part),
        ),
      })),
    )
    .sort((a, b) => a.set - b.set)
    .map(({ set, open }) => ({ open, sets: [set] }));
}

/** The records of one layer of a source. */
const ofLayer = (open: OpenSource, layer: string): OpenSource => ({
  ...open,
  async *read(findings, watch) {
    for await (const batch of open.read(findings, watch)) if (batch.layer === layer) yield batch;
  },
});

/** What sets become that is not what they are called, or not what they look like. */
function toldOf({ name, sets: own }: SetGroup, sets: readonly TargetSet[]): Finding[] {
  const told = own.map(({ set }) => sets[set]!);
  const count = told.reduce((n, set) => n + set.count, 0);
  if (own.some((s) => s.part === 'pipes'))
    return [
      {
        code: 'landxml-network',
        severity: 'info',
        message: `${told.map((set) => set.name).join(' and ')} become the pipe network ${name}.`,
        count,
      },
    ];
  return own[0]!.part === 'parcels' && isTriangles(told[0]!)
    ? [
        {
          code: 'landxml-triangles',
          severity: 'caution',
          message: `${name} is made of triangles with values, which the faces of a surface have no room for: they become parcels. Leave its fields out to have a surface.`,
          count,
        },
      ]
    : [];
}

function crsFindings(crs: Crs): Finding[] {
  if (!isPlane(crs))
    return [
      {
        code: 'landxml-degrees',
        severity: 'wrong',
        message: `LandXML holds northings and eastings, and ${crs.name} is in degrees. Choose a target system that is a plane.`,
        count: 1,
      },
    ];
  return unitName(crs.unit) === null
    ? [
        {
          code: 'landxml-unit-unknown',
          severity: 'wrong',
          message: `LandXML has no name for the unit of ${crs.name} (${crs.unit.name}). Choose a target system in metres or feet.`,
          count: 1,
        },
      ]
    : [];
}

import { definitionOf } from '../../crs/definitions/definition-of';
import { writeDatedWkt2 } from '../../crs/definitions/wkt2';
import { type Crs, isPlane } from '../../crs/crs';
import type { FolderSink, Scratch } from '../../io/bytes';
import { planeLength } from '../../geometry/measure';
import { plainDecimal } from '../../io/plain-decimal';
import { TextSink } from '../../io/text-sink';
import { escaped } from '../../io/xml';
import { type FeatureBatch, vertexRange } from '../../model/batch';
import type { DeliverableWriter, TargetSet, WriteContext } from '../format';
import { courseText, listText, placeText } from './course-text';
import { attributesOf, featureText, PLACES } from './element-values';
import { type NetworkItem, networkText } from './network-text';
import { groupsOf, type Part, type SetGroup } from './set-roles';
import { unitsText } from './units';
import { VertexTable } from './vertex-table';

/** The file of a deliverable. */
export const fileNameOf = (stem: string): string => `${stem}.landxml`;

/** Where the element of a group begins and ends in a file, so that it can be found again. */
export const beginMark = (group: number): string => `\n<!-- group ${group + 1} -->\n`,
  endMark = (group: number): string => `<!-- end of group ${group + 1} -->\n`;

/** How a file ends. */
export const FILE_END = '</LandXML>\n';

/** The text of one part of a group while records come. */
interface PartText {
  set: TargetSet;
  part: Part;
  scratch: Scratch;
  sink: TextSink;
}

/** A group while records come. Of a surface the points are gathered apart from the faces, which know them by number. */
interface GroupText {
  group: SetGroup;
  parts: PartText[];
  points: { scratch: Scratch; sink: TextSink; table: VertexTable } | null;
}

/**
 * Writes one file with an element a set, or one for the sets of a network, or of a surface.
 * Source: LandXML-1.2.xsd, 2008; from memory: LandXML, CgPoints, PlanFeatures, Alignments, Parcels, Surfaces, PipeNetworks.
 */
export async function createLandXml(
  folder: FolderSink,
  sets: readonly TargetSet[],
  { stem, crs }: WriteContext,
): Promise<DeliverableWriter> {
  const begun = async (): Promise<{ scratch: Scratch; sink: TextSink }> => {
    const scratch = await folder.scratch();
    return { scratch, sink: new TextSink(scratch) };
  };
  const groups: GroupText[] = [];
  const bySet = new Map<number, { group: GroupText; part: PartText }>();
  for (const group of groupsOf(sets)) {
    const parts: PartText[] = [];
    for (const { set, part } of group.sets) parts.push({ set: sets[set]!, part, ...(await begun()) });
    const points = parts.some((p) => p.part === 'faces') ? { ...(await begun()), table: new VertexTable() } : null;
    const own: GroupText = { group, parts, points };
    groups.push(own);
    for (const [k, { set }] of group.sets.entries()) bySet.set(set, { group: own, part: parts[k]! });
  }
  return {
    async append(s, batch, rows, n) {
      const { group, part } = bySet.get(s)!;
      for (let k = 0; k < n; k++) {
        part.sink.put(part.part === 'faces' ? faceText(group.points!, batch, rows[k]!) : TEXTS[part.part](part, batch, rows[k]!));
        if (part.sink.full) await part.sink.flush();
        if (group.points?.sink.full) await group.points.sink.flush();
      }
    },
    async close() {
      const file = new TextSink(await folder.create(fileNameOf(stem)));
      file.put(headText(stem, crs));
      for (const [k, group] of groups.entries()) {
        file.put(beginMark(k));
        for await (const text of groupText(group, crs)) {
          file.put(text);
          if (file.full) await file.flush();
        }
        file.put(endMark(k));
      }
      file.put(FILE_END);
      await file.close();
    },
  };
}

function headText(stem: string, crs: Crs): string {
  const code = /^EPSG:(\d+)$/.exec(definitionOf(crs))?.[1];
  const system = code === undefined ? `ogcWktCode="${escaped(writeDatedWkt2(crs))}"` : `epsgCode="${code}"`;
  return (
    '<?xml version="1.0" encoding="UTF-8"?>\n' +
    '<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" ' +
    'xsi:schemaLocation="http://www.landxml.org/schema/LandXML-1.2 http://www.landxml.org/schema/LandXML-1.2/LandXML-1.2.xsd" ' +
    // no time of writing: the same records make the same file
    'version="1.2" date="2000-01-01" time="00:00:00" readOnly="false" language="English">\n' +
    `${unitsText(isPlane(crs) ? crs.unit : null)}\n` +
    `<CoordinateSystem name="${escaped(crs.name)}" ${system}/>\n` +
    `<Project name="${escaped(stem)}"/>\n` +
    '<Application name="Pontrel"/>\n'
  );
}

/** The element of one record, by the part that its set is. */
const TEXTS: Record<Exclude<Part, 'faces'>, (part: PartText, batch: FeatureBatch, i: number) => string> = {
  points(part, batch, i) {
    const [first, end] = vertexRange(batch, i);
    const own = attributesOf(part.set, batch, i, part.part);
    // a record of several places is as many points, of which the first has the data
    const places = end - first > 1 ? `<Feature name="${PLACES}" code="${end - first}"/>` : '';
    const more = Array.from({ length: end - first - 1 }, (_, k) => `<CgPoint>${placeText(batch, first + 1 + k)}</CgPoint>\n`);
    return `<CgPoint${own.attributes}>${placeText(batch, first)}${featureText(own.rest)}${places}</CgPoint>\n${more.join('')}`;
  },
  'plan features': (part, batch, i) => element('PlanFeature', part, batch, i, { name: '' }),
  alignments(part, batch, i) {
    return element('Alignment', part, batch, i, { name: '', length: plainDecimal(planeLength(batch, i)), staStart: '0' });
  },
  parcels: (part, batch, i) => element('Parcel', part, batch, i, {}),
  breaklines(part, batch, i) {
    const own = attributesOf(part.set, batch, i, part.part, { brkType: 'standard' });
    return `<Breakline${own.attributes}>${listText(batch, i)}${featureText(own.rest)}</Breakline>\n`;
  },
  contours(part, batch, i) {
    const height = batch.coords[3 * vertexRange(batch, i)[0] + 2]!;
    const own = attributesOf(part.set, batch, i, part.part, Number.isNaN(height) ? {} : { elev: String(height) });
    return `<Contour${own.attributes}>${listText(batch, i)}${featureText(own.rest)}</Contour>\n`;
  },
  structures: itemText,
  pipes: itemText,
};

/** An element with a course. @param needed attributes that the schema wants, where the record has none of that name */
function element(name: string, part: PartText, batch: FeatureBatch, i: number, needed: Readonly<Record<string, string>>): string {
  const own = attributesOf(part.set, batch, i, part.part, needed);
  return `<${name}${own.attributes}>${courseText(batch, i)}${featureText(own.rest)}</${name}>\n`;
}

/** A structure or a pipe as a line of JSON: which inverts a structure has is known when all pipes are. */
function itemText(part: PartText, batch: FeatureBatch, i: number): string {
  const [first, end] = vertexRange(batch, i);
  const item: NetworkItem = {
    values: attributesOf(part.set, batch, i, part.part).all,
    ends: [placeText(batch, first), placeText(batch, end - 1)],
    course: part.part === 'pipes' ? courseText(batch, i) : '',
    isStraight: end - first === 2,
  };
  return `${JSON.stringify(item)}\n`;
}

function faceText({ sink, table }: NonNullable<GroupText['points']>, batch: FeatureBatch, i: number): string {
  const [first, end] = vertexRange(batch, i);
  const corners: number[] = [];
  for (let v = first; v < end - 1; v++) {
    const [x, y, z] = batch.coords.subarray(3 * v, 3 * v + 3) as unknown as [number, number, number];
    const { number, isNew } = table.take(x, y, z);
    if (isNew) sink.put(`<P id="${number + 1}">${placeText(batch, v)}</P>\n`);
    corners.push(number + 1);
  }
  return `<F>${corners.join(' ')}</F>\n`;
}

/** The elements that the records of a part lie in. */
const AROUND: Partial<Record<Part, [string, string]>> = {
  points: ['<CgPoints name="?">', '</CgPoints>'],
  'plan features': ['<PlanFeatures name="?">', '</PlanFeatures>'],
  alignments: ['<Alignments name="?">', '</Alignments>'],
  parcels: ['<Parcels name="?">', '</Parcels>'],
};

async function* groupText({ group, parts, points }: GroupText, crs: Crs): AsyncGenerator<string> {
  for (const { sink } of parts) await sink.close();
  await points?.sink.close();
  const name = escaped(group.name);
  const of = (part: Part): PartText | undefined => parts.find((p) => p.part === part);
  const [pipes, structures] = [of('pipes'), of('structures')];
  const around = AROUND[parts[0]!.part];
  if (pipes && structures) {
    yield `<PipeNetworks><PipeNetwork name="${name}" pipeNetType="other">\n`;
    yield* networkText(await structures.scratch.source(), await pipes.scratch.source(), crs);
    yield '</PipeNetwork></PipeNetworks>\n';
  } else if (around) {
    yield `${around[0].replace('?', () => name)}\n`;
    yield* textOf(parts[0]!.scratch);
    yield `${around[1]}\n`;
  } else {
    yield `<Surfaces><Surface name="${name}">\n`;
    const [breaklines, contours] = [of('breaklines'), of('contours')];
    if (breaklines || contours) {
      yield '<SourceData>\n';
      if (breaklines) yield* inside('Breaklines', breaklines.scratch);
      if (contours) yield* inside('Contours', contours.scratch);
      yield '</SourceData>\n';
    }
    const faces = of('faces');
    if (faces) {
      yield '<Definition surfType="TIN">\n';
      yield* inside('Pnts', points!.scratch);
      yield* inside('Faces', faces.scratch);
      yield '</Definition>\n';
    }
    yield '</Surface></Surfaces>\n';
  }
  for (const { scratch } of parts) await scratch.remove();
  await points?.scratch.remove();
}

async function* inside(name: string, scratch: Scratch): AsyncGenerator<string> {
  yield `<${name}>\n`;
  yield* textOf(scratch);
  yield `</${name}>\n`;
}

/** What was put aside, as text. */
async function* textOf(scratch: Scratch): AsyncGenerator<string> {
  const decoder = new TextDecoder();
  for await (const piece of (await scratch.source()).stream()) yield decoder.decode(piece, { stream: true });
  yield decoder.decode();
}

import { parseInteger } from '../../model/value';
import { lookupCrs } from '../../crs/registry/registry';
import type { ByteSource, Watch } from '../../io/bytes';
import { watched } from '../../io/watched';
import { type FeatureBatch, LINE, POINT } from '../../model/batch';
import { type BatchBuilder, LayerBuilders } from '../../model/batch-builder';
import type { Findings } from '../../model/finding';
import { Problem } from '../../model/problem';
import type { OpenSource, SourceFacts } from '../format';
import { WGS84 } from '../globe';
import { childOf, childrenOf, XmlReader, type XmlNode } from '../../io/xml';

/** Layers of a file, and names of its elements. Source: GPX 1.1 schema, types wptType, rteType and trkType. */
export const LAYERS = { wpt: 'waypoints', rte: 'routes', trk: 'tracks' } as const;
/** Elements of a point or a way that are numbers. */
const NUMBERS = new Set(['magvar', 'geoidheight', 'sat', 'hdop', 'vdop', 'pdop', 'ageofdgpsdata', 'dgpsid', 'number', 'course', 'speed']);
/** Elements that are read by themselves. */
const APART = new Set(['ele', 'trkseg', 'rtept', 'trkpt', 'link']);

/** Opens a file of waypoints, routes and tracks. */
export function openGpx(source: ByteSource): OpenSource {
  const crs = lookupCrs(WGS84)!;
  return {
    facts: (): SourceFacts => ({ crs, crsText: WGS84, unit: null, version: null }),
    read: (findings, watch) => readWays(source, findings, watch),
  };
}

async function* readWays(source: ByteSource, findings: Findings, watch: Watch): AsyncGenerator<FeatureBatch> {
  const builders = new LayerBuilders();
  let seen = false;
  let record = 0;
  // waypoints still to come of a record of several places
  let left = 0;
  let firstBroken: number | null = null;
  const xml = new XmlReader(source.name, {
    open(name) {
      if (name === 'gpx') seen = true;
      return name in LAYERS;
    },
    close() {},
    text() {},
    whole(node) {
      const layer = LAYERS[node.name as keyof typeof LAYERS];
      const builder = builders.for(layer);
      if (left > 0 && node.name === 'wpt' && childOf(childOf(node, 'extensions'), 'part')) {
        place(node, builder);
        builder.endPart();
        if (--left > 0) return;
        builder.endFeature(POINT, 'wpt', record);
        builders.ended(builder);
        return;
      }
      record++;
      if (!partsOf(node).flat().every(hasPlace)) {
        firstBroken ??= record;
        findings.add({
          code: 'gpx-point',
          severity: 'wrong',
          message: `A ${node.name} has a point without a longitude and latitude that are numbers, and stays behind; the first is record ${firstBroken}.`,
          count: 1,
          location: layer,
          left: true,
        });
      } else if (put(node, builder)) {
        const places = Number(childOf(childOf(node, 'extensions'), 'data')?.attributes.places ?? 1);
        if (node.name === 'wpt' && places > 1) {
          left = places - 1;
          return;
        }
        builder.endFeature(node.name === 'wpt' ? POINT : LINE, node.name, record);
        builders.ended(builder);
      } else
        findings.add({
          code: 'gpx-empty',
          severity: 'caution',
          message: `A ${node.name} without points is left out.`,
          count: 1,
          location: layer,
          left: true,
        });
    },
  });
  for await (const chunk of watched(source, watch)) {
    xml.push(chunk);
    yield* builders.takeFull();
  }
  xml.end();
  xml.tell(findings);
  if (!seen) throw new Problem('gpx-not', `${source.name} is XML, but no GPX: its outermost element is not gpx.`, { file: source.name });
  yield* builders.takeAll();
}

/** The points of a waypoint, a route or a track, part by part. */
const partsOf = (node: XmlNode): XmlNode[][] =>
  node.name === 'wpt'
    ? [[node]]
    : node.name === 'rte'
      ? [childrenOf(node, 'rtept')]
      : childrenOf(node, 'trkseg').map((s) => childrenOf(s, 'trkpt'));

const isNumber = (text: string | undefined): boolean => text !== undefined && text.trim() !== '' && Number.isFinite(Number(text));

const hasPlace = ({ attributes: { lon, lat } }: XmlNode): boolean => isNumber(lon) && isNumber(lat);

function place(point: XmlNode, out: BatchBuilder): void {
  const { lon, lat } = point.attributes;
  out.vertex(Number(lon), Number(lat), Number(childOf(point, 'ele')?.text ?? NaN));
}

function put(node: XmlNode, out: BatchBuilder): boolean {
  const times: string[] = [];
  const vertex = (point: XmlNode): void => {
    place(point, out);
    times.push(childOf(point, 'time')?.text.trim() ?? '');
  };
  const before = out.vertices;
  for (const part of partsOf(node)) {
    part.forEach(vertex);
    if (part.length > 0) out.endPart();
  }
  if (out.vertices === before) return false;
  // what this program wrote has all data in its own place; a name beside it is made of them
  const own = childOf(childOf(node, 'extensions'), 'data') !== undefined;
  for (const child of node.children) if (!own || child.name === 'extensions') values(child, '', out);
  const link = childOf(node, 'link')?.attributes.href;
  if (link !== undefined) out.set('link', link);
  if (node.name !== 'wpt' && times.some((t) => t !== '')) {
    out.set(
      'begin',
      times.find((t) => t !== '')!,
    );
    out.set(
      'end',
      times.findLast((t) => t !== '')!,
    );
    out.set('times', JSON.stringify(times));
  }
  return true;
}

/** A simple element is a field; those of extensions are so under their own names. */
function values(node: XmlNode, within: string, out: BatchBuilder): void {
  if (APART.has(node.name)) return;
  if (node.children.length > 0) {
    for (const child of node.children) values(child, node.name, out);
    return;
  }
  // what this program wrote says its own name and type
  const { name = node.name, type } = within === 'extensions' || within === 'data' ? node.attributes : {};
  const text = node.text;
  if (text.trim() === '') return;
  if (type === 'number' || (type === undefined && NUMBERS.has(node.name) && Number.isFinite(Number(text)))) out.set(name, Number(text));
  else if (type === 'integer') out.set(name, parseInteger(text) ?? text);
  else if (type === 'boolean') out.set(name, text === 'true');
  else out.set(name, type === undefined ? text.trim() : text);
}

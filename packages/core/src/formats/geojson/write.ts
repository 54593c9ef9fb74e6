import type { Value } from '../../model/value';
import { METRES_PER_DEGREE, isPlane, metresPerUnit, type Crs } from '../../crs/crs';
import { polygonsOf } from '../../geometry/nesting';
import type { FolderSink } from '../../io/bytes';
import { type FeatureBatch, LINE, POLYGON, NO_GEOMETRY, partRanges } from '../../model/batch';
import type { DeliverableWriter, TargetSet, WriteContext } from '../format';
import type { OptionValues } from '../format-option';
import { HEIGHT_DECIMALS } from '../globe';
import { plainDecimal } from '../../io/plain-decimal';
import { TextSink } from '../../io/text-sink';
import { styleOf } from './simplestyle';

/** How features stand in a file. */
export type Form = 'rfc7946' | 'named' | 'lines';

/** Whether it is one collection, or a feature a line. */
export const formOf = (options: OptionValues): Form => options.form as Form;

/** The file of a set. */
export const fileNameOf = (set: TargetSet, options: OptionValues): string =>
  `${set.name}.${formOf(options) === 'lines' ? 'geojsonl' : 'geojson'}`;

/** Decimals that keep positions within so many metres. */
export function decimalsFor(crs: Crs, within_m: number): number {
  const unit_m = isPlane(crs) ? metresPerUnit(crs, null) : METRES_PER_DEGREE;
  return Math.min(15, Math.max(0, Math.ceil(Math.log10(unit_m / (2 * within_m)))));
}

/** One file a set. */
export async function createGeoJson(
  folder: FolderSink,
  sets: readonly TargetSet[],
  { crs, options }: WriteContext,
): Promise<DeliverableWriter> {
  const form = formOf(options);
  const decimals = decimalsFor(crs, Number(options.precision));
  const files = await Promise.all(
    sets.map(async (set) => ({ set, sink: new TextSink(await folder.create(fileNameOf(set, options))), first: true })),
  );
  if (form !== 'lines') {
    for (const { set, sink } of files) {
      const named = form === 'named' ? `"crs":{"type":"name","properties":{"name":${JSON.stringify(urnOf(crs))}}},` : '';
      sink.put(`{"type":"FeatureCollection","name":${JSON.stringify(set.name)},${named}"features":[\n`);
    }
  }
  const styled = options.looks === 'simplestyle';
  return {
    async append(s, batch, rows, n) {
      const file = files[s]!;
      for (let k = 0; k < n; k++) {
        const i = rows[k]!;
        const text = `{"type":"Feature","geometry":${geometryText(batch, i, decimals, file.set.heights)},"properties":${propertiesText(file.set, batch, i, styled)}}`;
        file.sink.put(form === 'lines' ? `${text}\n` : `${file.first ? '' : ',\n'}${text}`);
        file.first = false;
        if (file.sink.full) await file.sink.flush();
      }
    },
    async close() {
      for (const { sink } of files) {
        if (form !== 'lines') sink.put('\n]}\n');
        await sink.close();
      }
    },
  };
}

/** The name of a registered system. Source: OGC 07-092r3, "urn:ogc:def:crs". */
function urnOf(crs: Crs): string {
  return crs.id?.startsWith('EPSG:') ? `urn:ogc:def:crs:EPSG::${crs.id.slice(5)}` : (crs.id ?? crs.name);
}

function propertiesText(set: TargetSet, batch: FeatureBatch, i: number, styled: boolean): string {
  const at = (name: string): Value => batch.columns.get(name)?.[i] ?? null;
  const members = set.fields.map(({ from, to }): [string, Value] => [to, at(from)]);
  if (styled) for (const member of styleOf(batch.kinds[i]!, at)) if (!members.some(([name]) => name === member[0])) members.push(member);
  return `{${members.map(([name, value]) => `${JSON.stringify(name)}:${typeof value === 'bigint' ? value : JSON.stringify(value)}`).join(',')}}`;
}

/**
 * A geometry: outer rings counter-clockwise, holes clockwise, as many polygons as there are outer rings.
 * Source: RFC 7946, sections 3.1 and 3.1.6.
 */
function geometryText(batch: FeatureBatch, i: number, decimals: number, heights: boolean): string {
  if (batch.kinds[i] === NO_GEOMETRY) return 'null';
  const { coords } = batch;
  const parts = partRanges(batch, i);
  const position = (v: number): string => {
    const z = coords[3 * v + 2]!;
    const xy = `[${plainDecimal(coords[3 * v]!, decimals)},${plainDecimal(coords[3 * v + 1]!, decimals)}`;
    return heights && !Number.isNaN(z) ? `${xy},${plainDecimal(z, HEIGHT_DECIMALS)}]` : `${xy}]`;
  };
  const run = (s: number, e: number, turned: boolean): string => {
    let text = '[';
    for (let k = s; k < e; k++) text += `${k > s ? ',' : ''}${position(turned ? s + e - 1 - k : k)}`;
    return `${text}]`;
  };
  const kind = batch.kinds[i];
  if (kind === POLYGON) {
    const polygons = polygonsOf(coords, parts).map((rings) => `[${rings.map(({ range, turned }) => run(...range, turned)).join(',')}]`);
    return polygons.length === 1
      ? `{"type":"Polygon","coordinates":${polygons[0]}}`
      : `{"type":"MultiPolygon","coordinates":[${polygons.join(',')}]}`;
  }
  if (kind === LINE) {
    const lines = parts.map(([s, e]) => run(s, e, false));
    return lines.length === 1
      ? `{"type":"LineString","coordinates":${lines[0]}}`
      : `{"type":"MultiLineString","coordinates":[${lines.join(',')}]}`;
  }
  const points = parts.flatMap(([s, e]) => Array.from({ length: e - s }, (_, k) => position(s + k)));
  return points.length === 1 ? `{"type":"Point","coordinates":${points[0]}}` : `{"type":"MultiPoint","coordinates":[${points.join(',')}]}`;
}

import type { Value } from '../../model/value';
import type { FolderSink } from '../../io/bytes';
import { eachPart, type FeatureBatch, vertexRange } from '../../model/batch';
import type { DeliverableWriter, TargetSet, WriteContext } from '../format';
import { DEGREE_DECIMALS, HEIGHT_DECIMALS } from '../globe';
import { plainDecimal } from '../../io/plain-decimal';
import { TextSink } from '../../io/text-sink';
import { escaped } from '../../io/xml';

/** Our own names within extensions. */
const NAMESPACE = 'urn:pontrel:gpx';

/** The file of a set. */
export const fileNameOf = (set: TargetSet): string => `${set.name}.gpx`;

/**
 * One file a set: points as waypoints, lines as tracks, areas as tracks around them. All data stand in extensions with their
 * own names and types; a name for those who show none of them.
 *
 * Source: GPX 1.1 schema: order of elements in wptType and trkType.
 */
export async function createGpx(folder: FolderSink, sets: readonly TargetSet[], { stem }: WriteContext): Promise<DeliverableWriter> {
  const files = await Promise.all(sets.map(async (set) => ({ set, sink: new TextSink(await folder.create(fileNameOf(set))) })));
  for (const { set, sink } of files)
    sink.put(
      `<?xml version="1.0" encoding="UTF-8"?>\n<gpx version="1.1" creator="Pontrel" xmlns="http://www.topografix.com/GPX/1/1" xmlns:p="${NAMESPACE}">\n<metadata><name>${escaped(sets.length > 1 ? `${stem}: ${set.name}` : stem)}</name></metadata>\n`,
    );
  return {
    async append(s, batch, rows, n) {
      const { set, sink } = files[s]!;
      for (let k = 0; k < n; k++) {
        sink.put(wayOf(set, batch, rows[k]!));
        if (sink.full) await sink.flush();
      }
    },
    async close() {
      for (const { sink } of files) {
        sink.put('</gpx>\n');
        await sink.close();
      }
    },
  };
}

function wayOf(set: TargetSet, batch: FeatureBatch, i: number): string {
  const at = (name: string): Value => batch.columns.get(name)?.[i] ?? null;
  const data = set.fields
    .map((f): [string, Value] => [f.to, at(f.from)])
    .filter(([, v]) => v !== null && v !== '')
    .map(
      ([name, v]) =>
        `<p:value name="${escaped(name)}" type="${typeof v === 'string' ? 'text' : typeof v === 'bigint' ? 'integer' : typeof v}">${escaped(typeof v === 'number' ? plainDecimal(v) : String(v))}</p:value>`,
    )
    .join('');
  const given = ['name', 'NAME', 'text', 'id', 'ID'].map(at).find((v) => v !== null && v !== '');
  const name = given === undefined ? '' : `<name>${escaped(String(given))}</name>`;
  const rest = (places: number): string =>
    `${name}${data === '' && places === 1 ? '' : `<extensions><p:data${places > 1 ? ` places="${places}"` : ''}>${data}</p:data></extensions>`}`;
  const place = (v: number): string =>
    `lat="${plainDecimal(batch.coords[3 * v + 1]!, DEGREE_DECIMALS)}" lon="${plainDecimal(batch.coords[3 * v]!, DEGREE_DECIMALS)}"`;
  const height = (v: number): string =>
    set.heights && !Number.isNaN(batch.coords[3 * v + 2]!) ? `<ele>${plainDecimal(batch.coords[3 * v + 2]!, HEIGHT_DECIMALS)}</ele>` : '';
  if (set.kind === 'point') {
    const [first, end] = vertexRange(batch, i);
    // a record of several places is as many waypoints, of which the first has the data
    const more = Array.from(
      { length: end - first - 1 },
      (_, k) => `<wpt ${place(first + 1 + k)}>${height(first + 1 + k)}<extensions><p:part/></extensions></wpt>\n`,
    ).join('');
    return `<wpt ${place(first)}>${height(first)}${rest(end - first)}</wpt>\n${more}`;
  }
  let segments = '';
  eachPart(batch, i, (s, e) => {
    segments += `<trkseg>${Array.from({ length: e - s }, (_, k) => `<trkpt ${place(s + k)}>${height(s + k)}</trkpt>`).join('')}</trkseg>`;
  });
  return `<trk>${rest(1)}${segments}</trk>\n`;
}

import { type Value, valueText } from '../../model/value';
import { northComesFirst } from '../../crs/axis-order';
import type { Crs } from '../../crs/crs';
import { polygonsOf } from '../../geometry/nesting';
import type { FolderSink } from '../../io/bytes';
import { type FeatureBatch, hasHeight, LINE, partRanges, POLYGON } from '../../model/batch';
import type { DeliverableWriter, TargetSet, WriteContext } from '../format';
import { plainDecimal } from '../../io/plain-decimal';
import { putText } from '../prj';
import { TextSink } from '../../io/text-sink';
import { escaped } from '../../io/xml';
import { COLLECTION, GEOMETRY, MEMBER, NAMESPACE, schemaText } from './schema';
import { srsNameOf } from './srs-name';

/**
 * One file a set, and its application schema beside it.
 * Source: OGC 07-036 (GML 3.2.1), clauses 9 to 11; OGC 10-100r3 (simple features profile), level 0.
 */
export async function createGml(folder: FolderSink, sets: readonly TargetSet[], { crs }: WriteContext): Promise<DeliverableWriter> {
  const files: { set: TargetSet; sink: TextSink; records: number }[] = [];
  for (const set of sets) {
    await putText(folder, `${set.name}.xsd`, schemaText(set));
    const sink = new TextSink(await folder.create(`${set.name}.gml`));
    sink.put(
      `<?xml version="1.0" encoding="UTF-8"?>\n<p:${COLLECTION} xmlns:p="${NAMESPACE}" xmlns:gml="http://www.opengis.net/gml/3.2" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="${NAMESPACE} ${escaped(set.name)}.xsd" gml:id="all">\n`,
    );
    files.push({ set, sink, records: 0 });
  }
  const writer = new Geometries(crs);
  return {
    async append(s, batch, rows, n) {
      const file = files[s]!;
      const { set, sink } = file;
      const name = `p:${escaped(set.name)}`;
      const columns = set.fields.map((f) => ({ to: `p:${escaped(f.to)}`, column: batch.columns.get(f.from) }));
      for (let k = 0; k < n; k++) {
        const i = rows[k]!;
        const id = `r${++file.records}`;
        const geometry = set.kind === 'none' ? '' : `<p:${GEOMETRY}>${writer.text(batch, i, id, set)}</p:${GEOMETRY}>`;
        let values = '';
        for (const { to, column } of columns) {
          const value = column?.[i] ?? null;
          if (value !== null) values += `<${to}>${elementText(value)}</${to}>`;
        }
        sink.put(`<p:${MEMBER}><${name} gml:id="${id}">${geometry}${values}</${name}></p:${MEMBER}>\n`);
        if (sink.full) await sink.flush();
      }
    },
    async close() {
      for (const { sink } of files) {
        sink.put(`</p:${COLLECTION}>\n`);
        await sink.close();
      }
    },
  };
}

const elementText = (value: Exclude<Value, null>): string => (typeof value === 'number' ? plainDecimal(value) : escaped(valueText(value)));

/** Geometries as text: the exterior counter-clockwise, and positions in the order of axes that the registry has. */
class Geometries {
  private readonly north: boolean;
  private readonly srs: string;

  constructor(crs: Crs) {
    this.north = northComesFirst(crs);
    this.srs = escaped(srsNameOf(crs) ?? '');
  }

  text(batch: FeatureBatch, i: number, id: string, { several, heights }: TargetSet): string {
    const { coords } = batch;
    const parts = partRanges(batch, i);
    const kind = batch.kinds[i];
    // positions of one geometry all have as many numbers: where only some lack a height, it is NaN, as XML Schema writes it
    const z = heights && hasHeight(batch, i);
    const position = (v: number): string => {
      const x = plainDecimal(coords[3 * v]!),
        y = plainDecimal(coords[3 * v + 1]!);
      const h = coords[3 * v + 2]!;
      return `${this.north ? `${y} ${x}` : `${x} ${y}`}${z ? ` ${Number.isNaN(h) ? 'NaN' : plainDecimal(h)}` : ''}`;
    };
    const list = (s: number, e: number, turned = false): string => {
      let text = '';
      for (let k = s; k < e; k++) text += `${k > s ? ' ' : ''}${position(turned ? s + e - 1 - k : k)}`;
      return `<gml:posList>${text}</gml:posList>`;
    };
    let piece = 0;
    const open = (name: string, outer: boolean): string =>
      `<gml:${name} gml:id="${id}.g${outer ? '' : `.${++piece}`}"${outer ? ` srsName="${this.srs}" srsDimension="${z ? 3 : 2}"` : ''}>`;
    let one: (outer: boolean) => string[], multi: string, member: string;
    if (kind === POLYGON) {
      one = (outer) =>
        polygonsOf(coords, parts).map(
          (rings) =>
            `${open('Polygon', outer)}${rings
              .map(({ range, turned }, k) => {
                const side = k === 0 ? 'exterior' : 'interior';
                return `<gml:${side}><gml:LinearRing>${list(...range, turned)}</gml:LinearRing></gml:${side}>`;
              })
              .join('')}</gml:Polygon>`,
        );
      [multi, member] = ['MultiSurface', 'surfaceMember'];
    } else if (kind === LINE) {
      one = (outer) => parts.map(([s, e]) => `${open('LineString', outer)}${list(s, e)}</gml:LineString>`);
      [multi, member] = ['MultiCurve', 'curveMember'];
    } else {
      one = (outer) =>
        parts.flatMap(([s, e]) =>
          Array.from({ length: e - s }, (_, k) => `${open('Point', outer)}<gml:pos>${position(s + k)}</gml:pos></gml:Point>`),
        );
      [multi, member] = ['MultiPoint', 'pointMember'];
    }
    if (!several) return one(true)[0]!;
    return `${open(multi, true)}${one(false)
      .map((p) => `<gml:${member}>${p}</gml:${member}>`)
      .join('')}</gml:${multi}>`;
  }
}

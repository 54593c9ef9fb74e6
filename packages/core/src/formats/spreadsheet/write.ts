import { valueText } from '../../model/value';
import type { Value } from '../../model/value';
import { writePrj } from '../../crs/definitions/wkt1';
import type { FolderSink, Scratch } from '../../io/bytes';
import { type FeatureBatch, vertexRange } from '../../model/batch';
import type { DeliverableWriter, TargetField, TargetSet, WriteContext } from '../format';
import type { OptionValues } from '../format-option';
import { plainDecimal } from '../../io/plain-decimal';
import { putText } from '../prj';
import { type KnownTable } from '../table/table-reader';
import { placesOf } from '../table/places';
import { TextSink } from '../../io/text-sink';
import { writeWkt } from '../wkt';
import { escaped } from '../../io/xml';
import { ZipWriter } from '../zip/write';
import { columnLetters, escapedText } from './cells';
import { serialOfDate } from './dates';

/** The file of a deliverable. */
export const fileNameOf = (stem: string, options: OptionValues): string => `${stem}.${String(options.container)}`;

/** How a set's sheet is laid out. */
export function layoutOf(set: TargetSet, options: OptionValues): KnownTable & { head: string[] } {
  const { places, head } = placesOf(set, options);
  return { places, comma: false, head: [...head, ...set.fields.map((f) => f.to)], types: new Map(set.fields.map((f) => [f.to, f.type])) };
}

/** One sheet a set, first kept aside, as sheets stand one after the other in the workbook. */
export async function createSpreadsheet(
  folder: FolderSink,
  sets: readonly TargetSet[],
  { crs, stem, options }: WriteContext,
): Promise<DeliverableWriter> {
  if (sets.some((s) => s.kind !== 'none')) await putText(folder, `${stem}.prj`, writePrj(crs));
  const kind = options.container === 'ods' ? ODS : XLSX;
  const sheets: { set: TargetSet; scratch: Scratch; sink: TextSink; rows: number; layout: ReturnType<typeof layoutOf> }[] = [];
  for (const set of sets) {
    const scratch = await folder.scratch();
    const sheet = { set, scratch, sink: new TextSink(scratch), rows: 1, layout: layoutOf(set, options) };
    sheet.sink.put(
      kind.row(
        sheet.layout.head.map((h) => ({ value: h, date: false })),
        1,
      ),
    );
    sheets.push(sheet);
  }
  return {
    async append(s, batch, rows, n) {
      const sheet = sheets[s]!;
      const columns = sheet.set.fields.map((field) => ({ field, column: batch.columns.get(field.from) }));
      for (let k = 0; k < n; k++) {
        sheet.sink.put(
          kind.row(
            [
              ...placeCells(batch, rows[k]!, sheet.set, sheet.layout),
              ...columns.map(({ field, column }) => cell(field, column?.[rows[k]!] ?? null)),
            ],
            ++sheet.rows,
          ),
        );
        if (sheet.sink.full) await sheet.sink.flush();
      }
    },
    async close() {
      for (const { sink } of sheets) await sink.close();
      const zip = new ZipWriter(await folder.create(fileNameOf(stem, options)));
      await kind.put(
        zip,
        sheets.map(({ set, scratch }) => ({ name: set.name, rows: scratch })),
      );
      await zip.close();
      for (const { scratch } of sheets) await scratch.remove();
    },
  };
}

interface CellOut {
  value: Value;
  date: boolean;
}

const cell = ({ type }: TargetField, value: Value): CellOut => ({ value, date: type === 'date' });

function placeCells(batch: FeatureBatch, i: number, set: TargetSet, { places }: KnownTable): CellOut[] {
  if (places.kind === 'none') return [];
  if (places.kind === 'wkt') return [{ value: writeWkt(batch, i, set.heights, set.measures), date: false }];
  const [v] = vertexRange(batch, i);
  return Array.from({ length: set.heights ? 3 : 2 }, (_, k) => batch.coords[3 * v + k]!).map((c) => ({
    value: Number.isNaN(c) ? null : c,
    date: false,
  }));
}

interface SheetOut {
  name: string;
  rows: Scratch;
}

interface Kind {
  row(cells: readonly CellOut[], line: number): string;
  put(zip: ZipWriter, sheets: readonly SheetOut[]): Promise<void>;
}

const HEAD = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
const bytes = (text: string): Uint8Array[] => [new TextEncoder().encode(text)];

async function* around(before: string, scratch: Scratch, after: string): AsyncGenerator<Uint8Array> {
  yield* bytes(before);
  yield* (await scratch.source()).stream();
  yield* bytes(after);
}

const MAIN = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main',
  RELATIONS = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships',
  PACKAGE = 'http://schemas.openxmlformats.org/package/2006';
const CONTENT = 'application/vnd.openxmlformats-officedocument.spreadsheetml';

/** Source: ECMA-376 part 1, sections 18.2, 18.3 and 18.8; part 2 for what holds them together. Style 1 shows a day. */
const XLSX: Kind = {
  row: (cells, line) =>
    `<row r="${line}">${cells
      .map(({ value, date }, k) => {
        if (value === null || value === '') return '';
        const at = `r="${columnLetters(k)}${line}"`;
        if (typeof value === 'number') return `<c ${at}><v>${plainDecimal(value)}</v></c>`;
        if (typeof value === 'boolean') return `<c ${at} t="b"><v>${value ? 1 : 0}</v></c>`;
        const serial = date ? serialOfDate(String(value)) : null;
        return serial === null
          ? `<c ${at} t="inlineStr"><is><t xml:space="preserve">${escaped(escapedText(valueText(value)))}</t></is></c>`
          : `<c ${at} s="1"><v>${serial}</v></c>`;
      })
      .join('')}</row>\n`,
  async put(zip, sheets) {
    const each = (text: (name: string, n: number) => string): string => sheets.map(({ name }, k) => text(escaped(name), k + 1)).join('');
    await zip.add(
      '[Content_Types].xml',
      bytes(
        `${HEAD}<Types xmlns="${PACKAGE}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="${CONTENT}.sheet.main+xml"/><Override PartName="/xl/styles.xml" ContentType="${CONTENT}.styles+xml"/>${each((_name, n) => `<Override PartName="/xl/worksheets/sheet${n}.xml" ContentType="${CONTENT}.worksheet+xml"/>`)}</Types>`,
      ),
    );
    await zip.add(
      '_rels/.rels',
      bytes(
        `${HEAD}<Relationships xmlns="${PACKAGE}/relationships"><Relationship Id="rId1" Type="${RELATIONS}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
      ),
    );
    await zip.add(
      'xl/workbook.xml',
      bytes(
        `${HEAD}<workbook xmlns="${MAIN}" xmlns:r="${RELATIONS}"><sheets>${each((name, n) => `<sheet name="${name}" sheetId="${n}" r:id="rId${n}"/>`)}</sheets></workbook>`,
      ),
    );
    await zip.add(
      'xl/_rels/workbook.xml.rels',
      bytes(
        `${HEAD}<Relationships xmlns="${PACKAGE}/relationships">${each((_name, n) => `<Relationship Id="rId${n}" Type="${RELATIONS}/worksheet" Target="worksheets/sheet${n}.xml"/>`)}<Relationship Id="rId${sheets.length + 1}" Type="${RELATIONS}/styles" Target="styles.xml"/></Relationships>`,
      ),
    );
    await zip.add(
      'xl/styles.xml',
      bytes(
        `${HEAD}<styleSheet xmlns="${MAIN}"><fonts count="1"><font><sz val="11"/><name val="Calibri"/></font></fonts><fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills><borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders><cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs><cellXfs count="2"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/><xf numFmtId="14" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/></cellXfs></styleSheet>`,
      ),
    );
    for (const [k, { rows }] of sheets.entries())
      await zip.add(
        `xl/worksheets/sheet${k + 1}.xml`,
        around(
          `${HEAD}<worksheet xmlns="${MAIN}"><sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews><sheetData>\n`,
          rows,
          '</sheetData></worksheet>',
        ),
      );
  },
};

const OASIS = 'urn:oasis:names:tc:opendocument:xmlns';
const ODS_TYPE = 'application/vnd.oasis.opendocument.spreadsheet';

/** Blanks that XML would join, tabs and line ends have elements of their own. Source: "Open Document Format" 1.3, part 3, section 6.1. */
const odsText = (text: string): string =>
  text
    .split('\n')
    .map(
      (line) =>
        `<text:p>${escaped(line)
          .replaceAll('\t', '<text:tab/>')
          .replace(/^ | (?= )| $/g, '<text:s/>')}</text:p>`,
    )
    .join('');

/** Source: "Open Document Format for Office Applications" 1.3, part 2 section 3 and part 3 sections 9.1 to 9.4. */
const ODS: Kind = {
  row: (cells) =>
    `<table:table-row>${cells
      .map(({ value, date }) => {
        if (value === null || value === '') return '<table:table-cell/>';
        if (typeof value === 'number') return `<table:table-cell office:value-type="float" office:value="${plainDecimal(value)}"/>`;
        if (typeof value === 'boolean') return `<table:table-cell office:value-type="boolean" office:boolean-value="${value}"/>`;
        const text = valueText(value);
        if (date && /^\d{4}-\d{2}-\d{2}$/.test(text))
          return `<table:table-cell table:style-name="day" office:value-type="date" office:date-value="${text}"/>`;
        return `<table:table-cell office:value-type="string">${odsText(text)}</table:table-cell>`;
      })
      .join('')}</table:table-row>\n`,
  async put(zip, sheets) {
    // first, and as it is. Source: "Open Document Format" 1.3, part 2, section 3.3
    await zip.store('mimetype', new TextEncoder().encode(ODS_TYPE));
    await zip.add(
      'META-INF/manifest.xml',
      bytes(
        `${HEAD}<manifest:manifest xmlns:manifest="${OASIS}:manifest:1.0" manifest:version="1.3"><manifest:file-entry manifest:full-path="/" manifest:version="1.3" manifest:media-type="${ODS_TYPE}"/><manifest:file-entry manifest:full-path="content.xml" manifest:media-type="text/xml"/></manifest:manifest>`,
      ),
    );
    await zip.add('content.xml', content(sheets));
  },
};

async function* content(sheets: readonly SheetOut[]): AsyncGenerator<Uint8Array> {
  yield* bytes(
    `${HEAD}<office:document-content xmlns:office="${OASIS}:office:1.0" xmlns:table="${OASIS}:table:1.0" xmlns:text="${OASIS}:text:1.0" xmlns:style="${OASIS}:style:1.0" xmlns:number="${OASIS}:datastyle:1.0" office:version="1.3"><office:automatic-styles><number:date-style style:name="iso"><number:year number:style="long"/><number:text>-</number:text><number:month number:style="long"/><number:text>-</number:text><number:day number:style="long"/></number:date-style><style:style style:name="day" style:family="table-cell" style:data-style-name="iso"/></office:automatic-styles><office:body><office:spreadsheet>\n`,
  );
  for (const { name, rows } of sheets) yield* around(`<table:table table:name="${escaped(name)}">\n`, rows, '</table:table>\n');
  yield* bytes('</office:spreadsheet></office:body></office:document-content>');
}

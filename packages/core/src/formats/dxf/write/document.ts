import { type Crs, isOnEarth } from '../../../crs/crs';
import { BY_BLOCK, BY_LAYER, type BlockSymbol, symbolKey } from '../../../symbology/library';
import { type FeatureBatch, LINE, POINT, POLYGON, TEXT, eachPart, vertexRange } from '../../../model/batch';
import { type Bounds, isEmpty } from '../../../geometry/bounds';
import { OWN_APPLICATION } from '../xdata';
import { EntityWriter } from './geometry';
import { drawingUnitOf, putGeoData } from './geo-data';
import type { GroupWriter } from './groups';
import { type Pen, putColor } from './symbology';
import { putDefinitions, putPictureClasses, type ShownPicture } from './picture';
import { type SymbolTables, uniqueIn, validName } from './symbol-tables';

/** What stands around the objects: header, tables, block definitions before them, and what hangs on them behind. */
export interface Frame {
  model: EntityWriter;
  /** Fills in what is known only now, and ends the file. */
  finish(
    extent: Bounds,
    z: readonly [number, number],
    groups: ReadonlyMap<string, readonly string[]>,
    pictures?: readonly ShownPicture[],
  ): Promise<void>;
}

/** A layer of the drawing to be written. */
export interface LayerEntry {
  name: string;
  color: string | null;
}

/**
 * Opens a drawing up to the first object of the model. Source: DXF Reference, "Organization of the DXF file".
 * @param withPictures whether it will show any
 */
export async function openDrawing(
  out: GroupWriter,
  layers: readonly LayerEntry[],
  tables: SymbolTables,
  crs: Crs,
  withPictures = false,
): Promise<Frame> {
  const { version } = out;
  const modern = version.modern;
  const [model, paper] = [out.handle(), out.handle()];
  const [root, groups, layoutList, modelLayout, paperLayout, extension, geo] = Array.from({ length: 7 }, () => out.handle());
  const section = (name: string): void => {
    out.put(0, 'SECTION');
    out.put(2, name);
  };
  section('HEADER');
  const variable = (name: string, code: number, value: string | number): void => {
    out.put(9, name);
    out.put(code, value);
  };
  variable('$ACADVER', 1, version.mark);
  variable('$DWGCODEPAGE', 3, 'ANSI_1252');
  if (modern) variable('$INSUNITS', 70, drawingUnitOf(crs));
  else variable('$HANDLING', 70, 1);
  const corners: number[] = [];
  for (const name of ['$EXTMIN', '$EXTMAX']) {
    out.put(9, name);
    for (const code of [10, 20, 30]) corners.push(await out.later(code));
  }
  out.put(9, '$HANDSEED');
  const seedAt = await out.later(5);
  out.put(0, 'ENDSEC');
  if (modern) {
    section('CLASSES');
    if (withPictures) putPictureClasses(out);
    out.put(0, 'ENDSEC');
  }
  section('TABLES');
  const view = await putTables(out, layers, tables, {
    model,
    paper,
    extension: version.located ? extension! : null,
    modelLayout: modelLayout!,
    paperLayout: paperLayout!,
  });
  out.put(0, 'ENDSEC');
  section('BLOCKS');
  for (const { name, record, symbol } of view.records) {
    putBlock(out, name, record, symbol, tables);
    if (out.full) await out.flush();
  }
  out.put(0, 'ENDSEC');
  section('ENTITIES');
  return {
    model: new EntityWriter(out, modern ? model : null),
    async finish(extent, z, members, pictures = []) {
      const box: Bounds = isEmpty(extent) ? [0, 0, 1, 1] : extent;
      out.put(0, 'ENDSEC');
      if (modern) {
        section('OBJECTS');
        const dictionary = (handle: string, owner: string, entries: [string, string][]): void => {
          out.put(0, 'DICTIONARY');
          out.put(5, handle);
          out.put(330, owner);
          out.put(100, 'AcDbDictionary');
          out.put(281, 1);
          for (const [name, entry] of entries) {
            out.words(3, name);
            out.put(350, entry);
          }
        };
        const pictureList = pictures.length > 0 ? out.handle() : null;
        dictionary(root!, '0', [
          ['ACAD_GROUP', groups!],
          ...(pictureList === null ? [] : [['ACAD_IMAGE_DICT', pictureList] as [string, string]]),
          ['ACAD_LAYOUT', layoutList!],
        ]);
        if (pictureList !== null) {
          dictionary(
            pictureList,
            root!,
            pictures.map(({ file, definition }) => [validName(file.replace(/\.[^.]*$/, ''), version), definition]),
          );
          putDefinitions(out, pictureList, pictures);
        }
        const taken = new Set<string>();
        const named = [...members].map(([name, handles]) => ({
          name: uniqueIn(taken, validName(name, version), version),
          handle: out.handle(),
          handles,
        }));
        dictionary(
          groups!,
          root!,
          named.map(({ name, handle }) => [name, handle]),
        );
        for (const { handle, handles } of named) putGroup(out, handle, groups!, handles);
        dictionary(layoutList!, root!, [
          ['Model', modelLayout!],
          ['Layout1', paperLayout!],
        ]);
        putLayout(out, modelLayout!, layoutList!, 'Model', 0, model, box);
        putLayout(out, paperLayout!, layoutList!, 'Layout1', 1, paper, null);
        // what has no place on earth has no location object either
        if (version.located && isOnEarth(crs)) {
          dictionary(extension!, model, [['ACAD_GEOGRAPHICDATA', geo!]]);
          putGeoData(out, crs, geo!, extension!, model, [(box[0] + box[2]) / 2, (box[1] + box[3]) / 2]);
        }
        out.put(0, 'ENDSEC');
      }
      out.put(0, 'EOF');
      await out.flush();
      const values = [box[0], box[1], z[0] <= z[1] ? z[0] : 0, box[2], box[3], z[0] <= z[1] ? z[1] : 0];
      for (const [k, at] of corners.entries()) await out.fill(at, values[k]!);
      await out.fillText(seedAt, out.seed);
      const [width, height] = [Math.max(box[2] - box[0], 1e-6), Math.max(box[3] - box[1], 1e-6)];
      await out.fill(view.x, (box[0] + box[2]) / 2);
      await out.fill(view.y, (box[1] + box[3]) / 2);
      await out.fill(view.height, 1.1 * Math.max(height, width / VIEW_ASPECT));
      await out.close();
    },
  };
}

/** Objects that are selected together. Source: DXF Reference, GROUP. */
function putGroup(out: GroupWriter, handle: string, owner: string, members: readonly string[]): void {
  out.put(0, 'GROUP');
  out.put(5, handle);
  out.put(330, owner);
  out.put(100, 'AcDbGroup');
  out.put(300, '');
  out.put(70, 0);
  out.put(71, 1);
  for (const member of members) out.put(340, member);
}

/** Width to height of the view in which a drawing opens. */
const VIEW_ASPECT = 1.6;

interface Handles {
  model: string;
  paper: string;
  extension: string | null;
  modelLayout: string;
  paperLayout: string;
}

async function putTables(
  out: GroupWriter,
  layers: readonly LayerEntry[],
  tables: SymbolTables,
  handles: Handles,
): Promise<{ x: number; y: number; height: number; records: { name: string; record: string; symbol: BlockSymbol | null }[] }> {
  const { modern } = out.version;
  let owner = '0';
  const table = (name: string, size: number): void => {
    out.put(0, 'TABLE');
    out.put(2, name);
    if (modern) {
      owner = out.handle();
      out.put(5, owner);
      out.put(330, '0');
      out.put(100, 'AcDbSymbolTable');
    }
    out.put(70, size);
    if (modern && name === 'DIMSTYLE') out.put(100, 'AcDbDimStyleTable');
  };
  const end = (): void => out.put(0, 'ENDTAB');
  const record = (type: string, subclass: string, name: string, handle = out.handle(), extension: string | null = null): void => {
    out.put(0, type);
    // the old form knows no handles in its tables
    if (modern) {
      out.put(type === 'DIMSTYLE' ? 105 : 5, handle);
      if (extension !== null) {
        // the dictionary that hangs on it
        out.put(102, '{ACAD_XDICTIONARY');
        out.put(360, extension);
        out.put(102, '}');
      }
      out.put(330, owner);
    }
    if (modern) {
      out.put(100, 'AcDbSymbolTableRecord');
      out.put(100, subclass);
    }
    out.words(2, name);
  };

  table('VPORT', 1);
  record('VPORT', 'AcDbViewportTableRecord', '*ACTIVE');
  out.put(70, 0);
  for (const [code, v] of [
    [10, 0],
    [20, 0],
    [11, 1],
    [21, 1],
  ] as const)
    out.put(code, v);
  const x = await out.later(12),
    y = await out.later(22);
  for (const [code, v] of [
    [13, 0],
    [23, 0],
    [14, 10],
    [24, 10],
    [15, 10],
    [25, 10],
    [16, 0],
    [26, 0],
    [36, 1],
    [17, 0],
    [27, 0],
    [37, 0],
  ] as const)
    out.put(code, v);
  const height = await out.later(40);
  for (const [code, v] of [
    [41, VIEW_ASPECT],
    [42, 50],
    [43, 0],
    [44, 0],
    [50, 0],
    [51, 0],
    [71, 0],
    [72, 1000],
    [73, 1],
    [74, 3],
    [75, 0],
    [76, 0],
    [77, 0],
    [78, 0],
  ] as const)
    out.put(code, v);
  end();

  table('LTYPE', 3 + tables.lines.length);
  const plain = modern ? ['ByBlock', 'ByLayer', 'Continuous'] : ['CONTINUOUS'];
  for (const { name, pattern } of [
    ...plain.map((name) => ({ name, pattern: { description: '', dashes: [] as number[] } })),
    ...tables.lines,
  ]) {
    record('LTYPE', 'AcDbLinetypeTableRecord', name);
    out.put(70, 0);
    out.words(3, pattern.description.replace(/[\r\n]/g, ' '));
    out.put(72, 65);
    out.put(73, pattern.dashes.length);
    out.put(
      40,
      pattern.dashes.reduce((sum, d) => sum + Math.abs(d), 0),
    );
    for (const dash of pattern.dashes) {
      out.put(49, dash);
      if (modern) out.put(74, 0);
    }
  }
  end();

  // the layer that every drawing has; it may be one of those that are written
  const all = layers.some((l) => l.name === '0') ? layers : [{ name: '0', color: null }, ...layers];
  table('LAYER', all.length);
  for (const layer of all) {
    record('LAYER', 'AcDbLayerTableRecord', layer.name);
    out.put(70, 0);
    if (layer.color === null) out.put(62, 7);
    else putColor(out, layer.color);
    out.put(6, modern ? 'Continuous' : 'CONTINUOUS');
    if (modern) out.put(370, -3);
  }
  end();

  table('STYLE', 1);
  record('STYLE', 'AcDbTextStyleTableRecord', modern ? 'Standard' : 'STANDARD');
  for (const [code, v] of [
    [70, 0],
    [40, 0],
    [41, 1],
    [50, 0],
    [71, 0],
    [42, 2.5],
    [3, 'txt'],
    [4, ''],
  ] as const)
    out.put(code, v);
  end();
  for (const name of ['VIEW', 'UCS']) {
    table(name, 0);
    end();
  }

  const applications = [...new Set(['ACAD', OWN_APPLICATION, ...tables.applications])];
  table('APPID', applications.length);
  for (const name of applications) {
    record('APPID', 'AcDbRegAppTableRecord', name);
    out.put(70, 0);
  }
  end();
  table('DIMSTYLE', 1);
  record('DIMSTYLE', 'AcDbDimStyleTableRecord', modern ? 'Standard' : 'STANDARD');
  out.put(70, 0);
  end();

  const records = [
    { name: '*Model_Space', record: handles.model, symbol: null as BlockSymbol | null },
    { name: '*Paper_Space', record: handles.paper, symbol: null },
    ...tables.blocks.map((b) => ({ name: b.name, record: out.handle(), symbol: b.symbol as BlockSymbol | null })),
  ];
  if (modern) {
    table('BLOCK_RECORD', records.length);
    for (const { name, record: handle } of records) {
      record('BLOCK_RECORD', 'AcDbBlockTableRecord', name, handle, handle === handles.model ? handles.extension : null);
      out.put(340, handle === handles.model ? handles.modelLayout : handle === handles.paper ? handles.paperLayout : '0');
    }
    end();
  }
  return { x, y, height, records: modern ? records : records.filter((r) => r.symbol) };
}

function putLayout(out: GroupWriter, handle: string, owner: string, name: string, order: number, space: string, box: Bounds | null): void {
  out.put(0, 'LAYOUT');
  out.put(5, handle);
  out.put(330, owner);
  out.put(100, 'AcDbPlotSettings');
  for (const [code, v] of [
    [1, ''],
    [2, ''],
    [4, 'A3'],
    [6, ''],
    [40, 7.5],
    [41, 20],
    [42, 7.5],
    [43, 20],
    [44, 420],
    [45, 297],
    [46, 0],
    [47, 0],
    [48, 0],
    [49, 0],
    [140, 0],
    [141, 0],
    [142, 1],
    [143, 1],
    [70, box ? 1024 : 0],
    [72, 1],
    [73, 1],
    [74, 5],
    [7, ''],
    [75, 16],
    [147, 1],
    [148, 0],
    [149, 0],
  ] as const)
    out.put(code, v);
  out.put(100, 'AcDbLayout');
  out.put(1, name);
  out.put(70, 1);
  out.put(71, order);
  for (const [code, v] of [
    [10, 0],
    [20, 0],
    [11, 420],
    [21, 297],
    [12, 0],
    [22, 0],
    [32, 0],
  ] as const)
    out.put(code, v);
  out.point(14, box?.[0] ?? 0, box?.[1] ?? 0, 0);
  out.point(15, box?.[2] ?? 420, box?.[3] ?? 297, 0);
  out.put(146, 0);
  out.point(13, 0, 0, 0);
  out.point(16, 1, 0, 0);
  out.point(17, 0, 1, 0);
  out.put(76, 0);
  out.put(330, space);
}

function putBlock(out: GroupWriter, name: string, record: string, symbol: BlockSymbol | null, tables: SymbolTables): void {
  const { modern } = out.version;
  const begin = (type: string, subclass: string): void => {
    out.put(0, type);
    out.put(5, out.handle());
    if (modern) {
      out.put(330, record);
      out.put(100, 'AcDbEntity');
    }
    out.put(8, '0');
    if (modern) out.put(100, subclass);
  };
  begin('BLOCK', 'AcDbBlockBegin');
  out.words(2, name);
  out.put(70, symbol && symbol.attributes.some((a) => !a.constant) ? 2 : 0);
  out.point(10, ...(symbol?.base ?? ([0, 0, 0] as [number, number, number])));
  out.words(3, name);
  out.put(1, '');
  if (symbol) {
    const hand = new EntityWriter(out, modern ? record : null, true);
    for (let i = 0; i < symbol.parts.count; i++) putPart(hand, symbol.parts, i, tables);
    for (const attribute of symbol.attributes) {
      hand.begin('ATTDEF', '0', {}, 'AcDbText');
      out.point(10, ...attribute.at);
      out.put(40, attribute.height > 0 ? attribute.height : 1);
      out.words(1, attribute.value.replace(/[\r\n]/g, ' '));
      if (attribute.angle !== 0) out.put(50, attribute.angle);
      hand.mark('AcDbAttributeDefinition');
      out.words(3, attribute.prompt.replace(/[\r\n]/g, ' '));
      out.words(2, attribute.tag);
      out.put(70, (attribute.invisible ? 1 : 0) + (attribute.constant ? 2 : 0));
    }
  }
  begin('ENDBLK', 'AcDbBlockEnd');
}

/** One part of a symbol, on the layer that it lies on by itself; what follows the block's place lies on layer 0. */
function putPart(hand: EntityWriter, parts: FeatureBatch, i: number, tables: SymbolTables): void {
  const { version } = hand.out;
  const at = (name: string): unknown => parts.columns.get(name)?.[i] ?? null;
  const color = at('color'),
    weight = at('lineweight_mm'),
    linetype = at('linetype');
  const pen: Pen = {
    ...(color === BY_BLOCK ? { color: 'by block' as const } : typeof color === 'string' && color !== BY_LAYER ? { color } : {}),
    ...(weight === BY_BLOCK ? { lineweight_mm: 'by block' as const } : typeof weight === 'number' ? { lineweight_mm: weight } : {}),
    ...(linetype === BY_BLOCK
      ? { linetype: 'by block' as const }
      : typeof linetype === 'string' && tables.hasLine(linetype)
        ? { linetype: version.modern ? linetype : linetype.toUpperCase() }
        : {}),
  };
  const own = at('layer');
  const name = typeof own === 'string' && own !== BY_LAYER ? validName(own, version) : '0';
  const layer = tables.layers.some((l) => symbolKey(l.name) === symbolKey(name)) ? name : '0';
  const kind = parts.kinds[i];
  const [start] = vertexRange(parts, i);
  const first: [number, number, number] = [parts.coords[3 * start]!, parts.coords[3 * start + 1]!, parts.coords[3 * start + 2]! || 0];
  if (kind === POINT) hand.point(layer, pen, ...first, 0);
  else if (kind === TEXT) {
    const height = Number(at('text_height') ?? 0);
    hand.text(layer, pen, String(at('text') ?? '').replaceAll('\n', ' '), first, height > 0 ? height : 1, Number(at('text_angle') ?? 0));
  } else if (kind === LINE || kind === POLYGON) {
    eachPart(parts, i, (s, e) => {
      if (e - s >= 2) hand.run(layer, pen, parts.coords, parts.bulges, s, e, kind === POLYGON && e - s > 2, 0);
    });
  }
}

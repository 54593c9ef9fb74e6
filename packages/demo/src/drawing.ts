import type { Point } from './town';

/** A vertex of a polyline: x, y and the bulge of the segment that it begins. */
export type Vertex = [number, number, number?];

export interface LayerSpec {
  name: string;
  color: number;
  linetype?: string;
  /** Hundredths of a millimetre. */
  weight?: number;
}

export interface BlockSpec {
  name: string;
  /** Tags with their prompts. */
  attributes: [string, string][];
  /** Lines and circles about the insertion point, drawing units. */
  circles: number[];
  lines: [number, number, number, number][];
}

const LINETYPES: [string, string, number[]][] = [
  ['Continuous', 'Solid line', []],
  ['DASHED', 'Dashes', [12, -6]],
  ['CENTRE', 'Long and short dashes', [24, -5, 5, -5]],
  ['DOTTED', 'Dots', [0, -4]],
];

/**
 * Writes an ASCII drawing of version R2013 (AC1027) group by group. Source: DXF Reference.
 * Coordinates are taken in metres and multiplied by `scale` into drawing units.
 */
export class Drawing {
  private readonly out: string[] = [];
  private next = 0x100;
  private readonly modelRecord = this.handle();
  private readonly paperRecord = this.handle();
  private readonly min: Point = [Infinity, Infinity];
  private readonly max: Point = [-Infinity, -Infinity];
  private readonly entities: string[] = [];

  constructor(
    private readonly insunits: number,
    private readonly scale: number,
    private readonly layers: LayerSpec[],
    private readonly blocks: BlockSpec[],
  ) {}

  point(layer: string, [x, y]: Point, z: number): void {
    this.begin('POINT', layer, 'AcDbPoint');
    this.at(10, x, y, z);
  }

  line(layer: string, a: Point, b: Point, za = 0, zb = 0): void {
    this.begin('LINE', layer, 'AcDbLine');
    this.at(10, ...a, za);
    this.at(11, ...b, zb);
  }

  circle(layer: string, [x, y]: Point, radius: number): void {
    this.begin('CIRCLE', layer, 'AcDbCircle');
    this.at(10, x, y, 0);
    this.length(40, radius);
  }

  /** Angles in degrees, counter-clockwise from east. */
  arc(layer: string, [x, y]: Point, radius: number, start: number, end: number): void {
    this.begin('ARC', layer, 'AcDbCircle');
    this.at(10, x, y, 0);
    this.length(40, radius);
    this.put(100, 'AcDbArc');
    this.real(50, start);
    this.real(51, end);
  }

  polyline(layer: string, vertices: Vertex[], closed = false, elevation = 0): void {
    this.begin('LWPOLYLINE', layer, 'AcDbPolyline');
    this.put(90, vertices.length);
    this.put(70, closed ? 1 : 0);
    if (elevation !== 0) this.length(38, elevation);
    for (const [x, y, bulge] of vertices) {
      this.grow(x, y);
      this.length(10, x);
      this.length(20, y);
      if (bulge) this.real(42, bulge);
    }
  }

  polyline3d(layer: string, vertices: [number, number, number][]): void {
    this.begin('POLYLINE', layer, 'AcDb3dPolyline');
    this.put(66, 1);
    this.put(10, 0);
    this.put(20, 0);
    this.put(30, 0);
    this.put(70, 8);
    for (const [x, y, z] of vertices) {
      this.begin('VERTEX', layer, 'AcDbVertex');
      this.put(100, 'AcDb3dPolylineVertex');
      this.at(10, x, y, z);
      this.put(70, 32);
    }
    this.begin('SEQEND', layer, null);
  }

  text(layer: string, [x, y]: Point, height: number, text: string, angle = 0, style = 'Standard'): void {
    this.begin('TEXT', layer, 'AcDbText');
    this.at(10, x, y, 0);
    this.length(40, height);
    this.put(1, text);
    this.real(50, angle);
    this.put(7, style);
    this.put(100, 'AcDbText');
  }

  mtext(layer: string, [x, y]: Point, height: number, text: string, angle = 0): void {
    this.begin('MTEXT', layer, 'AcDbMText');
    this.at(10, x, y, 0);
    this.length(40, height);
    this.length(41, 0);
    this.put(71, 5);
    this.put(72, 1);
    this.put(1, text);
    this.real(50, angle);
  }

  solid(layer: string, corners: [Point, Point, Point, Point]): void {
    this.begin('SOLID', layer, 'AcDbTrace');
    corners.forEach(([x, y], i) => this.at(10 + i, x, y, 0));
  }

  /** A hatch with one straight-edged outline. */
  hatch(layer: string, outline: Point[], pattern: string): void {
    this.begin('HATCH', layer, 'AcDbHatch');
    this.put(10, 0);
    this.put(20, 0);
    this.put(30, 0);
    this.put(210, 0);
    this.put(220, 0);
    this.put(230, 1);
    this.put(2, pattern);
    this.put(70, 1);
    this.put(71, 0);
    this.put(91, 1);
    this.put(92, 2);
    this.put(72, 0);
    this.put(73, 1);
    this.put(93, outline.length);
    for (const [x, y] of outline) {
      this.length(10, x);
      this.length(20, y);
    }
    this.put(97, 0);
    this.put(75, 1);
    this.put(76, 1);
    this.put(98, 0);
  }

  /** A curve through control points, of the third degree with an even knot vector clamped at both ends. */
  spline(layer: string, control: Point[]): void {
    this.begin('SPLINE', layer, 'AcDbSpline');
    this.put(70, 8);
    this.put(71, 3);
    const n = control.length;
    const knots = Array.from({ length: n + 4 }, (_, i) => Math.min(Math.max(i - 3, 0), n - 3));
    this.put(72, knots.length);
    this.put(73, n);
    this.put(74, 0);
    for (const k of knots) this.real(40, k);
    for (const [x, y] of control) this.at(10, x, y, 0);
  }

  /** A solid body, of which a drawing holds no more than a modeller's own bytes. */
  body(layer: string): void {
    this.begin('3DSOLID', layer, 'AcDbModelerGeometry');
    this.put(70, 1);
    this.put(100, 'AcDb3dSolid');
  }

  insert(layer: string, block: string, [x, y]: Point, z: number, angle: number, attributes: Record<string, string>): void {
    const entries = Object.entries(attributes);
    this.begin('INSERT', layer, 'AcDbBlockReference');
    if (entries.length > 0) this.put(66, 1);
    this.put(2, block);
    this.at(10, x, y, z);
    this.real(50, angle);
    if (entries.length === 0) return;
    for (const [tag, text] of entries) {
      this.begin('ATTRIB', layer, 'AcDbText');
      this.at(10, x, y, z);
      this.length(40, 0.4);
      this.put(1, text);
      this.put(100, 'AcDbAttribute');
      this.put(2, tag);
      this.put(70, 1); // invisible: it is data, not lettering
    }
    this.begin('SEQEND', layer, null);
  }

  /** The whole drawing, CR LF at each line's end as the trade writes it. */
  toString(): string {
    const { out } = this;
    const body = this.entities;
    this.section('HEADER', () => {
      this.variable('$ACADVER', 1, 'AC1027');
      this.variable('$DWGCODEPAGE', 3, 'ANSI_1252');
      this.variable('$INSUNITS', 70, this.insunits);
      // dashes of about a metre
      this.variable('$LTSCALE', 40, 0.1 * this.scale);
      for (const [name, corner] of [
        ['$EXTMIN', this.min],
        ['$EXTMAX', this.max],
      ] as const) {
        this.put(9, name, out);
        this.length(10, corner[0], out);
        this.length(20, corner[1], out);
        this.put(30, 0, out);
      }
      this.variable('$HANDSEED', 5, (this.next + 0x1000).toString(16).toUpperCase());
    });
    this.section('TABLES', () => this.tables());
    this.section('BLOCKS', () => this.blockDefinitions());
    this.section('ENTITIES', () => {
      for (const line of body) out.push(line);
    });
    this.section('OBJECTS', () => {
      const root = this.handle();
      this.put(0, 'DICTIONARY', out);
      this.put(5, root, out);
      this.put(330, 0, out);
      this.put(100, 'AcDbDictionary', out);
      this.put(281, 1, out);
    });
    this.put(0, 'EOF', out);
    return out.join('\r\n') + '\r\n';
  }

  private tables(): void {
    const table = (name: string, rows: (() => void)[]): string => {
      const owner = this.handle();
      this.put(0, 'TABLE', this.out);
      this.put(2, name, this.out);
      this.put(5, owner, this.out);
      this.put(330, 0, this.out);
      this.put(100, 'AcDbSymbolTable', this.out);
      this.put(70, rows.length, this.out);
      for (const row of rows) row();
      this.put(0, 'ENDTAB', this.out);
      return owner;
    };
    const record = (type: string, subclass: string, name: string, handle = this.handle()): void => {
      this.put(0, type, this.out);
      this.put(5, handle, this.out);
      this.put(330, 0, this.out);
      this.put(100, 'AcDbSymbolTableRecord', this.out);
      this.put(100, subclass, this.out);
      this.put(2, name, this.out);
    };
    table(
      'LTYPE',
      [['ByBlock', '', []] as [string, string, number[]], ['ByLayer', '', []] as [string, string, number[]], ...LINETYPES].map(
        ([name, text, dashes]) =>
          () => {
            record('LTYPE', 'AcDbLinetypeTableRecord', name);
            this.put(70, 0, this.out);
            this.put(3, text, this.out);
            this.put(72, 65, this.out);
            this.put(73, dashes.length, this.out);
            this.real(
              40,
              dashes.reduce((sum, d) => sum + Math.abs(d), 0),
              this.out,
            );
            for (const dash of dashes) {
              this.real(49, dash, this.out);
              this.put(74, 0, this.out);
            }
          },
      ),
    );
    table(
      'LAYER',
      [{ name: '0', color: 7 }, ...this.layers].map((layer: LayerSpec) => () => {
        record('LAYER', 'AcDbLayerTableRecord', layer.name);
        this.put(70, 0, this.out);
        this.put(62, layer.color, this.out);
        this.put(6, layer.linetype ?? 'Continuous', this.out);
        this.put(370, layer.weight ?? -3, this.out);
      }),
    );
    table(
      'STYLE',
      ['Standard', 'NOTES'].map((name) => () => {
        record('STYLE', 'AcDbTextStyleTableRecord', name);
        this.put(70, 0, this.out);
        this.put(40, 0, this.out);
        this.put(41, 1, this.out);
        this.put(50, 0, this.out);
        this.put(71, 0, this.out);
        this.put(42, 2.5, this.out);
        this.put(3, 'txt', this.out);
        this.put(4, '', this.out);
      }),
    );
    table('APPID', [
      () => {
        record('APPID', 'AcDbRegAppTableRecord', 'ACAD');
        this.put(70, 0, this.out);
      },
    ]);
    table(
      'BLOCK_RECORD',
      [
        ['*Model_Space', this.modelRecord],
        ['*Paper_Space', this.paperRecord],
        ...this.blocks.map((b) => [b.name, this.recordOf(b.name)]),
      ].map(([name, handle]) => () => {
        record('BLOCK_RECORD', 'AcDbBlockTableRecord', name!, handle);
        this.put(340, 0, this.out);
      }),
    );
  }

  private readonly records = new Map<string, string>();
  private recordOf(block: string): string {
    let handle = this.records.get(block);
    if (!handle) this.records.set(block, (handle = this.handle()));
    return handle;
  }

  private blockDefinitions(): void {
    const { out } = this;
    const define = (name: string, owner: string, flags: number, body: () => void): void => {
      this.put(0, 'BLOCK', out);
      this.put(5, this.handle(), out);
      this.put(330, owner, out);
      this.put(100, 'AcDbEntity', out);
      this.put(8, '0', out);
      this.put(100, 'AcDbBlockBegin', out);
      this.put(2, name, out);
      this.put(70, flags, out);
      this.put(10, 0, out);
      this.put(20, 0, out);
      this.put(30, 0, out);
      this.put(3, name, out);
      this.put(1, '', out);
      body();
      this.put(0, 'ENDBLK', out);
      this.put(5, this.handle(), out);
      this.put(330, owner, out);
      this.put(100, 'AcDbEntity', out);
      this.put(8, '0', out);
      this.put(100, 'AcDbBlockEnd', out);
    };
    define('*Model_Space', this.modelRecord, 0, () => {});
    define('*Paper_Space', this.paperRecord, 0, () => {});
    for (const block of this.blocks) {
      const owner = this.recordOf(block.name);
      define(block.name, owner, block.attributes.length > 0 ? 2 : 0, () => {
        for (const radius of block.circles) {
          this.begin('CIRCLE', '0', 'AcDbCircle', out, owner);
          this.put(10, 0, out);
          this.put(20, 0, out);
          this.put(30, 0, out);
          this.length(40, radius, out);
        }
        for (const [x1, y1, x2, y2] of block.lines) {
          this.begin('LINE', '0', 'AcDbLine', out, owner);
          this.length(10, x1, out);
          this.length(20, y1, out);
          this.put(30, 0, out);
          this.length(11, x2, out);
          this.length(21, y2, out);
          this.put(31, 0, out);
        }
        for (const [tag, prompt] of block.attributes) {
          this.begin('ATTDEF', '0', 'AcDbText', out, owner);
          this.put(10, 0, out);
          this.put(20, 0, out);
          this.put(30, 0, out);
          this.length(40, 0.4, out);
          this.put(1, '', out);
          this.put(100, 'AcDbAttributeDefinition', out);
          this.put(3, prompt, out);
          this.put(2, tag, out);
          this.put(70, 1, out);
        }
      });
    }
  }

  private section(name: string, body: () => void): void {
    this.put(0, 'SECTION', this.out);
    this.put(2, name, this.out);
    body();
    this.put(0, 'ENDSEC', this.out);
  }

  private variable(name: string, code: number, value: string | number): void {
    this.put(9, name, this.out);
    this.put(code, value, this.out);
  }

  private begin(type: string, layer: string, subclass: string | null, out = this.entities, owner = this.modelRecord): void {
    this.put(0, type, out);
    this.put(5, this.handle(), out);
    this.put(330, owner, out);
    this.put(100, 'AcDbEntity', out);
    this.put(8, layer, out);
    if (subclass) this.put(100, subclass, out);
  }

  private handle(): string {
    return (this.next++).toString(16).toUpperCase();
  }

  private at(code: number, x: number, y: number, z: number): void {
    this.grow(x, y);
    this.length(code, x);
    this.length(code + 10, y);
    this.length(code + 20, z);
  }

  private grow(x: number, y: number): void {
    this.min[0] = Math.min(this.min[0], x);
    this.min[1] = Math.min(this.min[1], y);
    this.max[0] = Math.max(this.max[0], x);
    this.max[1] = Math.max(this.max[1], y);
  }

  /** A length in metres as drawing units, to a thousandth of a millimetre. */
  private length(code: number, metres: number, out = this.entities): void {
    this.put(code, String(Number((metres * this.scale).toFixed(this.scale === 1 ? 6 : 3))), out);
  }

  private real(code: number, value: number, out = this.entities): void {
    this.put(code, String(Number(value.toPrecision(12))), out);
  }

  private put(code: number, value: string | number, out = this.entities): void {
    out.push(String(code).padStart(3), String(value));
  }
}

import { insertionMap } from '../../geometry/affine';
import { ocs } from '../../geometry/ocs';
import { addParts } from '../../symbology/symbol-parts';
import { BatchBuilder } from '../../model/batch-builder';
import { type BlockAttribute, type BlockSymbol, symbolKey } from '../../symbology/library';
import { type Around, DRAW, type Follower } from './draw';
import type { BlockHead, CommonEntity, Entity, EntityName, LayerRecord } from './entities';
import type { Loose } from './entity-table';
import { partLook } from './style';
import { plainText } from './text';

/** An object of a block definition as it was read. */
export interface Item {
  type: string;
  entity: Loose;
  line: number;
  follower: Follower;
}

/** A block as its section defines it: its head, and what it draws. */
export interface Definition {
  head: BlockHead;
  items: Item[];
}

/** Vertices of one symbol with all that is nested in it; more is no symbol, and nested arrays grow without end. */
const MOST_VERTICES = 100_000;

/** Flags of an attribute definition. Source: DXF Reference, ATTDEF. */
const INVISIBLE = 1,
  CONSTANT = 2;

/** The block definitions of a drawing, each worked out into a symbol when it is first asked for. */
export class BlockTable {
  readonly definitions = new Map<string, Definition>();
  private readonly symbols = new Map<string, BlockSymbol | string>();
  private readonly open = new Set<string>();

  constructor(private readonly layerOf: (name: string) => LayerRecord | undefined) {}

  /** The symbol of a block, or why there is none. Those within it are worked out before it, however deep they are nested. */
  symbol(name: string): BlockSymbol | string {
    const key = symbolKey(name);
    const known = this.symbols.get(key);
    if (known !== undefined) return known;
    if (!this.definitions.has(key)) return 'a block that is not defined';
    if (this.open.has(key)) return 'a block that holds itself';
    const stack = [this.enter(key)];
    for (let top = stack.at(-1); top; top = stack.at(-1)) {
      const { value: next, done } = top.within.next();
      if (done) {
        this.symbols.set(top.key, this.draw(this.definitions.get(top.key)!));
        this.open.delete(top.key);
        stack.pop();
      } else if (!this.symbols.has(next) && !this.open.has(next) && this.definitions.has(next)) stack.push(this.enter(next));
    }
    return this.symbols.get(key)!;
  }

  private enter(key: string): { key: string; within: Iterator<string> } {
    this.open.add(key);
    return { key, within: namesWithin(this.definitions.get(key)!) };
  }

  private draw({ head, items }: Definition): BlockSymbol | string {
    const out = new BatchBuilder(head.name);
    const attributes: BlockAttribute[] = [];
    const around = (follower: Follower): Around => ({ ...follower, block: (name) => this.symbol(name) });
    for (const item of items) {
      if (out.vertices > MOST_VERTICES) return `more than ${MOST_VERTICES} vertices in its block`;
      if (item.type === 'ATTDEF') attributes.push(attributeOf(item.entity as unknown as Entity<'ATTDEF'>));
      else if (item.type === 'INSERT') {
        const problem = this.nest(item, out);
        if (problem) return problem;
      } else this.drawOne(item.type, item.entity, item.line, around(item.follower), out);
    }
    return { name: head.name, base: [head.x, head.y, head.z], parts: out.take(), attributes };
  }

  private drawOne(type: string, entity: Loose, line: number, around: Around, out: BatchBuilder): void {
    const draw = DRAW[type as EntityName] as ((e: unknown, out: BatchBuilder, around: Around) => number | string) | undefined;
    const kind = draw?.(entity, out, around);
    // what it cannot draw is missing in the symbol only
    if (typeof kind !== 'number') return;
    const common = entity as unknown as CommonEntity;
    for (const [name, value] of Object.entries(partLook(common, this.layerOf(common.layer)).own)) out.set(name, value);
    out.endFeature(kind, type, line);
  }

  /** A block within a block, taken apart. */
  private nest(item: Item, out: BatchBuilder): string | null {
    const e = item.entity as unknown as Entity<'INSERT'>;
    const symbol = this.symbol(e.name);
    if (typeof symbol === 'string') return symbol === 'a block that is not defined' ? null : symbol;
    const look = partLook(e, this.layerOf(e.layer));
    const [columns, rows] = [Math.max(1, e.columns), Math.max(1, e.rows)];
    // a copy costs, even of an empty block
    if ((symbol.parts.coords.length / 3 + 1) * columns * rows > MOST_VERTICES) return `more than ${MOST_VERTICES} vertices in its block`;
    const plane = ocs(e.nx, e.ny, e.nz);
    for (const [x, y] of copiesOf(e)) {
      addParts(
        symbol.parts,
        insertionMap(
          { at: plane.toWorld(x, y, e.z), angle: e.rotation, scale: [e.sx, e.sy, e.sz], normal: [e.nx, e.ny, e.nz] },
          symbol.base,
        ),
        look,
        out,
      );
    }
    for (const attribute of item.follower.attributes) {
      if (!(attribute.flags & INVISIBLE))
        this.drawOne('ATTRIB', attribute as unknown as Loose, item.line, { ...item.follower, block: () => '' }, out);
    }
    return null;
  }
}

/** Names of the blocks that the objects of a block are drawn with. */
function* namesWithin({ items }: Definition): Generator<string> {
  for (const { type, entity } of items) {
    if (type === 'INSERT') yield symbolKey(String(entity.name));
    else if (typeof entity.block === 'string' && entity.block !== '') yield symbolKey(entity.block);
  }
}

/** Where the copies of an array of blocks stand, in the frame of the entity; rows and columns turn with it. */
export function* copiesOf(
  e: Pick<Entity<'INSERT'>, 'x' | 'y' | 'rotation' | 'columns' | 'rows' | 'columnGap' | 'rowGap'>,
): Generator<[number, number]> {
  const turn = (e.rotation * Math.PI) / 180,
    c = Math.cos(turn),
    s = Math.sin(turn);
  for (let row = 0; row < Math.max(1, e.rows); row++) {
    for (let column = 0; column < Math.max(1, e.columns); column++) {
      const dx = column * e.columnGap,
        dy = row * e.rowGap;
      yield [e.x + dx * c - dy * s, e.y + dx * s + dy * c];
    }
  }
}

function attributeOf(e: Entity<'ATTDEF'>): BlockAttribute {
  return {
    tag: e.tag,
    prompt: plainText(e.prompt),
    value: plainText(e.text),
    constant: (e.flags & CONSTANT) !== 0,
    invisible: (e.flags & INVISIBLE) !== 0,
    at: [e.x, e.y, e.z],
    height: e.height,
    angle: e.rotation,
  };
}

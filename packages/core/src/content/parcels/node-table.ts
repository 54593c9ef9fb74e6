/** Places at least a distance apart: what is asked for within that distance of one is that one. */
export class NodeTable {
  private xs = new Float64Array(1024);
  private ys = new Float64Array(1024);
  /** The node before in the same cell; -1 for none. */
  private before = new Int32Array(1024);
  private readonly cells = new Map<number, number>();
  private readonly cell: number;
  count = 0;

  /** @param within the distance, above nought */
  constructor(private readonly within: number) {
    this.cell = 2 * within;
  }

  x(node: number): number {
    return this.xs[node]!;
  }

  y(node: number): number {
    return this.ys[node]!;
  }

  /** How far a place is from a node. */
  distance(node: number, x: number, y: number): number {
    return Math.hypot(this.xs[node]! - x, this.ys[node]! - y);
  }

  /** x and y of all nodes, by twos. */
  all(): Float64Array {
    const out = new Float64Array(2 * this.count);
    for (let k = 0; k < this.count; k++) {
      out[2 * k] = this.xs[k]!;
      out[2 * k + 1] = this.ys[k]!;
    }
    return out;
  }

  /** The nearest node within the distance of a place, or a new one there. */
  take(x: number, y: number): number {
    const [column, row] = [Math.floor(x / this.cell), Math.floor(y / this.cell)];
    let [best, least] = [-1, this.within];
    for (let c = column - 1; c <= column + 1; c++)
      for (let r = row - 1; r <= row + 1; r++)
        for (let node = this.cells.get(hash(c, r)) ?? -1; node >= 0; node = this.before[node]!) {
          const d = this.distance(node, x, y);
          // of several as near, the first: a later one in the list of a cell is an earlier node
          if (d < least || (d === least && (best < 0 || node < best))) [best, least] = [node, d];
        }
    if (best >= 0) return best;
    if (this.count === this.xs.length) this.grow();
    const node = this.count++;
    this.xs[node] = x;
    this.ys[node] = y;
    const key = hash(column, row);
    this.before[node] = this.cells.get(key) ?? -1;
    this.cells.set(key, node);
    return node;
  }

  private grow(): void {
    const double = <A extends Float64Array | Int32Array>(from: A): A => {
      const to = new (from.constructor as new (n: number) => A)(2 * from.length);
      to.set(from);
      return to;
    };
    this.xs = double(this.xs);
    this.ys = double(this.ys);
    this.before = double(this.before);
  }
}

/** One number of a cell; cells far apart may have the same, which costs time and nothing else. */
const hash = (column: number, row: number): number => (column % 2 ** 26) * 2 ** 26 + (row % 2 ** 26);

/** Points that triangles share: each is there once. */
export class VertexTable {
  private coords = new Float64Array(3 * 1024);
  private slots = new Int32Array(2048).fill(-1);
  private readonly bits = new Float64Array(3);
  private readonly words = new Uint32Array(this.bits.buffer);
  count = 0;

  /** The number of a point. */
  take(x: number, y: number, z: number): { number: number; isNew: boolean } {
    for (let slot = this.hash(x, y, z) & (this.slots.length - 1); ; slot = (slot + 1) & (this.slots.length - 1)) {
      const number = this.slots[slot]!;
      if (number < 0) {
        this.slots[slot] = this.count;
        return this.add(x, y, z);
      }
      const at = 3 * number;
      // NaN, where there is no height, is one with itself
      if (Object.is(this.coords[at], x) && Object.is(this.coords[at + 1], y) && Object.is(this.coords[at + 2], z))
        return { number, isNew: false };
    }
  }

  private add(x: number, y: number, z: number): { number: number; isNew: boolean } {
    const number = this.count++;
    if (3 * this.count > this.coords.length) {
      const more = new Float64Array(2 * this.coords.length);
      more.set(this.coords);
      this.coords = more;
    }
    this.coords.set([x, y, z], 3 * number);
    if (2 * this.count > this.slots.length) this.grow();
    return { number, isNew: true };
  }

  private grow(): void {
    const mask = 2 * this.slots.length - 1;
    this.slots = new Int32Array(mask + 1).fill(-1);
    for (let k = 0; k < this.count; k++) {
      let slot = this.hash(this.coords[3 * k]!, this.coords[3 * k + 1]!, this.coords[3 * k + 2]!) & mask;
      while (this.slots[slot]! >= 0) slot = (slot + 1) & mask;
      this.slots[slot] = k;
    }
  }

  private hash(x: number, y: number, z: number): number {
    this.bits[0] = x;
    this.bits[1] = y;
    this.bits[2] = z;
    let h = 0x811c9dc5;
    for (const word of this.words) h = Math.imul(h ^ word ^ (word >>> 15), 0x01000193);
    return (h ^ (h >>> 13)) >>> 0;
  }
}

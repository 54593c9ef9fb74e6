/**
 * Reads tables of FlatBuffers where they lie. Every number is looked up within bounds: what points outside throws RangeError.
 * Source: FlatBuffers, "Internals" (tables, vectors, strings; least byte first).
 */
export class Table {
  private constructor(
    private readonly view: DataView,
    private readonly at: number,
  ) {}

  /** The outermost table of a buffer. */
  static root(bytes: Uint8Array): Table {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    return new Table(view, view.getUint32(0, true));
  }

  /** Where a field stands; 0 where it is left out. */
  private place(field: number): number {
    const { view, at } = this;
    const slots = at - view.getInt32(at, true);
    const slot = 4 + 2 * field;
    if (slot >= view.getUint16(slots, true)) return 0;
    const offset = view.getUint16(slots + slot, true);
    return offset === 0 ? 0 : at + offset;
  }

  byte(field: number, otherwise = 0): number {
    const at = this.place(field);
    return at === 0 ? otherwise : this.view.getUint8(at);
  }

  short(field: number, otherwise = 0): number {
    const at = this.place(field);
    return at === 0 ? otherwise : this.view.getUint16(at, true);
  }

  integer(field: number, otherwise = 0): number {
    const at = this.place(field);
    return at === 0 ? otherwise : this.view.getInt32(at, true);
  }

  /** An unsigned number of 64 bits. */
  long(field: number): number {
    const at = this.place(field);
    return at === 0 ? 0 : Number(this.view.getBigUint64(at, true));
  }

  table(field: number): Table | null {
    const at = this.place(field);
    return at === 0 ? null : new Table(this.view, at + this.view.getUint32(at, true));
  }

  text(field: number): string | null {
    const bytes = this.bytes(field);
    return bytes && new TextDecoder().decode(bytes);
  }

  /** A vector of bytes. */
  bytes(field: number): Uint8Array | null {
    const found = this.vector(field, 1);
    return found && new Uint8Array(this.view.buffer, this.view.byteOffset + found.at, found.length);
  }

  tables(field: number): Table[] {
    const found = this.vector(field, 4);
    return found
      ? Array.from({ length: found.length }, (_, k) => new Table(this.view, found.at + 4 * k + this.view.getUint32(found.at + 4 * k, true)))
      : [];
  }

  /** A vector of unsigned numbers of 32 bits. */
  counts(field: number): number[] {
    const found = this.vector(field, 4);
    return found ? Array.from({ length: found.length }, (_, k) => this.view.getUint32(found.at + 4 * k, true)) : [];
  }

  /** A vector of doubles: its length, and each by its number. */
  reals(field: number): { length: number; of(k: number): number } | null {
    const found = this.vector(field, 8);
    return found && { length: found.length, of: (k) => this.view.getFloat64(found.at + 8 * k, true) };
  }

  private vector(field: number, width: number): { at: number; length: number } | null {
    const at = this.place(field);
    if (at === 0) return null;
    const start = at + this.view.getUint32(at, true);
    const length = this.view.getUint32(start, true);
    if (start + 4 + length * width > this.view.byteLength) throw new RangeError('a vector is longer than its buffer');
    return { at: start + 4, length };
  }
}

/** Bytes that came and are not used yet, in one piece: what is large grows by doubling, so that nothing is copied again and again. */
export class ByteQueue {
  private buffer = new Uint8Array(1 << 16);
  private start = 0;
  private end = 0;

  push(chunk: Uint8Array): void {
    const waiting = this.end - this.start;
    if (this.end + chunk.length > this.buffer.length) {
      const room =
        waiting + chunk.length > this.buffer.length
          ? new Uint8Array(Math.max(2 * this.buffer.length, waiting + chunk.length))
          : this.buffer;
      room.set(this.buffer.subarray(this.start, this.end));
      [this.buffer, this.start, this.end] = [room, 0, waiting];
    }
    this.buffer.set(chunk, this.end);
    this.end += chunk.length;
  }

  /** What waits; good until the next `push`. */
  get bytes(): Uint8Array {
    return this.buffer.subarray(this.start, this.end);
  }

  /** The first `n` bytes are used. */
  drop(n: number): void {
    this.start += n;
  }

  get length(): number {
    return this.end - this.start;
  }
}

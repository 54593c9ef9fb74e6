/** Numbers that become more; grows by doubling, and is kept when they are taken, so that reading allocates little. */
export class Doubles {
  data = new Float64Array(1024);
  length = 0;
  push(v: number): void {
    if (this.length === this.data.length) {
      const bigger = new Float64Array(this.data.length * 2);
      bigger.set(this.data);
      this.data = bigger;
    }
    this.data[this.length++] = v;
  }
  insert(at: number, values: readonly number[]): void {
    for (const v of values) this.push(v);
    this.data.copyWithin(at + values.length, at, this.length - values.length);
    this.data.set(values, at);
  }
  take(): Float64Array {
    const out = this.data.slice(0, this.length);
    this.length = 0;
    return out;
  }
}

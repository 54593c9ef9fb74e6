import type { OpenSource } from '../../formats/format';
import type { Watch } from '../../io/bytes';
import type { FeatureBatch } from '../../model/batch';
import type { Findings } from '../../model/finding';
import type { Transform } from '../../crs/transform';

/** Steps through the read-back records of a set, those of one source after the other. */
export class Cursor {
  private batches: AsyncIterator<FeatureBatch>;
  batch: FeatureBatch | null = null;
  /** The batch's coordinates carried back into the source's CRS. */
  back: Float64Array = new Float64Array(0);
  row = 0;
  taken = 0;
  private inverse: Transform | null = null;

  constructor(
    open: OpenSource,
    findings: Findings,
    private readonly watch: Watch,
    private readonly onBatch: (batch: FeatureBatch) => void,
  ) {
    this.batches = open.read(findings, { progress() {}, check: () => this.watch.check() })[Symbol.asyncIterator]();
  }

  /** True when the next record is at hand, carried back by `inverse`. */
  ready(inverse: Transform): boolean {
    return this.batch !== null && this.row < this.batch.count && this.inverse === inverse;
  }

  /** Makes `row` the next record; false at the end. */
  async load(inverse: Transform): Promise<boolean> {
    while (!this.batch || this.row >= this.batch.count) {
      const next = await this.batches.next();
      if (next.done) return false;
      this.batch = next.value;
      this.row = 0;
      this.inverse = null;
      this.onBatch(next.value);
    }
    if (this.inverse !== inverse) {
      this.inverse = inverse;
      this.back = Float64Array.from(this.batch.coords);
      inverse.apply(this.back, 0, this.back.length / 3, 3);
    }
    return true;
  }

  /** Ends the reading, wherever it is. */
  async close(): Promise<void> {
    await this.batches.return?.();
  }

  async rest(): Promise<number> {
    let n = this.batch ? this.batch.count - this.row : 0;
    for (let next = await this.batches.next(); !next.done; next = await this.batches.next()) {
      n += next.value.count;
      this.onBatch(next.value);
    }
    return n;
  }
}

import type { Value } from '@pontrel/core/model/value';
import { createReadStream } from 'node:fs';
import { type FileHandle, mkdtemp, open, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { deserialize, serialize } from 'node:v8';
import type { FeatureBatch } from '@pontrel/core/model/batch';

/**
 * Batches of one source, kept in a temporary file between the look at it, the writing and the proof, so that a drawing is
 * parsed once and memory does not grow with it. Each batch is its length (uint32, little endian) and its serialised form.
 */
export class Spool {
  private constructor(
    readonly folder: string,
    private readonly file: string,
    private out: FileHandle | null,
  ) {}

  static async create(): Promise<Spool> {
    const folder = await mkdtemp(path.join(tmpdir(), 'pontrel-'));
    const file = path.join(folder, 'batches');
    return new Spool(folder, file, await open(file, 'w'));
  }

  async add(batch: FeatureBatch): Promise<void> {
    const body = serialize(pack(batch));
    const head = Buffer.alloc(4);
    head.writeUInt32LE(body.length);
    await this.out!.writev([head, body]);
  }

  /** To be called after the last batch. */
  async finish(): Promise<void> {
    await this.out?.close();
    this.out = null;
  }

  async *batches(): AsyncGenerator<FeatureBatch> {
    let rest: Buffer = Buffer.alloc(0);
    for await (const chunk of createReadStream(this.file, { highWaterMark: 1 << 20 }) as AsyncIterable<Buffer>) {
      rest = rest.length === 0 ? chunk : Buffer.concat([rest, chunk]);
      let at = 0;
      while (at + 4 <= rest.length && at + 4 + rest.readUInt32LE(at) <= rest.length) {
        const length = rest.readUInt32LE(at);
        yield unpack(deserialize(rest.subarray(at + 4, at + 4 + length)) as Packed);
        at += 4 + length;
      }
      rest = rest.subarray(at);
    }
  }

  async remove(): Promise<void> {
    await this.finish();
    await rm(this.folder, { recursive: true, force: true });
  }
}

/** A column whose values are all the same is kept as one of them: in a drawing most are. */
type PackedColumn<T> = { all: T } | { each: T[] };

interface Packed extends Omit<FeatureBatch, 'columns' | 'entities'> {
  entities: PackedColumn<string>;
  columns: [string, PackedColumn<Value>][];
}

function packColumn<T>(values: T[]): PackedColumn<T> {
  const [first] = values;
  return values.length > 0 && values.every((v) => v === first) ? { all: first! } : { each: values };
}

function unpackColumn<T>(packed: PackedColumn<T>, count: number): T[] {
  return 'each' in packed ? packed.each : new Array<T>(count).fill(packed.all);
}

function pack(batch: FeatureBatch): Packed {
  return {
    ...batch,
    entities: packColumn(batch.entities),
    columns: [...batch.columns].map(([name, values]) => [name, packColumn(values)]),
  };
}

function unpack(packed: Packed): FeatureBatch {
  const { count } = packed;
  return {
    ...packed,
    entities: unpackColumn(packed.entities, count),
    columns: new Map(packed.columns.map(([name, column]) => [name, unpackColumn(column, count)])),
  };
}

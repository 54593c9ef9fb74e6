import type { Samples } from '../../model/raster';

/** Bytes of unpacked blocks that are kept at hand, of all pictures together: a mosaic may have hundreds open. */
const MOST_BYTES = 64 << 20;

interface Kept {
  samples: Promise<Samples>;
  bytes: number;
  /** The file and the directory that it is of. */
  owner: object;
}

/** Blocks of pictures as they were unpacked, those used last at the end. */
class KeptBlocks {
  private readonly all = new Map<string, Kept>();
  private readonly numbers = new WeakMap<object, number>();
  private owners = 0;
  private bytes = 0;

  /** A block by its number, unpacked by `make` where it is not at hand. @param bytes that it takes */
  get(owner: object, index: number, bytes: number, make: () => Promise<Samples>): Promise<Samples> {
    const key = this.keyOf(owner, index);
    let kept = this.all.get(key);
    if (kept) this.all.delete(key);
    else {
      kept = { samples: make(), bytes, owner };
      this.bytes += bytes;
    }
    this.all.set(key, kept);
    for (const [oldest, { bytes: less }] of this.all) {
      if (this.bytes <= MOST_BYTES || oldest === key) break;
      this.all.delete(oldest);
      this.bytes -= less;
    }
    return kept.samples;
  }

  /** Lets go of the blocks of a picture that was closed. */
  drop(owner: object): void {
    for (const [key, kept] of this.all)
      if (kept.owner === owner) {
        this.all.delete(key);
        this.bytes -= kept.bytes;
      }
  }

  private keyOf(owner: object, index: number): string {
    let number = this.numbers.get(owner);
    if (number === undefined) this.numbers.set(owner, (number = this.owners++));
    return `${number}:${index}`;
  }
}

/** Blocks that were unpacked, of all pictures of the process together. */
export const keptBlocks = new KeptBlocks();

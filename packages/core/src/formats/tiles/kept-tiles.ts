/** Tiles that are kept unpacked. */
const KEPT = 96;

/** The pixels of tiles that were asked for last, by whatever tells them apart. */
export class KeptTiles<K, T> {
  private readonly kept = new Map<K, Promise<T>>();

  get(key: K, unpack: () => Promise<T>): Promise<T> {
    const known = this.kept.get(key) ?? unpack();
    this.kept.delete(key);
    this.kept.set(key, known);
    if (this.kept.size > KEPT) this.kept.delete(this.kept.keys().next().value!);
    return known;
  }
}

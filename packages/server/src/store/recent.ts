/** The last values that were asked for, by key: what many requests need is worked out once. */
export class Recent<T> {
  private readonly values = new Map<string, T>();

  constructor(private readonly most: number) {}

  get(key: string, make: () => T): T {
    const value = this.values.get(key) ?? make();
    this.values.delete(key);
    this.values.set(key, value);
    for (const oldest of this.values.keys()) if (this.values.size > this.most) this.values.delete(oldest);
    return value;
  }

  clear(): void {
    this.values.clear();
  }

  forget(key: string): void {
    this.values.delete(key);
  }
}

import { mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { Catalog } from './catalog';

/** Copies of the catalog that are kept. */
const KEPT = 7;
const DAY_MS = 24 * 3600 * 1000;
const NAME = /^catalog-\d{4}-\d\d-\d\d\.sqlite$/;

/** A copy of the catalog a day, the last seven kept, by SQLite's online backup (sqlite.org/backup.html). */
export class Backups {
  private timer: NodeJS.Timeout | null = null;

  constructor(
    private readonly catalog: Catalog,
    private readonly folder: string,
  ) {}

  /** Makes one now and another each day. */
  async start(): Promise<void> {
    await this.make();
    this.timer = setInterval(() => void this.make().catch(console.error), DAY_MS);
    this.timer.unref();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  private async make(): Promise<void> {
    mkdirSync(this.folder, { recursive: true });
    const file = path.join(this.folder, `catalog-${new Date().toISOString().slice(0, 10)}.sqlite`);
    await this.catalog.backup(`${file}.new`);
    renameSync(`${file}.new`, file);
    const old = readdirSync(this.folder)
      .filter((name) => NAME.test(name))
      .sort()
      .slice(0, -KEPT);
    for (const name of old) rmSync(path.join(this.folder, name), { force: true });
  }
}

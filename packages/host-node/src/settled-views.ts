import { spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';
import type Sqlite from 'better-sqlite3';
import { quotedName } from '@pontrel/core/io/database';

/** What all views of a file may take together: time, and room on disk. */
const MOST_MS = 5000;
const MOST_PAGES = 100_000;

/**
 * Copies the rows of a relation into a table of a new file. A query runs in the engine without a way to stop it, so it runs in a process of
 * its own that can be ended. Arguments: the engine's package, the file, the new file, the relation's name as it stands in a statement, pages.
 */
const COPY = `const [engine, file, copy, name, pages] = process.argv.slice(1);
const Database = require(engine);
const from = new Database(file, { readonly: true });
from.pragma('trusted_schema = OFF');
const to = new Database(copy);
to.exec('PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF; PRAGMA max_page_count = ' + pages);
const rows = from.prepare('SELECT * FROM ' + name).raw().safeIntegers();
const columns = rows.columns().map((c) => '"' + c.name.replaceAll('"', '""') + '"');
to.exec('CREATE TABLE settled (' + columns.join(', ') + '); BEGIN');
const insert = to.prepare('INSERT INTO settled VALUES (' + columns.map(() => '?').join(', ') + ')');
for (const row of rows.iterate()) insert.run(row);
to.exec('COMMIT');`;

/** Views of a file from elsewhere, which may be made to run without end, as tables. */
export class SettledViews {
  private readonly copies: string[] = [];
  private readonly known = new Map<string, string | null>();
  private left_ms = MOST_MS;

  constructor(
    private readonly db: Sqlite.Database,
    private readonly file: string,
  ) {}

  /** @returns what its rows can be read from, as it stands in a statement; null where they could not be reckoned */
  of(name: string): string | null {
    let settled = this.known.get(name);
    if (settled === undefined) this.known.set(name, (settled = this.settle(name)));
    return settled;
  }

  private settle(name: string): string | null {
    if (this.left_ms <= 0) return null;
    const copy = path.join(tmpdir(), `pontrel-view-${randomBytes(8).toString('hex')}.sqlite`);
    this.copies.push(copy);
    const engine = createRequire(import.meta.url).resolve('better-sqlite3');
    const began = Date.now();
    const { status } = spawnSync(
      process.execPath,
      ['-e', COPY, engine, path.resolve(this.file), copy, quotedName(name), String(MOST_PAGES)],
      {
        stdio: 'ignore',
        timeout: this.left_ms,
        killSignal: 'SIGKILL',
      },
    );
    this.left_ms -= Date.now() - began;
    if (status !== 0) return null;
    const schema = `settled${this.copies.length}`;
    this.db.prepare(`ATTACH ? AS ${schema}`).run(copy);
    return `${schema}.settled`;
  }

  /** Takes the copies away; to be called when the file is closed. */
  remove(): void {
    for (const copy of this.copies) rmSync(copy, { force: true });
  }
}

import Sqlite from 'better-sqlite3';
import type { Database, SqlRow } from '@pontrel/core/io/database';
import { SettledViews } from './settled-views';

/** An SQLite database as the core sees it. One that is written is put in place only when it is complete, so it keeps no journal. */
export function openDatabase(file: string, readonly: boolean): Database {
  const db = new Sqlite(file, readonly ? { readonly, fileMustExist: true } : {});
  // what a file from elsewhere defines for itself is not run
  db.pragma('trusted_schema = OFF');
  if (!readonly) db.exec('PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF;');
  const views = readonly ? new SettledViews(db, file) : null;
  return {
    ...(views ? { settled: (name: string) => views.of(name) } : {}),
    execute: (sql) => void db.exec(sql),
    statement(sql) {
      const statement = db.prepare(sql);
      return { run: (...values) => void statement.run(...values) };
    },
    query(sql) {
      const statement = db.prepare(sql);
      return { all: (...values) => statement.all(...values) as SqlRow[] };
    },
    rows: (sql, ...values) => db.prepare(sql).iterate(...values) as IterableIterator<SqlRow>,
    exactRows: (sql, ...values) =>
      db
        .prepare(sql)
        .safeIntegers()
        .iterate(...values) as IterableIterator<SqlRow>,
    close() {
      db.close();
      views?.remove();
    },
  };
}

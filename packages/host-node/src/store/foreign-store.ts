import Database from 'better-sqlite3';
import { INDEX } from './feature-store';
import schema from './features.sql';

const definitions = (db: Database.Database): string =>
  JSON.stringify(db.prepare('SELECT type, name, sql FROM sqlite_master ORDER BY type, name').all());

/**
 * Looks whether a store from elsewhere is one as they are made here, with no view, trigger or table beside, and takes what is kept in it as a
 * serialised value away, since that is not to be read of strangers.
 * @returns false for one that is not to be opened
 */
export function makeForeignStoreSafe(file: string): boolean {
  const own = new Database(':memory:');
  let db: Database.Database | null = null;
  try {
    own.exec(`${schema};${INDEX}`);
    db = new Database(file, { fileMustExist: true });
    db.pragma('trusted_schema = OFF');
    if (definitions(db) !== definitions(own)) return false;
    const [check] = db.pragma('quick_check(1)') as { quick_check: string }[];
    if (check!.quick_check !== 'ok') return false;
    db.exec('PRAGMA journal_mode = DELETE; DELETE FROM library');
    return true;
  } catch {
    return false;
  } finally {
    own.close();
    db?.close();
  }
}

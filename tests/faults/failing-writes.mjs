// Loaded before the server: while the file that FAILING names is there, every so-manieth write to the disk or to a database fails, as on a
// faulty disk. The file holds the number.
import fs, { existsSync, readFileSync } from 'node:fs';
import { createRequire, syncBuiltinESMExports } from 'node:module';
import path from 'node:path';

const flag = process.env.FAILING;
let writes = 0;

/** Throws for each n-th write. */
function write() {
  if (!existsSync(flag)) return;
  const every = Number(readFileSync(flag, 'utf8'));
  if (++writes % every !== 0) return;
  throw Object.assign(new Error('EIO: i/o error, write'), { code: 'EIO', errno: -5, syscall: 'write' });
}

/** @param late whether it fails by a promise */
function failing(owner, name, late) {
  const own = owner[name];
  owner[name] = function (...args) {
    // the flag itself, and what is only read, is left alone
    try {
      write();
    } catch (error) {
      if (late) return Promise.reject(error);
      throw error;
    }
    return own.apply(this, args);
  };
}

for (const name of ['writeFileSync', 'renameSync', 'mkdirSync']) failing(fs, name, false);
for (const name of ['writeFile', 'rename', 'mkdir', 'link']) failing(fs.promises, name, true);
const { write: streamed } = fs;
fs.write = (fd, ...args) => {
  const done = args.at(-1);
  try {
    write();
  } catch (error) {
    return process.nextTick(done, error);
  }
  return streamed(fd, ...args);
};
syncBuiltinESMExports();

const Database = createRequire(path.resolve('package.json'))('better-sqlite3');
const { prepare, exec } = Database.prototype;
const full = () => {
  try {
    write();
  } catch {
    throw Object.assign(new Error('disk I/O error'), { code: 'SQLITE_IOERR_WRITE' });
  }
};
Database.prototype.exec = function (sql) {
  full();
  return exec.call(this, sql);
};
Database.prototype.prepare = function (sql) {
  const statement = prepare.call(this, sql);
  if (/^\s*(INSERT|UPDATE|DELETE)/i.test(sql)) {
    const { run } = statement;
    statement.run = (...args) => {
      full();
      return run.apply(statement, args);
    };
  }
  return statement;
};

import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import path from 'node:path';

/** What a file holds as JSON; null where there is none, or what stands there is no JSON. */
export function readJson<T>(file: string): T | null {
  try {
    return JSON.parse(readFileSync(file, 'utf8')) as T;
  } catch {
    return null;
  }
}

/** Writes a file beside its place and renames it, so that it is whole at any moment. */
export function writeJson(file: string, content: unknown): void {
  mkdirSync(path.dirname(file), { recursive: true });
  writeFileSync(`${file}.new`, JSON.stringify(content));
  renameSync(`${file}.new`, file);
}

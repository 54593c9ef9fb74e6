/** A value of an SQLite column. */
export type SqlValue = string | number | bigint | Uint8Array | null;

/** A row of an answer, by column. */
export type SqlRow = Record<string, SqlValue>;

/** A file opened as an SQLite database. The core knows no engine; the host brings one. */
export interface Database {
  /** Runs statements that return nothing. */
  execute(sql: string): void;
  /** A statement to be run again and again. */
  statement(sql: string): { run(...values: SqlValue[]): void };
  /** A query to be asked again and again, of few rows. */
  query(sql: string): { all(...values: SqlValue[]): SqlRow[] };
  /** The rows of a query, one after the other. */
  rows(sql: string, ...values: SqlValue[]): IterableIterator<SqlRow>;
  /** The same, with every whole number as a bigint, so that none is rounded. */
  exactRows(sql: string, ...values: SqlValue[]): IterableIterator<SqlRow>;
  /**
   * What the rows of a view, of a virtual table or of one with generated columns can be read from, as it stands in a statement: reckoned
   * once, within limits of time and room. Null where those do not suffice; absent where the host cannot.
   */
  settled?(name: string): string | null;
  /** Closing once more does nothing. */
  close(): void;
}

/** A name as it stands in a statement. */
export const quotedName = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/** A text as it stands in a statement. */
export const quotedText = (text: string): string => `'${text.replaceAll("'", "''")}'`;

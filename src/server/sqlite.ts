import sqlite3 from "sqlite3";

/** A plain handle of SQLite, for what has to run outside of pooled connections. */
export class Handle {
  private constructor(private readonly handle: sqlite3.Database) {}

  /** Opens a database in memory. */
  static inMemory(): Promise<Handle> {
    return Handle.open(":memory:");
  }

  /** Texts and rows longer than this are refused, in bytes. */
  limit(bytes: number): void {
    this.handle.configure("limit", sqlite3.LIMIT_LENGTH, bytes);
  }

  /** Opens a file; one that is to be read alone must be there. */
  static open(path: string, readOnly = false): Promise<Handle> {
    const mode = readOnly ? sqlite3.OPEN_READONLY : sqlite3.OPEN_READWRITE | sqlite3.OPEN_CREATE;
    return new Promise((resolve, reject) => {
      const handle = new sqlite3.Database(path, mode, (error) => (error ? reject(error) : resolve(new Handle(handle))));
    });
  }
  exec(sql: string): Promise<void> {
    return new Promise((resolve, reject) => {
      this.handle.exec(sql, (error) => (error ? reject(error) : resolve()));
    });
  }
  all<T>(sql: string, values: unknown[] = []): Promise<T[]> {
    return new Promise((resolve, reject) => {
      this.handle.all(sql, values, (error, rows) => (error ? reject(error) : resolve(rows as T[])));
    });
  }
  close(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.handle.close((error) => (error ? reject(error) : resolve()));
    });
  }
}
